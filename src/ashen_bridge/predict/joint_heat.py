"""From the mechanical state of a joint to its thermal conductance per area."""

from __future__ import annotations

import numpy as np

from ashen_bridge.geometry.plan import Facing, Patch
from ashen_bridge.geometry.region import Floats
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.mechanics.assembly import Assembly, ContactPatch
from ashen_bridge.mechanics.contact_state import ContactState, contact_state, mounted_gap, sampled_gaps
from ashen_bridge.thermal.from_scene import PatchConductance
from ashen_bridge.thermal.surfaces import AIR_CONDUCTIVITY, STEFAN_BOLTZMANN, air_gap_conductance

_GAP_RADIATION = 0.8 * 4 * STEFAN_BOLTZMANN * 340.0**3  # [W/m²·K] beside the air left over a pad: small, so not iterated


def paste_coverage(assembly: Assembly, coordinates: Floats) -> dict[tuple[str, str], float]:
    """Return for every paste piece, by (joint, piece), the share of its area that its dispensed volume can fill (0 to 1)."""
    gaps = sampled_gaps(assembly, coordinates)
    needed: dict[tuple[str, str], float] = {}
    volume: dict[tuple[str, str], float] = {}
    for contact in assembly.contacts:
        pastes = [at for at, piece in enumerate(contact.pieces) if piece.volume_mm3 is not None]
        if not pastes or contact.facing.joint is None:
            continue
        part = contact.points
        state = contact_state(contact, gaps[part])
        piece = contact.pieces[pastes[0]]
        key = contact.facing.joint, piece.id
        needed[key] = needed.get(key, 0.0) + float(state.piece_thickness[pastes[0]] @ assembly.weight[part])
        volume[key] = piece.volume_mm3.value * 1e-9 if piece.volume_mm3 else 0.0
    return {key: min(1.0, volume[key] / max(need, 1e-18)) for key, need in needed.items()}


def joint_conductance(
    scene: Scene, assembly: Assembly, coordinates: Floats, coverage: dict[tuple[str, str], float]
) -> PatchConductance:
    """Return the conductance of every patch at rest, as a function of place."""
    contacts = {(id(contact.facing), id(contact.patch)): contact for contact in assembly.contacts}

    def conductance(facing: Facing, patch: Patch, x: Floats, y: Floats) -> tuple[Floats, Floats]:
        contact = contacts[id(facing), id(patch)]
        state = contact_state(contact, mounted_gap(scene, assembly, contact, coordinates, x, y))
        if not contact.pieces:
            return air_gap_conductance(state.gap), np.ones_like(state.gap)
        return filled_conductance(scene, contact, state, coverage), np.zeros_like(state.gap)

    return conductance


def filled_conductance(
    scene: Scene, contact: ContactPatch, state: ContactState, coverage: dict[tuple[str, str], float]
) -> Floats:
    """Return the conductance per area [W/m²·K] of a stack of pieces in its present state.

    Layers and their faces in series; air that is left on top of a stack which does not reach comes in place of its upper
    face; a paste that is too little leaves air beside it.
    """
    resistance = np.zeros_like(state.gap)
    share = 1.0
    for piece, thickness in zip(contact.pieces, state.piece_thickness, strict=True):
        material = scene.resolved.materials[piece.material]
        face = material.contact_mm2k_w.value * 1e-6
        resistance = resistance + thickness / material.conductivity_w_mk.value + 2 * face
        share = min(share, coverage.get((contact.facing.joint or "", piece.id), 1.0))
    top = scene.resolved.materials[contact.pieces[-1].material].contact_mm2k_w.value * 1e-6
    apart = state.air > 0
    across = 1 / (AIR_CONDUCTIVITY / np.maximum(state.air, 1e-6) + _GAP_RADIATION)
    resistance = np.where(apart, resistance - top + across, resistance)
    filled = 1 / np.maximum(resistance, 1e-12)
    return np.asarray(share * filled + (1 - share) * air_gap_conductance(state.gap))
