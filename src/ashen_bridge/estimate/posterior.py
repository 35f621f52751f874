"""What numbers are after their readings, as far as readings answer to them along straight lines.

Generalised least squares with the prior as further rows, by orthogonal factors, so that badly conditioned problems keep their
digits: Å. Björck, Numerical Methods for Least Squares Problems, SIAM 1996, chapters 2 and 4.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.linalg import qr, solve_triangular

from ashen_bridge.arrays import Floats
from ashen_bridge.arrays.blas import one_blas_thread
from ashen_bridge.estimate.rows import EstimateError, Rows

_UNTOLD = 1e-12  # of the largest: a direction that readings say less of is said to be unknown


@dataclass(frozen=True)
class Posterior:
    """The most probable numbers and what is left of them.

    mean : (n_number,) in standard uncertainties from where they were.
    root : (n_number, n_number), its product with its transpose is the covariance.
    told : (n_reading,) what the readings are expected to be now.
    weight : (n_reading, n_reading), the inverse of what readings and numbers together may differ by; of full rank where no number
        is free.
    """

    rows: Rows
    mean: Floats
    root: Floats
    told: Floats
    weight: Floats

    @property
    def covariance(self) -> Floats:
        """The covariance of the numbers (n_number, n_number)."""
        return np.asarray(self.root @ self.root.T)

    @property
    def sd(self) -> Floats:
        """The standard uncertainties (n_number,), as shares of what they were."""
        return np.asarray(np.sqrt(np.sum(self.root**2, axis=1)))

    @property
    def residuals(self) -> Floats:
        """What was read less what is expected now (n_reading,)."""
        return self.rows.values - self.told

    @property
    def misfit(self) -> float:
        """What is left, weighed: chi-square, with as many degrees of freedom as there are readings more than free numbers."""
        away = self.rows.values - self.rows.start
        return float(away @ self.weight @ away)

    def of(self, target: Floats) -> tuple[float, float]:
        """Return mean and standard uncertainty of a target (n_number,)·x."""
        return float(target @ self.mean), float(np.linalg.norm(target @ self.root))


def posterior(rows: Rows) -> Posterior:
    """Return the posterior. Raises `EstimateError` where a free number is told nothing."""
    with one_blas_thread():
        lower = np.asarray(np.linalg.cholesky(rows.covariance) if rows.n_reading else np.zeros((0, 0)), dtype=np.float64)
        slopes = _by(lower, rows.slopes)
        away = _by(lower, rows.values - rows.start)
        known = np.ones(rows.n_number, dtype=bool) if rows.free is None else ~rows.free
        prior = np.zeros((int(known.sum()), rows.n_number))
        if known.any():
            of_known = rows.prior_covariance[np.ix_(known, known)]
            prior[:, known] = solve_triangular(_root(of_known), np.eye(len(prior)), lower=True)
        stacked = np.vstack([slopes, prior])
        scale = np.maximum(np.linalg.norm(stacked, axis=0), 1e-300)
        if len(stacked) < rows.n_number:
            raise EstimateError("There are fewer readings than unknown numbers.")
        q, r = qr(stacked / scale, mode="economic")
        if np.abs(np.diag(r)).min(initial=1.0) < _UNTOLD * np.abs(np.diag(r)).max(initial=1.0):
            raise EstimateError("The readings say nothing of one of the unknown numbers.")
        q1 = q[: rows.n_reading]
        mean = solve_triangular(r, q1.T @ away) / scale
        root = solve_triangular(r, np.eye(len(r))) / scale[:, None]
        rest = np.eye(rows.n_reading) - q1 @ q1.T
        weight = solve_triangular(lower, solve_triangular(lower, rest, lower=True, trans="T").T, lower=True, trans="T")
    told = rows.start + rows.slopes @ mean
    return Posterior(rows, np.asarray(mean), np.asarray(root), told, np.asarray((weight + weight.T) / 2))


def _by(lower: Floats, what: Floats) -> Floats:
    return np.asarray(solve_triangular(lower, what, lower=True)) if len(what) else what


def _root(covariance: Floats) -> Floats:
    try:
        return np.asarray(np.linalg.cholesky(covariance))
    except np.linalg.LinAlgError as error:
        raise EstimateError("Numbers that share a cause share more than there is.") from error
