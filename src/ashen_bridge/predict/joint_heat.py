"""From the mechanical state of a joint to its thermal conductance per area."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ashen_bridge.geometry.plan import Facing, Patch
from ashen_bridge.geometry.region import Floats
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.mechanics.assembly import Assembly, ContactPatch
from ashen_bridge.mechanics.contact_state import ContactState, contact_state, mounted_gap, sampled_gaps
from ashen_bridge.model.bodies import Board, Component, PackageMakeUp, Plate, Substrate
from ashen_bridge.model.material import Material
from ashen_bridge.thermal.contact import asperity_slope, bare_contact_cooper, face_resistance, gap_thickness, pair
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
            return bare_conductance(scene, contact, state), np.ones_like(state.gap)
        return filled_conductance(scene, contact, state, coverage), np.zeros_like(state.gap)

    return conductance


@dataclass(frozen=True)
class LayerHeat:
    """How a layer's material leads heat: conductivity [W/m·K], contact of a face [m²·K/W] at a reference pressure [Pa] with its
    exponent, and by how much age has multiplied all of its resistance. Arrays (s, 1) for variants.
    """

    conductivity: Floats | float
    contact: Floats | float
    reference: Floats | float
    exponent: Floats | float
    aged: Floats | float

    def face(self, pressure: Floats) -> Floats:
        """Return the contact resistance of one face [m²·K/W] at `pressure` [Pa], unaged."""
        return face_resistance(pressure, self.contact, self.reference, self.exponent)


def layer_heat(material: Material, age_days: float) -> LayerHeat:
    """Return how a material leads heat after some days of service."""
    return LayerHeat(
        material.effective_w_mk,
        material.contact_mm2k_w.value * 1e-6,
        material.contact_reference_kpa.value * 1e3,
        material.contact_exponent.value,
        1 + material.ageing_per_year.value * age_days / 365.25,
    )


def bare_conductance(scene: Scene, contact: ContactPatch, state: ContactState) -> Floats:
    """Return the conductance per area [W/m²·K] of two faces without anything between: across air, and metal where they press.

    Metal contact counts where both materials state a microhardness; the air between touching faces is as thick as roughness
    holds them apart.
    """
    ends = [scene.bodies[end].model for end in (contact.facing.lower, contact.facing.upper)]
    materials = [scene.resolved.materials.get(name) for name in map(_face_material, ends)]
    hard = [one.microhardness_gpa.value * 1e9 for one in materials if one is not None and one.microhardness_gpa is not None]
    pressed = state.pressure > 0
    if len(hard) < 2 or not pressed.any():
        return air_gap_conductance(state.gap)
    rough = [max(end.finish.roughness_um.value, 0.05) * 1e-6 for end in ends]
    sigma, slope = pair((rough[0], asperity_slope(rough[0])), (rough[1], asperity_slope(rough[1])))
    k = [one.conductivity_w_mk.value for one in materials if one is not None]
    metal = bare_contact_cooper(state.pressure, 2 * k[0] * k[1] / (k[0] + k[1]), sigma, slope, min(hard))
    apart = np.where(pressed, gap_thickness(state.pressure, sigma, min(hard)), state.gap)
    return np.asarray(air_gap_conductance(apart) + np.where(pressed, metal, 0.0))


def _face_material(model: Board | Substrate | Component | Plate) -> str:
    if isinstance(model, Component):
        return "" if isinstance(model.make_up, PackageMakeUp) else model.make_up.material
    return model.material


def filled_conductance(
    scene: Scene,
    contact: ContactPatch,
    state: ContactState,
    coverage: Mapping[tuple[str, str], Floats | float],
    materials: Mapping[str, LayerHeat] | None = None,
) -> Floats:
    """Return the conductance per area [W/m²·K] of a stack of pieces in its present state.

    Layers and their faces in series; air that is left on top of a stack which does not reach comes in place of its upper
    face; a paste that is too little leaves air beside it. `materials` may say otherwise than the scene how layers lead heat.
    """
    resistance = np.zeros_like(state.gap)
    top: Floats | float = 0.0
    share: Floats | float = 1.0
    known = materials or {}
    for piece, thickness in zip(contact.pieces, state.piece_thickness, strict=True):
        layer = known.get(piece.material) or layer_heat(scene.resolved.materials[piece.material], scene.resolved.build.age_days)
        top = layer.aged * layer.face(state.pressure)
        resistance = resistance + layer.aged * thickness / layer.conductivity + 2 * top
        share = np.minimum(share, coverage.get((contact.facing.joint or "", piece.id), 1.0))
    apart = state.air > 0
    across = 1 / (AIR_CONDUCTIVITY / np.maximum(state.air, 1e-6) + _GAP_RADIATION)
    resistance = np.where(apart, resistance - top + across, resistance)
    filled = 1 / np.maximum(resistance, 1e-12)
    return np.asarray(share * filled + (1 - share) * air_gap_conductance(state.gap))
