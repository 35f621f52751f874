"""How a material is handled and bought: what people ask of it beside what it conducts."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ashen_bridge.model.base import Frozen, Text

Side = Annotated[float, Field(gt=0, le=2000)]
PRICES = ("", "cheap", "usual", "dear", "very dear")
"""What price levels mean; 0 is not known."""


class Handling(Frozen):
    """`how` it wants to be handled; how much oil it `bleeds`; whether it can be used again; `price_level` 1 (cheap) to 4 (very
    dear), 0 if it is not known; in which sheets it is sold [mm]; by which share of itself a thickness may be off as sold; how
    long it lasts [years].
    """

    how: Text = ""
    bleeds: Literal["", "nothing", "a little", "much"] = ""
    reusable: bool | None = None
    price_level: int = Field(default=0, ge=0, le=4)
    sheet_sizes_mm: tuple[tuple[Side, Side], ...] = Field(default=(), max_length=12)
    thickness_tolerance: float | None = Field(default=None, gt=0, le=0.5)
    lasts_years: float | None = Field(default=None, gt=0, le=100)

    @property
    def words(self) -> tuple[str, ...]:
        """It in words, one thing each."""
        said = [self.how] if self.how else []
        if self.price_level:
            said.append(PRICES[self.price_level])
        if self.bleeds:
            said.append("does not bleed" if self.bleeds == "nothing" else f"bleeds {self.bleeds}")
        if self.reusable is not None:
            said.append("can be used again" if self.reusable else "cannot be used again")
        if self.lasts_years is not None:
            said.append(f"lasts about {self.lasts_years:g} years")
        if self.sheet_sizes_mm:
            said.append("sheets of " + ", ".join(f"{w:g} × {h:g}" for w, h in self.sheet_sizes_mm) + " mm")
        if self.thickness_tolerance is not None:
            said.append(f"thickness ± {100 * self.thickness_tolerance:g} %")
        return tuple(said)
