"""Numbers that were measured or assumed: value, standard uncertainty and origin."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Any

from pydantic import AfterValidator, Field, model_validator

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


def bounded(low: float, high: float, *, open_low: bool = False) -> Any:
    """Return the type of a `Quantity` that must lie between `low` and `high` (inclusive unless `open_low`)."""

    def check(quantity: Quantity) -> Quantity:
        below = quantity.value <= low if open_low else quantity.value < low
        if below or quantity.value > high:
            relation = "above" if open_low else "at least"
            raise ValueError(f"{quantity.value:g} is out of range: must be {relation} {low:g} and at most {high:g}")
        return quantity

    bounds = {"exclusiveMinimum" if open_low else "minimum": low, "maximum": high}
    return Annotated[Quantity, AfterValidator(check), Field(json_schema_extra={"x-bounds": bounds})]


def q(value: float, uncertainty: float = 0.0, origin: Origin | str = Origin.ASSUMED, note: str = "") -> Quantity:
    """Make a quantity in one short call."""
    return Quantity(value=value, uncertainty=uncertainty, origin=Origin(origin), note=note)
