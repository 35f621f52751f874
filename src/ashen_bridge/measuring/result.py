"""What readings come to, as plain values that are light to import: windows and programs show them."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.model.readings import TakenOver
from ashen_bridge.model.ties import Tie

Value = tuple[float, float]
"""A length and its standard uncertainty [mm]."""


@dataclass(frozen=True)
class Share:
    """One source: its standard uncertainty, by how much the estimate answers to that, and which share of the variance it makes.

    kind : `reading` for the error of a reading itself, `number` for what was known beforehand or is common to several.
    """

    source: str
    kind: str
    effect: float
    share: float


@dataclass(frozen=True)
class Method:
    """What one method by itself, with what was known beforehand, makes of a gap [mm]."""

    name: str
    readings: tuple[str, ...]
    gap_mm: float
    sd_mm: float


@dataclass(frozen=True)
class Closed:
    """What a reading of a closed gap means: by how much the stack stood too high then, over what it would without its pads, and
    what by this reading there is to fill, what the pad recovered taken off [mm].
    """

    reading: str
    read_mm: float
    lift_mm: float
    fills_mm: float


@dataclass(frozen=True)
class Next:
    """A reading that could be taken: its form and what of, minutes, and the gap's standard uncertainty now and then [mm]."""

    form: str
    of: str
    words: str
    minutes: float
    now_mm: float
    then_mm: float


@dataclass(frozen=True)
class Offered:
    """A reading that can be taken: its form, what of (as the fields of a reading), in words, and what is expected of it [mm],
    if that was worked out.
    """

    form: str
    of: tuple[tuple[str, str], ...]
    words: str
    expected: Value | None = None


@dataclass(frozen=True)
class Stop:
    """One reading of a route: its form, what of (as the fields of a reading), minutes, and the verdict's ± with it [K]."""

    form: str
    of: tuple[tuple[str, str], ...]
    words: str
    minutes: float
    then_k: float


@dataclass(frozen=True)
class Route:
    """What to read for a verdict, in an order that saves moves, the most worth first; and the verdict's ± now [K]."""

    verdict: str
    now_k: float
    stops: tuple[Stop, ...]


@dataclass(frozen=True)
class Gap:
    """One gap to fill: before any reading and now, and what to read next for it."""

    joint: str
    lower: str
    name: str
    before: Value
    now: Value
    methods: tuple[Method, ...]
    budget: tuple[Share, ...]
    closed: tuple[Closed, ...]
    next: tuple[Next, ...] = ()


@dataclass(frozen=True)
class OddLength:
    """A reading that does not fit: by how much it is off, how surely [standard deviations], what all others say it should have
    been, and every gap without it, in the order of the gaps.

    alike : readings that might as well be wrong in its place. separable : by how much it has to be off to be told apart.
    """

    reading: str
    off: float
    standardised: float
    expected: Value
    gaps: tuple[Value, ...]
    alike: tuple[str, ...] = ()
    separable: float = 0.0


@dataclass(frozen=True)
class Found:
    """What all readings of a project come to for one build.

    unchecked : readings that nothing checks. refused : readings that were not used, and why. numbers, ties : what taking over
    would set. offered : what can be read.
    """

    build: str
    gaps: tuple[Gap, ...]
    odd: tuple[OddLength, ...]
    unchecked: tuple[str, ...]
    refused: tuple[tuple[str, str], ...]
    numbers: tuple[TakenOver, ...]
    ties: tuple[Tie, ...]
    covariance_mm2: tuple[tuple[float, ...], ...]
    offered: tuple[Offered, ...] = ()

    def gap(self, joint: str, lower: str = "") -> Gap | None:
        """Return the gap of a joint, of the named lower body if one is."""
        return next((one for one in self.gaps if one.joint == joint and lower in ("", one.lower)), None)
