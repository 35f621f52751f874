"""The project: everything that is known about one device and its repair."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from typing import Annotated, Any, Literal, Self, TypeVar

from pydantic import Field, ValidationError, model_validator

from ashen_bridge.model.base import Frozen, Id, Name
from ashen_bridge.model.bodies import CASE, GROUND, Body, Component, DieMakeUp
from ashen_bridge.model.build import Build, OperatingPoint
from ashen_bridge.model.closings import Closing
from ashen_bridge.model.device import Device
from ashen_bridge.model.errors import ProjectError, RefusedError
from ashen_bridge.model.evidence import ContactPicture, Evidence, Sign
from ashen_bridge.model.history import MOST_NOTES, Conclusion, Note
from ashen_bridge.model.joints import Group
from ashen_bridge.model.material import Material, MaterialKind
from ashen_bridge.model.procedures import Lies, Procedure
from ashen_bridge.model.readings import Instrument, Reading, TakenOver
from ashen_bridge.model.records import (
    Aims,
    CalibrationRecord,
    Goal,
    Image,
    Run,
    RunChannel,
    Tracing,
)
from ashen_bridge.model.references import Kind, broken, circles, in_short, repeated
from ashen_bridge.model.refusals import wrong_in
from ashen_bridge.model.sharing import find
from ashen_bridge.model.ties import Tie
from ashen_bridge.model.wishes import Offer, Silenced, StockItem

FORMAT_VERSION: Literal[11] = 11
T = TypeVar("T")
_HOLDS = {GROUND, CASE}


class Project(Frozen):
    """Root of the data model. Frozen: a change makes a new project through `Project.parse`, always re-validated."""

    format: Literal["ashen-bridge"] = "ashen-bridge"
    version: Literal[11] = FORMAT_VERSION
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
    instruments: tuple[Instrument, ...] = Field(default=(), max_length=100)
    readings: tuple[Reading, ...] = Field(default=(), max_length=5000)
    taken_over: tuple[TakenOver, ...] = Field(default=(), max_length=5000)
    runs: tuple[Run, ...] = ()
    closings: tuple[Closing, ...] = Field(default=(), max_length=500)
    ties: tuple[Tie, ...] = Field(default=(), max_length=500)
    priors: dict[Id, Annotated[float, Field(ge=0, le=10)]] = Field(default_factory=dict, max_length=200)
    mappings: tuple[RunChannel, ...] = Field(default=(), max_length=5000)
    calibrations: tuple[CalibrationRecord, ...] = Field(default=(), max_length=100)
    calibration: Id | None = None
    images: tuple[Image, ...] = ()
    tracings: tuple[Tracing, ...] = ()
    stock: tuple[StockItem, ...] = Field(default=(), max_length=500)
    shop: tuple[Offer, ...] = Field(default=(), max_length=1000)
    currency: Name = ""
    silenced: tuple[Silenced, ...] = Field(default=(), max_length=500)
    signs: tuple[Sign, ...] = Field(default=(), max_length=500)
    evidence: tuple[Evidence, ...] = Field(default=(), max_length=5000)
    pictures: tuple[ContactPicture, ...] = Field(default=(), max_length=500)
    procedures: tuple[Procedure, ...] = Field(default=(), max_length=100)
    tray: tuple[Lies, ...] = Field(default=(), max_length=1000)
    conclusions: tuple[Conclusion, ...] = Field(default=(), max_length=500)
    history: tuple[Note, ...] = Field(default=(), max_length=MOST_NOTES)

    @model_validator(mode="after")
    def _references_hold(self) -> Self:
        problems = self.problems()
        if problems:
            raise ValueError(in_short(problems))
        return self

    def problems(self) -> list[str]:
        """Return one sentence per reference to something that does not exist, id that two things have, and the like."""
        lists: dict[str, tuple[Any, ...]] = {
            **{"bodies": self.device.bodies, "sensors": self.device.sensors},
            **{"limits": self.device.limits, "materials": self.materials, "builds": self.builds, "operating points": self.points},
            **{"groups": self.groups, "goals": self.goals, "runs": self.runs, "calibrations": self.calibrations},
            **{"images": self.images, "tracings": self.tracings},
            **{"closings": self.closings, "ties": self.ties, "stock items": self.stock, "offers": self.shop},
            **{"instruments": self.instruments, "readings": self.readings, "procedures": self.procedures},
            **{"screws": (*self.device.fasteners, *self.device.screws), "plugs": self.device.plugs},
            **{"signs": self.signs, "statements": self.evidence, "pictures of contact": self.pictures},
            **{"conclusions": self.conclusions},
            **{f"joints of build '{build.id}'": build.joints for build in self.builds},
            **{f"bodies of build '{build.id}'": (*self.device.bodies, *build.added) for build in self.builds},
        }
        known = self._known()
        found = [*repeated(lists), *broken(self.device.references(), known)]
        for build in self.builds:
            here = known[Kind.DEVICE_BODY] | {body.id for body in build.added}
            found += broken(build.references(), {**known, Kind.BODY_HERE: here, Kind.CARRIER: here | _HOLDS})
        found += circles({body.id: body.on for body in self.all_bodies if body.kind != "plate"})
        found += broken((one for point in self.points for one in point.references()), known, self._blocks())
        records = (
            *self.groups,
            self.aims,
            *self.goals,
            *self.runs,
            *self.calibrations,
            *self.tracings,
            *self.stock,
            *self.readings,
            *self.procedures,
            *self.signs,
            *self.evidence,
            *self.pictures,
        )
        found += broken((one for record in records for one in record.references()), known)
        return [*found, *self._chosen(known), *self._without_amount(), *self._tied_once()]

    def _chosen(self, known: dict[Kind, set[str]]) -> Iterator[str]:
        if self.main_build is not None and self.main_build not in known[Kind.BUILD]:
            yield f"The main build '{self.main_build}' does not exist."
        if self.calibration is not None and self.calibration not in known[Kind.CALIBRATION]:
            yield f"Calibration '{self.calibration}' is to be used, but does not exist."

    def _blocks(self) -> dict[str, str]:
        """Return a hint for every power block's id: people give power to it as if it were a body."""
        return {
            block.id: f" (it is a power block of '{body.id}')"
            for body in self.all_bodies
            if isinstance(body, Component) and isinstance(body.make_up, DieMakeUp)
            for block in body.make_up.power_map
        }

    def _known(self) -> dict[Kind, set[str]]:
        """Return the ids of everything that can be referred to, by kind."""
        own, every = {body.id for body in self.device.bodies}, {body.id for body in self.all_bodies}
        return {
            Kind.DEVICE_BODY: own,
            Kind.BODY: every,
            Kind.CARRIER: own | _HOLDS,
            Kind.HELD_END: every | _HOLDS,
            Kind.JOINT: {joint.id for build in self.builds for joint in build.joints},
            Kind.MATERIAL: {one.id for one in self.materials},
            Kind.FASTENER: {one.id for one in self.device.fasteners},
            Kind.SENSOR: {one.id for one in self.device.sensors},
            Kind.BUILD: {one.id for one in self.builds},
            Kind.POINT: {one.id for one in self.points},
            Kind.RUN: {one.id for one in self.runs},
            Kind.IMAGE: {one.id for one in self.images},
            Kind.CALIBRATION: {one.id for one in self.calibrations},
            Kind.INSTRUMENT: {one.id for one in self.instruments},
        }

    def _tied_once(self) -> Iterator[str]:
        shares: dict[str, float] = {}
        for tie in self.ties:
            for path in dict.fromkeys(tie.paths):
                shares[path] = shares.get(path, 0.0) + tie.share
        for path, share in shares.items():
            if share > 1 + 1e-9:
                yield f"The shares by which '{path}' is tied to others add up to {share:.3g}; more than 1 there is not."
        twice = [run.id for run in self.runs if sum(run.id in one.runs for one in self.closings) > 1]
        if twice:
            yield f"Run '{twice[0]}' belongs to two closings."

    def _without_amount(self) -> Iterator[str]:
        gases = {one.id for one in self.materials if one.kind is MaterialKind.GAS}
        for build in self.builds:
            for joint in build.joints:
                for piece in joint.pieces:
                    if not piece.has_amount and piece.material not in gases:
                        yield (
                            f"Piece '{piece.id}' of joint '{joint.id}' (build '{build.id}') needs thickness_mm (a sheet), or "
                            "volume_mm3 or amount (a paste)."
                        )

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
            raise RefusedError(*wrong_in(error, data)) from error

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
