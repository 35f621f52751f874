"""A dialog that works beside the window: changes hold at once, Enter belongs to the field it is pressed in, Escape closes."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QShowEvent
from PyQt6.QtWidgets import QDialog, QWidget

from ashen_bridge.desktop.parts.framed import keep_on_screen


class WorkDialog(QDialog):
    """Not modal; it goes away with its window."""

    def __init__(self, title: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle(title)

    def showEvent(self, event: QShowEvent | None) -> None:
        """Keep to the screen, frame included."""
        super().showEvent(event)
        keep_on_screen(self)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Keep Enter from pressing whichever button comes first."""
        if event is not None and event.key() not in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            super().keyPressEvent(event)
