"""One linear heat system factorised once, so that it answers many right sides at once."""

from __future__ import annotations

import numpy as np
from scipy.sparse import csr_matrix
from scipy.sparse.linalg import SuperLU, splu

from ashen_bridge.arrays import Floats
from ashen_bridge.arrays.blas import one_blas_thread
from ashen_bridge.thermal.cutting import Ints
from ashen_bridge.thermal.linearised import LinearSystem
from ashen_bridge.thermal.reduced import Change
from ashen_bridge.thermal.solver import make_pattern

_CHUNK = 64  # right sides at a time


class Factorised:
    """The factors of a system's matrix. Meant for coarse fields: their number grows faster than that of the cells.

    A symmetric ordering of least degree, without pivoting: half the factors of the library's default on these matrices, in half
    the time.
    """

    def __init__(self, system: LinearSystem) -> None:
        self.system = system
        self._pattern = make_pattern(system.n, system.i, system.j)
        matrix = self._pattern.matrix(system.conductance, system.diagonal, system.i, system.j)
        self._factors = _factors_of(matrix)

    def solve(self, rights: Floats) -> Floats:
        """Return the rises (n, k) [K] for every column of right sides (n, k) [W]."""
        with one_blas_thread():
            parts = [self._factors.solve(rights[:, at : at + _CHUNK]) for at in range(0, rights.shape[1], _CHUNK)]
        return np.hstack(parts) if parts else rights

    def pushed(self, change: Change, rises: Floats) -> Floats:
        """Return what a small change makes of the right side (n,) [W], where the system was at `rises` [K]."""
        flow = change.conductance * (rises[self.system.i[change.links]] - rises[self.system.j[change.links]])
        return np.asarray(change.right - change.diagonal * rises - self.gathered(change.links, flow))

    def gathered(self, links: Ints, flow: Floats) -> Floats:
        """Return what flows along some links [W] take from the cells at their ends (n,)."""
        i, j, n = self.system.i[links], self.system.j[links], self.system.n
        return np.asarray(np.bincount(i, flow, minlength=n) - np.bincount(j, flow, minlength=n))

    def missing(self, conductance: Floats, diagonal: Floats, right: Floats, rises: Floats) -> Floats:
        """Return what a field `rises` [K] leaves unbalanced (n,) [W] with other links, boundary terms and right side."""
        return np.asarray(right - self.matrix(conductance, diagonal) @ rises)

    def solved_anew(self, matrix: csr_matrix, right: Floats) -> Floats:
        """Return the rises (n,) [K] of another matrix of the same pattern by factors of its own, kept for what follows."""
        self._factors = _factors_of(matrix)
        return self.solve(right[:, None])[:, 0]

    def matrix(self, conductance: Floats, diagonal: Floats) -> csr_matrix:
        """Return the matrix with other links and boundary terms [W/K]."""
        return self._pattern.matrix(conductance, diagonal, self.system.i, self.system.j)


def _factors_of(matrix: csr_matrix) -> SuperLU:
    with one_blas_thread():
        return splu(matrix.tocsc(), permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True})
