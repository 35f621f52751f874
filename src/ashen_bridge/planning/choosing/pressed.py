"""What becomes of joints at rest, for many variants at once: force, pressure, contact, compression, bond line."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.mechanics.assembly import Assembly, ContactPatch
from ashen_bridge.mechanics.contact_state import AS_STATED, ContactState, Stacks, contact_state
from ashen_bridge.predict.joint_heat import dispensed, dispensed_piece

Placed = tuple[int, int, ContactPatch]
"""Number of a contact in the common assembly, number of its law, and the contact as its own assembly has it."""


@dataclass(frozen=True)
class JointFigures:
    """Figures of every joint over every lower body (s, n_joint).

    force [N]; pressure, its mean [Pa]; contact, the share that touches; compression of sheets, nan where there is none; gap [m].
    """

    force: Floats
    pressure: Floats
    contact: Floats
    compression: Floats
    gap: Floats

    @classmethod
    def empty(cls, count: int, joints: Sequence[tuple[str, str]]) -> JointFigures:
        """Return figures to be written to."""
        return cls(*(np.full((count, len(joints)), np.nan) for _ in fields(cls)))

    def rows(self, which: np.ndarray | slice) -> JointFigures:
        """Return those of some variants."""
        return JointFigures(*(one[which] for one in vars(self).values()))

    def spread(self, rests: np.ndarray) -> JointFigures:
        """Return them among all variants, nan for those that do not come to rest."""
        found = JointFigures(*(np.full((len(rests), one.shape[1]), np.nan) for one in vars(self).values()))
        for name, one in vars(self).items():
            getattr(found, name)[rests] = one
        return found


@dataclass(frozen=True)
class Pressed:
    """One contact in some variants: where it is in the common assembly, and its state at its sample points (s, n_point)."""

    at: int
    contact: ContactPatch
    state: ContactState
    weight: Floats


def pressed(
    assembly: Assembly, contacts: Sequence[Placed], coordinates: Floats, shift: Floats | None, stacks: Sequence[Stacks] | None
) -> list[Pressed]:
    """Return the state of some contacts at rest; `shift` (s, n_contact) [m] is added to gaps, `stacks` are theirs."""
    found = []
    for n, (at, _, contact) in enumerate(contacts):
        part = assembly.contacts[at].points
        gap = assembly.free_gap[part] + coordinates @ assembly.jacobian[part].T
        if shift is not None:
            gap = gap + shift[:, [at]]
        state = contact_state(contact, gap, AS_STATED if stacks is None else stacks[n])
        found.append(Pressed(at, contact, state, assembly.weight[part]))
    return found


def note_figures(
    figures: JointFigures, joints: Sequence[tuple[str, str]], scene: Scene, some: Sequence[Pressed], rows: np.ndarray
) -> None:
    """Write the figures of the joints that some contacts belong to, for the variants `rows`."""
    by_joint: dict[int, list[Pressed]] = {}
    for one in some:
        by_joint.setdefault(joints.index((one.contact.facing.joint or "", one.contact.facing.lower)), []).append(one)
    for at, parts in by_joint.items():
        pieced = [one for one in parts if one.contact.pieces] or parts
        area = sum(float(one.weight.sum()) for one in pieced)
        force = sum(one.state.pressure @ one.weight for one in pieced)
        figures.force[rows, at] = force
        figures.pressure[rows, at] = force / area
        figures.contact[rows, at] = (
            sum(_touched(one) for one in pieced) / scene.bodies[pieced[0].contact.facing.lower].region.area
        )
        figures.gap[rows, at] = sum(one.state.gap @ one.weight for one in pieced) / area
        figures.compression[rows, at] = _compression(scene, pieced)


def _touched(one: Pressed) -> Floats:
    flows = any(piece.flows for piece in one.contact.pieces)
    touching = one.state.air <= 0 if flows else one.state.pressure > 0
    return np.asarray(touching @ one.weight)


def _compression(scene: Scene, parts: Sequence[Pressed]) -> Floats | float:
    free, left = 0.0, np.zeros(1)
    for one in parts:
        for piece, thickness in zip(one.contact.pieces, one.state.piece_thickness, strict=True):
            if piece.thickness_mm is not None and scene.resolved.materials[piece.material].compression is not None:
                free += piece.thickness_mm.value * 1e-3 * float(one.weight.sum())
                left = left + thickness @ one.weight
    return np.maximum(0.0, 1 - left / free) if free else np.nan


def filled_share(scene: Scene, some: Sequence[Pressed]) -> dict[tuple[str, str], Floats]:
    """Return the share of its area that each dispensed volume fills, by (joint, piece): (s, 1)."""
    there, needed = dispensed(scene), dict[tuple[str, str], Floats]()
    for one in some:
        key, at = dispensed_piece(one.contact)
        if key in there:
            needed[key] = needed.get(key, 0.0) + one.state.piece_thickness[at] @ one.weight
    return {key: np.minimum(1.0, there[key] / np.maximum(need, 1e-18))[:, None] for key, need in needed.items()}
