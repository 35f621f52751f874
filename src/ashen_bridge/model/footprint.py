"""Outlines in plan: axis-parallel rectangles minus holes."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from ashen_bridge.model.base import Frozen
from ashen_bridge.model.plays import Heat, Mechanics, Plays, When
from ashen_bridge.model.quantity import q
from ashen_bridge.model.units import Coordinate, FormUm, Fraction, Length, NonNegative


class Rect(Frozen):
    """An axis-parallel rectangle by its lower-left corner and size, in board coordinates seen from the front."""

    x_mm: Coordinate
    y_mm: Coordinate
    w_mm: Length
    h_mm: Length

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """Left, lower, right and upper edge [mm]."""
        return self.x_mm, self.y_mm, self.x_mm + self.w_mm, self.y_mm + self.h_mm


class Footprint(Frozen):
    """What a body covers in plan: rectangles (they may overlap) minus holes. Other shapes are refused, not approximated."""

    rects: tuple[Rect, ...] = Field(min_length=1, max_length=64)
    holes: tuple[Rect, ...] = Field(default=(), max_length=64)

    @model_validator(mode="before")
    @classmethod
    def _explain_other_shapes(cls, data: Any) -> Any:
        if isinstance(data, dict):
            for shape in ("circle", "circles", "polygon", "points", "rotation_deg", "radius_mm"):
                if shape in data:
                    raise ValueError(f"'{shape}' cannot be computed: a footprint is axis-parallel rectangles minus holes")
        return data

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """Left, lower, right and upper edge of all rectangles together [mm]."""
        boxes = [rect.bounds for rect in self.rects]
        return min(b[0] for b in boxes), min(b[1] for b in boxes), max(b[2] for b in boxes), max(b[3] for b in boxes)

    @property
    def centre(self) -> tuple[float, float]:
        """Middle of the bounds [mm]."""
        x0, y0, x1, y1 = self.bounds
        return (x0 + x1) / 2, (y0 + y1) / 2


def rectangle(x_mm: float, y_mm: float, w_mm: float, h_mm: float) -> Footprint:
    """Return a footprint of one rectangle given by its lower-left corner and size [mm]."""
    return Footprint(rects=(Rect(x_mm=x_mm, y_mm=y_mm, w_mm=w_mm, h_mm=h_mm),))


class Form(Frozen):
    """Departure of a face from flat: crown (+, middle stands out) or hollow (−), middle against corner or edge."""

    crown_um: Mechanics[FormUm] = Field(default_factory=lambda: q(0.0))
    shape: Literal["sphere", "cylinder_x", "cylinder_y"] = "sphere"


class Finish(Frozen):
    """Surface state of a face as far as heat is concerned."""

    emissivity: Heat[Fraction] = Field(default_factory=lambda: q(0.9, 0.05, "assumed"))
    roughness_um: Annotated[NonNegative, Plays(mechanics=True, when=When.WETTED)] = Field(
        default_factory=lambda: q(1.0, 0.5, "assumed")
    )
