"""Which reading to take next: the one that lets the variance of what is to be decided fall most, per minute of work."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.estimate.posterior import Posterior

_OUTCOMES = 200  # results of a reading over which the variance that is left is averaged


@dataclass(frozen=True)
class Offer:
    """A reading that could be taken: what it is, its slopes (n_number,), its standard uncertainty and its minutes of work."""

    label: str
    slopes: Floats
    uncertainty: float
    minutes: float = 1.0


@dataclass(frozen=True)
class Ranked:
    """An offer and what it would do to the target's standard uncertainty."""

    offer: Offer
    now: float
    then: float

    @property
    def worth(self) -> float:
        """Variance taken per minute."""
        return (self.now**2 - self.then**2) / max(self.offer.minutes, 1e-9)


def taken(shared: float, own: float, uncertainty: float) -> float:
    """Return what a reading takes of a target's variance that has a covariance `shared` with it.

    own : variance of what is read; uncertainty : of the reading itself. A. Tarantola, "Inverse Problem Theory", SIAM 2005,
    section 3.2.
    """
    return shared**2 / (own + uncertainty**2)


def next_readings(found: Posterior, target: Floats, offers: Sequence[Offer]) -> tuple[Ranked, ...]:
    """Return offers by what they do to target (n_number,)·x per minute, where readings answer along straight lines.

    (gΣa)²/(aΣa + σ²) is what a reading a·x ± σ takes of the variance of g·x.
    """
    along = target @ found.root
    now = float(np.linalg.norm(along))
    ranked = []
    for one in offers:
        reads = one.slopes @ found.root
        less = taken(float(along @ reads), float(reads @ reads), one.uncertainty)
        ranked.append(Ranked(one, now, float(np.sqrt(max(now**2 - less, 0.0)))))
    return tuple(sorted(ranked, key=lambda one: -one.worth))


def left_by_draws(
    target: Floats, readings: Floats, uncertainties: Floats, seed: int = 1, weights: Floats | None = None
) -> Floats:
    """Return the variance of a target that is expected to be left by each reading (n_offer,), from kept draws.

    target : (n_draw,); readings : (n_draw, n_offer) what would be read in each draw; uncertainties : (n_offer,). Each of some
    results of a reading, its error among them, weighs the draws anew. Holds where readings do not answer along straight lines.
    """
    rng = np.random.default_rng(seed)
    weights = np.full(len(target), 1 / len(target)) if weights is None else weights / weights.sum()
    chosen = rng.choice(len(target), size=min(_OUTCOMES, len(target)), replace=False, p=weights)
    errors = rng.standard_normal(len(chosen))
    powers = np.stack([np.ones_like(target), target, target**2], axis=1) * weights[:, None]
    left = np.empty(readings.shape[1])
    for n, (reads, error) in enumerate(zip(readings.T, uncertainties, strict=True)):
        away = (reads[chosen] + error * errors)[:, None] - reads
        likely = np.exp(-0.5 * (away / max(float(error), 1e-300)) ** 2)
        total, first, second = (likely @ powers).T
        left[n] = float(np.mean(second / total - (first / total) ** 2))
    return left
