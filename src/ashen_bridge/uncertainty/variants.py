"""What drawn numbers make of an assembly: each in proportion to its own answer, factors multiplied."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.mechanics.assembly import Assembly
from ashen_bridge.mechanics.contact_state import Stacks
from ashen_bridge.mechanics.potential import Variants
from ashen_bridge.uncertainty.directions import Directions

_LEFT = 0.1  # of a stiffness, at least, whatever is drawn


@dataclass(frozen=True)
class Drawn:
    """Drawn variants of an assembly: what is added to the gap at its sample points (s, n_point) [m], how its stacks differ."""

    variants: Variants
    shift: Floats
    stacks: Stacks


def drawn_variants(assembly: Assembly, answers: Directions, drawn: Floats) -> Drawn:
    """Return the variants that numbers drawn (s, n_number) make of an assembly [standard uncertainties]."""
    scale, firmness = factors(drawn, answers.scale), factors(drawn, answers.firmness)
    stacks = Stacks(scale, firmness, drawn @ answers.softness)
    variants = Variants(
        len(drawn),
        thickness_scale=scale,
        firmness=firmness,
        ramp_shift=drawn @ answers.ramp_shift,
        ramp_scale=factors(drawn, answers.ramp_scale),
        stiffness=_stiffness(assembly, answers, drawn),
    )
    return Drawn(variants, drawn @ answers.gap, stacks)


def _stiffness(assembly: Assembly, answers: Directions, drawn: Floats) -> Floats | None:
    """Return what bends is held by more (s, n_dof, n_dof) [N/m]; never less than a tenth of it is left."""
    moving = np.flatnonzero(np.abs(answers.stiffness).max(axis=(1, 2), initial=0.0))
    if not len(moving):
        return None
    each, own = answers.stiffness[moving], assembly.stiffness
    more = np.tensordot(drawn[:, moving], each, axes=1)
    held = np.trace(own)
    left = 1 + np.trace(more, axis1=1, axis2=2) / held
    return np.asarray(np.where((left > _LEFT)[:, None, None], more, (_LEFT - 1) * own))


def factors(drawn: Floats, relative: Floats) -> Floats:
    """Return the factors (s, n) that numbers drawn (s, m) make of relative changes (m, n), each in proportion to its own."""
    found = np.ones((len(drawn), relative.shape[1]))
    for n in np.flatnonzero(np.abs(relative).max(axis=1, initial=0.0) > 0):
        found *= np.maximum(1 + drawn[:, [n]] * relative[n], 0.05)
    return found
