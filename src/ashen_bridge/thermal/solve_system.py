"""Solve one linear heat system again and again with other numbers in it."""

from __future__ import annotations

import numpy as np
from scipy.sparse import csr_matrix
from scipy.sparse.linalg import splu

from ashen_bridge.arrays import Floats
from ashen_bridge.arrays.blas import one_blas_thread
from ashen_bridge.thermal.linearised import LinearSystem
from ashen_bridge.thermal.solver import Preconditioner, make_pattern, solve_linear

_RESIDUAL = 1e-8


class SystemSolver:
    """Keeps the pattern and the hierarchies of a system."""

    def __init__(self, system: LinearSystem) -> None:
        self._system = system
        self._pattern = make_pattern(system.n, system.i, system.j)
        self._preconditioner = Preconditioner()
        # Air that touches everything makes a dense row, which a multigrid takes badly and a factorisation well.
        self._dense_row = system.n > system.grid.n_cell

    def solve(self, conductance: Floats, diagonal: Floats, right: Floats, start: Floats) -> Floats:
        """Return the rises [K] with these links [W/K], boundary terms [W/K] and right side [W]."""
        with one_blas_thread():
            matrix = self._pattern.matrix(conductance, diagonal, self._system.i, self._system.j)
            if self._dense_row:
                return np.asarray(splu(matrix.tocsc()).solve(right))
            return solve_linear(matrix, right, start, self._preconditioner, _RESIDUAL)[0]

    def each(self, rights: Floats) -> Floats:
        """Return the rises (n, k) [K] of the system as it is, for every column of right sides (n, k) [W]."""
        system = self._system
        with one_blas_thread():
            matrix = self._pattern.matrix(system.conductance, system.diagonal, system.i, system.j)
            if self._dense_row:
                return self._around_air(matrix, rights)
            columns = [solve_linear(matrix, right, None, self._preconditioner, _RESIDUAL)[0] for right in rights.T]
        return np.stack(columns, axis=1)

    def _around_air(self, matrix: csr_matrix, rights: Floats) -> Floats:
        """Solve for many right sides with the air inside a case, the last unknown, eliminated: its dense row is met once."""
        cells, air, own = matrix[:-1, :-1].tocsr(), matrix[:-1, -1].toarray().ravel(), float(matrix[-1, -1])
        columns = [*rights[:-1].T, air]
        *solved, through = (solve_linear(cells, one, None, self._preconditioner, _RESIDUAL)[0] for one in columns)
        warm = np.array([(right - air @ one) for right, one in zip(rights[-1], solved, strict=True)]) / (own - air @ through)
        return np.vstack([np.stack(solved, axis=1) - np.outer(through, warm), warm])
