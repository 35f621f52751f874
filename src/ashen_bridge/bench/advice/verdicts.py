"""Advice drawn from runs and model, as plain results: plans, transfers, shares, whether opening pays."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.words.numbers import number

_SURE_K = 0.5  # below, a difference has no sign to speak of; common practice, no source


@dataclass(frozen=True)
class TestPlan:
    """How long a test should run and how often.

    `soak_s`: until the slowest sensor is within 1 K of its end; `seconds`: with a window to measure in. `passes` of each build
    show a difference of `resolution_k` where passes differ by `spread_k`, which was `measured` or is the usual one.
    """

    soak_s: float
    slowest: str
    seconds: float
    passes: int
    resolution_k: float
    spread_k: float
    measured: bool

    __test__ = False


@dataclass(frozen=True)
class TransferredSensor:
    """One sensor here, as measured, and there, as it would be [°C], with the standard uncertainty there."""

    sensor: str
    name: str
    here_c: float
    there_c: float
    uncertainty: float
    limit_c: float | None

    @property
    def over(self) -> bool:
        """Whether it would be past its limit."""
        return self.limit_c is not None and self.there_c > self.limit_c


@dataclass(frozen=True)
class Transfer:
    """A run's result under other circumstances, the least to spare first."""

    run: str
    circumstances: str
    sensors: tuple[TransferredSensor, ...]
    text: str


@dataclass(frozen=True)
class Share:
    """One of several changes: what it did alone first, and alone last [K]; None where that build cannot be."""

    label: str
    first_k: float | None
    last_k: float | None

    @property
    def middle_k(self) -> float:
        """What it may have done [K]."""
        told = [one for one in (self.first_k, self.last_k) if one is not None]
        return sum(told) / len(told) if told else 0.0

    @property
    def undecided_k(self) -> float:
        """Half the range of what it may have done [K]."""
        if self.first_k is None or self.last_k is None:
            return 0.0
        return abs(self.first_k - self.last_k) / 2


@dataclass(frozen=True)
class Attribution:
    """What several changes did to one sensor: measured, as the model has it, the shares, and the run that would settle it."""

    before: str
    after: str
    sensor: str
    name: str
    measured_k: float
    model_k: float
    shares: tuple[Share, ...]
    settle: str

    @property
    def doubt(self) -> str:
        """What is to be said first: that the changes do not explain what was measured. Empty where they may."""
        if self.measured_k * self.model_k >= 0 or min(abs(self.measured_k), abs(self.model_k)) < _SURE_K:
            return ""
        went, goes = ("hotter", "cooler") if self.measured_k > 0 else ("cooler", "hotter")
        return (
            f"These changes do not explain it: {self.name} became {number(abs(self.measured_k), 1)} K {went}, and by the model "
            f"they make it {number(abs(self.model_k), 1)} K {goes}. Something else changed as well; "
            "the shares below are the model's alone."
        )


@dataclass(frozen=True)
class Worth:
    """Whether opening pays for one sensor [K]: what is needed, what perfect joints would gain, what the test can show."""

    sensor: str
    name: str
    needed_k: float | None
    best_k: float
    best_joint: str
    best_joint_k: float
    resolution_k: float
    open: bool
    text: str


@dataclass(frozen=True)
class Quieter:
    """What a gain is worth: fans at `speed` times now, `less_db` quieter, give the old temperature.

    `at_least`: still slower ones would too, but the sink's law is not trusted there.
    """

    sensor: str
    gained_k: float
    speed: float
    less_db: float
    at_least: bool
