"""What a contact patch looks like at rest: pressure, thickness of each piece and air, at any points of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ashen_bridge.geometry.region import Floats
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.mechanics.assembly import Assembly, ContactPatch, plate_row


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


def contact_state(
    scene: Scene, assembly: Assembly, contact: ContactPatch, coordinates: Floats, x: Floats, y: Floats
) -> ContactState:
    """Return the state of `contact` at points x, y [m] for one set of coordinates (n_dof,).

    A paste takes whatever gap the other layers leave; a stack of pads that does not reach leaves air.
    """
    rows = plate_row(assembly.plates, assembly.centres, contact.facing.upper, x, y) - plate_row(
        assembly.plates, assembly.centres, contact.facing.lower, x, y
    )
    mounted = scene.free_gap(contact.facing, contact.patch, x, y) + rows @ coordinates
    law = contact.law
    pressure = law.pressure_at(mounted)
    gap = np.maximum(mounted + law.compliance * pressure, 0.0)
    thickness: list[Floats] = []
    paste_at: int | None = None
    for at, (piece, layer) in enumerate(zip(contact.pieces, contact.layers, strict=True)):
        if piece.thickness_mm is None and paste_at is None:
            paste_at = at
            thickness.append(np.zeros_like(gap))
        else:
            thickness.append(layer(np.maximum(pressure, 1e-9)))
    rest = np.maximum(gap - np.sum(thickness, axis=0), 0.0) if thickness else gap
    if paste_at is not None:
        thickness[paste_at] = rest
        return ContactState(gap, pressure, tuple(thickness), np.zeros_like(gap))
    air = np.where(pressure > 0.0, 0.0, rest)
    return ContactState(gap, pressure, tuple(thickness), air)
