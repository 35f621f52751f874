"""What a project keeps beside the model: goals, aims, runs and images."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from pydantic import Field, model_validator

from ashen_bridge.model.base import Digest, Frozen, Id, Name, Text
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.closings import Moment
from ashen_bridge.model.plays import Beside
from ashen_bridge.model.quantity import Quantity
from ashen_bridge.model.references import Kind, Reference
from ashen_bridge.model.units import Celsius, Coordinate, Decibel, Power
from ashen_bridge.model.wishes import Wishes


class Goal(Frozen):
    """What is wanted of one sensor at one operating point."""

    id: Id
    sensor: Id
    point: Id | None = None
    at_most_c: Beside[Celsius]
    note: Name = ""

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id."""
        yield Reference("Goal", self.id, "is about sensor", Kind.SENSOR, self.sensor)
        if self.point is not None:
            yield Reference("Goal", self.id, "is about operating point", Kind.POINT, self.point)


class Aims(Frozen):
    """What is wrong and what is wanted. `sensors` are those that matter, all if none is named; `skin_c` goes with touch."""

    complaint: Text = ""
    sensors: tuple[Id, ...] = ()
    noise_db: Beside[Decibel | None] = None
    power_w: Beside[Power | None] = None
    skin_c: Beside[Celsius | None] = None
    budget: float | None = Field(default=None, ge=0, le=1e6)
    opening: Literal["gladly", "if it pays", "never"] = "if it pays"
    warranty: Text = ""
    wishes: Wishes = Wishes()

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id."""
        for name in self.sensors:
            yield Reference("What is", "said to matter", "names sensor", Kind.SENSOR, name)


class RunChannel(Frozen):
    """One column of a log and what it is: the sensor or body it belongs to, and its role."""

    column: Name
    unit: Name = ""
    sensor: Id | None = None
    role: Literal["temperature", "power", "clock", "fan", "noise", "ambient", "rate", "other"] = "other"
    body: Id | None = None


class SpotReading(Frozen):
    """What somebody read at a sensor's place with another instrument, at the end of a run."""

    sensor: Id
    value_c: Beside[Celsius]
    how: Name = ""


class Run(Frozen):
    """One test of one build under stated conditions; each pass is a log, kept as a blob under its hash.

    `spots` are readings typed by hand; a run may consist of them alone. `profile`: power limit, undervolt, clocks. Noise is what
    was read at a distance, over what the room makes by itself.

    `taken` is when it was, as far as that is known: it says which run was before which.
    `statistic` is what of the settled window counts, the same before and after. `settled_s` is the window if it was set by hand.
    """

    id: Id
    name: Name = ""
    taken: Moment = ""
    build: Id
    point: Id
    log_sha256: Digest | None = None
    further_passes: tuple[Digest, ...] = Field(default=(), max_length=50)
    channels: tuple[RunChannel, ...] = ()
    workload: Name = ""
    fan_rule: Name = ""
    profile: Name = ""
    supply: Literal["", "mains", "battery"] = ""
    ambient_c: Beside[Celsius | None] = None
    noise_db: Beside[Decibel | None] = None
    noise_at_m: float | None = Field(default=None, gt=0, le=100)
    room_noise_db: Beside[Decibel | None] = None
    statistic: Literal["mean", "maximum", "p99"] = "mean"
    settled_s: tuple[float, float] | None = None
    spots: tuple[SpotReading, ...] = Field(default=(), max_length=200)
    notes: Name = ""

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.name or self.id

    @property
    def passes(self) -> tuple[str, ...]:
        """The logs of all passes."""
        return (*((self.log_sha256,) if self.log_sha256 else ()), *self.further_passes)

    @model_validator(mode="after")
    def _says_something(self) -> Run:
        if self.log_sha256 is None and (self.further_passes or not self.spots):
            raise ValueError(f"run '{self.id}' needs a log, or readings typed by hand")
        return self

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id."""
        yield Reference("Run", self.id, "is of build", Kind.BUILD, self.build)
        yield Reference("Run", self.id, "is at operating point", Kind.POINT, self.point)
        for spot in self.spots:
            yield Reference("Run", self.id, "holds a reading of sensor", Kind.SENSOR, spot.sensor)
        for channel in self.channels:
            if channel.sensor is not None:
                yield Reference("Run", self.id, f"maps column '{channel.column}' to sensor", Kind.SENSOR, channel.sensor)


class CalibratedNumber(Frozen):
    """One number as it was when it was fitted, and as the runs say it is.

    `told` is what the readings took of its uncertainty, along as many directions as there were readings: the fitted numbers,
    in their standard uncertainties before the fit, have the covariance I − T·Tᵀ with T the `told` of all of them.
    """

    path: Name
    was: float
    now: Beside[Quantity]
    told: tuple[float, ...] = Field(default=(), max_length=200)


class CalibrationRecord(Frozen):
    """A fit of the device to runs. Its numbers stand in for the project's while it is the one in use."""

    id: Id
    name: Name = ""
    runs: tuple[Id, ...]
    numbers: tuple[CalibratedNumber, ...] = Field(default=(), max_length=5000)
    misfit_before_k: float = Field(ge=0)
    misfit_after_k: float = Field(ge=0)

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.name or f"from run {', '.join(self.runs)}"

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id."""
        for name in self.runs:
            yield Reference("Calibration", self.id, "was fitted to run", Kind.RUN, name)


class Image(Frozen):
    """A photo or scan; the picture itself is a blob under its hash."""

    id: Id
    name: Name = ""
    sha256: Digest
    suffix: Literal["png", "jpg"]


class Tracing(Frozen):
    """A photo of the board laid under the plan: two of its points, in pixels from the upper left, and where they are.

    Board coordinates are those of the front, on either side; a photo of the rear shows the board turned over.
    """

    id: Id
    image: Id
    side: Side = Side.FRONT
    pixel_a: tuple[float, float]
    pixel_b: tuple[float, float]
    board_a_mm: tuple[Coordinate, Coordinate]
    board_b_mm: tuple[Coordinate, Coordinate]
    shown: bool = True

    @model_validator(mode="after")
    def _points_differ(self) -> Tracing:
        if self.pixel_a == self.pixel_b or self.board_a_mm == self.board_b_mm:
            raise ValueError(f"the two known points of tracing '{self.id}' must differ, in the photo and on the board")
        return self

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id."""
        yield Reference("Tracing", self.id, "shows image", Kind.IMAGE, self.image)
