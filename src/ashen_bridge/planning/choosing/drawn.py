"""What is not known of a device and of what is bought for it, drawn alike for every plan, so that plans differ by what they are."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.mechanics.assembly import Assembly, ContactPatch
from ashen_bridge.mechanics.contact_state import Stacks
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.material import Material
from ashen_bridge.predict.joint_heat import JointNumbers
from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.uncertainty.directions import Base, moved_by
from ashen_bridge.uncertainty.drawing import draw

_LEAST = 0.2  # of a thickness, firmness or conductivity, at least, whatever is drawn


@dataclass(frozen=True)
class Drawn:
    """Draws (s): what is added to gaps (s, n_contact) [m] and ramps (s, n_ramp) [m], factors on ramps, and by material how thick,
    firm, conductive and well touching a batch of it is, in its standard uncertainties (s, 4).
    """

    gap: Floats
    ramp_shift: Floats
    ramp_scale: Floats
    batches: Mapping[str, Floats]

    @property
    def count(self) -> int:
        """How many there are."""
        return len(self.gap)

    def rows(self, which: np.ndarray) -> Drawn:
        """Return some of them."""
        batches = {name: one[which] for name, one in self.batches.items()}
        return Drawn(self.gap[which], self.ramp_shift[which], self.ramp_scale[which], batches)

    def stacks(self, scene: Scene, contact: ContactPatch) -> Stacks:
        """Return how a stack differs from its law (s, 1): its sheets as thick and firm as their batches are."""
        scale, firm, thick = np.zeros(self.count), np.zeros(self.count), 0.0
        for piece in contact.pieces:
            material = scene.resolved.materials[piece.material]
            if piece.thickness_mm is None or material.id not in self.batches:
                continue
            z = self.batches[material.id]
            thick += piece.thickness_mm.value
            scale += piece.thickness_mm.uncertainty * z[:, 0]
            if material.compression is not None:
                firm += piece.thickness_mm.value * material.compression.relative_uncertainty.value * z[:, 1]
        if not thick:
            return Stacks()
        return Stacks(_factor(scale / thick)[:, None], _factor(firm / thick)[:, None])

    def numbers(self, scene: Scene, stated: JointNumbers) -> JointNumbers:
        """Return the joints' numbers, as conductive and well touching as the batches are."""
        layers = {}
        for name, layer in stated.layers.items():
            z = self.batches.get(name)
            if z is not None:
                k, contact = _relative(scene.resolved.materials[name])
                layer = replace(
                    layer,
                    conductivity=layer.conductivity * _factor(k * z[:, [2]]),
                    contact=layer.contact * _factor(contact * z[:, [3]]),
                )
            layers[name] = layer
        return replace(stated, layers=layers)


def _factor(relative: Floats) -> Floats:
    return np.maximum(1 + relative, _LEAST)


def _relative(material: Material) -> tuple[float, float]:
    """Return the relative standard uncertainties of conductivity and contact; a mere claim adds its own."""
    k = material.conductivity_w_mk
    claimed = material.claim_factor.uncertainty / material.claim_factor.value if material.only_claimed else 0.0
    contact = material.contact_mm2k_w
    return float(np.hypot(k.uncertainty / k.value, claimed)), contact.uncertainty / contact.value if contact.value else 0.0


@dataclass(frozen=True)
class Directions:
    """What each number of the device does to gaps (n_number, n_contact) [m] and ramps, per standard uncertainty."""

    numbers: tuple[Assumption, ...]
    gap: Floats
    ramp_shift: Floats
    ramp_scale: Floats


def directions(base: Base, common: Assembly, numbers: Iterable[Assumption]) -> Directions:
    """Return what numbers of the device itself do; those of pieces and materials are drawn by batch.

    `base` is where they are moved; `common` the assembly whose contacts are listed: one with the same faces takes what its like does.
    """
    kept, gaps, shifts, scales = [], [], [], []
    place = {(c.facing.lower, c.facing.upper, c.patch.landing): n for n, c in enumerate(base.assembly.contacts)}
    at = [place.get((c.facing.lower, c.facing.upper, c.patch.landing), -1) for c in common.contacts]
    for number in numbers:
        if not number.plays.mechanics or not number.uncertainty or ".pieces." in number.paths[0] or _of_material(number):
            continue
        try:
            moved = moved_by(base, number)
        except AshenError:
            continue
        means = [float(moved.gap[c.points].mean()) if c.points.stop > c.points.start else 0.0 for c in base.assembly.contacts]
        kept.append(number)
        gaps.append([means[n] if n >= 0 else 0.0 for n in at])
        shifts.append(moved.ramp_shift)
        scales.append(moved.ramp_scale)
    shape = (0, len(common.contacts)), (0, len(common.ramps))
    return Directions(
        tuple(kept),
        np.array(gaps) if kept else np.zeros(shape[0]),
        np.array(shifts) if kept else np.zeros(shape[1]),
        np.array(scales) if kept else np.zeros(shape[1]),
    )


def _of_material(number: Assumption) -> bool:
    return number.paths[0].startswith("materials.")


def drawn_alike(found: Directions, materials: Iterable[str], count: int, seed: int) -> Drawn:
    """Return `count` draws, the same for the same seed: numbers of the device, and batches of materials."""
    z = draw(found.numbers, count, seed) if found.numbers else np.zeros((count, 0))
    batches = {}
    for n, name in enumerate(sorted(set(materials))):
        batches[name] = np.random.default_rng([seed, 77, n]).standard_normal((count, 4))
    return Drawn(z @ found.gap, z @ found.ramp_shift, np.maximum(1 + z @ found.ramp_scale, 0.05), batches)
