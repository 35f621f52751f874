"""A number of a part that can be stated in several ways: in watts or as a share, in per cent or rpm."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from ashen_bridge.desktop.parts.fields import ChoiceField, QuantityField, Wanted
from ashen_bridge.editing.points import Way
from ashen_bridge.model.build import OperatingPoint
from ashen_bridge.model.quantity import Quantity


class StatedField(QWidget):
    """A quantity with its unit to choose. `commit` gets the way and plain data in its unit, and returns what is wrong.

    Choosing another unit keeps what is typed for that unit: no number is turned into another one unasked.
    """

    def __init__(self, ways: Sequence[Way], commit: Callable[[Way, dict[str, Any] | None], str], *, name: str) -> None:
        super().__init__()
        self._ways = tuple(ways)
        self._fields: dict[str, QuantityField] = {}
        for way in ways:
            most = 100.0 if way.per_one > 1 else None
            field = QuantityField(Wanted(name, way.unit, low=0.0, high=most, optional=True), partial(commit, way))
            self._fields[way.table] = field
        self.unit = ChoiceField(tuple((way.table, way.unit) for way in ways), self._choose, name=f"Unit of {name}")
        self.unit.setMinimumContentsLength(max(len(way.unit) for way in ways))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        for field in self._fields.values():
            row.addWidget(field, 1)
        row.addWidget(self.unit)
        row.setAlignment(self.unit, Qt.AlignmentFlag.AlignTop)
        self._choose(ways[0].table)

    @property
    def field(self) -> QuantityField:
        """The field of the unit that is chosen."""
        return self._fields[self.unit.currentData()]

    @property
    def value(self) -> Any:
        """The number's own field."""
        return self.field.value

    def show_stated(self, point: OperatingPoint, body: str, offered: Sequence[Way]) -> None:
        """Show what a point states of a part; the unit can be chosen where more than one way is offered."""
        self.unit.setVisible(len(offered) > 1)
        told = next(((way, table[body]) for way in self._ways if body in (table := getattr(point, way.table))), None)
        if told is not None or self.unit.currentData() not in {way.table for way in offered}:
            self._choose((told[0] if told else offered[0]).table)
        for way in self._ways:
            stated = told[1] if told and told[0] is way else None
            self._fields[way.table].show_quantity(stated and _times(stated, way.per_one))

    def _choose(self, table: str) -> str:
        self.unit.show_choice(table)
        for name, field in self._fields.items():
            field.setVisible(name == table)
        self.setFocusProxy(self._fields[table])
        return ""


def _times(quantity: Quantity, factor: float) -> Quantity:
    return quantity.model_copy(
        update={"value": round(quantity.value * factor, 9), "uncertainty": round(quantity.uncertainty * factor, 9)}
    )
