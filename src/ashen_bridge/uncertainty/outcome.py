"""What drawing samples gives, and how it is said. Light to import, since windows and files pass it around."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ashen_bridge.words.numbers import number


@dataclass(frozen=True)
class Share:
    """A number and the share of a sensor's variance that goes with it."""

    field: str
    owners: tuple[str, ...]
    paths: tuple[str, ...]
    value: float
    uncertainty: float
    share: float


@dataclass(frozen=True)
class Chance:
    """One sensor: spread, 95 % interval, chance to stay within its limit with its standard error, numbers by share of variance.

    `shown_c` is what the prediction shows. `unexplained` is what no number by itself explains: things that act together, and
    cliffs. None where there is no limit.
    """

    sensor: str
    name: str
    shown_c: float
    mean_c: float
    sd_k: float
    low_c: float
    high_c: float
    limit_c: float | None
    within: float | None
    within_se: float | None
    shares: tuple[Share, ...]
    unexplained: float


@dataclass(frozen=True)
class Chances:
    """All sensors, and the chance that all limits hold together. `count` samples were drawn, `failed` of them without a rest
    or a steady state: those keep no limit.
    """

    sensors: tuple[Chance, ...]
    all_within: float | None
    count: int
    failed: int

    def of(self, sensor: str) -> Chance | None:
        """Return the chance of one sensor, if it was drawn."""
        return next((one for one in self.sensors if one.sensor == sensor), None)


def standard_error(share: float, count: int) -> float:
    """Return the standard error of a share seen in `count` trials; never less than that of one trial in doubt.

    >>> round(standard_error(0.5, 100), 3), round(standard_error(1.0, 1000), 4)
    (0.05, 0.001)
    """
    return max(math.sqrt(share * (1 - share) / count), 1 / count)


def chance_words(chance: float, error: float) -> str:
    """Return a chance for people, with no more digits than it has.

    >>> chance_words(0.713, 0.014), chance_words(1.0, 0.001), chance_words(0.0, 0.001)
    ('71 %', 'above 99 %', 'below 1 %')
    """
    if chance > 0.995 - error / 2:
        return "above 99 %"
    if chance < 0.005 + error / 2:
        return "below 1 %"
    return f"{number(chance * 100)} %"
