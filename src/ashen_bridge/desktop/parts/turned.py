"""A workspace's pages with a button for each above them, one shown at a time, and what is said at the right."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import partial
from typing import Any

from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from ashen_bridge.desktop.parts.plain import Words


class TurnedPages(QWidget):
    """Buttons over a stack. `turn_to` of the class that has them is called with the name of the page that is asked for."""

    def __init__(
        self, names: Sequence[tuple[str, str, str]], pages: Mapping[Any, QWidget], turn_to: Callable[[str], object]
    ) -> None:
        super().__init__()
        self._pages = pages
        self._stack = QStackedWidget()
        self.turns: dict[str, QPushButton] = {}
        group = QButtonGroup(self)
        row = QHBoxLayout()
        row.setSpacing(6)
        for name, words, tip in names:
            button = QPushButton(words)
            button.setCheckable(True)
            button.setToolTip(tip)
            button.clicked.connect(partial(_turned, turn_to, name))
            group.addButton(button)
            self.turns[name] = button
            row.addWidget(button)
            self._stack.addWidget(pages[name])
        self.said = Words()
        self.said.setObjectName("quiet")
        row.addStretch(1)
        row.addWidget(self.said)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addLayout(row)
        column.addWidget(self._stack, 1)

    def show_page(self, name: str, said: str) -> None:
        """Show a page, and say something at the right."""
        self.turns[name].setChecked(True)
        self._stack.setCurrentWidget(self._pages[name])
        self.said.setText(said)


def _turned(turn_to: Callable[[str], object], name: str, _: bool = False) -> None:
    turn_to(name)
