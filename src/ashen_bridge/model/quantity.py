"""Numbers that were measured or assumed: value, standard uncertainty and origin."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from pydantic import Field, GetCoreSchemaHandler, GetJsonSchemaHandler, model_validator
from pydantic_core import core_schema

from ashen_bridge.model.base import Frozen, Name


class Origin(StrEnum):
    """Where a number comes from."""

    MEASURED = "measured"
    DATA_SHEET = "data sheet"
    HANDBOOK = "handbook"
    ASSUMED = "assumed"
    CALIBRATED = "calibrated"


class Quantity(Frozen):
    """A number with its standard uncertainty (same unit) and its origin.

    The unit stands in the name of the field that holds it. A bare number in a file is read as an assumed value without
    stated uncertainty.

    >>> Quantity.model_validate(1.5).origin
    <Origin.ASSUMED: 'assumed'>
    """

    value: float
    uncertainty: float = Field(default=0.0, ge=0.0)
    origin: Origin = Origin.ASSUMED
    note: Name = ""

    @model_validator(mode="before")
    @classmethod
    def _accept_bare_number(cls, data: Any) -> Any:
        if isinstance(data, bool):
            raise ValueError("a number is needed here, not true or false")
        return {"value": data} if isinstance(data, int | float) else data

    def __float__(self) -> float:
        return self.value


@dataclass(frozen=True)
class Bounds:
    """Metadata of a `Quantity` type: the range in which its value is believed at all, ends included unless `open_low`."""

    low: float
    high: float
    open_low: bool = False

    def check(self, quantity: Quantity) -> Quantity:
        """Return the quantity if it lies within, else raise `ValueError`."""
        value = quantity.value
        if (value <= self.low if self.open_low else value < self.low) or value > self.high:
            relation = "above" if self.open_low else "at least"
            raise ValueError(f"{value:g} is out of range: must be {relation} {self.low:g} and at most {self.high:g}")
        return quantity

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> core_schema.CoreSchema:
        """Check after the quantity itself is valid."""
        return core_schema.no_info_after_validator_function(self.check, handler(source))

    def __get_pydantic_json_schema__(self, schema: core_schema.CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        """Say the range in the JSON Schema too."""
        lower = "exclusiveMinimum" if self.open_low else "minimum"
        return {"allOf": [handler(schema)], "x-bounds": {lower: self.low, "maximum": self.high}}


def q(value: float, uncertainty: float = 0.0, origin: Origin | str = Origin.ASSUMED, note: str = "") -> Quantity:
    """Make a quantity in one short call."""
    return Quantity(value=value, uncertainty=uncertainty, origin=Origin(origin), note=note)
