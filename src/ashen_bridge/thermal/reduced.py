"""A reduced model: a linear heat system on a few fields of its own, so that thousands of variants are one batched solve.

Galerkin projection on solutions of the full system: UᵀK₀U + Σ aⱼ·UᵀKⱼU + Σ (B_gU)ᵀ·diag(Δg)·(B_gU). The joints enter through
their links themselves, so any joint map is exact in the model; what the basis cannot show is the error.
"""

from __future__ import annotations

import copy
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.thermal.cutting import Ints
from ashen_bridge.thermal.linearised import LinearSystem

_SHOWN = 1e-2  # of a joint's largest: how differences across it that no field of the basis shows are told


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


def basis_of(fields: Floats, least: float = 0.0) -> Floats:
    """Return an orthonormal basis (n, r) of fields (n, m), the first of which is always spanned.

    The others count as far as they stand out of it, together and in their own size: combinations of less than `least` in the root
    mean square over the unknowns are left out. By the snapshots' own products: L. Sirovich, Quarterly of Applied Mathematics 45,
    1987.
    """
    first = fields[:, 0] / np.linalg.norm(fields[:, 0])
    rest = fields[:, 1:] - np.outer(first, first @ fields[:, 1:])
    sizes, along = np.linalg.eigh(rest.T @ rest)
    smallest = max(least**2 * len(first), 1e-14 * max(float(sizes.max(initial=0.0)), 1e-30))
    kept = np.flatnonzero(sizes > smallest)[::-1]
    spanned = rest @ (along[:, kept] / np.sqrt(sizes[kept]))
    return np.asarray(np.linalg.qr(np.hstack([first[:, None], spanned]))[0])


@dataclass(frozen=True)
class _Group:
    """The links of one joint: where they are among those that vary, and the products by link of the few differences across them
    that the basis shows (n_link, k·(k+1)/2), k of them.
    """

    at: Ints
    outer: Floats
    k: int


class ReducedModel:
    """One base system on a basis, with changes and links that vary from variant to variant.

    `groups` are the links of one joint each, numbers into `links`; one group of all where nothing is said.
    """

    def __init__(
        self, base: LinearSystem, basis: Floats, changes: Sequence[Change], links: Ints, groups: Sequence[Ints] | None = None
    ) -> None:
        self.basis = basis
        self._ends = base.i, base.j
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
        found = [_group(across[links[at]], at) for at in (groups or [np.arange(len(links))])]
        self._groups = [group for group, _ in found]
        self._shown = np.hstack([shown for _, shown in found])

    @property
    def rank(self) -> int:
        """Number of fields in the basis."""
        return int(self.basis.shape[1])

    def solve(self, amplitudes: Floats, link_change: Floats) -> Floats:
        """Return the coefficients (s, r) of the fields of some variants.

        amplitudes : (s, n_change) of the changes. link_change : (s, n_link) [W/K] added to the links that vary.
        """
        return self.answer(amplitudes, self.joints(link_change))

    def onto(self, few: Floats) -> ReducedModel:
        """Return the same on fewer fields, orthonormal combinations `few` (r, k) of its own."""
        made = copy.copy(self)
        made.basis = self.basis @ few
        made._matrix, made._right = few.T @ self._matrix @ few, few.T @ self._right
        made._changed = few.T @ self._changed @ few
        made._pushed, made._shown = self._pushed @ few, few.T @ self._shown
        return made

    def solve_changed(self, change: Change, link_change: Floats) -> Floats:
        """Return the coefficients (1, r) of the field of one variant: a change of its own, and other links (1, n_link) [W/K]."""
        part = self.basis[self._ends[0][change.links]] - self.basis[self._ends[1][change.links]]
        matrix = self._matrix + self.joints(link_change)[0] + part.T @ (change.conductance[:, None] * part)
        on = np.flatnonzero(change.diagonal)
        matrix += self.basis[on].T @ (change.diagonal[on, None] * self.basis[on])
        return np.asarray(np.linalg.solve(matrix, self._right + self.basis.T @ change.right)[None])

    def joints(self, link_change: Floats) -> Floats:
        """Return what changed links [W/K] make of the matrix (s, r, r)."""
        count, at = len(link_change), 0
        within = np.empty((self._shown.shape[1], count, self.rank))
        for group in self._groups:
            own = slice(at, at + group.k)
            inner = np.empty((count, group.k, group.k))
            i, j = np.triu_indices(group.k)
            inner[:, i, j] = inner[:, j, i] = link_change[:, group.at] @ group.outer
            products = inner.reshape(-1, group.k) @ self._shown[:, own].T
            within[own] = products.reshape(count, group.k, self.rank).transpose(1, 0, 2)
            at += group.k
        # All variants and joints in one product.
        matrix = self._shown @ within.reshape(len(within), -1)
        return np.ascontiguousarray(matrix.reshape(self.rank, count, self.rank).transpose(1, 0, 2))

    def answer(self, amplitudes: Floats, joints: Floats) -> Floats:
        """Return the coefficients (s, r) of variants whose joints make `joints` (s, r, r) of the matrix.

        Changes for which `amplitudes` (s, k) say nothing, the last ones, do not act.
        """
        matrix, k = joints + self._matrix, amplitudes.shape[1]
        if k:
            matrix += (amplitudes @ self._changed[:k].reshape(k, -1)).reshape(matrix.shape)
        right = self._right + amplitudes @ self._pushed[:k]
        return np.asarray(np.linalg.solve(matrix, right[:, :, None])[:, :, 0])

    def followed(self, found: Floats, last: Floats) -> Floats:
        """Return coefficients (s, r) once the last changes act as well, so much (s, k) as came of the coefficients `found`.

        By one step with the base's inverse: they are small beside what the variants differ by already.
        """
        count, k = last.shape
        more = (last @ self._changed[-k:].reshape(k, -1)).reshape(count, self.rank, self.rank)
        unbalanced = (more @ found[:, :, None])[:, :, 0] - last @ self._pushed[-k:]
        return np.asarray(found - np.linalg.solve(self._matrix, unbalanced.T).T)


def _group(across: Floats, at: Ints) -> tuple[_Group, Floats]:
    """Return a joint's group, and its differences in terms of the basis (r, k)."""
    each, sizes, shown = np.linalg.svd(across, full_matrices=False)
    kept = sizes > _SHOWN * sizes.max(initial=0.0)
    each = each[:, kept] * sizes[kept]
    i, j = np.triu_indices(each.shape[1])
    return _Group(at, each[:, i] * each[:, j], each.shape[1]), shown[kept].T
