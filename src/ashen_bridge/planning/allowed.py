"""What tolerances may be: plain values that a window or a program can take."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Allowed:
    """One chosen number: its ± now, and how wide it may be statistically and in the worst case, in its own unit.

    `share` is its part of the variance at the limit that binds. `advice` is whether it should be tightened, may be wider, or is
    not worth tightening.
    """

    path: str
    words: str
    unit: str
    now: float
    statistical: float
    worst_case: float | None
    share: float
    advice: str


@dataclass(frozen=True)
class Tolerances:
    """What may be, for all limits to hold with `chance`. `drawn` is the chance that draws with the allowed ± come to.

    `worst_possible` says whether the worst case can hold at all beside what is not chosen; `says` is it in a sentence.
    """

    chance: float
    rows: tuple[Allowed, ...]
    binding: str
    now: float
    drawn: float
    worst_possible: bool
    says: str
