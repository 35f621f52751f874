"""Conjugate gradients preconditioned by an algebraic multigrid, with everything that can be kept kept."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
import pyamg
from scipy.sparse import csr_matrix
from scipy.sparse.linalg import LinearOperator, cg

from ashen_bridge.geometry.region import Floats
from ashen_bridge.model.errors import AshenError
from ashen_bridge.thermal.columns import Ints

MAX_ITERATIONS = 300
_REBUILD_ABOVE = 11  # iterations for two or three decades: then building a fresh hierarchy is cheaper than going on


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
    """A multigrid hierarchy kept between solves of nearby matrices."""

    operator: Any = None
    built: int = 0
    stale: bool = field(default=True)

    def for_matrix(self, matrix: csr_matrix) -> Any:
        """Return the kept operator, or build one for this matrix."""
        if self.stale or self.operator is None or self.operator.shape != matrix.shape:
            hierarchy = pyamg.ruge_stuben_solver(
                matrix,
                strength=("classical", {"theta": 0.25}),
                presmoother=("gauss_seidel", {"sweep": "forward"}),
                postsmoother=("gauss_seidel", {"sweep": "backward"}),
                max_coarse=200,
            )
            self.operator = _v_cycle(hierarchy)
            self.built += 1
            self.stale = False
        return self.operator


def _v_cycle(hierarchy: Any) -> LinearOperator:
    """Return one V-cycle as a symmetric operator; the library's own also measures residuals, which costs a third more."""
    levels = hierarchy.levels

    def cycle(depth: int, right: Floats) -> Floats:
        level = levels[depth]
        if depth == len(levels) - 1:
            return np.asarray(hierarchy.coarse_solver(level.A, right))
        x = np.zeros_like(right)
        level.presmoother(level.A, x, right)
        x += level.P @ cycle(depth + 1, level.R @ (right - level.A @ x))
        level.postsmoother(level.A, x, right)
        return x

    return LinearOperator(levels[0].A.shape, matvec=lambda right: cycle(0, right), dtype=np.float64)


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
    if count > _REBUILD_ABOVE:
        preconditioner.stale = True
    return solution, count
