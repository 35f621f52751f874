"""Cards: framed parts of a page, and the one at the right that scrolls and grows with the text."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from ashen_bridge.desktop.look.theme import Theme


class Card(QFrame):
    """A framed column."""

    def __init__(self, margins: tuple[int, int, int, int] = (6, 6, 6, 6), spacing: int = 6) -> None:
        super().__init__()
        self.setObjectName("card")
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(*margins)
        self.column.setSpacing(spacing)


class SideCard(QFrame):
    """A column that scrolls, as wide as is said at the usual text size; what is put in `foot` stays below it."""

    def __init__(self, width: int) -> None:
        super().__init__()
        self.setObjectName("card")
        self._width = width
        told = QWidget()
        self.column = QVBoxLayout(told)
        self.column.setContentsMargins(14, 12, 14, 12)
        self.column.setSpacing(6)
        area = QScrollArea()
        area.setWidget(told)
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(1, 1, 1, 1)
        outer.addWidget(area, 1)
        self.foot = QVBoxLayout()
        self.foot.setContentsMargins(14, 0, 14, 7)
        outer.addLayout(self.foot)
        self.setFixedWidth(width)

    def set_theme(self, theme: Theme) -> None:
        """Follow the text size."""
        self.setFixedWidth(round(self._width * min(max(theme.scale, 0.9), 1.25)))
