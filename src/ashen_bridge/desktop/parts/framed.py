"""Windows with their frames: what a window manager puts around them must lie on the screen too."""

from __future__ import annotations

from PyQt6 import sip
from PyQt6.QtCore import QSize, QTimer
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QWidget

_FRAMED_MS = (60, 300, 1500)  # until a window manager has put a frame around it, on a fast machine and a slow one


def keep_on_screen(window: QWidget) -> None:
    """Let a window that was just shown lie on its screen, frame included, once it is framed."""
    for wait in _FRAMED_MS:
        QTimer.singleShot(wait, lambda: _fit(window))


def _fit(window: QWidget) -> None:
    # Without a display there are no frames, and a screen of any size.
    if sip.isdeleted(window) or QGuiApplication.platformName() == "offscreen" or window.isMaximized() or window.isFullScreen():
        return
    screen = window.screen()
    if screen is None:
        return
    room, framed = screen.availableGeometry(), window.frameGeometry()
    wide, high = max(framed.width() - room.width(), 0), max(framed.height() - room.height(), 0)
    if wide or high:
        window.resize(window.width() - wide, window.height() - high)
        framed.setSize(framed.size() - QSize(wide, high))
    window.move(
        max(room.x(), min(framed.x(), room.right() + 1 - framed.width())),
        max(room.y(), min(framed.y(), room.bottom() + 1 - framed.height())),
    )
