"""A build in SI units: every body with its place, every facing with its free gap, ready for mechanics and heat."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.form import FaceForm, face_form
from ashen_bridge.geometry.plan import Facing, Patch, Plan, PlanBody, PlanJoint, lay_out
from ashen_bridge.geometry.region import MM, Region, region_of
from ashen_bridge.geometry.stacking import Stacking
from ashen_bridge.model.bodies import Board, Component, Plate, Side, Substrate
from ashen_bridge.model.footprint import Footprint, Rect
from ashen_bridge.model.joints import Joint, Piece
from ashen_bridge.model.resolve import ResolvedBuild


@dataclass(frozen=True)
class SceneBody:
    """A body in SI.

    `bottom` is the outward height [m] of its inner face above the board's surface on its side; for a floating plate it
    is measured from the plate's own reference plane and therefore 0. The board's `bottom` is −thickness.
    """

    id: str
    model: Board | Substrate | Component | Plate
    region: Region
    bottom: float
    thickness: float
    form: FaceForm | None

    @property
    def top(self) -> float:
        """Outward height of the outer face [m]."""
        return self.bottom + self.thickness

    @property
    def floats(self) -> bool:
        """Whether its height and tilt are unknowns of the equilibrium."""
        return isinstance(self.model, Plate) and self.model.on == "floating"


@dataclass(frozen=True)
class Scene:
    """The whole assembly of one build."""

    resolved: ResolvedBuild
    bodies: dict[str, SceneBody]
    plan: Plan
    joints: dict[str, Joint]

    @property
    def board(self) -> SceneBody:
        """The circuit board."""
        return next(body for body in self.bodies.values() if isinstance(body.model, Board))

    @property
    def floating(self) -> tuple[SceneBody, ...]:
        """The plates that move, in file order."""
        return tuple(body for body in self.bodies.values() if body.floats)

    def pieces(self, facing: Facing, patch: Patch) -> tuple[Piece, ...]:
        """Return the pieces of a patch, lower face first."""
        if facing.joint is None:
            return ()
        by_id = {piece.id: piece for piece in self.joints[facing.joint].pieces}
        return tuple(by_id[name] for name in patch.pieces)

    def free_gap(self, facing: Facing, patch: Patch, x: Floats, y: Floats) -> Floats:
        """Return the gap [m] at points of a patch with both bodies at height 0 and no tilt, positive = apart.

        A landing that is set back opens the gap; crowns on either face close it.
        """
        lower, upper = self.bodies[facing.lower], self.bodies[facing.upper]
        gap = np.full(np.broadcast(x, y).shape, upper.bottom - _outer_top(lower, facing.side))
        plate = upper.model
        form = upper.form
        if isinstance(plate, Plate) and patch.landing is not None:
            landing = next(landing for landing in plate.landings if landing.id == patch.landing)
            gap += landing.step_mm.value * MM
            x0, y0, x1, y1 = landing.area.bounds
            form = face_form(landing.form, (x0 * MM, y0 * MM, x1 * MM, y1 * MM)) or form
        for face in (lower.form, form):
            if face is not None:
                gap -= face.height(x, y)
        for recess in lower.model.recesses if isinstance(lower.model, Plate) else ():
            x0, y0, x1, y1 = (edge * MM for edge in recess.area.bounds)
            gap += recess.depth_mm.value * MM * ((x0 <= x) & (x <= x1) & (y0 <= y) & (y <= y1))
        return gap


def _outer_top(body: SceneBody, side: Side) -> float:
    if isinstance(body.model, Board):
        return 0.0
    del side  # outward heights read the same on both sides
    return body.top


def make_scene(resolved: ResolvedBuild) -> Scene:
    """Return the scene of a resolved build. The build must have passed `geometry.checks.check_assembly`."""
    bodies: dict[str, SceneBody] = {}
    pending = list(resolved.bodies)
    while pending:
        body = pending.pop(0)
        if isinstance(body, Substrate | Component) and body.on not in bodies:
            pending.append(body)
            continue
        bodies[body.id] = _scene_body(body, bodies)
    ordered = {body.id: bodies[body.id] for body in resolved.bodies}
    stacking = Stacking(resolved)
    ranks = {name: rank for side in Side for rank, name in enumerate(stacking.order(side))}
    plan_bodies = tuple(_plan_body(body, ranks.get(body.id, 0)) for body in resolved.bodies)
    plan_joints = tuple(
        PlanJoint(joint.id, joint.upper, joint.lower, tuple(map(_plan_piece, joint.pieces))) for joint in resolved.joints
    )
    return Scene(resolved, ordered, lay_out(plan_bodies, plan_joints), {joint.id: joint for joint in resolved.joints})


def _plan_piece(piece: Piece) -> tuple[str, Footprint | None, tuple[Rect, ...]]:
    return piece.id, piece.footprint, tuple(void.area for void in piece.voids)


def _scene_body(body: Board | Substrate | Component | Plate, placed: dict[str, SceneBody]) -> SceneBody:
    region = region_of(body.footprint)
    if isinstance(body, Board):
        thickness = body.thickness_mm.value * MM
        bottom = -thickness
    elif isinstance(body, Plate):
        thickness = body.thickness_mm.value * MM
        bottom = body.height_mm.value * MM if body.height_mm else 0.0
    else:
        thickness = body.height_mm.value * MM
        carrier = placed[body.on]
        bottom = 0.0 if isinstance(carrier.model, Board) else carrier.top
    return SceneBody(body.id, body, region, bottom, thickness, face_form(body.form, region.bounds))


def _plan_body(body: Board | Substrate | Component | Plate, rank: int) -> PlanBody:
    sides = tuple(Side) if isinstance(body, Board) else (body.side,)
    landings = tuple((landing.id, landing.area) for landing in body.landings) if isinstance(body, Plate) else ()
    carrier = body.on if isinstance(body, Substrate | Component) else None
    return PlanBody(body.id, body.footprint, sides, carrier, landings, isinstance(body, Plate), rank)
