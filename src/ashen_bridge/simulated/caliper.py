"""A simulated caliper: true lengths read by a hand that shakes, with a zero of its own, a slip now and then, in mm or inches."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

_INCH = 25.4


@dataclass(frozen=True)
class Caliper:
    """How it errs. `shakes_mm`, `zero_mm`: standard deviations of the hand, and of where it was set to zero; `slips`: chance of a
    digit gone wrong; `held`: chance that the display was held, so that the value before comes again.
    """

    shakes_mm: float = 0.012
    zero_mm: float = 0.008
    slips: float = 0.0
    held: float = 0.0
    unit: str = "mm"
    seed: int = 1

    def lines(self, lengths_mm: Sequence[float], repeats: int = 1) -> Iterator[str]:
        """Yield what it sends for every press of its button, lengths one after another."""
        random = np.random.default_rng(self.seed)
        zero = self.zero_mm * random.standard_normal()
        yield "zero"
        before = ""
        for length in lengths_mm:
            for _ in range(repeats):
                if before and random.random() < self.held:
                    yield f"hold {before}"
                    continue
                value = length + zero + self.shakes_mm * random.standard_normal()
                if random.random() < self.slips:
                    value += float(random.choice([-1.0, 1.0, 0.1, 10.0]))
                before = f"{value / _INCH:.4f} in" if self.unit == "in" else f"{value:.2f} mm"
                yield before
