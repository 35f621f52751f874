"""Watches which top-level windows appear, and whether what is under the mouse moves."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject
from PyQt6.QtWidgets import QApplication, QToolTip, QWidget


class ShowSpy(QObject):
    """Notes every widget that is shown as a window of its own, by its class and what it is called."""

    def __init__(self, application: QApplication) -> None:
        super().__init__()
        self.shown: list[str] = []
        application.installEventFilter(self)
        self._application = application

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Note it, and let it be."""
        if event is not None and event.type() == QEvent.Type.Show and isinstance(watched, QWidget) and watched.isWindow():
            self.shown.append(f"{type(watched).__name__} {watched.windowTitle() or watched.objectName()}".strip())
        return False

    def rest(self) -> list[str]:
        """Stop watching, and return what was seen but tool tips."""
        self._application.removeEventFilter(self)
        return [one for one in self.shown if not one.startswith(("QTipLabel", QToolTip.__name__))]
