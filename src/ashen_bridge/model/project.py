"""The project: everything that is known about one device and its repair."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any, Literal, Self, TypeVar

from pydantic import Field, ValidationError, model_validator

from ashen_bridge.model.base import Frozen, Id, Name
from ashen_bridge.model.bodies import Body
from ashen_bridge.model.build import Build, OperatingPoint
from ashen_bridge.model.crossrefs import reference_problems
from ashen_bridge.model.device import Device
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.joints import Group
from ashen_bridge.model.material import Material
from ashen_bridge.model.records import (
    Aims,
    CalibrationRecord,
    Checklist,
    Goal,
    Image,
    Measurement,
    Run,
    RunChannel,
    StockItem,
    Tracing,
)
from ashen_bridge.model.refusals import explain
from ashen_bridge.model.sharing import find

FORMAT_VERSION: Literal[3] = 3
T = TypeVar("T")


class Project(Frozen):
    """Root of the data model. Frozen: a change makes a new project through `Project.parse`, always re-validated."""

    format: Literal["ashen-bridge"] = "ashen-bridge"
    version: Literal[3] = FORMAT_VERSION
    name: Name = ""
    notes: Name = ""
    device: Device = Device()
    materials: tuple[Material, ...] = ()
    builds: tuple[Build, ...] = Field(default=(), max_length=200)
    main_build: Id | None = None
    points: tuple[OperatingPoint, ...] = Field(default=(), max_length=200)
    groups: tuple[Group, ...] = ()
    aims: Aims = Aims()
    goals: tuple[Goal, ...] = ()
    measurements: tuple[Measurement, ...] = ()
    runs: tuple[Run, ...] = ()
    mappings: tuple[RunChannel, ...] = Field(default=(), max_length=5000)
    calibrations: tuple[CalibrationRecord, ...] = Field(default=(), max_length=100)
    calibration: Id | None = None
    images: tuple[Image, ...] = ()
    tracings: tuple[Tracing, ...] = ()
    stock: tuple[StockItem, ...] = ()
    checklists: tuple[Checklist, ...] = ()

    @model_validator(mode="after")
    def _references_hold(self) -> Self:
        problems = reference_problems(self)
        if problems:
            raise ValueError(problems[0])
        return self

    @classmethod
    def parse(cls, data: Any) -> Project:
        """Return the project described by plain data.

        Raises
        ------
        ProjectError
            One sentence that names the place and what is wrong with it.
        """
        try:
            return cls.model_validate(data)
        except ValidationError as error:
            raise ProjectError(explain(error, data)) from error

    def build(self, build_id: str | None = None) -> Build:
        """Return a build by id, or the main build (else the first) when none is named."""
        wanted = build_id or self.main_build
        return _pick("build", self.builds, wanted, lambda build: build.id)

    def point(self, point_id: str | None = None) -> OperatingPoint:
        """Return an operating point by id, or the first when none is named."""
        return _pick("operating point", self.points, point_id, lambda point: point.id)

    def material(self, material_id: str) -> Material:
        """Return a material of this project by id."""
        return _pick("material", self.materials, material_id, lambda material: material.id)

    def run(self, run_id: str) -> Run:
        """Return a run by id. Raises `ProjectError` if there is none."""
        return find(self.runs, run_id, "run")

    @property
    def all_bodies(self) -> tuple[Body, ...]:
        """The device's bodies and those that any build adds."""
        return (*self.device.bodies, *(body for build in self.builds for body in build.added))

    def body(self, body_id: str) -> Body:
        """Return a body by id, be it the device's or one that a build adds. Raises `ProjectError` if there is none."""
        return find(self.all_bodies, body_id, "body")

    def bodies_known(self, build: Build) -> dict[str, Body]:
        """Return the bodies that a build may speak of, by id: the device's, taken out or not, and its own."""
        return {body.id: body for body in (*self.device.bodies, *build.added)}

    def bodies_of(self, build: Build | None) -> tuple[Body, ...]:
        """Return the bodies that are there in a build; without one, the device's."""
        if build is None:
            return self.device.bodies
        return tuple(body for body in self.bodies_known(build).values() if body.id not in build.removed)

    def group_of(self, joint_id: str) -> Group | None:
        """Return the first group a joint belongs to."""
        return next((group for group in self.groups if joint_id in group.joints), None)


def _pick(what: str, items: Iterable[T], wanted: str | None, name_of: Callable[[T], str]) -> T:
    listed = list(items)
    if not listed:
        raise ProjectError(f"The project has no {what} yet.")
    if wanted is None:
        return listed[0]
    for item in listed:
        if name_of(item) == wanted:
            return item
    raise ProjectError(f"There is no {what} '{wanted}'; there are: {', '.join(map(name_of, listed))}.")
