"""A cut through the assembly: bodies and pieces as outlines in the plane of the cut, at their heights of rest.

Heights here are signed [m]: 0 at the board's front surface, positive towards the front, so that both sides share one picture.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.plan import Facing, Patch
from ashen_bridge.geometry.region import MM, Region, region_of_rect
from ashen_bridge.geometry.scene import Scene, SceneBody
from ashen_bridge.model.bodies import Board, Plate, Side

_SAMPLES, _BOARD_SAMPLES = 9, 33


@dataclass(frozen=True)
class Cut:
    """Where to cut: along x at y = `at`, or along y at x = `at` [m]."""

    along: Literal["x", "y"]
    at: float

    def points(self, s: Floats) -> tuple[Floats, Floats]:
        """Return x and y [m] of places `s` along the cut."""
        fixed = np.full_like(s, self.at)
        return (s, fixed) if self.along == "x" else (fixed, s)

    def intervals(self, region: Region) -> list[tuple[float, float]]:
        """Return where the cut runs through a region, joined where boxes meet."""
        found = []
        for x0, y0, x1, y1 in region.boxes:
            if self.along == "x" and y0 <= self.at < y1:
                found.append((x0, x1))
            if self.along == "y" and x0 <= self.at < x1:
                found.append((y0, y1))
        joined: list[tuple[float, float]] = []
        for start, end in sorted(found):
            if joined and start - joined[-1][1] < 1e-9:
                joined[-1] = joined[-1][0], end
            else:
                joined.append((start, end))
        return joined


@dataclass(frozen=True)
class CutBody:
    """A body in section: places along the cut, and its lower and upper outline there [m]."""

    id: str
    kind: str
    role: str
    s: Floats
    low: Floats
    high: Floats


@dataclass(frozen=True)
class CutFilling:
    """What fills part of a gap in section: a piece, or the air it leaves. `what` is the material's kind, or "air"."""

    joint: str
    lower: str
    piece: str
    what: str
    s: Floats
    low: Floats
    high: Floats

    @property
    def mean_thickness(self) -> float:
        """Mean thickness along the cut [m]."""
        return float(np.abs(self.high - self.low).mean())


@dataclass(frozen=True)
class Section:
    """Everything a cut shows."""

    cut: Cut
    bodies: tuple[CutBody, ...]
    fillings: tuple[CutFilling, ...]


PlateHeight = Callable[[str, Floats, Floats], Floats]
"""(plate, x, y) → outward height of its reference plane [m]."""

Give = Callable[[str, str], float]
"""(joint, lower body) → by how much the surroundings of a joint give way under its force [m]."""


Bow = Callable[[Floats, Floats], Floats]
"""(x, y) → how far the board is bent towards the front [m]."""


def _flat(x: Floats, y: Floats) -> Floats:
    return np.zeros(np.broadcast(x, y).shape)


def section(scene: Scene, plate_height: PlateHeight, give: Give, cut: Cut, bow: Bow = _flat) -> Section:
    """Return the section of a scene with its plates where `plate_height` says and its board bent as `bow` says."""
    bodies = [part for body in scene.bodies.values() for part in _cut_body(scene, body, plate_height, cut, bow)]
    fillings = [
        part
        for facing in scene.plan.facings
        if facing.joint is not None
        for patch in facing.patches
        for part in _cut_patch(scene, facing, patch, plate_height, give, cut, bow)
    ]
    return Section(cut, tuple(bodies), tuple(fillings))


def _signed(scene: Scene, side: Side, outward: Floats) -> Floats:
    return outward if side is Side.FRONT else -scene.board.thickness - outward


def _cut_body(scene: Scene, body: SceneBody, plate_height: PlateHeight, cut: Cut, bow: Bow) -> Iterator[CutBody]:
    model = body.model
    role = str(getattr(model, "role", model.kind))
    if isinstance(model, Board):
        for start, end in cut.intervals(body.region):
            s = np.linspace(start, end, _BOARD_SAMPLES)
            bent = bow(*cut.points(s))
            yield CutBody(body.id, "board", role, s, bent - body.thickness, bent)
        return
    for region, step in _parts(body):
        for start, end in cut.intervals(region):
            s = np.linspace(start, end, _SAMPLES)
            base = plate_height(body.id, *cut.points(s)) if body.floats else np.full(_SAMPLES, body.bottom)
            near, far = _signed(scene, model.side, base + step), _signed(scene, model.side, base + body.thickness)
            if not isinstance(model, Plate):
                bent = bow(*cut.points(s))
                near, far = near + bent, far + bent
            yield CutBody(body.id, model.kind, role, s, np.minimum(near, far), np.maximum(near, far))


def _parts(body: SceneBody) -> Iterator[tuple[Region, float]]:
    """Yield the parts of a body with the step of its near face [m]."""
    rest = body.region
    if isinstance(body.model, Plate):
        for landing in body.model.landings:
            part = rest & region_of_rect(landing.area)
            rest = rest - part
            yield part, landing.step_mm.value * MM
    yield rest, 0.0


def _cut_patch(
    scene: Scene, facing: Facing, patch: Patch, plate_height: PlateHeight, give: Give, cut: Cut, bow: Bow
) -> Iterator[CutFilling]:
    lower, upper = scene.bodies[facing.lower], scene.bodies[facing.upper]
    pieces = scene.pieces(facing, patch)
    for start, end in cut.intervals(patch.region):
        s = np.linspace(start, end, _SAMPLES)
        x, y = cut.points(s)
        top_of_lower = 0.0 if isinstance(lower.model, Board) else lower.top
        rise = plate_height(upper.id, x, y) if upper.floats else np.zeros(_SAMPLES)
        sink = plate_height(lower.id, x, y) if lower.floats else np.zeros(_SAMPLES)
        if not isinstance(lower.model, Plate):
            sink = sink + bow(x, y) * (1.0 if facing.side is Side.FRONT else -1.0)
        yielded = give(facing.joint or "", facing.lower)
        base = np.full(_SAMPLES, top_of_lower) + sink - yielded
        gap = np.maximum(scene.free_gap(facing, patch, x, y) + rise - sink + yielded, 0.0)
        free = [piece.thickness_mm.value * MM if piece.thickness_mm else None for piece in pieces]
        sheets = sum(thickness for thickness in free if thickness is not None)
        squeeze = np.minimum(1.0, gap / sheets) if sheets else np.ones(_SAMPLES)
        left = np.maximum(gap - squeeze * sheets, 0.0)
        for piece, thickness in zip(pieces, free, strict=True):
            height = left if thickness is None else squeeze * thickness
            if thickness is None:
                left = np.zeros(_SAMPLES)
            what = scene.resolved.materials[piece.material].kind.value
            yield _filling(scene, facing, piece.id, what, s, base, height)
            base = base + height
        if pieces and float(left.max()) > 2e-6:
            yield _filling(scene, facing, "", "air", s, base, left)


def _filling(scene: Scene, facing: Facing, piece: str, what: str, s: Floats, base: Floats, height: Floats) -> CutFilling:
    near, far = _signed(scene, facing.side, base), _signed(scene, facing.side, base + height)
    return CutFilling(facing.joint or "", facing.lower, piece, what, s, np.minimum(near, far), np.maximum(near, far))
