"""All steps of the procedure, ticked or not."""

from __future__ import annotations

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFont
from PyQt6.QtWidgets import QAbstractItemView, QListWidget, QListWidgetItem

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.steps.desk import StepsDesk

_ID = Qt.ItemDataRole.UserRole


class StepList(QListWidget):
    """`chosen` says which step is to be looked at."""

    chosen = pyqtSignal(str)

    def __init__(self, desk: StepsDesk, theme: Theme) -> None:
        super().__init__()
        self.desk, self.theme = desk, theme
        self.setObjectName("steps")
        self.setAccessibleName("Steps")
        self.setWordWrap(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.currentItemChanged.connect(self._chose)

    def refresh(self) -> None:
        """Take over the procedure."""
        procedure, step = self.desk.procedure, self.desk.step
        steps = procedure.steps if procedure is not None else ()
        with QSignalBlocker(self):
            if [self.item(n).data(_ID) for n in range(self.count())] != [one.id for one in steps]:  # type: ignore[union-attr]
                self.clear()
                for one in steps:
                    item = QListWidgetItem()
                    item.setData(_ID, one.id)
                    self.addItem(item)
            for n, one in enumerate(steps):
                row = self.item(n)
                assert row is not None  # one of each was just made
                mark = "✓" if one.done else "▲" if one.kind == "hold" else "·"
                noted = " – noted" if one.note else ""
                row.setText(f"{mark}  {n + 1}  {_short(one.text)}{noted}")
                role = "stale" if one.done else "ember" if one.kind == "hold" else "ink"
                row.setForeground(QColor(self.theme.roles[role]))
                font = QFont(self.font())
                font.setBold(step is not None and one.id == step.id)
                row.setFont(font)
                if step is not None and one.id == step.id:
                    self.setCurrentItem(row)
                    self.scrollToItem(row)

    def _chose(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self.chosen.emit(item.data(_ID))


def _short(text: str, most: int = 74) -> str:
    return text if len(text) <= most else text[: most - 1].rstrip() + "…"
