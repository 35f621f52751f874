"""A scene as arrays: unknown coordinates, contact points with their stack laws, fasteners as ramps.

Coordinates of each floating plate: height of its reference plane at its centre [m], and its slopes dz/dx and dz/dy times
`SLOPE_LENGTH`, so that all unknowns are lengths of like size; after them the amplitudes of bending shapes [m] of the board and of
plates, see `motion`. Heights count outwards from the board's surface, on either side.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.plan import Facing, Patch
from ashen_bridge.geometry.region import MM
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.mechanics.bending import Bending
from ashen_bridge.mechanics.layers import layer_law
from ashen_bridge.mechanics.motion import Motion, motion_like, motion_of
from ashen_bridge.mechanics.stack import LayerLaw, StackLaw, stack_law
from ashen_bridge.model.bodies import Board, Plate
from ashen_bridge.model.fasteners import Fastener, FastenerSetting, preload_of, travel_of
from ashen_bridge.model.joints import Piece

DEFAULT_COMPLIANCE = 0.05e-6  # [m/N], faces that meet without a joint


@dataclass(frozen=True)
class Across:
    """How many sample points there are across a patch: of a paste, whose law is steep, of a pad, of mere air."""

    paste: int = 20
    pad: int = 6
    air: int = 3


@dataclass(frozen=True)
class ContactPatch:
    """Sample points of one patch and the law of its stack. Slices address the assembly's point arrays."""

    facing: Facing
    patch: Patch
    pieces: tuple[Piece, ...]
    layers: tuple[LayerLaw, ...]
    law: StackLaw
    points: slice


@dataclass(frozen=True)
class Ramp:
    """One linear part of a fastener: force = stiffness·max(0, sign·separation + offset), pulling if `sign` is +1."""

    fastener: int
    stiffness: float
    sign: float
    offset: float
    washers_count: bool


@dataclass(frozen=True)
class Assembly:
    """Everything the equilibrium needs; coordinates are those of `motion`."""

    motion: Motion
    contacts: tuple[ContactPatch, ...]
    x: Floats  # (n_point,) [m]
    y: Floats
    weight: Floats  # [m²]
    free_gap: Floats  # [m] with all coordinates 0
    jacobian: Floats  # (n_point, n_dof) d gap / d coordinate
    point_patch: np.ndarray
    fasteners: tuple[str, ...]
    separation: Floats  # (n_fastener,) [m] with all coordinates 0
    fastener_jacobian: Floats  # (n_fastener, n_dof)
    ramps: tuple[Ramp, ...]

    @property
    def plates(self) -> tuple[str, ...]:
        """The plates that move."""
        return self.motion.plates

    @property
    def centres(self) -> Floats:
        """Their middles (n_plate, 2) [m]."""
        return self.motion.centres

    @property
    def bending(self) -> Bending | None:
        """How the board bends."""
        return self.motion.bending

    @property
    def n_dof(self) -> int:
        """Number of coordinates."""
        return self.motion.n_dof

    @property
    def stiffness(self) -> Floats:
        """What the coordinates themselves are held by (n_dof, n_dof) [N/m]."""
        return self.motion.stiffness


def assemble(scene: Scene, like: Motion | None = None, across: Across = Across()) -> Assembly:
    """Return the mechanical assembly of a scene; with the coordinates of one `like` it, so that both can be compared."""
    motion = motion_of(scene) if like is None else motion_like(like, scene)
    contacts: list[ContactPatch] = []
    xs, ys, ws, gaps, rows, owner = [], [], [], [], [], []
    start = 0
    for facing in scene.plan.facings:
        for patch in facing.patches:
            pieces = scene.pieces(facing, patch)
            layers, law = _stack(scene, facing, pieces)
            count = across.paste if law.fills else across.pad if pieces else across.air
            x, y, w = patch.region.points(count)
            contacts.append(ContactPatch(facing, patch, pieces, layers, law, slice(start, start + len(x))))
            xs.append(x)
            ys.append(y)
            ws.append(w)
            gaps.append(scene.free_gap(facing, patch, x, y))
            ends = (scene.bodies[facing.upper], scene.bodies[facing.lower])
            upper, lower = (motion.height_rows(body, facing.side, x, y) for body in ends)
            rows.append(upper - lower)
            owner.append(np.full(len(x), len(contacts) - 1))
            start += len(x)
    fasteners = scene.resolved.fasteners
    separation = np.array([_separation(scene, fastener) for fastener, _ in fasteners])
    fastener_rows = np.array([_fastener_row(scene, motion, fastener) for fastener, _ in fasteners])
    n_dof = motion.n_dof
    ramps = tuple(ramp for at, (fastener, setting) in enumerate(fasteners) for ramp in _ramps(at, fastener, setting))
    empty = np.empty(0)
    return Assembly(
        motion=motion,
        contacts=tuple(contacts),
        x=np.concatenate(xs) if xs else empty,
        y=np.concatenate(ys) if ys else empty,
        weight=np.concatenate(ws) if ws else empty,
        free_gap=np.concatenate(gaps) if gaps else empty,
        jacobian=np.concatenate(rows) if rows else np.empty((0, n_dof)),
        point_patch=np.concatenate(owner).astype(np.intp) if owner else np.empty(0, dtype=np.intp),
        fasteners=tuple(fastener.id for fastener, _ in fasteners),
        separation=separation,
        fastener_jacobian=fastener_rows.reshape(len(fasteners), n_dof),
        ramps=ramps,
    )


