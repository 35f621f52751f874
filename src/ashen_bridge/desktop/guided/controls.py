"""Big controls for dirty hands: a counter with wide buttons, a row of choices of which none need be chosen."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QGridLayout, QHBoxLayout, QPushButton, QSizePolicy, QWidget

from ashen_bridge.desktop.look.icons import inked
from ashen_bridge.desktop.parts.plain import Words, dressed_anew


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
        self.less, self.more = QPushButton(inked("less"), ""), QPushButton(inked("more"), "")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        for button, by in ((self.less, -1), (self.more, 1)):
            button.setMinimumSize(48, 42)
            button.setAutoDefault(False)
            button.setAccessibleName(f"{name}: {'one less' if by < 0 else 'one more'}")
            button.clicked.connect(lambda _, by=by: self.set(self.value + by))
        for widget in (self.less, self.figure, self.more):
            row.addWidget(widget)
        row.addStretch(1)
        self.setAccessibleName(name)
        self.setFocusProxy(self.more)

    def set(self, value: int) -> None:
        """Set the number; beyond the ends it stays at the end."""
        value = min(max(value, self._low), self._high)
        if value != self.value:
            self.show_value(value)
            self.changed.emit(value)

    def show_value(self, value: int) -> None:
        """Show a number without telling it."""
        self.value = value
        self.figure.setText(str(value))


class Choices(QWidget):
    """Buttons of which one may be on. `pick` gets the value of the one that was pressed.

    What holds as long as none is on has a dashed frame.
    """

    def __init__(
        self,
        options: Sequence[tuple[str, Any]],
        pick: Callable[[Any], object],
        columns: int = 0,
        height: int = 42,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._values = [value for _, value in options]
        self._columns = columns or len(options)
        self._group = QButtonGroup(self)
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setSpacing(6)
        for n, (words, _) in enumerate(options):
            button = QPushButton(words)
            button.setCheckable(True)
            button.setAutoDefault(False)
            button.setMinimumHeight(height)
            button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            button.setMinimumWidth(0 if self._columns <= 2 else button.fontMetrics().horizontalAdvance(words) + 18)
            self._group.addButton(button, n)
            self._grid.addWidget(button, n // self._columns, n % self._columns)
        for column in range(self._columns):
            self._grid.setColumnStretch(column, 1)
        self._group.idClicked.connect(lambda at: pick(self._values[at]))
        self.setFocusProxy(self._group.button(0))

    def button(self, value: Any) -> QPushButton:
        """Return the button of a value."""
        found = self._group.button(self._values.index(value))
        if not isinstance(found, QPushButton):
            raise KeyError(value)
        return found

    def offer(self, values: Sequence[Any]) -> None:
        """Offer some of the values only; the others leave no hole."""
        shown = [value for value in self._values if value in values]
        for value in self._values:
            button = self.button(value)
            button.setVisible(value in shown)
            if value in shown:
                at = shown.index(value)
                self._grid.addWidget(button, at // self._columns, at % self._columns)

    def show_choice(self, chosen: Any, usual: Any) -> None:
        """Show which value was chosen, None where none was, and which holds then."""
        self._group.setExclusive(False)
        for value in self._values:
            button = self.button(value)
            button.setChecked(value == chosen)
            stands = chosen is None and value == usual
            if bool(button.property("usual")) != stands:
                button.setProperty("usual", stands)
                button.setToolTip("Taken as long as nothing is chosen" if stands else "")
                dressed_anew(button)
        self._group.setExclusive(True)
