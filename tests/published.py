"""Checks against published work as a table: what is computed, by whom it was published, their figure, ours, and how close.

Each case computes its figure with the program's own code when asked; `docs/validation.md` is written from this table.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

PRACTICE = "common practice, no source"


@dataclass(frozen=True)
class Check:
    """One case: `ours` must lie within `within` (relative) of `reference`, or inside `band` where that is all that is known.

    A usual check leaves out what is `slow`.
    """

    topic: str
    case: str
    source: str
    unit: str
    ours: Callable[[], float]
    reference: float | None = None
    within: float = 0.01
    band: tuple[float, float] | None = None
    digits: int = 4
    slow: bool = False

    def passes(self, value: float) -> bool:
        if self.band is not None:
            return self.band[0] <= value <= self.band[1]
        assert self.reference is not None
        return abs(value - self.reference) <= self.within * abs(self.reference)

    def row(self, value: float) -> list[str]:
        if self.band is not None:
            wanted, apart = f"{self.band[0]:g} … {self.band[1]:g}", "inside" if self.passes(value) else "OUTSIDE"
        else:
            assert self.reference is not None
            wanted = f"{self.reference:.{self.digits}g}"
            # A difference is said to a tenth of a percent: the last digits of an iteration differ from machine to machine.
            apart = f"{(value / self.reference - 1) * 100:+.1f} %".replace("-0.0 %", "+0.0 %")
        return [self.case, self.source, self.unit, wanted, f"{value:.{self.digits}g}", apart]
