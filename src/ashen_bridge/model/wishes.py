"""What is wanted of advice: how sure it must be, what may be used, which schools of thought are followed; what can be bought."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from ashen_bridge.model.base import Frozen, Id, Name, Text
from ashen_bridge.model.closings import Moment
from ashen_bridge.model.plays import Beside
from ashen_bridge.model.quantity import Quantity
from ashen_bridge.model.references import Kind, Reference

USUAL_CHANCE = 0.9
"""With which chance every limit shall hold unless something else is said."""


class Wishes(Frozen):
    """What advice may reckon with. `schools` says which of the ways on which practitioners disagree is followed, by question;
    what is not said goes by the default, which has its reason.
    """

    chance: float = Field(default=USUAL_CHANCE, ge=0.5, le=0.999)
    source: Literal["stock", "shop"] = "shop"
    replace: Literal["what pays", "everything"] = "what pays"
    washers: bool = True
    shims: bool = True
    putty: bool = True
    liquid_metal: bool = False
    graphite: bool = False
    reusable: bool = False
    skill: Literal["first time", "practised", "bold"] = "practised"
    schools: dict[Id, Id] = Field(default_factory=dict, max_length=50)


class StockItem(Frozen):
    """A sheet, an offcut, a tub or a tube at hand: sheets have a size, what is dispensed a volume."""

    id: Id
    material: Id
    thickness_mm: Beside[Quantity | None] = None
    w_mm: float | None = Field(default=None, gt=0)
    h_mm: float | None = Field(default=None, gt=0)
    ml: float | None = Field(default=None, gt=0)
    count: int = Field(default=1, ge=0, le=10_000)
    opened: Moment = ""
    note: Name = ""

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id."""
        yield Reference("Stock item", self.id, "is of", Kind.MATERIAL, self.material)


class Offer(Frozen):
    """What can be bought, at the user's own price, in the project's currency. `material` may be one of the library."""

    id: Id
    material: Id
    thickness_mm: float | None = Field(default=None, gt=0, le=50)
    w_mm: float | None = Field(default=None, gt=0)
    h_mm: float | None = Field(default=None, gt=0)
    ml: float | None = Field(default=None, gt=0)
    price: float = Field(ge=0, le=1e6)
    note: Name = ""


class Silenced(Frozen):
    """A finding that was switched off, and why."""

    code: Id
    about: Id
    reason: Text
    since: Moment = ""
