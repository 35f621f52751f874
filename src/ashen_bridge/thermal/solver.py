"""Conjugate gradients preconditioned by an algebraic multigrid, with everything that can be kept kept."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
import pyamg
from scipy.sparse import csr_matrix, tril, triu
from scipy.sparse.linalg import LinearOperator, cg, splu

from ashen_bridge.arrays import Floats
from ashen_bridge.model.errors import AshenError
from ashen_bridge.thermal.cutting import Ints

MAX_ITERATIONS = 300
ALIKE = 0.6
"""Largest difference of log diagonals for which a kept hierarchy is used again."""
_KEPT = 8


class HeatSolverError(AshenError, ArithmeticError):
    """The linear solver did not reach its tolerance; carries iterations and relative residual."""

    def __init__(self, iterations: int, residual: float) -> None:
        super().__init__(f"The temperature field did not converge ({iterations} iterations, relative residual {residual:.1e}).")
        self.iterations = iterations
        self.residual = residual


@dataclass(frozen=True)
class Pattern:
    """Where the matrix of a set of links has entries; values change, the pattern stays."""

    n_cell: int
    indptr: Ints
    indices: Ints
    slot: Ints  # entry of each (i,j), (j,i) and diagonal contribution

    def matrix(self, conductance: Floats, diagonal: Floats, i: Ints, j: Ints) -> csr_matrix:
        """Return the symmetric matrix of links `conductance` [W/K] and boundary terms `diagonal` [W/K]."""
        on_diagonal = (
            diagonal + np.bincount(i, conductance, minlength=self.n_cell) + np.bincount(j, conductance, minlength=self.n_cell)
        )
        values = np.bincount(self.slot, np.concatenate([-conductance, -conductance, on_diagonal]), minlength=len(self.indices))
        return csr_matrix((values, self.indices, self.indptr), shape=(self.n_cell, self.n_cell))


def make_pattern(n_cell: int, i: Ints, j: Ints) -> Pattern:
    """Return the pattern of links i–j (links that repeat share an entry)."""
    own = np.arange(n_cell)
    keys = np.concatenate([i * n_cell + j, j * n_cell + i, own * n_cell + own])
    entries, slot = np.unique(keys, return_inverse=True)
    rows, columns = np.divmod(entries, n_cell)
    indptr = np.concatenate([[0], np.cumsum(np.bincount(rows, minlength=n_cell))])
    return Pattern(n_cell, indptr.astype(np.int32), columns.astype(np.int32), slot.astype(np.intp))


@dataclass
class Preconditioner:
    """Multigrid hierarchies kept between solves of nearby matrices of one pattern.

    A joint that opens changes its links a hundredfold, and a hierarchy built for the closed joint then serves badly. So a
    few are kept, and the one whose diagonal is most alike is taken; a new one is built when none is alike.
    """

    alike: float = ALIKE
    kept: list[tuple[Floats, LinearOperator]] = field(default_factory=list)
    built: int = 0

    def for_matrix(self, matrix: csr_matrix) -> LinearOperator:
        """Return a kept operator that fits this matrix, or build one for it."""
        diagonal = np.log(matrix.diagonal())
        unlike = [float(np.abs(diagonal - other).max()) if len(other) == len(diagonal) else np.inf for other, _ in self.kept]
        if unlike and min(unlike) < self.alike:
            at = int(np.argmin(unlike))
            self.kept.append(self.kept.pop(at))
            return self.kept[-1][1]
        hierarchy = pyamg.ruge_stuben_solver(
            matrix,
            strength=("classical", {"theta": 0.25}),
            presmoother=("gauss_seidel", {"sweep": "forward"}),
            postsmoother=("gauss_seidel", {"sweep": "backward"}),
            max_coarse=500,
        )
        self.built += 1
        self.kept = [*self.kept[1 - _KEPT :], (diagonal, _v_cycle(hierarchy))]
        return self.kept[-1][1]


def _v_cycle(hierarchy: Any) -> LinearOperator:
    """Return one V-cycle, forward and backward Gauss-Seidel around the coarse correction, as a symmetric operator.

    The library's own cycle also measures residuals and checks its arguments at every step, which costs more than the work
    itself on grids of this size; its kernels are called directly here. A forward sweep that starts from nothing touches the
    lower triangle only, and what it leaves, right − A·x, is −U·x with U the strict upper triangle: half the work each.
    """
    levels = hierarchy.levels
    matrices = [level.A.tocsr() for level in levels]
    lower = [tril(a, format="csr") for a in matrices]
    minus_upper = [-triu(a, 1, format="csr") for a in matrices]
    sweep = pyamg.amg_core.gauss_seidel
    coarsest = splu(matrices[-1].tocsc())

    def cycle(depth: int, right: Floats) -> Floats:
        a = matrices[depth]
        if depth == len(levels) - 1:
            return np.asarray(coarsest.solve(right))
        level, low, n = levels[depth], lower[depth], len(right)
        x = np.zeros(n)
        sweep(low.indptr, low.indices, low.data, x, right, 0, n, 1)
        x += level.P @ cycle(depth + 1, level.R @ (minus_upper[depth] @ x))
        sweep(a.indptr, a.indices, a.data, x, right, n - 1, -1, -1)
        return x

    return LinearOperator(matrices[0].shape, matvec=lambda right: cycle(0, np.ravel(right)), dtype=np.float64)


def solve_linear(
    matrix: csr_matrix, right: Floats, start: Floats | None, preconditioner: Preconditioner, tolerance: float
) -> tuple[Floats, int]:
    """Return the solution of matrix·x = right and the iterations spent.

    Raises `HeatSolverError` when the relative residual stays above `tolerance` after `MAX_ITERATIONS`.
    """
    if not right.any():
        return np.zeros_like(right), 0
    count = 0

    def step(_: Floats) -> None:
        nonlocal count
        count += 1

    operator = preconditioner.for_matrix(matrix)
    solution, info = cg(matrix, right, x0=start, rtol=tolerance, maxiter=MAX_ITERATIONS, M=operator, callback=step)
    if info != 0:
        raise HeatSolverError(count, float(np.linalg.norm(right - matrix @ solution) / np.linalg.norm(right)))
    return solution, count
