"""From the mechanical state of a joint to its thermal conductance per area."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.plan import Facing, Patch
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.mechanics.assembly import Assembly, ContactPatch
from ashen_bridge.mechanics.contact_state import ContactState, contact_state, mounted_gap, sampled_gaps
from ashen_bridge.model.amounts import amount_mm3
from ashen_bridge.model.bodies import Board, Component, PackageMakeUp, Plate, Substrate
from ashen_bridge.model.joints import Piece
from ashen_bridge.model.material import Material, MaterialKind
from ashen_bridge.model.resolve import ResolvedBuild
from ashen_bridge.thermal.contact import asperity_slope, bare_contact_cooper, face_resistance, gap_thickness, pair
from ashen_bridge.thermal.from_scene import PatchConductance, PatchHeat
from ashen_bridge.thermal.surfaces import (
    AIR_CONDUCTIVITY,
    GAS_REFERENCE,
    STEFAN_BOLTZMANN,
    air_gap_conductance,
)

_GAP_RADIATION = 0.8 * 4 * STEFAN_BOLTZMANN * 340.0**3  # [W/m²·K] beside the air left over a pad: small, so not iterated


def dispensed_mm3(scene: Scene, facings: Sequence[Facing], piece: Piece) -> float:
    """Return the volume of what was dispensed [mm³]; a film is counted over all the faces of its joint that it reaches."""
    if piece.volume_mm3 is not None:
        return piece.volume_mm3.value
    if piece.amount is None:
        return 0.0
    area = sum(patch.region.area for facing in facings for patch in facing.patches if piece.id in patch.pieces)
    return amount_mm3(piece.amount, area * 1e6, scene.resolved.materials[piece.material].density_kg_m3.value)


def dispensed(scene: Scene) -> dict[tuple[str, str], float]:
    """Return what was dispensed of every piece that has an amount, by (joint, piece) [m³]; a stated bond line has enough."""
    facings: dict[str, list[Facing]] = {}
    for facing in scene.plan.facings:
        if facing.joint is not None:
            facings.setdefault(facing.joint, []).append(facing)
    return {
        (joint, piece.id): dispensed_mm3(scene, found, piece) * 1e-9
        for joint, found in facings.items()
        for piece in scene.joints[joint].pieces
        if piece.volume_mm3 is not None or (piece.amount is not None and piece.bond_line_um is None)
    }


def paste_coverage(scene: Scene, assembly: Assembly, coordinates: Floats) -> dict[tuple[str, str], float]:
    """Return for every paste piece, by (joint, piece), the share of its area that its dispensed volume can fill (0 to 1)."""
    gaps = sampled_gaps(assembly, coordinates)
    there = dispensed(scene)
    needed: dict[tuple[str, str], float] = {}
    for contact in assembly.contacts:
        key, at = dispensed_piece(contact)
        if key not in there:
            continue
        part = contact.points
        state = contact_state(contact, gaps[part])
        needed[key] = needed.get(key, 0.0) + float(state.piece_thickness[at] @ assembly.weight[part])
    return {key: min(1.0, there[key] / max(need, 1e-18)) for key, need in needed.items()}


def dispensed_piece(contact: ContactPatch) -> tuple[tuple[str, str], int]:
    """Return the (joint, piece) of the first piece of a patch that flows and its number; the key is empty if there is none."""
    at = next((n for n, piece in enumerate(contact.pieces) if piece.flows), None)
    return ("", "") if at is None else (contact.facing.joint or "", contact.pieces[at].id), at or 0


def joint_conductance(
    scene: Scene, assembly: Assembly, coordinates: Floats, coverage: dict[tuple[str, str], float]
) -> PatchConductance:
    """Return the conductance of every patch at rest, as a function of place."""
    contacts = {(id(contact.facing), id(contact.patch)): contact for contact in assembly.contacts}
    numbers = joint_numbers(scene.resolved)

    def conductance(facing: Facing, patch: Patch, x: Floats, y: Floats) -> PatchHeat:
        contact = contacts[id(facing), id(patch)]
        state = contact_state(contact, mounted_gap(scene, assembly, contact, coordinates, x, y))
        return patch_heat(scene, contact, state, coverage, numbers)

    return conductance


@dataclass(frozen=True)
class LayerHeat:
    """How a layer's material leads heat: conductivity [W/m·K], contact of a face [m²·K/W] at a reference pressure [Pa] with its
    exponent, and by how much of itself its resistance grows in a year. Arrays (s, 1) for variants.
    """

    conductivity: Floats | float
    contact: Floats | float
    reference: Floats | float
    exponent: Floats | float
    growth: Floats | float
    gas: float | None = None
    """Exponent of k over T, of a gas."""

    def face(self, pressure: Floats) -> Floats:
        """Return the contact resistance of one face [m²·K/W] at `pressure` [Pa], unaged."""
        return face_resistance(pressure, self.contact, self.reference, self.exponent)

    def aged(self, days: float) -> Floats | float:
        """Return by how much so many days of service have multiplied its resistance."""
        return 1 + np.maximum(self.growth, 0.0) * days / 365.25


@dataclass(frozen=True)
class JointNumbers:
    """What the joints' numbers are, as stated or as drawn: layers by material, what is left bare by (joint, piece), and joints
    that are stated as a whole [m²·K/W]. Arrays (s, 1) for variants.
    """

    layers: Mapping[str, LayerHeat]
    bare: Mapping[tuple[str, str], Floats | float] = field(default_factory=dict)
    stated: Mapping[str, Floats | float] = field(default_factory=dict)


def layer_heat(material: Material) -> LayerHeat:
    """Return how a material leads heat."""
    gas = material.temperature_exponent if material.kind is MaterialKind.GAS else None
    warmed = (GAS_REFERENCE / 300.0) ** gas if gas is not None else 1.0
    return LayerHeat(
        material.effective_w_mk * warmed,
        material.contact_mm2k_w.value * 1e-6,
        material.contact_reference_kpa.value * 1e3,
        material.contact_exponent.value,
        material.ageing_per_year.value,
        gas,
    )


def joint_numbers(resolved: ResolvedBuild) -> JointNumbers:
    """Return the numbers of all joints of a build as they are stated."""
    pieces = [(joint.id, piece) for joint in resolved.joints for piece in joint.pieces]
    return JointNumbers(
        {name: layer_heat(resolved.materials[name]) for name in {piece.material for _, piece in pieces}},
        {(joint, piece.id): piece.bare_share.value for joint, piece in pieces if piece.bare_share.value},
        {joint.id: joint.stated_mm2k_w.value * 1e-6 for joint in resolved.joints if joint.stated_mm2k_w is not None},
    )


def patch_heat(
    scene: Scene,
    contact: ContactPatch,
    state: ContactState,
    coverage: Mapping[tuple[str, str], Floats | float],
    numbers: JointNumbers,
) -> PatchHeat:
    """Return how a patch leads heat in its present state."""
    zero, one = np.zeros_like(state.gap), np.ones_like(state.gap)
    stated = numbers.stated.get(contact.facing.joint or "")
    if stated is not None:
        return PatchHeat(one / stated, zero, zero)
    if not contact.pieces:
        bare, gas = bare_conductance(scene, contact, state)
        return PatchHeat(bare, one, gas)
    filled = filled_conductance(contact, state, coverage, numbers)
    only = numbers.layers[contact.pieces[0].material].gas if len(contact.pieces) == 1 else None
    return PatchHeat(filled, zero, zero) if only is None else PatchHeat(filled, one, filled, only)


def bare_conductance(scene: Scene, contact: ContactPatch, state: ContactState) -> tuple[Floats, Floats]:
    """Return the conductance per area [W/m²·K] of two faces without anything between, and what of it is that of the air.

    Where they press, metal meets metal as well, if both materials state a microhardness; the air between them is then as wide as
    what holds them apart.
    """
    ends = [scene.bodies[end].model for end in (contact.facing.lower, contact.facing.upper)]
    materials = [scene.resolved.materials.get(name) for name in map(_face_material, ends)]
    hard = [one.microhardness_gpa.value * 1e9 for one in materials if one is not None and one.microhardness_gpa is not None]
    pressed = state.pressure > 0
    if len(hard) < 2 or not pressed.any():
        air = air_gap_conductance(state.gap)
        return air, air
    rough = [max(end.finish.roughness_um.value, 0.05) * 1e-6 for end in ends]
    sigma, slope = pair((rough[0], asperity_slope(rough[0])), (rough[1], asperity_slope(rough[1])))
    k = [one.conductivity_w_mk.value for one in materials if one is not None]
    metal = bare_contact_cooper(state.pressure, 2 * k[0] * k[1] / (k[0] + k[1]), sigma, slope, min(hard))
    apart = np.where(pressed, gap_thickness(state.pressure, sigma, min(hard)), state.gap)
    air = air_gap_conductance(apart)
    return np.asarray(air + np.where(pressed, metal, 0.0)), air


def _face_material(model: Board | Substrate | Component | Plate) -> str:
    if isinstance(model, Component):
        return "" if isinstance(model.make_up, PackageMakeUp) else model.make_up.material
    return model.material


def filled_conductance(
    contact: ContactPatch,
    state: ContactState,
    coverage: Mapping[tuple[str, str], Floats | float],
    numbers: JointNumbers,
) -> Floats:
    """Return the conductance per area [W/m²·K] of a stack of pieces in its present state.

    Layers and their faces in series; air that is left on top of a stack which does not reach comes in place of its upper
    face; a paste that is too little, or a piece that is part bare, leaves air beside it.
    """
    resistance = np.zeros_like(state.gap)
    top: Floats | float = 0.0
    share: Floats | float = 1.0
    joint = contact.facing.joint or ""
    for piece, thickness in zip(contact.pieces, state.piece_thickness, strict=True):
        layer = numbers.layers[piece.material]
        top = layer.aged(piece.service_days) * layer.face(state.pressure)
        resistance = resistance + piece_resistance(piece, layer, thickness, state.pressure)
        there = coverage.get((joint, piece.id), 1.0)
        share = np.minimum(share, there * (1 - np.clip(numbers.bare.get((joint, piece.id), 0.0), 0.0, 0.99)))
    apart = state.air > 0
    across = 1 / (AIR_CONDUCTIVITY / np.maximum(state.air, 1e-6) + _GAP_RADIATION)
    resistance = np.where(apart, resistance - top + across, resistance)
    filled = 1 / np.maximum(resistance, 1e-12)
    return np.asarray(share * filled + (1 - share) * air_gap_conductance(state.gap))


def piece_resistance(piece: Piece, layer: LayerHeat, thickness: Floats, pressure: Floats) -> Floats:
    """Return the resistance of a piece with both of its faces [m²·K/W], as old as it is."""
    return np.asarray(layer.aged(piece.service_days) * (thickness / layer.conductivity + 2 * layer.face(pressure)))


def layer_means(scene: Scene, assembly: Assembly, coordinates: Floats) -> dict[tuple[str, str], list[tuple[Piece, float, float]]]:
    """Return, by (joint, lower body), each piece with its mean thickness [m] and resistance [m²·K/W] where it lies."""
    gaps = sampled_gaps(assembly, coordinates)
    numbers = joint_numbers(scene.resolved)
    found: dict[tuple[str, str], dict[str, tuple[Piece, list[Floats]]]] = {}
    for contact in assembly.contacts:
        if contact.facing.joint is None:
            continue
        state = contact_state(contact, gaps[contact.points])
        weight = assembly.weight[contact.points]
        rows = found.setdefault((contact.facing.joint, contact.facing.lower), {})
        for piece, thickness in zip(contact.pieces, state.piece_thickness, strict=True):
            resistance = piece_resistance(piece, numbers.layers[piece.material], thickness, state.pressure)
            sums = np.array([weight.sum(), thickness @ weight, resistance @ weight])
            rows.setdefault(piece.id, (piece, []))[1].append(sums)
    return {
        key: [(piece, *(np.sum(sums, axis=0)[1:] / np.sum(sums, axis=0)[0]).tolist()) for piece, sums in rows.values()]
        for key, rows in found.items()
    }
