"""What instruments said of the device: every reading with its repeats, and the instruments themselves.

A reading is history. The body, joint, closing or path that it speaks of may be gone by now; then it is passed over, and said so.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field, model_validator

from ashen_bridge.model.base import Frozen, Id, Name
from ashen_bridge.model.closings import Moment
from ashen_bridge.model.plays import Beside
from ashen_bridge.model.quantity import Quantity
from ashen_bridge.model.references import Kind, Reference
from ashen_bridge.model.units import Coordinate, Force

Millimetres = Annotated[float, Field(ge=-500.0, le=500.0)]
Values = Annotated[tuple[Millimetres, ...], Field(min_length=1, max_length=100)]
_Error = Annotated[float, Field(ge=0.0, le=5.0)]


class Instrument(Frozen):
    """What is measured with.

    `resolution_mm` is its last digit. `calibration_mm` is the standard uncertainty of its scale, the same in all its readings,
    `zero_mm` that of where it was set to zero, the same in all readings of one sitting. `jaw_force_n` is what jaws press with.
    """

    id: Id
    name: Name = ""
    kind: Literal["caliper", "depth gauge", "micrometer", "feeler", "rule", "scale", "eye"] = "caliper"
    resolution_mm: float = Field(default=0.01, gt=0.0, le=5.0)
    calibration_mm: _Error = 0.01
    zero_mm: _Error = 0.01
    jaw_force_n: Beside[Force | None] = None

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.name or self.id


class _Taken(Frozen):
    """What all readings say: with which instrument, in which sitting (its zero is one), when. `aside` is kept, and not used."""

    id: Id
    instrument: Id | None = None
    sitting: Name = ""
    taken: Moment = ""
    aside: bool = False
    note: Name = ""

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id."""
        if self.instrument is not None:
            yield Reference("Reading", self.id, "was taken with instrument", Kind.INSTRUMENT, self.instrument)


class HeightReading(_Taken):
    """The top of a body above the top of another one, or above the board."""

    form: Literal["height"] = "height"
    body: Id
    above: Id
    values_mm: Values


class StepReading(_Taken):
    """How far a landing is set back from a plate's face, or from another of its landings."""

    form: Literal["step"] = "step"
    plate: Id
    landing: Id
    against: Id | None = None
    values_mm: Values


class DepthReading(_Taken):
    """The depth of a body's top, or of a landing, below a straight edge at a place of the board.

    All depths of one `placement` have its plane in common, of which nothing is known: three of them define it.
    """

    form: Literal["depth"] = "depth"
    placement: Name
    body: Id
    landing: Id | None = None
    x_mm: Coordinate
    y_mm: Coordinate
    values_mm: Values


class EdgeReading(_Taken):
    """An old pad at its free edge: what was bought, roughly, since it has taken a set."""

    form: Literal["edge"] = "edge"
    closing: Id
    joint: Id
    piece: Id
    values_mm: Values


class ImprintReading(_Taken):
    """An old pad inside the imprint of what it touched: the gap of that closing, and what the pad recovered since."""

    form: Literal["imprint"] = "imprint"
    closing: Id
    joint: Id
    lower: Id
    values_mm: Values


class PuttyReading(_Taken):
    """Putty squashed by closing, then measured: the gap of that closing."""

    form: Literal["putty"] = "putty"
    closing: Id
    joint: Id
    lower: Id
    values_mm: Values


class FeelerReading(_Taken):
    """The thickest leaf that goes into a joint as it was closed, and the thinnest that does not."""

    form: Literal["feeler"] = "feeler"
    closing: Id
    joint: Id
    lower: Id
    goes_mm: float = Field(ge=0.0, le=50.0)
    stops_mm: float = Field(gt=0.0, le=50.0)

    @model_validator(mode="after")
    def _goes_first(self) -> FeelerReading:
        if self.goes_mm >= self.stops_mm:
            raise ValueError(f"the leaf that goes in reading '{self.id}' must be thinner than the one that does not")
        return self


class BesideReading(_Taken):
    """A stack of thin pads laid beside an old one: at least and at most as thick as it is."""

    form: Literal["beside"] = "beside"
    closing: Id
    joint: Id
    piece: Id
    least_mm: float = Field(ge=0.0, le=50.0)
    most_mm: float = Field(gt=0.0, le=50.0)

    @model_validator(mode="after")
    def _least_first(self) -> BesideReading:
        if self.least_mm >= self.most_mm:
            raise ValueError(f"the least of reading '{self.id}' must be below its most")
        return self


class NumberReading(_Taken):
    """Any number of the model by its path, in its own unit: a shim, a spring's rate, a die.

    `uncertainty` is its standard uncertainty where no instrument says it.
    """

    form: Literal["number"] = "number"
    path: Name
    values: Annotated[tuple[Annotated[float, Field(ge=-1e9, le=1e9)], ...], Field(min_length=1, max_length=100)]
    uncertainty: float | None = Field(default=None, ge=0.0, le=1e9)
    unit: Name = ""


class TakenOver(Frozen):
    """A number that readings moved, as it was before and as it has been since.

    Readings are weighed against what was known before them: so while the number stands as it was taken over, they start from
    what it was.
    """

    path: Name
    was: Beside[Quantity]
    now: Beside[Quantity]


Reading = Annotated[
    HeightReading
    | StepReading
    | DepthReading
    | EdgeReading
    | ImprintReading
    | PuttyReading
    | FeelerReading
    | BesideReading
    | NumberReading,
    Field(discriminator="form"),
]
"""One reading of any form."""
