"""Procedures: ordered steps to open up, close up, burn in or serve a device, and where its screws lie meanwhile."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from pydantic import Field, model_validator

from ashen_bridge.model.base import Frozen, Id, Name, Text
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.closings import Moment
from ashen_bridge.model.hardware import Cell
from ashen_bridge.model.references import Kind, Reference
from ashen_bridge.model.units import Coordinate

KEPT_HOLDS = ("power", "battery", "charge", "licensed")
"""Hold points that no procedure and no recipe loses: they can only be confirmed."""


class ProcedureStep(Frozen):
    """One step. `hold`: nothing goes on until it is confirmed. `about` is what it handles, by id: a screw, a plug, a body.

    `done_at` is when it was ticked, where that is known. `timer_s` is how long to wait in it, `minutes` how long it takes.
    """

    id: Id
    kind: Literal[
        "hold", "do", "unscrew", "unplug", "lift", "look", "keep", "wait", "clean", "place", "dispense", "plug", "lower", "screw"
    ] = "do"
    text: Text
    caution: Text = ""
    hold: Literal["", "licensed", "warranty", "power", "battery", "charge", "static", "photos", "other"] = ""
    about: tuple[Id, ...] = Field(default=(), max_length=64)
    x_mm: Coordinate | None = None
    y_mm: Coordinate | None = None
    side: Side = Side.FRONT
    minutes: float = Field(default=0.0, ge=0.0, le=1440.0)
    timer_s: float = Field(default=0.0, ge=0.0, le=604_800.0)
    done: bool = False
    done_at: Moment = ""
    note: Text = ""
    images: tuple[Id, ...] = Field(default=(), max_length=20)

    @property
    def stays(self) -> bool:
        """Whether it cannot be taken out."""
        return self.hold in KEPT_HOLDS


class Procedure(Frozen):
    """Ordered steps for one build, or, as a recipe does, for any."""

    id: Id
    name: Name = ""
    kind: Literal["open up", "close up", "burn in", "service"] = "open up"
    build: Id | None = None
    steps: tuple[ProcedureStep, ...] = Field(default=(), max_length=500)

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.name or self.id

    @property
    def next(self) -> ProcedureStep | None:
        """The first step that is not done."""
        return next((one for one in self.steps if not one.done), None)

    @model_validator(mode="after")
    def _steps_differ(self) -> Procedure:
        seen: set[str] = set()
        for one in self.steps:
            if one.id in seen:
                raise ValueError(f"two steps of procedure '{self.id}' have the id '{one.id}'")
            seen.add(one.id)
        return self

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id; what its steps are about may be gone by now, since a procedure is history too."""
        for step in self.steps:
            for image in step.images:
                yield Reference("Procedure", self.id, f"shows at step '{step.id}' image", Kind.IMAGE, image)


class Lies(Frozen):
    """Where a screw lies that is out of the device; `back`: it went back in."""

    screw: Id
    cell: Cell
    since: Moment = ""
    back: bool = False
