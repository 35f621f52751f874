"""A row that goes on in a second line where the window is too narrow for it, or the text too big."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRect, QSize, Qt
from PyQt6.QtWidgets import QLayout, QLayoutItem, QWidget


class FlowLayout(QLayout):
    """Lays widgets side by side, from the left; those added with `add_right` end the first line at its right edge."""

    def __init__(self, parent: QWidget | None = None, spacing: int = 4) -> None:
        super().__init__(parent)
        self._items: list[QLayoutItem] = []
        self._right: list[QWidget] = []
        self.setContentsMargins(0, 0, 0, 0)
        self.setSpacing(spacing)

    def add_right(self, widget: QWidget) -> None:
        """Add a widget that belongs to the right edge."""
        self._right.append(widget)
        self.addWidget(widget)

    def addItem(self, item: QLayoutItem | None) -> None:
        if item is not None:
            self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._arrange(QRect(0, 0, width, 0), move=False)

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._arrange(rect, move=True)

    def sizeHint(self) -> QSize:
        sizes = [item.sizeHint() for item in self._shown()]
        width = sum(size.width() + self.spacing() for size in sizes)
        return QSize(width, max((size.height() for size in sizes), default=0))

    def minimumSize(self) -> QSize:
        sizes = [item.minimumSize() for item in self._shown()]
        return QSize(max((s.width() for s in sizes), default=0), max((s.height() for s in sizes), default=0))

    def _shown(self) -> list[QLayoutItem]:
        return [item for item in self._items if not item.isEmpty()]

    def _arrange(self, rect: QRect, move: bool) -> int:
        """Place everything in lines; returns the height that takes."""
        lines: list[list[QLayoutItem]] = [[]]
        x = 0
        for item in self._shown():
            width = item.sizeHint().width()
            if lines[-1] and x + width > rect.width():
                lines.append([])
                x = 0
            lines[-1].append(item)
            x += width + self.spacing()
        y = rect.y()
        for line in lines:
            high = max((item.sizeHint().height() for item in line), default=0)
            used = sum(item.sizeHint().width() + self.spacing() for item in line) - self.spacing()
            slack = max(rect.width() - used, 0)
            x = rect.x()
            for item in line:
                if slack and item.widget() in self._right:
                    x, slack = x + slack, 0
                if move:
                    item.setGeometry(QRect(QPoint(x, y), QSize(item.sizeHint().width(), high)))
                x += item.sizeHint().width() + self.spacing()
            y += high + self.spacing()
        return y - self.spacing() - rect.y()
