"""What faces what: exact regions between every upper face and the faces below it, split into patches of one stack.

Only plan data enter here, so that a change of thickness or height finds its result already made.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from itertools import product

from ashen_bridge.geometry.region import EMPTY, Region, region_of, region_of_rect
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.footprint import Footprint, Rect


@dataclass(frozen=True)
class PlanBody:
    """What the plan needs to know of a body.

    `sides` are the sides on which its outward face may be faced. `rank` says where a plate comes among those of its side, 0 the
    nearest to the board.
    """

    id: str
    footprint: Footprint
    sides: tuple[Side, ...]
    carrier: str | None = None
    landings: tuple[tuple[str, Rect], ...] = ()
    is_plate: bool = False
    rank: int = 0


@dataclass(frozen=True)
class PlanJoint:
    """What the plan needs to know of a joint: its faces, and the outlines of its pieces and their voids, lower face first."""

    id: str
    upper: str
    lower: tuple[str, ...]
    pieces: tuple[tuple[str, Footprint | None, tuple[Rect, ...]], ...]


@dataclass(frozen=True)
class Patch:
    """A region with one landing of the upper face and one stack of pieces (by id, lower face first)."""

    region: Region
    landing: str | None
    pieces: tuple[str, ...]


@dataclass(frozen=True)
class Facing:
    """All patches between one lower and one upper body; without a joint they face each other through air."""

    lower: str
    upper: str
    side: Side
    joint: str | None
    patches: tuple[Patch, ...]

    @property
    def area(self) -> float:
        """Area over which the two faces look at each other [m²]."""
        return sum(patch.region.area for patch in self.patches)


@dataclass(frozen=True, eq=False)
class Plan:
    """All facings; `bare`: what nothing faces of each outward face, `bare_under`: of each plate's near face.

    Compared by identity: what is laid out of the same plan data is one plan.
    """

    facings: tuple[Facing, ...]
    bare: dict[tuple[str, Side], Region]
    bare_under: dict[str, Region]


@lru_cache(maxsize=64)
def lay_out(bodies: tuple[PlanBody, ...], joints: tuple[PlanJoint, ...]) -> Plan:
    """Return the plan of a set of bodies and joints."""
    facings: list[Facing] = []
    bare: dict[tuple[str, Side], Region] = {}
    for side in Side:
        exposed = {body.id: _top_face(body, bodies, side) for body in bodies if side in body.sides and not body.is_plate}
        for plate in sorted((body for body in bodies if body.is_plate and side in body.sides), key=lambda body: body.rank):
            region = region_of(plate.footprint)
            for lower, face in list(exposed.items()):
                shared = face & region
                if shared:
                    facings += _facings(lower, plate, side, shared, joints)
                    exposed[lower] = face - region
            exposed[plate.id] = region
        bare.update({(body, side): face for body, face in exposed.items()})
    under = {body.id: region_of(body.footprint) for body in bodies if body.is_plate}
    for facing in facings:
        for patch in facing.patches:
            under[facing.upper] = under[facing.upper] - patch.region
    return Plan(tuple(facings), bare, under)


def _top_face(body: PlanBody, bodies: tuple[PlanBody, ...], side: Side) -> Region:
    face = region_of(body.footprint)
    for other in bodies:
        if other.carrier == body.id and side in other.sides:
            face = face - region_of(other.footprint)
    return face


def _facings(lower: str, plate: PlanBody, side: Side, shared: Region, joints: tuple[PlanJoint, ...]) -> list[Facing]:
    between = [joint for joint in joints if joint.upper == plate.id and lower in joint.lower]
    facings = []
    rest = shared
    for joint in between[1:]:
        covered = EMPTY
        for _, outline, _ in joint.pieces:
            covered = covered | (rest & region_of(outline) if outline else rest)
        facings.append(Facing(lower, plate.id, side, joint.id, _patches(covered, plate, joint)))
        rest = rest - covered
    first = between[0] if between else None
    facings.insert(0, Facing(lower, plate.id, side, first.id if first else None, _patches(rest, plate, first)))
    return [facing for facing in facings if facing.patches]


def _patches(region: Region, plate: PlanBody, joint: PlanJoint | None) -> tuple[Patch, ...]:
    by_landing: list[tuple[str | None, Region]] = []
    rest = region
    for name, rect in plate.landings:
        part = rest & region_of_rect(rect)
        if part:
            by_landing.append((name, part))
            rest = rest - part
    if rest:
        by_landing.append((None, rest))
    pieces = joint.pieces if joint else ()
    outlined = [(name, _covered(region, outline, voids)) for name, outline, voids in pieces if outline is not None or voids]
    patches = []
    for (landing, part), present in product(by_landing, product((True, False), repeat=len(outlined))):
        left = part
        for (_, covered), is_there in zip(outlined, present, strict=True):
            left = left & covered if is_there else left - covered
            if not left:
                break
        if left:
            there = {name for (name, _), is_there in zip(outlined, present, strict=True) if is_there}
            split = {name for name, _ in outlined}
            stack = tuple(name for name, _, _ in pieces if name in there or name not in split)
            patches.append(Patch(left, landing, stack))
    return tuple(patches)


def _covered(region: Region, outline: Footprint | None, voids: tuple[Rect, ...]) -> Region:
    covered = region_of(outline) if outline is not None else region
    for void in voids:
        covered = covered - region_of_rect(void)
    return covered
