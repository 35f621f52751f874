"""A sheet laid over the window: palette, guide, keys, undo list. It goes away with Escape or a click beside it."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QFrame, QVBoxLayout, QWidget


class Sheet(QFrame):
    """A popup in the upper middle of a window, `share` of its size."""

    def __init__(self, over: QWidget, share: tuple[float, float], name: str) -> None:
        super().__init__(over, Qt.WindowType.Popup)
        self.setObjectName("sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setAccessibleName(name)
        self.setWindowTitle(name)
        self._over, self._share = over, share
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(14, 12, 14, 12)
        self.column.setSpacing(8)

    def show(self) -> None:
        """Show the sheet where it belongs."""
        width, height = round(self._share[0] * self._over.width()), round(self._share[1] * self._over.height())
        self.resize(width, height)
        self.move(self._over.mapToGlobal(QPoint((self._over.width() - width) // 2, self._over.height() // 12)))
        super().show()
        self.setFocus()
