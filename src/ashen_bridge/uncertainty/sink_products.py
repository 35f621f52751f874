"""Numbers that act on one sink together: its resistance is a sum of them, and its heat a product with its inlet air.

Changes of the heat model add up, each in proportion to its own number. Where several act on the same film that is not enough:
what is missing is the difference between the product of their factors and the sum of their changes.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.thermal.conductances import FilmCells
from ashen_bridge.thermal.cutting import Ints
from ashen_bridge.thermal.reduced import Change


@dataclass(frozen=True)
class SinkProduct:
    """One sink's film: its cells, conductance [W/K] and air over the reference [K]; what each change does to both.

    relative : (n_change,) of its conductance. warmer : (n_change,) of its air [K].
    """

    cells: Ints
    conductance: Floats
    air: float
    relative: Floats
    warmer: Floats

    def changes(self, n: int) -> tuple[Change, Change]:
        """Return the changes for one more of its conductance, and for one kelvin more of its air, in a system of n unknowns."""
        film, push = np.zeros(n), np.zeros(n)
        film[self.cells] = self.conductance
        push[self.cells] = self.conductance
        none, empty = np.zeros(0, dtype=np.intp), np.zeros(0)
        return Change(none, empty, film, film * self.air), Change(none, empty, np.zeros(n), push)

    def missing(self, acts: Floats) -> Floats:
        """Return what the sum of the changes leaves out (s, 2), in units of `changes`."""
        each = acts * self.relative
        factor = np.prod(1 + each, axis=1)
        warmer = acts @ self.warmer
        # The single changes hold (1 + cⱼ)·ΔTⱼ already; the true product is factor·ΣΔT.
        held = (acts * self.warmer * (1 + self.relative)).sum(axis=1)
        return np.stack([factor - 1 - each.sum(axis=1), factor * warmer - held], axis=1)


def sink_products(films: Sequence[tuple[FilmCells, Floats]], changes: Sequence[Change], reference: float) -> list[SinkProduct]:
    """Return the sinks on which more than one change acts. films : those of sinks with what their cells conduct [W/K]."""
    found = []
    for film, conductance in films:
        air = film.film.air - reference
        relative, warmer = np.zeros(len(changes)), np.zeros(len(changes))
        for n, change in enumerate(changes):
            relative[n] = change.diagonal[film.cells].sum() / conductance.sum()
            pushed = change.right[film.cells].sum() / conductance.sum() - relative[n] * air
            warmer[n] = pushed / (1 + relative[n])
        relative[np.abs(relative) < 1e-9] = 0.0
        warmer[np.abs(warmer) < 1e-9] = 0.0
        if np.count_nonzero(relative) + np.count_nonzero(warmer) > 1:
            found.append(SinkProduct(film.cells, conductance, air, relative, warmer))
    return found
