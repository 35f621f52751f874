"""Draw the uncertain numbers: Latin-hypercube samples of normal distributions."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from scipy.special import ndtri
from scipy.stats.qmc import LatinHypercube

from ashen_bridge.arrays import Floats
from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.uncertainty.together import correlation_of, directions_of, drawn_together

LEAST = 0.1  # of its value: a number that cannot be negative is not drawn below it
MOST = 4.0  # standard uncertainties: further out a normal distribution is no longer believed


def draw(listed: Sequence[Assumption], count: int, seed: int, spread: float = 1.0) -> Floats:
    """Return `count` samples of all numbers (s, n), in standard uncertainties from their values.

    Latin hypercube (M. D. McKay, R. J. Beckman, W. J. Conover, Technometrics 21, 1979): every number has one sample in each of
    `count` equally likely intervals. `spread` times as wide as life; those that are one assumption move as one. Independent
    between numbers, but for causes they share and for what a fit told of them together.
    """
    uniform = LatinHypercube(d=max(len(listed), 1), rng=np.random.default_rng(seed)).random(count)
    drawn = np.clip(spread * ndtri(uniform), -MOST, MOST)[:, : len(listed)]
    drawn = drawn_together(drawn, directions_of(listed), correlation_of(listed))
    return np.asarray(np.clip(drawn, lowest(listed), highest(listed)))


def lowest(listed: Sequence[Assumption]) -> Floats:
    """Return how far down each number may be drawn, in standard uncertainties: what is nothing already becomes no less."""
    bounds = []
    for one in listed:
        signed = one.bounds.low < 0 or (one.value <= 0 and math.isinf(one.bounds.low))
        bounds.append(
            -MOST if signed or one.uncertainty == 0 else -min(MOST, (1 - LEAST) * max(one.value, 0.0) / one.uncertainty)
        )
    return np.array(bounds)


def highest(listed: Sequence[Assumption]) -> Floats:
    """Return how far up each number may be drawn, in standard uncertainties: a share ends at 1."""
    return np.array(
        [min(MOST, max(one.bounds.high - one.value, 0.0) / one.uncertainty) if one.uncertainty > 0 else MOST for one in listed]
    )
