"""Big controls for dirty hands: a counter with wide buttons, a row of choices, cards with words."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QGridLayout, QHBoxLayout, QPushButton, QSizePolicy, QWidget

from ashen_bridge.desktop.parts.plain import Words


class Counter(QWidget):
    """A whole number between two ends."""

    changed = pyqtSignal(int)

    def __init__(self, name: str, low: int, high: int, value: int, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._low, self._high, self.value = low, high, value
        self.figure = Words(str(value))
        self.figure.setObjectName("big")
        self.figure.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.figure.setMinimumWidth(34)
        self.less, self.more = QPushButton("−"), QPushButton("+")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        for button, by in ((self.less, -1), (self.more, 1)):
            button.setMinimumSize(46, 40)
            button.setAccessibleName(f"{name}: {'one less' if by < 0 else 'one more'}")
            button.clicked.connect(lambda _, by=by: self.set(self.value + by))
        for widget in (self.less, self.figure, self.more):
            row.addWidget(widget)
        self.setAccessibleName(name)

    def set(self, value: int) -> None:
        """Set the number; beyond the ends it stays at the end."""
        value = min(max(value, self._low), self._high)
        if value != self.value:
            self.value = value
            self.figure.setText(str(value))
            self.changed.emit(value)


class Choices(QWidget):
    """Buttons of which one is on. `pick` gets the value of the one that was pressed."""

    def __init__(
        self,
        options: Sequence[tuple[str, Any]],
        present: Any,
        pick: Callable[[Any], object],
        columns: int = 0,
        height: int = 46,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._values = [value for _, value in options]
        self._group = QButtonGroup(self)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(6)
        for n, (words, value) in enumerate(options):
            button = QPushButton(words)
            button.setCheckable(True)
            button.setMinimumHeight(height)
            button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            button.setMinimumWidth(button.fontMetrics().horizontalAdvance("do not kn") if columns != 1 else 0)
            button.setChecked(value == present)
            self._group.addButton(button, n)
            across = columns or len(options)
            grid.addWidget(button, n // across, n % across)
        for column in range(columns or len(options)):
            grid.setColumnStretch(column, 1)
        self._group.idClicked.connect(lambda at: pick(self._values[at]))

    def button(self, value: Any) -> QPushButton:
        """Return the button of a value."""
        found = self._group.button(self._values.index(value))
        if not isinstance(found, QPushButton):
            raise KeyError(value)
        return found
