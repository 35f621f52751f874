"""A number worked out of several readings: a spring by two weights or its wire, a paste by weight; taken with its ±."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtWidgets import QFormLayout, QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from ashen_bridge.desktop.parts.dialog import WorkDialog
from ashen_bridge.desktop.parts.fields import NumberField, Wanted
from ashen_bridge.desktop.parts.pages import checkable
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.measuring.worked_out import WorkedOut, paste_by_weight, rate_by_weights, rate_by_wire
from ashen_bridge.model.errors import AshenError
from ashen_bridge.words.numbers import measured

Asks = tuple[tuple[str, str, float | None], ...]
_WAYS: dict[str, tuple[tuple[str, Callable[..., WorkedOut], Asks], ...]] = {
    "N/mm": (
        (
            "By two weights",
            rate_by_weights,
            (
                ("First weight", "g", None),
                ("Second weight, heavier", "g", None),
                ("Length under the first", "mm", None),
                ("Length under the second", "mm", None),
                ("Scale is good to ±", "g", 1.0),
            ),
        ),
        (
            "By its wire",
            rate_by_wire,
            (("Wire", "mm", None), ("Outside of the coil", "mm", None), ("Active turns", "", None)),
        ),
    ),
    "mm³": (
        (
            "By weight",
            paste_by_weight,
            (
                ("Tube before", "g", None),
                ("Tube after", "g", None),
                ("Density", "kg/m³", 2500.0),
                ("Scale is good to ±", "g", 0.01),
            ),
        ),
    ),
}


def can_be_worked_out(unit: str) -> bool:
    """Return whether a number in this unit can be worked out of readings."""
    return unit in _WAYS


class WorkedDialog(WorkDialog):
    """Ways to a number in a unit. `take` gets what was worked out, and returns what is wrong with that, if anything is."""

    def __init__(
        self, title: str, unit: str, density: float | None, take: Callable[[WorkedOut], str], over: QWidget | None = None
    ) -> None:
        super().__init__(title, over)
        self._unit, self._take = unit, take
        self.ways = QStackedWidget()
        self.turns: list[QPushButton] = []
        turns = QHBoxLayout()
        turns.setSpacing(6)
        self.fields: list[list[NumberField]] = []
        self._typed: list[list[float | None]] = []
        for n, (name, _, asks) in enumerate(_WAYS[unit]):
            self.fields.append([])
            self._typed.append([])
            page = QWidget()
            form = QFormLayout(page)
            for k, (words, of, usual) in enumerate(asks):
                usual = density if words == "Density" and density is not None else usual
                field = NumberField(Wanted(words, of, 0.0, 1e6), self._setter(n, k))
                field.show_value(usual)
                self.fields[n].append(field)
                self._typed[n].append(usual)
                form.addRow(f"{words} [{of}]" if of else words, field)
            self.ways.addWidget(page)
            turn = checkable(name, "")
            turn.clicked.connect(partial(self.turn_to, n))
            turn.setVisible(len(_WAYS[unit]) > 1)
            turns.addWidget(turn)
            self.turns.append(turn)
        turns.addStretch(1)
        self.said = Words()
        self.said.setObjectName("question")
        self.said.setWordWrap(True)
        self.go = QPushButton("Take this reading")
        self.go.setObjectName("go")
        self.go.clicked.connect(self.take)
        foot = QHBoxLayout()
        foot.addStretch(1)
        foot.addWidget(self.go)
        column = QVBoxLayout(self)
        column.addLayout(turns)
        column.addWidget(self.ways)
        column.addWidget(self.said)
        column.addLayout(foot)
        self.resize(420, 340)
        self.turn_to(0)

    def turn_to(self, way: int, _: bool = False) -> None:
        """Look at one of the ways."""
        self.ways.setCurrentIndex(way)
        for n, turn in enumerate(self.turns):
            turn.setChecked(n == way)
        self.refresh()

    def _setter(self, page: int, place: int) -> Callable[[float | None], str]:
        def keep(value: float | None) -> str:
            self._typed[page][place] = value
            self.refresh()
            return ""

        return keep

    def found(self) -> WorkedOut | None:
        """Return what is worked out; None while something is missing. Raises `ProjectError` for what says nothing."""
        n = self.ways.currentIndex()
        if any(value is None for value in self._typed[n]):
            return None
        return _WAYS[self._unit][n][1](*self._typed[n])

    def refresh(self) -> None:
        """Show what comes of it."""
        try:
            found = self.found()
        except AshenError as error:
            self.said.setText(str(error))
            self.go.setEnabled(False)
            return
        self.said.setText(measured(found.value, found.uncertainty, self._unit) if found is not None else "")
        self.go.setEnabled(found is not None)

    def take(self) -> None:
        """Take it as a reading."""
        found = self.found()
        if found is not None:
            wrong = self._take(found)
            if wrong:
                self.said.setText(wrong)
            else:
                self.close()
