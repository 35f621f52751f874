"""What the model expects of a reading, before anybody errs: lengths off the scene, gaps of closings by their equilibrium."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.scene import Scene, make_scene
from ashen_bridge.measuring.practice import practice
from ashen_bridge.mechanics.laws import strain_table
from ashen_bridge.model import paths
from ashen_bridge.model.bodies import Plate
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.joints import Piece
from ashen_bridge.model.material import Material
from ashen_bridge.model.project import Project
from ashen_bridge.model.readings import (
    BesideReading,
    DepthReading,
    EdgeReading,
    FeelerReading,
    HeightReading,
    ImprintReading,
    Instrument,
    PuttyReading,
    Reading,
    StepReading,
)
from ashen_bridge.model.resolve import resolve

Gaps = dict[tuple[str, str], float]
"""Gap by joint and lower body [mm]."""


class UnusedError(AshenError, ValueError):
    """A reading that says nothing of the project as it is."""


class Looks:
    """What one state of a project is like: its lengths, and the gaps of its builds as they were closed."""

    def __init__(self, project: Project, build: str, closed: Mapping[str, Gaps]) -> None:
        self.project, self._build, self._closed = project, build, closed

    @cached_property
    def scene(self) -> Scene:
        """The geometry of the build that is looked at."""
        return make_scene(resolve(self.project, self._build))

    # ---- readings

    def of(self, readings: Sequence[Reading]) -> Floats:
        """Return what is expected of some readings (n_reading,) [mm, or a number's own unit]. Raises `AshenError`."""
        return np.array([self.expected(one) for one in readings])

    def expected(self, reading: Reading) -> float:
        """Return what is expected of a reading, depths below a straight edge at height 0.

        Raises `UnusedError` where what it speaks of is not there, other `AshenError` where the device cannot be assembled.
        """
        match reading:
            case HeightReading():
                return self._top(reading.body) - self._top(reading.above)
            case StepReading():
                return self._step(reading.plate, reading.landing) - self._step(reading.plate, reading.against)
            case DepthReading(landing=None):
                return -self._top(reading.body)
            case DepthReading():
                return self._step(reading.body, reading.landing)
            case EdgeReading():
                piece, material = self._piece(reading.closing, reading.joint, reading.piece)
                return _free(piece) * (1 - practice().set_share.get(material.kind, (0.0, 0.0))[0])
            case BesideReading():
                return _free(self._piece(reading.closing, reading.joint, reading.piece)[0])
            case ImprintReading():
                free, material = self._sheet(reading)
                gap = self._gap(reading)
                return gap + practice().recovered.get(material.kind, (0.0, 0.0))[0] * max(free - gap, 0.0)
            case PuttyReading() | FeelerReading():
                return self._gap(reading)
            case _:
                try:
                    value = paths.get(self.project, reading.path)
                except AshenError as error:
                    raise UnusedError(f"'{reading.path}' is not there any more.") from error
                if isinstance(value, bool) or not isinstance(value, int | float):
                    raise UnusedError(f"'{reading.path}' is no number.")
                return float(value)

    def by_gap(self, reading: Reading) -> float:
        """Return how a reading answers to the gap that it speaks of [1]; 0 for one of none."""
        if isinstance(reading, ImprintReading):
            free, material = self._sheet(reading)
            return 1 - (practice().recovered.get(material.kind, (0.0, 0.0))[0] if free > self._gap(reading) else 0.0)
        return 1.0 if isinstance(reading, PuttyReading | FeelerReading) else 0.0

    def own_error(self, reading: Reading) -> float:
        """Return the standard uncertainty of what a form stands on besides: how much was recovered, or lost by a set [mm]."""
        if isinstance(reading, ImprintReading):
            free, material = self._sheet(reading)
            return practice().recovered.get(material.kind, (0.0, 0.0))[1] * max(free - self._gap(reading), 0.0)
        if isinstance(reading, EdgeReading):
            piece, material = self._piece(reading.closing, reading.joint, reading.piece)
            return practice().set_share.get(material.kind, (0.0, 0.0))[1] * _free(piece)
        return 0.0

    def squashed(self, reading: Reading, instrument: Instrument | None) -> float:
        """Return by which share jaws squash what is measured between them, by its own curve."""
        if instrument is None or instrument.jaw_force_n is None or not isinstance(reading, EdgeReading | ImprintReading):
            return 0.0
        of = reading.piece if isinstance(reading, EdgeReading) else None
        material = self._piece(reading.closing, reading.joint, of)[1] if of else self._sheet(reading)[1]
        if material.compression is None:
            return 0.0
        strains, pressures = strain_table(material.compression)
        return float(np.interp(instrument.jaw_force_n.value / (practice().jaw_area_mm2 * 1e-6), pressures, strains))

    def closing_build(self, closing: str, joint: str) -> str:
        """Return the build that a closing closed. Raises `UnusedError`."""
        return closing_build(self.project, closing, joint)

    def _gap(self, reading: ImprintReading | PuttyReading | FeelerReading) -> float:
        gaps = self._closed[self.closing_build(reading.closing, reading.joint)]
        if (reading.joint, reading.lower) not in gaps:
            raise UnusedError(f"The joint '{reading.joint}' does not reach '{reading.lower}'.")
        return gaps[reading.joint, reading.lower]

    def _piece(self, closing: str, joint: str, piece: str) -> tuple[Piece, Material]:
        build = self.project.build(self.closing_build(closing, joint))
        for one in build.joint(joint).pieces:
            if one.id == piece:
                return one, self.project.material(one.material)
        raise UnusedError(f"The joint '{joint}' had no piece '{piece}'.")

    def _sheet(self, reading: EdgeReading | ImprintReading) -> tuple[float, Material]:
        build = self.project.build(self.closing_build(reading.closing, reading.joint))
        joint = build.joint(reading.joint)
        if joint.sheet_at is None:
            raise UnusedError(f"The joint '{reading.joint}' had no sheet that could take an imprint.")
        piece = joint.pieces[joint.sheet_at]
        return _free(piece), self.project.material(piece.material)

    def _top(self, body: str) -> float:
        found = self.scene.bodies.get(body)
        if found is None:
            raise UnusedError(f"The body '{body}' is not there.")
        return 0.0 if found is self.scene.board else found.top * 1e3

    def _step(self, plate: str, landing: str | None) -> float:
        model = next((one for one in self.project.all_bodies if one.id == plate), None)
        if not isinstance(model, Plate):
            raise UnusedError(f"'{plate}' is no plate.")
        if landing is None:
            return 0.0
        for one in model.landings:
            if one.id == landing:
                return one.step_mm.value
        raise UnusedError(f"The plate '{plate}' has no landing '{landing}'.")


def closing_build(project: Project, closing: str, joint: str) -> str:
    """Return the build that a closing closed. Raises `UnusedError`."""
    found = next((one for one in project.closings if one.id == closing), None)
    if found is None:
        raise UnusedError(f"The closing '{closing}' is not there any more.")
    for name in found.builds:
        build = next((one for one in project.builds if one.id == name), None)
        if build is not None and any(one.id == joint for one in build.joints):
            return name
    raise UnusedError(f"No build of the closing “{found.label}” has the joint '{joint}'.")


def _free(piece: Piece) -> float:
    if piece.thickness_mm is None:
        raise UnusedError(f"The piece '{piece.id}' has no thickness of its own.")
    return piece.thickness_mm.value
