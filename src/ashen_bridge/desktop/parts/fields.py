"""Fields for typed values: arithmetic and other units allowed, nonsense refused in place and in words, nothing typed lost."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from ashen_bridge.desktop.parts.plain import Words, dressed_anew
from ashen_bridge.editing.typed import TypedError, read_number
from ashen_bridge.model.quantity import Origin, Quantity
from ashen_bridge.words.numbers import short

ORIGINS = tuple(origin.value for origin in Origin)


@dataclass(frozen=True)
class Wanted:
    """The number that a field asks for: what it is called, its unit, its least and most; an empty text is None if `optional`."""

    name: str
    unit: str = ""
    low: float | None = None
    high: float | None = None
    optional: bool = False


class NumberField(QWidget):
    """One number in a unit. `commit` gets it when Enter is pressed or the field is left, and returns what is wrong, if it is."""

    def __init__(self, wanted: Wanted, commit: Callable[[float | None], str], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._wanted, self._commit = wanted, commit
        name, unit = wanted.name, wanted.unit
        self._shown: float | None = None
        self.edit = QLineEdit()
        self.edit.setAccessibleName(f"{name} [{unit}]" if unit else name)
        self.edit.setToolTip(
            f"{name}{f' in {unit}' if unit else ''}: arithmetic and other units may be typed, for example 12.5/2"
        )
        self.edit.textEdited.connect(self._look_at_it)
        self.edit.editingFinished.connect(self._finish)
        self.edit.installEventFilter(self)
        self.words = Words()
        self.words.setObjectName("wrong")
        self.words.setWordWrap(True)
        self.words.hide()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(1)
        column.addWidget(self.edit)
        column.addWidget(self.words)
        self.setFocusProxy(self.edit)

    @property
    def wrong(self) -> str:
        """What is wrong with what is typed, in words; empty if nothing is."""
        return self.words.text()

    def show_value(self, value: float | None) -> None:
        """Show a value, unless something is being typed or was refused and still stands there."""
        self._shown = value
        if not self.wrong and not (self.edit.hasFocus() and self.edit.isModified()):
            self._write()

    def typed(self) -> float | None:
        """Return what is typed. Raises `TypedError` in words."""
        text = self.edit.text().strip()
        wanted = self._wanted
        if not text and wanted.optional:
            return None
        value = read_number(text, wanted.unit)
        unit = f" {wanted.unit}" if wanted.unit else ""
        if wanted.low is not None and value < wanted.low:
            raise TypedError(f"{short(value)}{unit} is too little: at least {short(wanted.low)}{unit}.")
        if wanted.high is not None and value > wanted.high:
            raise TypedError(f"{short(value)}{unit} is too much: at most {short(wanted.high)}{unit}.")
        return value

    def refuse(self, words: str) -> None:
        """Say what is wrong below the field; nothing typed is lost."""
        self.words.setText(words)
        self.words.setVisible(bool(words))
        self.edit.setAccessibleDescription(words)
        if self.edit.property("wrong") != bool(words):
            self.edit.setProperty("wrong", bool(words))
            dressed_anew(self.edit)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Escape gives back the value that holds; leaving the field takes what was typed."""
        pressed = isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and event.key() == Qt.Key.Key_Escape
        if pressed and (self.edit.isModified() or self.wrong):
            self.refuse("")
            self._write()
            return True
        return super().eventFilter(watched, event)

    def _write(self) -> None:
        self.edit.setText("" if self._shown is None else f"{self._shown:.6g}")
        self.edit.setModified(False)

    def _look_at_it(self) -> None:
        try:
            self.typed()
        except TypedError as error:
            self.refuse(str(error))
        else:
            self.refuse("")

    def _finish(self) -> None:
        if not self.edit.isModified():
            return
        try:
            value = self.typed()
        except TypedError as error:
            self.refuse(str(error))
            return
        if value == self._shown:
            self.refuse("")
            self._write()
            return
        problem = self._commit(value)
        self.refuse(problem)
        if not problem:
            self._shown = value
            self._write()


class QuantityField(QWidget):
    """A measured or assumed number: value, standard uncertainty, origin. `commit` gets plain data and returns what is wrong."""

    def __init__(self, wanted: Wanted, commit: Callable[[dict[str, Any] | None], str], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._commit = commit
        self._quantity: Quantity | None = None
        name = wanted.name
        self.value = NumberField(wanted, self._set_value)
        self.spread = NumberField(Wanted(f"± of {name}", wanted.unit, low=0.0), self._set_spread)
        self.spread.edit.setToolTip("Standard uncertainty, in the same unit")
        self.origin = QComboBox()
        self.origin.addItems(list(ORIGINS))
        self.origin.setAccessibleName(f"Where {name} comes from")
        self.origin.activated.connect(lambda at: self._send(origin=ORIGINS[at]))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        for widget, stretch in ((self.value, 5), (_plus_minus(), 0), (self.spread, 4), (self.origin, 5)):
            row.addWidget(widget, stretch)
            row.setAlignment(widget, Qt.AlignmentFlag.AlignTop)
        self.setFocusProxy(self.value)

    def show_quantity(self, quantity: Quantity | None) -> None:
        """Show a quantity, None where there is none."""
        self._quantity = quantity
        self.value.show_value(quantity.value if quantity else None)
        self.spread.show_value(quantity.uncertainty if quantity else None)
        self.spread.setEnabled(quantity is not None)
        self.origin.setEnabled(quantity is not None)
        self.origin.setCurrentIndex(ORIGINS.index(quantity.origin.value) if quantity else -1)
        self.origin.setToolTip(quantity.note if quantity and quantity.note else "Where the number comes from")

    def _set_value(self, value: float | None) -> str:
        if value is None:
            return self._commit(None)
        return self._send(value=value)

    def _set_spread(self, value: float | None) -> str:
        return self._send(uncertainty=value or 0.0)

    def _send(self, **changes: Any) -> str:
        base = (
            self._quantity.model_dump(mode="json") if self._quantity else {"uncertainty": 0.0, "origin": "measured", "note": ""}
        )
        return self._commit({**base, **changes})


def _plus_minus() -> QLabel:
    label = Words("±")
    label.setContentsMargins(0, 5, 0, 0)
    label.setObjectName("quiet")
    return label


class TextField(QLineEdit):
    """One line of text; `commit` gets it and returns what is wrong, which the tool tip then says."""

    def __init__(self, commit: Callable[[str], str], *, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._commit = commit
        self._name = name
        self.setMaxLength(200)
        self.setAccessibleName(name)
        self.editingFinished.connect(self._finish)

    def show_text(self, text: str) -> None:
        """Show a text, unless another one is being typed."""
        if not (self.hasFocus() and self.isModified()):
            self.setText(text)
            self.setCursorPosition(0)
            self.setModified(False)

    def _finish(self) -> None:
        if self.isModified():
            self.setModified(False)
            self.setToolTip(self._commit(self.text().strip()))


class ChoiceField(QComboBox):
    """One of some values; `commit` gets the chosen one and returns what is wrong."""

    def __init__(
        self, choices: tuple[tuple[str, str], ...], commit: Callable[[str], str], *, name: str, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setAccessibleName(name)
        self.setMinimumContentsLength(8)
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        for value, words in choices:
            self.addItem(words, value)
        self.activated.connect(lambda at: self.setToolTip(commit(self.itemData(at))))

    def show_choice(self, value: str | None) -> None:
        """Show which value holds."""
        self.setCurrentIndex(self.findData(str(value) if value is not None else None))

    def wheelEvent(self, event: Any) -> None:
        """Scrolling the page must not change values on its way."""
        event.ignore()
