"""What is not known of a device and of what is bought for it, drawn alike for every plan."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.mechanics.assembly import Assembly, ContactPatch
from ashen_bridge.mechanics.contact_state import Stacks
from ashen_bridge.model.material import Material
from ashen_bridge.predict.joint_heat import JointNumbers
from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.uncertainty.drawing import draw
from ashen_bridge.uncertainty.preparation import Preparation

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
class Moves:
    """What each number of the device does to gaps (n_number, n_contact) [m] and ramps, per standard uncertainty."""

    numbers: tuple[Assumption, ...]
    gap: Floats
    ramp_shift: Floats
    ramp_scale: Floats

    @classmethod
    def none(cls, common: Assembly) -> Moves:
        """Return what no number does."""
        return cls((), np.zeros((0, len(common.contacts))), np.zeros((0, len(common.ramps))), np.zeros((0, len(common.ramps))))


def of_device(number: Assumption) -> bool:
    """Return whether a number moves the device itself: those of pieces and materials are drawn by batch."""
    return number.plays.mechanics and ".pieces." not in number.paths[0] and not number.paths[0].startswith("materials.")


def moves(prepared: Preparation, common: Assembly) -> Moves:
    """Return what the numbers of a device do, by its preparation.

    `common` is the assembly whose contacts are listed: each takes what the same two faces do in the state that was prepared.
    """
    assembly, found = prepared.base.assembly, prepared.directions
    place = {(c.facing.lower, c.facing.upper, c.patch.landing): n for n, c in enumerate(assembly.contacts)}
    at = np.array([place.get((c.facing.lower, c.facing.upper, c.patch.landing), -1) for c in common.contacts])
    kept = [n for n, one in enumerate(prepared.numbers) if of_device(one)]
    count = np.array([max(c.points.stop - c.points.start, 1) for c in assembly.contacts])
    sums = np.zeros((len(kept), len(assembly.contacts) + 1))
    for n, contact in enumerate(assembly.contacts):
        sums[:, n] = found.gap[kept][:, contact.points].sum(axis=1) / count[n]
    return Moves(tuple(prepared.numbers[n] for n in kept), sums[:, at], found.ramp_shift[kept], found.ramp_scale[kept])


def drawn_alike(found: Moves, materials: Iterable[str], count: int, seed: int) -> Drawn:
    """Return `count` draws, the same for the same seed: numbers of the device, and batches of materials."""
    z = draw(found.numbers, count, seed) if found.numbers else np.zeros((count, 0))
    batches = {}
    for n, name in enumerate(sorted(set(materials))):
        batches[name] = np.random.default_rng([seed, 77, n]).standard_normal((count, 4))
    return Drawn(z @ found.gap, z @ found.ramp_shift, np.maximum(1 + z @ found.ramp_scale, 0.05), batches)
