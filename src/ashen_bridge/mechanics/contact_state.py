"""What a contact patch looks like at rest: pressure, thickness of each piece and air, at any points of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.mechanics.assembly import Assembly, ContactPatch

_SERIES_STEPS = 5  # of a secant that starts close: leaves less than the laws' tables do


@dataclass(frozen=True)
class ContactState:
    """State at points of one patch.

    gap : distance of the two faces [m], what the surroundings give way included. pressure [Pa].
    piece_thickness : one array per piece, lower face first [m]. air : thickness of the air left in the gap [m].
    """

    gap: Floats
    pressure: Floats
    piece_thickness: tuple[Floats, ...]
    air: Floats

    @property
    def touching(self) -> np.ndarray:
        """Where the faces are pressed together through the stack."""
        return np.asarray(self.pressure > 0.0)


@dataclass(frozen=True)
class Stacks:
    """How stacks differ from what their laws say: `scale` times as thick, `firmness` times as firm, and their surroundings give
    `softness` [m/Pa] more. Numbers for one stack, or arrays (s, n_contact) for variants of all.
    """

    scale: Floats | float = 1.0
    firmness: Floats | float = 1.0
    softness: Floats | float = 0.0

    def of(self, contact: int) -> Stacks:
        """Return those of one contact, (s, 1)."""
        return Stacks(*(np.asarray(one)[:, [contact]] for one in (self.scale, self.firmness, self.softness)))

    def rows(self, which: np.ndarray) -> Stacks:
        """Return those of some variants."""
        return Stacks(*(np.asarray(one)[which] for one in (self.scale, self.firmness, self.softness)))


AS_STATED = Stacks()


def mounted_gap(scene: Scene, assembly: Assembly, contact: ContactPatch, coordinates: Floats, x: Floats, y: Floats) -> Floats:
    """Return the gap [m] at points x, y [m] with the plates at rest, before the surroundings give way."""
    gap = scene.free_gap(contact.facing, contact.patch, x, y)
    return np.asarray(gap + (gap_rows(scene, assembly, contact, x.ravel(), y.ravel()) @ coordinates).reshape(gap.shape))


def gap_rows(scene: Scene, assembly: Assembly, contact: ContactPatch, x: Floats, y: Floats) -> Floats:
    """Return d(gap)/d(coordinates) at points x, y [m] of a contact: (n_point, n_dof)."""
    facing, motion = contact.facing, assembly.motion
    upper, lower = (motion.height_rows(scene.bodies[end], facing.side, x, y) for end in (facing.upper, facing.lower))
    return np.asarray(upper - lower)


def sampled_gaps(assembly: Assembly, coordinates: Floats) -> Floats:
    """Return the mounted gap [m] at all sample points of an assembly; a contact's are at its `points`."""
    return np.asarray(assembly.free_gap + assembly.jacobian @ coordinates)


def contact_state(contact: ContactPatch, mounted: Floats, stacks: Stacks = AS_STATED) -> ContactState:
    """Return the state of `contact` where its mounted gap is `mounted` [m], an array of any shape.

    A paste, or a solder or glue that holds on to both faces, takes whatever gap the other layers leave; a stack of pads that
    does not reach leaves air. `stacks` says how this one differs from its law.
    """
    law, scale, firmness = contact.law, stacks.scale, stacks.firmness
    pressure = firmness * law.pressure_at(mounted / scale)
    if np.any(stacks.softness):
        pressure = _in_series(contact, mounted, stacks, pressure)
    gap = np.maximum(mounted + (law.compliance + stacks.softness) * pressure, 0.0)
    thickness: list[Floats] = []
    paste_at = next((at for at, layer in enumerate(contact.layers) if getattr(layer, "bonds", False)), None)
    bonded = paste_at
    solid: Floats | float = 0.0
    for at, (piece, layer) in enumerate(zip(contact.pieces, contact.layers, strict=True)):
        if piece.thickness_mm is None and paste_at is None:
            paste_at = at
            thickness.append(gap)
        elif at == bonded:
            thickness.append(gap)
        else:
            thickness.append(scale * layer(np.maximum(pressure / firmness, 1e-9)))
            solid = solid + thickness[-1]
    rest = np.maximum(gap - solid, 0.0)
    if paste_at is not None:
        thickness[paste_at] = rest
        return ContactState(gap, pressure, tuple(thickness), np.zeros_like(gap))
    return ContactState(gap, pressure, tuple(thickness), np.where(pressure > 0.0, 0.0, rest))


def _in_series(contact: ContactPatch, mounted: Floats, stacks: Stacks, pressure: Floats) -> Floats:
    """Return the pressure [Pa] with extra give in series: p = P(g + s·p), by the secant through its last two trials."""
    scale, firmness, softness = stacks.scale, stacks.firmness, stacks.softness
    before, at = pressure, firmness * contact.law.pressure_at((mounted + softness * pressure) / scale)
    miss_before = before - at
    for _ in range(_SERIES_STEPS):
        miss = at - firmness * contact.law.pressure_at((mounted + softness * at) / scale)
        fall = miss - miss_before
        step = np.where(np.abs(fall) > 1e-9, miss * (at - before) / np.where(np.abs(fall) > 1e-9, fall, 1.0), 0.0)
        before, miss_before, at = at, miss, np.maximum(at - step, 0.0)
    return np.asarray(at)
