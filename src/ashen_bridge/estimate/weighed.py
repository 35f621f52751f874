"""Draws weighed by what was seen, where readings are neither straight nor normal.

Proposals come from the linear posterior and are moved towards what the likelihood says, in steps short enough to keep many draws
in play: O. Cappé and others, Journal of Computational and Graphical Statistics 13, 2004 (population Monte Carlo);
tempered after N. Chopin, Biometrika 89, 2002. Their tails are those of Student's t, so that no draw weighs too much.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.special import gammaln, logsumexp

from ashen_bridge.arrays import Floats
from ashen_bridge.estimate.rows import EstimateError

LEAST = 500.0  # effective draws below which nothing is said
_FREEDOM = 6.0
_ROUNDS = 12
_WIDER = 1.1


@dataclass(frozen=True)
class Weighed:
    """Draws (n_draw, n_number), their weights (n_draw,) which add up to one, and in how many steps they were found."""

    draws: Floats
    weights: Floats
    steps: int

    @property
    def effective(self) -> float:
        """How many equally weighed draws they stand for: L. Kish, Survey Sampling, 1965."""
        return float(1 / np.sum(self.weights**2))

    def mean(self, of: Floats) -> Floats:
        """Return the weighed mean over draws of (n_draw, …)."""
        return np.asarray(np.tensordot(self.weights, of, axes=(0, 0)))


def weighed_draws(
    rng: np.random.Generator,
    mean: Floats,
    covariance: Floats,
    likely: Callable[[Floats], Floats],
    prior: Floats | None = None,
    count: int = 4000,
    least: float = LEAST,
) -> Weighed:
    """Return draws of N(0, prior) weighed by a likelihood.

    mean, covariance : where to look first, usually the linear posterior.
    likely : (n_draw, n_number) → the logarithm of the likelihood (n_draw,); −inf for what cannot be.
    Raises `EstimateError` where fewer than `least` effective draws are left: what was seen contradicts itself, or lies further
    from what was expected than the draws reach.
    """
    size = len(mean)
    before = np.linalg.inv(np.eye(size) if prior is None else prior)
    for step in range(1, _ROUNDS + 1):
        lower = np.asarray(np.linalg.cholesky(covariance * _WIDER**2 + 1e-12 * np.eye(size)), dtype=np.float64)
        normal = rng.standard_normal((count, size))
        scale = np.sqrt(_FREEDOM / rng.chisquare(_FREEDOM, count))
        draws = mean + scale[:, None] * (normal @ lower.T)
        with np.errstate(divide="ignore"):
            wanted = likely(draws) - 0.5 * np.einsum("si,ij,sj->s", draws, before, draws)
        logs = np.where(np.isfinite(wanted), wanted, -np.inf) - _student(normal * scale[:, None], lower)
        if not np.isfinite(logs).any():
            raise EstimateError("What was seen cannot be, whatever the numbers are within what is believed of them.")
        share = _tempering(logs, least)
        weights = _weights(logs, share)
        if share >= 1.0:
            return Weighed(draws, weights, step)
        mean = weights @ draws
        rest = draws - mean
        covariance = (rest * weights[:, None]).T @ rest
    raise EstimateError(
        f"What was seen cannot be weighed: after {_ROUNDS} steps fewer than {least:.0f} effective draws are left. It contradicts "
        "itself, or what is believed of the numbers."
    )


def _student(from_mean: Floats, lower: Floats) -> Floats:
    """Return the logarithm of the proposal's density (n_draw,); `from_mean` before its covariance is put on."""
    size = from_mean.shape[1]
    constant = gammaln((_FREEDOM + size) / 2) - gammaln(_FREEDOM / 2) - 0.5 * size * np.log(_FREEDOM * np.pi)
    spread = float(np.log(np.diag(lower)).sum())
    return np.asarray(constant - spread - 0.5 * (_FREEDOM + size) * np.log1p(np.sum(from_mean**2, axis=1) / _FREEDOM))


def _weights(logs: Floats, share: float) -> Floats:
    scaled = share * np.where(np.isfinite(logs), logs, -1e300)
    return np.asarray(np.exp(scaled - logsumexp(scaled)))


def _tempering(logs: Floats, least: float) -> float:
    """Return the largest share of the way, at most 1, at which enough draws stay in play."""
    if 1 / np.sum(_weights(logs, 1.0) ** 2) >= least:
        return 1.0
    low, high = 0.0, 1.0
    for _ in range(40):
        middle = (low + high) / 2
        low, high = (middle, high) if 1 / np.sum(_weights(logs, middle) ** 2) >= least else (low, middle)
    return low
