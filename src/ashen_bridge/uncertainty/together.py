"""How fitted numbers go together: what readings took of their uncertainty, they took along few directions.

Before a fit the numbers x are independent, each 1 in its standard uncertainty; after it their covariance is I − T·Tᵀ, with T
(n_number, n_reading): A. Tarantola, "Inverse Problem Theory", SIAM 2005, section 3.2. A power and the resistance it goes through
may each be as vague as before, and their product known well.
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


def combined(weighed: Sequence[Assumption]) -> dict[str, float] | None:
    """Return the combined standard uncertainty [K] of every sensor by id; None while one of the numbers has not been weighed.

    Root of the sum of squares of the single effects: JCGM 100:2008 (GUM), 5.1.2; with the covariances that a fit left between
    numbers, 5.2.2. Numbers that are one assumption move together. First order: near a cliff, where a pad lets go, it says too
    little.
    """
    if any(one.effect_k is None for one in weighed):
        return None
    directions = directions_of(weighed)
    spread: dict[str, float] = {}
    for sensor in dict.fromkeys(sensor for one in weighed for sensor, _ in one.effects):
        effects = np.array([dict(one.effects).get(sensor, 0.0) for one in weighed])
        spread[sensor] = math.sqrt(max(float(effects @ covariance_with(effects, directions)), 0.0))
    return spread


def drawn_together(independent: Floats, directions: Floats) -> Floats:
    """Return independent draws (s, n_number) as they are after a fit, each number in its standard uncertainty after it.

    By the symmetric root of I − T·Tᵀ, which moves every number as little as possible from where it was drawn.
    """
    if not directions.size or not directions.any():
        return independent
    with one_blas_thread():
        along, size, _ = np.linalg.svd(directions, full_matrices=False)
        kept = np.sqrt(np.maximum(1 - size**2, _LEAST))
        fitted = independent + (independent @ along) * (kept - 1) @ along.T
    return np.asarray(fitted / left(directions))


def left(directions: Floats) -> Floats:
    """Return the standard uncertainty (n_number,) that is left of each number, as a share of what it was."""
    return np.asarray(np.sqrt(np.maximum(1 - np.sum(directions**2, axis=1), _LEAST)))


def covariance_with(effects: Floats, directions: Floats) -> Floats:
    """Return the covariance (n_number,) of each number, in its standard uncertainty, with what has these `effects`.

    effects : (n_number,) what one standard uncertainty after the fit does.
    """
    spread = left(directions)
    before = effects / spread
    return np.asarray((before - directions @ (directions.T @ before)) / spread)
