"""Where drawn variants of an assembly come to rest."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.mechanics.assembly import Assembly
from ashen_bridge.mechanics.equilibrium import EquilibriumError, equilibrium
from ashen_bridge.mechanics.potential import Variants
from ashen_bridge.uncertainty.directions import Base


def at_rest(base: Base, variants: Variants, shift: Floats, softness: Floats) -> tuple[Floats, np.ndarray]:
    """Return the coordinates (s, n_dof) of those variants that come to rest, and which those are.

    `shift` (s, n_point) is added to the gap [m], `softness` (s, n_contact) to the give around it [m/Pa]. More give around
    a paste opens its gap by what its pressure makes of it: first by the present pressure, then by that found so. Forces are set
    by springs, so the second time is enough.
    """
    a, start = base.assembly, base.coordinates
    pressure = _pressures(a, np.tile(start, (variants.count, 1)), np.zeros_like(shift), variants)
    for _ in range(2 if softness.any() else 1):
        soft = softness[:, a.point_patch] * pressure
        now = replace(variants, point_shift=shift + soft)
        try:
            start = equilibrium(a, now, start).coordinates
        except EquilibriumError:
            return _one_by_one(base, now)
        pressure = _pressures(a, start, shift + soft, variants)
    return start, np.ones(variants.count, dtype=bool)


def _pressures(a: Assembly, coordinates: Floats, shift: Floats, variants: Variants) -> Floats:
    """Return the pressure of what flows at every sample point [Pa], 0 under anything else."""
    found = np.zeros((len(coordinates), len(a.weight)))
    for n, contact in enumerate(a.contacts):
        if contact.law.fills and variants.thickness_scale is not None:
            part = contact.points
            gap = a.free_gap[part] + coordinates @ a.jacobian[part].T + shift[:, part]
            found[:, part] = contact.law.pressure_at(gap / variants.thickness_scale[:, [n]])
    return found


def _one_by_one(base: Base, variants: Variants) -> tuple[Floats, np.ndarray]:
    """Return the same for variants of which one does not come to rest, so that the others still count."""
    found, fine = [], np.ones(variants.count, dtype=bool)
    for n in range(variants.count):
        try:
            one = variants.rows(slice(n, n + 1))
            found.append(equilibrium(base.assembly, one, base.coordinates).coordinates[0])
        except EquilibriumError:
            fine[n] = False
    return np.array(found).reshape(-1, base.assembly.n_dof), fine
