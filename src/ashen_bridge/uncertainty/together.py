"""How fitted numbers go together: what readings took of their uncertainty, they took along few directions.

Before a fit the numbers x have the correlation R, the identity but for numbers that share a cause; after it their covariance is
R − T·Tᵀ, with T (n_number, n_reading): A. Tarantola, "Inverse Problem Theory", SIAM 2005, section 3.2. A power and the resistance
it goes through may each be as vague as before, and their product known well.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.arrays.blas import one_blas_thread

if TYPE_CHECKING:
    from ashen_bridge.uncertainty.assumptions import Assumption

_LEAST = 1e-6  # of a variance before the fit that is always left


def directions_of(listed: Sequence[Assumption]) -> Floats:
    """Return T of some numbers (n_number, n_reading); no columns where none was fitted."""
    found = np.zeros((len(listed), max((len(one.told) for one in listed), default=0)))
    for n, one in enumerate(listed):
        found[n, : len(one.told)] = one.told
    return found


def correlation_of(listed: Sequence[Assumption]) -> Floats | None:
    """Return the correlation R of some numbers beforehand (n_number, n_number); None where none shares a cause."""
    if not any(one.shares for one in listed):
        return None
    found = np.eye(len(listed))
    for cause in dict.fromkeys(cause for one in listed for cause, _ in one.shares):
        common = np.array([math.sqrt(dict(one.shares).get(cause, 0.0)) for one in listed])
        found += np.outer(common, common) - np.diag(common**2)
    return found


def combined(weighed: Sequence[Assumption]) -> dict[str, float] | None:
    """Return the combined standard uncertainty [K] of every sensor by id; None while one of the numbers has not been weighed.

    Root of the sum of squares of the single effects: JCGM 100:2008 (GUM), 5.1.2; with the covariances that a fit left between
    numbers, 5.2.2. Numbers that are one assumption move together. First order: near a cliff, where a pad lets go, it says too
    little.
    """
    if any(one.effect_k is None for one in weighed):
        return None
    directions, correlation = directions_of(weighed), correlation_of(weighed)
    spread: dict[str, float] = {}
    for sensor in dict.fromkeys(sensor for one in weighed for sensor, _ in one.effects):
        effects = np.array([dict(one.effects).get(sensor, 0.0) for one in weighed])
        spread[sensor] = math.sqrt(max(float(effects @ covariance_with(effects, directions, correlation)), 0.0))
    return spread


def drawn_together(independent: Floats, directions: Floats, correlation: Floats | None = None) -> Floats:
    """Return independent draws (s, n_number) as they hang together, each number in its standard uncertainty after a fit.

    By the symmetric root of R − T·Tᵀ, which moves every number as little as possible from where it was drawn.
    """
    fitted = bool(directions.size) and bool(directions.any())
    if correlation is None and not fitted:
        return independent
    with one_blas_thread():
        if correlation is None:
            along, size, _ = np.linalg.svd(directions, full_matrices=False)
            kept = np.sqrt(np.maximum(1 - size**2, _LEAST))
            made = independent + (independent @ along) * (kept - 1) @ along.T
        else:
            size, along = np.linalg.eigh(correlation - directions @ directions.T)
            made = (independent @ along) * np.sqrt(np.maximum(size, _LEAST)) @ along.T
    return np.asarray(made / left(directions))


def left(directions: Floats) -> Floats:
    """Return the standard uncertainty (n_number,) that is left of each number, as a share of what it was."""
    return np.asarray(np.sqrt(np.maximum(1 - np.sum(directions**2, axis=1), _LEAST)))


def covariance_with(effects: Floats, directions: Floats, correlation: Floats | None = None) -> Floats:
    """Return the covariance (n_number,) of each number, in its standard uncertainty, with what has these `effects`.

    effects : (n_number,) what one standard uncertainty after the fit does.
    """
    spread = left(directions)
    before = effects / spread
    shared = before if correlation is None else correlation @ before
    return np.asarray((shared - directions @ (directions.T @ before)) / spread)