def _compliance(scene: Scene, facing: Facing) -> float:
    """Return the stated give of one contact [m/N], that of a plate which bulges included."""
    plate = scene.bodies[facing.upper].model
    bulge = plate.give_um_n.value * 1e-6 if isinstance(plate, Plate) and not scene.bodies[facing.upper].floats else 0.0
    return bulge + (scene.joints[facing.joint].compliance_um_n.value * 1e-6 if facing.joint else DEFAULT_COMPLIANCE)


def _size(scene: Scene, facing: Facing) -> tuple[float, float]:
    """Return area [m²] and perimeter [m] of the smaller of the two faces, which is the size of a pad cut to it."""
    x0, y0, x1, y1 = min(
        (scene.bodies[facing.lower].region, scene.bodies[facing.upper].region), key=lambda region: region.area
    ).bounds
    return (x1 - x0) * (y1 - y0), 2 * (x1 - x0 + y1 - y0)


def _stack(scene: Scene, facing: Facing, pieces: tuple[Piece, ...]) -> tuple[tuple[LayerLaw, ...], StackLaw]:
    area, perimeter = _size(scene, facing)
    layers = tuple(_layer(scene, facing, piece, area, perimeter) for piece in pieces)
    fills = any(piece.flows for piece in pieces)
    return layers, _stack_law(layers, max(_compliance(scene, facing), 1e-10) * _loaded_area(facing), fills)


def _loaded_area(facing: Facing) -> float:
    """Return the area [m²] by which forces pass: that of the pieces between the faces, all of it where there are none."""
    pieced = sum(patch.region.area for patch in facing.patches if patch.pieces)
    return pieced or facing.area


@lru_cache(maxsize=512)
def _stack_law(layers: tuple[LayerLaw, ...], compliance: float, fills: bool) -> StackLaw:
    return stack_law(list(layers), compliance, fills)


def _layer(scene: Scene, facing: Facing, piece: Piece, area: float, perimeter: float) -> LayerLaw:
    faces = [scene.bodies[end].model.finish.roughness_um.value * 1e-6 for end in (facing.lower, facing.upper)]
    if piece.footprint is not None:
        x0, y0, x1, y1 = piece.footprint.bounds
        area, perimeter = (x1 - x0) * (y1 - y0) * MM**2, 2 * (x1 - x0 + y1 - y0) * MM
    material = scene.resolved.materials[piece.material]
    return layer_law(piece, material, area, perimeter, math.hypot(*faces))


def _separation(scene: Scene, fastener: Fastener) -> float:
    """Return the distance [m] between the two mounting faces when all coordinates are 0."""
    ends = [scene.bodies[end] for end in fastener.joins if end in scene.bodies]
    plates = [body for body in ends if isinstance(body.model, Plate)]
    if len(plates) == 2:
        if plates[0].model.side != plates[1].model.side:  # type: ignore[union-attr]
            return plates[0].bottom + plates[1].bottom + scene.board.thickness
        return plates[0].bottom - plates[1].bottom
    return plates[0].bottom


def _fastener_row(scene: Scene, motion: Motion, fastener: Fastener) -> Floats:
    """Return d(separation of the two mounting faces)/d(coordinates): (n_dof,)."""
    x, y = np.array([fastener.x_mm * MM]), np.array([fastener.y_mm * MM])
    ends = [scene.bodies[end] for end in fastener.joins if end in scene.bodies]
    plates = [body for body in ends if isinstance(body.model, Plate)]
    sides = [body.model.side for body in plates if isinstance(body.model, Plate)]
    rows = [motion.height_rows(body, side, x, y)[0] for body, side in zip(plates, sides, strict=True)]
    if len(rows) == 2:
        return np.asarray(rows[0] - rows[1] if sides[0] == sides[1] else rows[0] + rows[1])
    boards = [body for body in ends if isinstance(body.model, Board)]
    below = motion.height_rows(boards[0], sides[0], x, y)[0] if boards else 0.0
    return np.asarray(rows[0] - below)


def _ramps(at: int, fastener: Fastener, setting: FastenerSetting) -> list[Ramp]:
    stiffness = fastener.stiffness_n_mm.value * 1e3
    if fastener.kind in ("sprung", "spring arm"):
        offset = travel_of(fastener, setting) * MM - fastener.reference_mm.value * MM  # type: ignore[union-attr]
        ramps = [Ramp(at, fastener.rate * 1e3, +1.0, offset, True)]
        if fastener.coil_bind_mm is not None:
            ramps.append(Ramp(at, stiffness, +1.0, offset - fastener.coil_bind_mm.value * MM, True))
        return ramps
    seat = fastener.seat_mm.value * MM  # type: ignore[union-attr]
    if fastener.kind == "glued":
        return [Ramp(at, stiffness, +1.0, -seat, False), Ramp(at, stiffness, -1.0, seat, False)]
    preload = preload_of(fastener, setting)
    # The screw is stretched so that it pulls with the preload when the plate just touches its seat.
    return [Ramp(at, stiffness, +1.0, preload / stiffness - seat, False), Ramp(at, stiffness, -1.0, seat, False)]
