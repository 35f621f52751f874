"""The most probable numbers where readings do not answer along straight lines.

The most probable state under Gaussian priors, by Gauss–Newton: A. Tarantola, "Inverse Problem Theory", SIAM 2005, chapter 3.
On the way every step corrects the slopes: C. G. Broyden, Mathematics of Computation 19, 1965.
"""

from __future__ import annotations

from collections.abc import Callable, Generator
from dataclasses import dataclass
from typing import TypeVar

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.arrays.blas import one_blas_thread

R = TypeVar("R")
T = TypeVar("T")
SETTLED = 0.1  # gain in minus twice the logarithm of the probability that is not worth another step
ROUNDS = 8  # steps with the same slopes, corrected on the way


@dataclass(frozen=True)
class Goal:
    """What was read and what is believed beforehand.

    values (n_reading,), covariance (n_reading, n_reading); low and high (n_number,): how far each number may go, in standard
    uncertainties; prior (n_number, n_number): their correlation beforehand, none where they are independent.
    """

    values: Floats
    covariance: Floats
    low: Floats
    high: Floats
    prior: Floats | None = None

    def worth(self, x: Floats, told: Floats) -> float:
        """Return minus twice the logarithm of the probability of numbers that let the readings be `told`, constants left out."""
        away = self.values - told
        before = x if self.prior is None else np.linalg.solve(self.prior, x)
        return float(x @ before + away @ np.linalg.solve(self.covariance, away))

    def aim(self, x: Floats, told: Floats, slopes: Floats) -> Floats:
        """Return the most probable numbers (n_number,) by slopes (n_reading, n_number) at x, within their bounds."""
        shared = slopes.T if self.prior is None else self.prior @ slopes.T
        spread = slopes @ shared + self.covariance
        return np.clip(shared @ np.linalg.solve(spread, self.values - told + slopes @ x), self.low, self.high)


def descending(
    at: Callable[[Floats], Floats | None],
    goal: Goal,
    x: Floats,
    told: Floats,
    slopes: Floats,
    rounds: int = ROUNDS,
) -> Generator[float, None, tuple[Floats, Floats]]:
    """Yield how far it is (0 to 1) before every look at the model; return the most probable numbers and what readings are there.

    Steps that make the numbers less probable are halved. at : numbers (n_number,) → readings (n_reading,), None where there are
    none. `told` are those at x, `slopes` theirs.
    """
    worth = goal.worth(x, told)
    slopes = slopes.copy()
    for turn in range(rounds):
        with one_blas_thread():
            step = goal.aim(x, told, slopes) - x
        if not step.any():
            break
        share, gain = 1.0, 0.0
        while gain <= 0 and share > 0.1:
            yield turn / rounds
            there = at(x + share * step)
            if there is None:
                share /= 2
                continue
            moved = share * step
            slopes += np.outer(there - told - slopes @ moved, moved) / (moved @ moved)
            gain = worth - goal.worth(x + moved, there)
            if gain > 0:
                x, told, worth = x + moved, there, worth - gain
            share /= 2
        if gain < SETTLED:
            break
    return x, told


def stepping(steps: Generator[float, None, R], shown: Callable[[float], T]) -> Generator[T, None, R]:
    """Yield what each of some steps shows, and return what they come to."""
    while True:
        try:
            progress = next(steps)
        except StopIteration as done:
            return done.value  # type: ignore[no-any-return]
        yield shown(progress)
