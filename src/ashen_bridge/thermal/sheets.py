"""Layers of joints that lead heat sideways enough to be worth cells of their own: graphite, thick pads, putty.

A layer of conductivity k along itself and thickness t, with half of the joint's resistance R″ on either side, evens out what
changes within the length L = √(k·t·R″/4). Where that is a tenth of a millimetre, as in paste and solder, heat goes straight
across and the joint is a link; where it is of the order of the parts, the layer becomes a sheet of cells in its middle.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ashen_bridge.geometry.region import EMPTY, MM, Region, region_of, region_of_rect
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.model.joints import Joint, Piece
from ashen_bridge.model.material import MaterialKind
from ashen_bridge.thermal import names
from ashen_bridge.thermal.parts import Layer, Slab

FAR = 1e-3  # [m] from which a layer's own spreading counts, or
OF_SIZE = 0.08  # of the narrower side of the part under it
_ACROSS = 1e3  # times along: what a sheet resists across is in the links on both sides of it


@dataclass(frozen=True)
class Sheet:
    """A layer that has cells: its joint and piece, where it lies, and what lies beyond the faces it joins (on the upper one)."""

    id: str
    joint: str
    piece: str
    region: Region
    beyond: Region
    thickness: float
    along: float
    capacity: float
    face: float
    """Conductance per area from its middle to the upper face where nothing presses it [W/m²·K]."""

    def slab(self) -> Slab:
        """Return it as a slab of one layer."""
        return Slab(self.id, self.region, (Layer(self.thickness, self.along, _ACROSS * self.along, self.capacity),))


def sheets_of(scene: Scene, wanted: frozenset[str] | None = None) -> tuple[Sheet, ...]:
    """Return the layers of a scene that have cells, at most one of each joint; or those of the ids that are `wanted`."""
    found = []
    for joint in scene.joints.values():
        sheets = [(_reach(scene, joint, piece), piece) for piece in joint.pieces if _solid(scene, piece)]
        if wanted is not None:
            sheets = [(reach, piece) for reach, piece in sheets if _id(joint, piece) in wanted]
        else:
            size = min(_narrow(scene.bodies[name].region) for name in joint.lower)
            sheets = [(reach, piece) for reach, piece in sheets if reach > min(FAR, OF_SIZE * size)]
        if sheets:
            made = _sheet(scene, joint, max(sheets, key=lambda one: one[0])[1])
            found += [made] if made.region else []
    return tuple(found)


def _id(joint: Joint, piece: Piece) -> str:
    return str(names.sheet(joint.id, piece.id))


def _solid(scene: Scene, piece: Piece) -> bool:
    return scene.resolved.materials[piece.material].kind is not MaterialKind.GAS


def _narrow(region: Region) -> float:
    x0, y0, x1, y1 = region.bounds
    return min(x1 - x0, y1 - y0)


def nominal_thickness(scene: Scene, joint: Joint, piece: Piece) -> float:
    """Return how thick a layer is about [m]: as cut, or what was dispensed over the faces, as far as that is of use."""
    if piece.thickness_mm is not None:
        return piece.thickness_mm.value * MM
    facings = [facing for facing in scene.plan.facings if facing.joint == joint.id]
    area = sum(patch.region.area for facing in facings for patch in facing.patches if piece.id in patch.pieces)
    flow = scene.resolved.materials[piece.material].flow
    film = 4 * flow.filler_um.value * 1e-6 if flow is not None else 50e-6
    if scene.resolved.materials[piece.material].kind is not MaterialKind.PUTTY or piece.volume_mm3 is None:
        return film
    return max(piece.volume_mm3.value * 1e-9 / max(area, 1e-9), film)


def _resistance(scene: Scene, joint: Joint) -> float:
    """Return about what a joint resists per area [m²·K/W]."""
    total = 0.0
    for piece in joint.pieces:
        material = scene.resolved.materials[piece.material]
        total += nominal_thickness(scene, joint, piece) / material.effective_w_mk + 2e-6 * material.contact_mm2k_w.value
    return total


def _reach(scene: Scene, joint: Joint, piece: Piece) -> float:
    along = scene.resolved.materials[piece.material].in_plane_w_mk
    return math.sqrt(along * nominal_thickness(scene, joint, piece) * _resistance(scene, joint) / 4)


def _sheet(scene: Scene, joint: Joint, piece: Piece) -> Sheet:
    material = scene.resolved.materials[piece.material]
    between = EMPTY
    for facing in scene.plan.facings:
        if facing.joint == joint.id:
            for patch in facing.patches:
                between = between | (patch.region if piece.id in patch.pieces else EMPTY)
    upper = scene.bodies[joint.upper].region
    whole = region_of(piece.footprint) & upper if piece.footprint is not None else between
    for void in piece.voids:
        whole = whole - region_of_rect(void.area)
    thickness = nominal_thickness(scene, joint, piece)
    half = thickness / 2 / material.effective_w_mk + material.contact_mm2k_w.value * 1e-6
    return Sheet(
        _id(joint, piece),
        joint.id,
        piece.id,
        whole | between,
        whole - between,
        thickness,
        material.in_plane_w_mk,
        material.capacity_j_m3k,
        1 / max(half, 1e-9),
    )
