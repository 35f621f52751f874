"""The device: bodies, fasteners, sensors and limits, and what is met on the way to them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from pydantic import Field, model_validator

from ashen_bridge.model.base import Frozen, Id, Name
from ashen_bridge.model.bodies import Body
from ashen_bridge.model.fasteners import Fastener
from ashen_bridge.model.footprint import Rect
from ashen_bridge.model.hardware import Hazards, Plug, Screw
from ashen_bridge.model.plays import Beside, Reads
from ashen_bridge.model.quantity import q
from ashen_bridge.model.references import Kind, Reference
from ashen_bridge.model.sharing import find
from ashen_bridge.model.units import Celsius, Coordinate, Offset


class Sensor(Frozen):
    """What a reading means, of one body or of others together with it (`also`); `offset_k` is added to it.

    Maximum, mean, mean over a stated spot or the maximum in it, a point; or a place nobody knows: somewhere where the heat is
    made (a core's own sensor), or somewhere along the edge. `skin`: the hottest place of the outer face, as a finger finds it.
    """

    id: Id
    name: Name = ""
    body: Id
    also: tuple[Id, ...] = Field(default=(), max_length=64)
    reads: Literal["max", "mean", "spot", "spot max", "point", "somewhere", "edge", "skin"]
    spot: Rect | None = None
    x_mm: Coordinate | None = None
    y_mm: Coordinate | None = None
    offset_k: Reads[Offset] = q(0.0)
    group: Name = ""

    @model_validator(mode="after")
    def _place_is_given(self) -> Sensor:
        if self.reads in ("spot", "spot max") and self.spot is None:
            raise ValueError(f"sensor '{self.id}' reads a spot, so it needs the spot's area")
        if self.reads == "point" and (self.x_mm is None or self.y_mm is None):
            raise ValueError(f"sensor '{self.id}' reads a point, so it needs x_mm and y_mm")
        if self.also and self.reads not in ("max", "mean", "skin"):
            raise ValueError(f"sensor '{self.id}' reads a place, so it cannot read several bodies together")
        if self.body in self.also or len(set(self.also)) != len(self.also):
            raise ValueError(f"sensor '{self.id}' names the same body twice")
        return self

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.name or self.id

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id."""
        for body in (self.body, *self.also):
            yield Reference("Sensor", self.id, "reads body", Kind.BODY, body)


class Limit(Frozen):
    """A temperature that must not be passed, on a sensor or on a reference point of a body."""

    id: Id
    name: Name = ""
    sensor: Id | None = None
    body: Id | None = None
    place: Literal["junction", "case", "skin"] = "junction"
    max_c: Beside[Celsius]
    source: Name = ""

    @model_validator(mode="after")
    def _is_somewhere(self) -> Limit:
        if (self.sensor is None) == (self.body is None):
            raise ValueError(f"limit '{self.id}' must name either a sensor or a body")
        return self

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id."""
        if self.sensor is not None:
            yield Reference("Limit", self.id, "is on sensor", Kind.SENSOR, self.sensor)
        if self.body is not None:
            yield Reference("Limit", self.id, "is on body", Kind.BODY, self.body)


class Device(Frozen):
    """The hardware itself, independent of how it is put together."""

    name: Name = ""
    bodies: tuple[Body, ...] = ()
    fasteners: tuple[Fastener, ...] = ()
    sensors: tuple[Sensor, ...] = ()
    limits: tuple[Limit, ...] = ()
    screws: tuple[Screw, ...] = Field(default=(), max_length=500)
    plugs: tuple[Plug, ...] = Field(default=(), max_length=200)
    hazards: Hazards = Hazards()

    def sensor(self, sensor_id: str) -> Sensor:
        """Return a sensor by id. Raises `ProjectError` if there is none."""
        return find(self.sensors, sensor_id, "sensor")

    def fastener(self, fastener_id: str) -> Fastener:
        """Return a fastener by id. Raises `ProjectError` if there is none."""
        return find(self.fasteners, fastener_id, "fastener")

    def limits_c(self) -> dict[str, float]:
        """Return the tightest limit [°C] of every sensor that has one: its own, or its body's junction limit."""
        found: dict[str, float] = {}
        for sensor in self.sensors:
            values = [
                limit.max_c.value
                for limit in self.limits
                if limit.sensor == sensor.id or (limit.body == sensor.body and limit.place == "junction")
            ]
            if values:
                found[sensor.id] = min(values)
        return found

    def references(self) -> Iterator[Reference]:
        """Yield what its parts name by id."""
        for part in (*self.bodies, *self.fasteners, *self.sensors, *self.limits, *self.plugs):
            yield from part.references()
