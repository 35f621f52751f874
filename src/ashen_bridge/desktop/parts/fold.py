"""The heading of a group of fields, which folds it away: folded, it says in a line what is in it."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QSizePolicy, QToolButton, QWidget

from ashen_bridge.desktop.look.icons import inked
from ashen_bridge.desktop.parts.plain import Elided
from ashen_bridge.editing.grouping import Group


class Fold(QWidget):
    """One heading. `kept` remembers by title what was opened or folded, as long as the form lives."""

    def __init__(self, group: Group, kept: dict[str, bool], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.group, self._kept = group, kept
        self.rows: list[QWidget] = []
        self.button = QToolButton()
        self.button.setObjectName("fold")
        self.button.setText(group.title)
        self.button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.button.setCheckable(True)
        self.button.setChecked(kept.get(group.title, not group.seldom))
        self.button.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.words = Elided(group.summary)
        self.words.setObjectName("quiet")
        self.button.toggled.connect(self._toggled)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 4, 0, 0)
        row.setSpacing(8)
        row.addWidget(self.button)
        row.addWidget(self.words, 1)
        row.addStretch(0)
        row.setAlignment(self.button, Qt.AlignmentFlag.AlignLeft)

    def _toggled(self, opened: bool) -> None:
        self._kept[self.group.title] = opened
        self.show_rows()

    def show_rows(self) -> None:
        """Show the group's rows, or the line about them."""
        opened = self.button.isChecked()
        self.button.setIcon(inked("unfolded" if opened else "folded"))
        for widget in self.rows:
            widget.setVisible(opened)
        self.words.setVisible(not opened)
