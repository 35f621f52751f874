"""A reduced model: a linear heat system on a few fields of its own, so that thousands of variants are one batched solve.

Galerkin projection on solutions of the full system at training variants: UᵀK₀U + Σ aⱼ·UᵀKⱼU + (BU)ᵀ·diag(Δg)·(BU). The
joints enter through their links themselves, so any joint map is exact in the model; what the basis cannot show is the error.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.thermal.cutting import Ints
from ashen_bridge.thermal.linearised import LinearSystem

_INDEPENDENT = 1e-9  # of the largest singular value: what is smaller adds nothing but round-off


@dataclass(frozen=True)
class Change:
    """A change of a linear system, for an amplitude of 1: of some links [W/K], the diagonal [W/K] and the right side [W]."""

    links: Ints
    conductance: Floats
    diagonal: Floats
    right: Floats


def change_between(base: LinearSystem, other: LinearSystem) -> Change:
    """Return what makes one system of another with the same links."""
    difference = other.conductance - base.conductance
    links = np.flatnonzero(np.abs(difference) > 1e-12 * np.abs(base.conductance))
    return Change(links, difference[links], other.diagonal - base.diagonal, other.right - base.right)


def scaled_change(change: Change, by: float) -> Change:
    """Return a change made stronger or weaker."""
    return Change(change.links, by * change.conductance, by * change.diagonal, by * change.right)


def basis_of(fields: Sequence[Floats]) -> Floats:
    """Return an orthonormal basis (n, r) of some fields of rises."""
    stacked = np.stack(fields, axis=1)
    u, singular, _ = np.linalg.svd(stacked / np.linalg.norm(stacked, axis=0), full_matrices=False)
    return np.asarray(u[:, singular > _INDEPENDENT * singular[0]])


class ReducedModel:
    """One base system on a basis, with changes and links that vary from variant to variant."""

    def __init__(self, base: LinearSystem, basis: Floats, changes: Sequence[Change], links: Ints) -> None:
        self.basis = basis
        across = basis[base.i] - basis[base.j]
        self._matrix = across.T @ (base.conductance[:, None] * across) + basis.T @ (base.diagonal[:, None] * basis)
        self._right = basis.T @ base.right
        self._changed = np.zeros((len(changes), self.rank, self.rank))
        self._pushed = np.zeros((len(changes), self.rank))
        for n, change in enumerate(changes):
            part = across[change.links]
            on = np.flatnonzero(change.diagonal)
            self._changed[n] = part.T @ (change.conductance[:, None] * part)
            self._changed[n] += basis[on].T @ (change.diagonal[on, None] * basis[on])
            self._pushed[n] = basis.T @ change.right
        self._upper = np.triu_indices(self.rank)
        self._outer = across[links][:, self._upper[0]] * across[links][:, self._upper[1]]

    @property
    def rank(self) -> int:
        """Number of fields in the basis."""
        return int(self.basis.shape[1])

    def solve(self, amplitudes: Floats, link_change: Floats) -> Floats:
        """Return the coefficients (s, r) of the fields of some variants.

        amplitudes : (s, n_change) of the changes. link_change : (s, n_link) [W/K] added to the links that vary.
        """
        upper = link_change @ self._outer
        matrix = np.empty((len(amplitudes), self.rank, self.rank))
        matrix[:, self._upper[0], self._upper[1]] = upper
        matrix[:, self._upper[1], self._upper[0]] = upper
        matrix += self._matrix
        if amplitudes.shape[1]:
            matrix += np.tensordot(amplitudes, self._changed, axes=1)
        right = self._right + amplitudes @ self._pushed
        return np.asarray(np.linalg.solve(matrix, right[:, :, None])[:, :, 0])
