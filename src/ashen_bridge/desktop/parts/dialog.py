"""A dialog that works beside the window: changes hold at once, Enter belongs to the field it is pressed in, Escape closes."""

from __future__ import annotations

from PyQt6 import sip
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QGuiApplication, QKeyEvent, QShowEvent
from PyQt6.QtWidgets import QDialog, QWidget

_FRAMED_MS = 60  # until a window manager has put a frame around it


class WorkDialog(QDialog):
    """Not modal; it goes away with its window."""

    def __init__(self, title: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle(title)

    def showEvent(self, event: QShowEvent | None) -> None:
        """Keep to the screen, frame included."""
        super().showEvent(event)
        QTimer.singleShot(_FRAMED_MS, self._fit_screen)

    def _fit_screen(self) -> None:
        if sip.isdeleted(self) or QGuiApplication.platformName() == "offscreen":
            return
        screen = self.screen()
        if screen is None:
            return
        room, framed = screen.availableGeometry(), self.frameGeometry()
        wide, high = max(framed.width() - room.width(), 0), max(framed.height() - room.height(), 0)
        if wide or high:
            self.resize(self.width() - wide, self.height() - high)
        framed = self.frameGeometry()
        self.move(
            max(room.x(), min(framed.x(), room.right() + 1 - framed.width())),
            max(room.y(), min(framed.y(), room.bottom() + 1 - framed.height())),
        )

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Keep Enter from pressing whichever button comes first."""
        if event is not None and event.key() not in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            super().keyPressEvent(event)
