"""What was seen: signs before opening, what old pads and pastes show, and pictures of contact."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field, model_validator

from ashen_bridge.model.base import Frozen, Id, Text
from ashen_bridge.model.closings import Moment
from ashen_bridge.model.plays import Beside
from ashen_bridge.model.quantity import q
from ashen_bridge.model.references import Kind, Reference
from ashen_bridge.model.units import Coordinate, Fraction, Step

Mark = Literal[
    "untouched",
    "faint",
    "even",
    "deep",
    "wedge",
    "thick",
    "thin",
    "dry",
    "pumped out",
    "oily",
    "torn",
    "missing",
    "part bare",
    "film left on",
]
"""What a pad or a paste can show."""
Misread = Annotated[float, Field(gt=0.0, le=0.5)]
Pixel = tuple[Annotated[float, Field(ge=-1e5, le=1e5)], Annotated[float, Field(ge=-1e5, le=1e5)]]


class Sign(Frozen):
    """Something noticed before opening, at a body or a place of the board. `misread` is the chance that it was not so."""

    id: Id
    says: Literal["rattles", "sounds hollow", "oil at the fan", "noisy fan", "hot place", "bulges"]
    body: Id | None = None
    x_mm: Coordinate | None = None
    y_mm: Coordinate | None = None
    misread: Misread = 0.1
    image: Id | None = None
    taken: Moment = ""
    note: Text = ""

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id."""
        if self.image is not None:
            yield Reference("Sign", self.id, "shows image", Kind.IMAGE, self.image)


class Evidence(Frozen):
    """What an old pad or paste shows where it met a lower body: a statement about one closing, with its chance of being misread.

    `toward_deg` is where a wedge is thinnest, so where the gap was narrowest, on the board seen from the front: 0 to the right,
    90 up. It is history: what it names may be gone by now.
    """

    id: Id
    closing: Id
    joint: Id
    lower: Id
    says: Mark
    toward_deg: float | None = Field(default=None, ge=-360.0, le=360.0)
    misread: Misread = 0.07
    image: Id | None = None
    taken: Moment = ""
    note: Text = ""
    aside: bool = False

    @model_validator(mode="after")
    def _wedges_have_a_direction(self) -> Evidence:
        if self.toward_deg is not None and self.says != "wedge":
            raise ValueError(f"evidence '{self.id}' has a direction, but only a wedge has one")
        return self

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id."""
        if self.image is not None:
            yield Reference("Evidence", self.id, "shows image", Kind.IMAGE, self.image)


class ContactPicture(Frozen):
    """A picture of contact: a pressure film or a stamped pad, and what was read off it.

    `corners_px` are the corners of what was clamped (lower left, lower right, upper right, upper left, on the board seen from the
    front). `centre_x_mm`, `centre_y_mm` say where the centre of pressure is, from the middle of the lower body. `toward_deg` is
    where it presses harder, `ratio` by how much at opposite edges. `strip_px` are the corners of a strip of known pressures,
    if one told what colours mean.
    """

    id: Id
    closing: Id
    joint: Id
    lower: Id
    image: Id
    corners_px: tuple[Pixel, Pixel, Pixel, Pixel]
    kind: Literal["film", "stamp"] = "film"
    covered: Beside[Fraction]
    centre_x_mm: Beside[Step] = Field(default_factory=lambda: q(0.0, 0.3))
    centre_y_mm: Beside[Step] = Field(default_factory=lambda: q(0.0, 0.3))
    toward_deg: float | None = None
    ratio: float = Field(default=1.0, ge=1.0, le=1e3)
    strip_px: tuple[Pixel, Pixel, Pixel, Pixel] | None = None
    strip_pressures: tuple[float, ...] = Field(default=(), max_length=50)
    middle: Literal["hollow", "flat", "crowned"] = "flat"
    aside: bool = False
    note: Text = ""

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id."""
        yield Reference("Picture of contact", self.id, "shows image", Kind.IMAGE, self.image)
