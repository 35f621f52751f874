"""What runs prove: comparison, calibration and diagnosis as plain results; nothing is computed here."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from itertools import count
from typing import Literal

from ashen_bridge.changes.records import keep_calibration
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Origin, q
from ashen_bridge.model.records import CalibratedNumber, CalibrationRecord
from ashen_bridge.words.numbers import number

TOLD = 0.05  # a number of whose variance the runs take away less was not told anything
BENT_K = 0.5  # from here on it is said that slopes do not hold
MOVED = 0.002  # of its standard uncertainty: what moves less did not move

Verdict = Literal["better", "worse", "no difference that this test can show"]


@dataclass(frozen=True)
class Difference:
    """After minus before [K] with its 95 % interval, and what that means."""

    before: float
    after: float
    difference: float
    low: float
    high: float
    verdict: Verdict


@dataclass(frozen=True)
class ComparedSensor:
    """One sensor: rises over ambient before and after [K], by equal power if that was asked for.

    `k_w`: rise over power before and after with its 95 % interval; None for fewer than three passes or without power.
    """

    sensor: str
    name: str
    rise: Difference
    k_w: tuple[tuple[float, float, float] | None, tuple[float, float, float] | None] = (None, None)


@dataclass(frozen=True)
class Beside:
    """What a run does besides being warm, before and after, with the 95 % half width of the change; all in `unit`."""

    role: str
    name: str
    unit: str
    before: float
    after: float
    half_width: float

    @property
    def sure(self) -> bool:
        """Whether it changed by more than chance, and by more than rounding."""
        return abs(self.after - self.before) > max(self.half_width, 0.002 * abs(self.before))

    @property
    def words(self) -> str:
        """The change in words: decibels as they are, all else as a share."""
        change = self.after - self.before
        more = "more" if change > 0 else "less"
        if not self.sure:
            return f"the same {self.name}"
        if self.unit == "dB":
            return f"{number(abs(change))} dB {'louder' if change > 0 else 'quieter'}"
        if not self.before:
            return f"{change:+.3g} {self.unit} {self.name}"
        return f"{number(100 * abs(change / self.before))} % {more} {self.name}"


def beside_words(found: tuple[Beside, ...]) -> str:
    """Return what changed besides temperatures in a sentence; empty where nothing did and no work was counted."""
    told = [one.words for one in found if one.sure or one.role == "rate"]
    return f"Beside it: {', '.join(told)}." if told else ""


@dataclass(frozen=True)
class Comparison:
    """All sensors both runs have, those that became worse first; what else both log; cautions in words."""

    before: str
    after: str
    equal_power: bool
    sensors: tuple[ComparedSensor, ...]
    hot_minus_mean: tuple[float, float] | None
    cautions: tuple[str, ...]
    beside: tuple[Beside, ...] = ()

    @property
    def beside_words(self) -> str:
        """What changed besides temperatures, in a sentence; empty where nothing else is logged."""
        return beside_words(self.beside)


@dataclass(frozen=True)
class FittedNumber:
    """One number before and after. `told`: the share of its variance that the runs took away; `along` which directions."""

    paths: tuple[str, ...]
    field: str
    owners: tuple[str, ...]
    before: float
    before_u: float
    after: float
    after_u: float
    told: float
    along: tuple[float, ...] = ()

    @property
    def counts(self) -> bool:
        """Whether the fit changed it: it moved, or the runs took enough of its uncertainty."""
        return self.told >= TOLD or abs(self.after - self.before) > MOVED * self.before_u


@dataclass(frozen=True)
class Residual:
    """One sensor of one run [°C at the operating point's ambient]: measured, with its ±, and the model before and after.

    `off`: by how many standard deviations it is off what all other readings say. `tells`: what it tells that no other one does
    [nat].
    """

    run: str
    sensor: str
    name: str
    measured: float
    uncertainty: float
    before: float
    after: float
    off: float = 0.0
    tells: float = 0.0


@dataclass(frozen=True)
class OddReading:
    """A reading that does not fit the others: by how much it is `off` [K, or W of the power] what these say, and how surely.

    `expected` ± `uncertainty` [°C, or W] is what all others say it should have been.
    """

    run: str
    run_label: str
    sensor: str
    name: str
    off: float
    sigmas: float
    expected: float
    uncertainty: float

    @property
    def words(self) -> str:
        """The reading in a sentence."""
        unit, quantity = ("°C", "K") if self.sensor else ("W", "W")
        return (
            f"{self.name} of “{self.run_label}” does not fit the other readings: by these it would be "
            f"{number(self.expected, 1)} ± {number(self.uncertainty, 1)} {unit}, and it reads "
            f"{number(abs(self.off), 1)} {quantity} {'more' if self.off > 0 else 'less'}."
        )


@dataclass(frozen=True)
class Calibration:
    """A fit: numbers by how much they were told, readings, misfits [K, root mean square], pairs that are not told apart.

    `odd`: readings that do not fit the others. `bent_k`: by how much readings depart from the slopes within what is left.
    """

    runs: tuple[str, ...]
    numbers: tuple[FittedNumber, ...]
    residuals: tuple[Residual, ...]
    misfit_before_k: float
    misfit_after_k: float
    not_apart: tuple[tuple[str, str, float], ...]
    odd: tuple[OddReading, ...] = ()
    bent_k: float = 0.0

    def record(self, project: Project) -> CalibrationRecord:
        """Return this fit as a project keeps it: the numbers the runs told something about, marked as calibrated."""
        note = f"from run {', '.join(self.runs)}"[:200]
        used = {one.id for one in project.calibrations}
        number = next(n for n in count(1) if f"fit_{n}" not in used)
        return CalibrationRecord(
            id=f"fit_{number}",
            runs=self.runs,
            numbers=tuple(
                CalibratedNumber(
                    path=path, was=one.before, now=q(one.after, one.after_u, Origin.CALIBRATED, note), told=one.along
                )
                for one in self.numbers
                if one.counts
                for path in one.paths
            ),
            misfit_before_k=self.misfit_before_k,
            misfit_after_k=self.misfit_after_k,
        )

    def recorded(self, project: Project) -> Project:
        """Return the project with this fit kept and in use."""
        return keep_calibration(project, self.record(project))


@dataclass(frozen=True)
class Suspect:
    """One hypothesis and how well it explains the readings.

    `value`: its number at the best fit. `misfit_k`: root mean square over sensors. `criterion`: chi-square that is left.
    `elsewhere`: the run it is in, where that is none of those to be explained.
    `weight`: its share of belief among all and none.
    """

    id: str
    title: str
    says: str
    about: str
    confirm: str
    value: float
    misfit_k: float
    criterion: float
    weight: float
    elsewhere: str = ""


@dataclass(frozen=True)
class Alike:
    """Suspects that readings cannot tell apart, their beliefs together, and the look that would tell."""

    ids: tuple[str, ...]
    weight: float
    confirm: str


@dataclass(frozen=True)
class Diagnosis:
    """Suspects, likeliest first; the misfit without any; a verdict in one sentence. `named`: the first one, if it is one.

    `judged`: all runs that spoke, those of `runs` being explained. `groups`: suspects that are not told apart. `priors`: odds of
    a fault of each kind against none, beforehand. `ordered`: whether somebody said which run was before which.
    """

    runs: tuple[str, ...]
    suspects: tuple[Suspect, ...]
    healthy_misfit_k: float
    healthy_weight: float
    verdict: str
    named: str | None
    judged: tuple[str, ...] = ()
    groups: tuple[Alike, ...] = ()
    priors: Mapping[str, float] = field(default_factory=dict)
    ordered: bool = True


Pair = tuple[float, float]


@dataclass(frozen=True)
class ProvedSensor:
    """One sensor of the run as built, at the operating point's ambient: each pair is a temperature and its standard uncertainty.

    `was_c`: what the baseline run measured; None where it was logged at another operating point. `offset_k`: what the sensor
    itself may be off by: it is in both predictions, and counts where a limit is judged.
    """

    sensor: str
    name: str
    body: str
    was_c: float | None
    predicted: Pair
    calibrated: Pair
    measured: Pair
    goal_c: float | None
    limit_c: float | None
    offset_k: float = 0.0

    @property
    def surprise(self) -> float:
        """Measured less calibrated prediction, by the uncertainty of both."""
        spread = math.hypot(self.calibrated[1], self.measured[1])
        return (self.measured[0] - self.calibrated[0]) / max(spread, 1e-9)

    @property
    def aim_c(self) -> float | None:
        """What it should keep below: the goal, else the limit."""
        return self.goal_c if self.goal_c is not None else self.limit_c

    @property
    def state(self) -> Literal["met", "missed", "open", "none"]:
        """Whether it keeps below its aim: `open` where that lies within twice the uncertainty of the measurement."""
        if self.aim_c is None:
            return "none"
        away = (self.aim_c - self.measured[0]) / max(math.hypot(self.measured[1], self.offset_k), 1e-9)
        return "met" if away >= 2 else "missed" if away <= -2 else "open"


@dataclass(frozen=True)
class Proof:
    """What a repair came to, sensor by sensor. `skin`: what nobody measured, by the calibrated model, name and °C each."""

    before: str
    after: str
    sensors: tuple[ProvedSensor, ...]
    skin: tuple[tuple[str, float], ...] = ()
    beside: tuple[Beside, ...] = ()

    def surprises(self, sigmas: float = 2.5) -> tuple[ProvedSensor, ...]:
        """Return sensors that are hotter than the calibrated model can explain, most astonishing first."""
        found = [one for one in self.sensors if one.surprise > sigmas]
        return tuple(sorted(found, key=lambda one: -one.surprise))
