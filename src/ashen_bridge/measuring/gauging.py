"""Every gap with what readings made of it: estimate, methods side by side, budget, what does not fit, what nothing checks."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.changes.materials import make_pads_limp
from ashen_bridge.changes.readings import before_readings
from ashen_bridge.estimate.odd import Odd, odd_ones, redundancy
from ashen_bridge.estimate.posterior import Posterior, posterior
from ashen_bridge.estimate.rows import Rows
from ashen_bridge.measuring.budget import budget
from ashen_bridge.measuring.expected import Looks, UnusedError, closing_build
from ashen_bridge.measuring.numbers import separate_numbers
from ashen_bridge.measuring.practice import practice
from ashen_bridge.measuring.pushed import Pushed
from ashen_bridge.measuring.result import Closed, Gap, Method
from ashen_bridge.measuring.rows import Read, read_off
from ashen_bridge.model import paths
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.model.readings import FeelerReading, ImprintReading, PuttyReading
from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.uncertainty.drawing import highest, lowest
from ashen_bridge.uncertainty.together import correlation_of

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

_TURNS, _STRAIGHT = 4, 0.3  # times that slopes are taken; standard errors by which readings may be off their straight lines
_STEP = 0.5  # standard uncertainties by which they are
_UNCHECKED = 0.1  # share of a reading's error that must show for others to check it


@dataclass(frozen=True)
class Slopes:
    """The state of the numbers at `x` (n_number,): readings (n_reading,) and gaps (n_gap,) there, and what each number does."""

    x: Floats
    told: Floats
    gaps: Floats
    of_readings: Floats
    of_gaps: Floats


@dataclass(frozen=True)
class Gauging:
    """All gaps of a build. `numbers` come first among what `found` is about, then what readings have in common."""

    build: str
    numbers: tuple[Assumption, ...]
    read: Read
    slopes: Slopes
    found: Posterior
    gaps: tuple[Gap, ...]
    odd: tuple[Odd, ...]
    unchecked: tuple[str, ...]
    fill: Pushed
    closed: Mapping[str, Pushed]

    @property
    def covariance(self) -> Floats:
        """The covariance of all gaps (n_gap, n_gap) [mm²]."""
        root = _targets(self.slopes, self.found.rows.n_number) @ self.found.root
        return np.asarray(root @ root.T)

    def without(self, odd: Odd) -> tuple[tuple[float, float], ...]:
        """Return every gap and its standard uncertainty [mm] without a reading that does not fit, and those named before it."""
        start = self.slopes.gaps - self.slopes.of_gaps @ self.slopes.x
        of = [odd.without.of(target) for target in _targets(self.slopes, odd.without.rows.n_number)]
        return tuple((float(begin) + mean, sd) for begin, (mean, sd) in zip(start, of, strict=True))


def gauging(
    engine: Engine, project: Project, build: str | None = None, also: Sequence[str] = ()
) -> Iterator[tuple[float, Gauging | None]]:
    """Yield (progress, None) and at the end (1, all gaps of a build). Raises `AshenError` where it cannot be computed.

    Builds named in `also` are gauged as they were closed, even where no reading speaks of them.
    Readings are weighed against what was known before them, even where they have been taken over since.
    """
    project = before_readings(project)
    name = project.build(build).id
    closed = tuple(dict.fromkeys((*_closed_builds(project), *also)))
    numbers = separate_numbers(project, tuple(dict.fromkeys((name, *closed))))
    wanted = [(make_pads_limp(project), name), *((project, at) for at in closed)]
    ready: list[Pushed] = []
    for state, at in wanted:
        for progress, one in Pushed.preparing(engine, state, at, numbers):
            if one is not None:
                ready.append(one)
            yield 0.9 * min((len(ready) + progress * (one is None)) / len(wanted), 1.0), None
    fill, answers = ready[0], dict(zip(closed, ready[1:], strict=True))
    model = _Model(project, name, numbers, fill, answers)
    x, found = np.zeros(len(numbers)), None
    low, high = lowest(numbers), highest(numbers)
    for _ in range(_TURNS):
        slopes = model.sloped(x)
        found = posterior(_rows(numbers, model.read, slopes))
        there = np.clip(found.mean[: len(numbers)], low, high)
        bent = model.readings(there) - slopes.told - slopes.of_readings @ (there - x)
        if not np.abs(bent / model.read.errors).max(initial=0.0) > _STRAIGHT:
            break
        x = there
        yield 0.95, None
    assert found is not None  # there is at least one turn
    yield 1.0, _gauged(model, slopes, found)


_CLOSED = (ImprintReading, PuttyReading, FeelerReading)


def _closed_builds(project: Project) -> tuple[str, ...]:
    """Return the builds of which a closed gap was read."""
    found = []
    for one in project.readings:
        if isinstance(one, _CLOSED):
            try:
                found.append(closing_build(project, one.closing, one.joint))
            except UnusedError:
                continue  # said where readings are read off
    return tuple(dict.fromkeys(found))


class _Model:
    """Readings and gaps by how far every number is off: lengths along straight lines, gaps by their equilibria."""

    def __init__(
        self, project: Project, build: str, numbers: tuple[Assumption, ...], fill: Pushed, closed: Mapping[str, Pushed]
    ) -> None:
        self.project, self.build, self.numbers, self.fill, self._closed = project, build, numbers, fill, closed
        nowhere = np.zeros((1, len(numbers)))
        self._at_start = {name: dict(zip(one.keys, one.gaps(nowhere)[0], strict=True)) for name, one in closed.items()}
        looks = Looks(project, build, self._at_start)
        self.read = read_off(looks, project.readings)
        self._told = looks.of(self.read.readings)
        self._lengths = np.zeros((len(self._told), len(numbers)))
        for n, one in enumerate(numbers):
            for sign in (1.0, -1.0):
                try:
                    moved = paths.set_numbers(project, {one.paths[0]: one.value + sign * one.uncertainty})
                    self._lengths[:, n] = sign * (Looks(moved, build, self._at_start).of(self.read.readings) - self._told)
                except AshenError:
                    continue
                break
        # Which gap each reading speaks of, and how it answers to that.
        self._gap_of = [
            (looks.closing_build(one.closing, one.joint), (one.joint, one.lower), looks.by_gap(one))
            if isinstance(one, _CLOSED)
            else None
            for one in self.read.readings
        ]

    @property
    def closed_builds(self) -> Mapping[str, Pushed]:
        """The builds whose closed gaps are asked for."""
        return self._closed

    def readings(self, x: Floats) -> Floats:
        """Return the readings (n_reading,) at x."""
        return np.asarray(self._all(x[None])[0])

    def _all(self, x: Floats) -> Floats:
        """Return the readings (s, n_reading) in states x (s, n_number)."""
        found = self._told + x @ self._lengths.T
        gaps = {name: one.gaps(x) for name, one in self._closed.items()}
        for n, of in enumerate(self._gap_of):
            if of is not None:
                name, key, by = of
                found[:, n] += by * (gaps[name][:, self._closed[name].keys.index(key)] - self._at_start[name][key])
        return np.asarray(found)

    def sloped(self, x: Floats) -> Slopes:
        """Return readings and gaps at x, and what each number does to them there, by steps up and down."""
        count = len(self.numbers)
        states = np.vstack([x, x + _STEP * np.eye(count), x - _STEP * np.eye(count)])
        seen = np.hstack([self._all(states), self.fill.gaps(states)])
        middle, up, down = seen[0], seen[1 : count + 1], seen[count + 1 :]
        both = np.where(np.isnan(up), middle - down, np.where(np.isnan(down), up - middle, (up - down) / 2)) / _STEP
        slopes = np.nan_to_num(both).T
        split = len(self._told)
        return Slopes(x, middle[:split], middle[split:], slopes[:split], slopes[split:])

    def closed(self, n: int, x: Floats) -> Closed:
        """Return what a reading of a closed gap means, with the numbers at x."""
        of = self._gap_of[n]
        assert of is not None  # who asks has looked
        build, key, by = of
        there = float(self._closed[build].gaps(x[None])[0][self._closed[build].keys.index(key)])
        filled = float(self.fill.gaps(x[None])[0][self.fill.keys.index(key)])
        value = float(self.read.values[n])
        gap = there + (value - float(self.readings(x)[n])) / by
        return Closed(self.read.readings[n].id, value, there - filled, gap - (there - filled))


def _rows(numbers: Sequence[Assumption], read: Read, slopes: Slopes) -> Rows:
    """Return the rows of some readings: what is shared stands behind the numbers."""
    common = [one.slopes for one in read.common]
    count = len(numbers) + len(common)
    prior = np.eye(count)
    shared = correlation_of(numbers)
    if shared is not None:
        prior[: len(numbers), : len(numbers)] = shared
    free = np.array([False] * len(numbers) + [one.free for one in read.common])
    columns = np.hstack([slopes.of_readings, *(one[:, None] for one in common)])
    start = slopes.told - slopes.of_readings @ slopes.x
    covariance = np.diag(read.errors**2)
    return Rows(read.values, covariance, start, columns, read.labels, prior, free if free.any() else None)


def _targets(slopes: Slopes, count: int) -> Floats:
    return np.hstack([slopes.of_gaps, np.zeros((len(slopes.gaps), count - slopes.of_gaps.shape[1]))])


def _gauged(model: _Model, slopes: Slopes, found: Posterior) -> Gauging:
    numbers, read = model.numbers, model.read
    names = {one.id: one.label for one in model.project.build(model.build).joints}
    targets = _targets(slopes, found.rows.n_number)
    start = slopes.gaps - slopes.of_gaps @ slopes.x
    prior = found.rows.prior_covariance
    by_method = list(_by_method(numbers, read, slopes))
    labels = (*(f"{one.owners[0]}: {one.field}" for one in numbers), *(one.label for one in read.common))
    likeliest = np.clip(found.mean[: len(numbers)], lowest(numbers), highest(numbers))
    gaps = []
    for n, (joint, lower) in enumerate(model.fill.keys):
        target = targets[n]
        mean, sd = found.of(target)
        own = target @ prior @ target
        methods = []
        for name, part in by_method:
            longer = np.zeros(part.rows.n_number)
            longer[: len(numbers)] = target[: len(numbers)]
            by, spread = part.of(longer)
            # A method that says nothing of this gap is none.
            if spread**2 < 0.98 * own:
                methods.append(Method(name, part.rows.labels, float(start[n] + by), spread))
        gaps.append(
            Gap(
                joint,
                lower,
                names.get(joint, joint),
                (float(start[n]), float(np.sqrt(own))),
                (float(start[n] + mean), sd),
                tuple(methods),
                budget(found, target, labels),
                tuple(_closed(model, likeliest, joint, lower)),
            )
        )
    checked = redundancy(found)
    unchecked = tuple(one.id for one, share in zip(read.readings, checked, strict=True) if share < _UNCHECKED)
    odd = odd_ones(found.rows)
    return Gauging(model.build, numbers, read, slopes, found, tuple(gaps), odd, unchecked, model.fill, model.closed_builds)


def _by_method(numbers: tuple[Assumption, ...], read: Read, slopes: Slopes) -> Iterator[tuple[str, Posterior]]:
    forms = practice().forms
    for name in dict.fromkeys(forms[one.form].name for one in read.readings):
        kept = [n for n, one in enumerate(read.readings) if forms[one.form].name == name]
        part = Slopes(slopes.x, slopes.told[kept], slopes.gaps, slopes.of_readings[kept], slopes.of_gaps)
        yield name, posterior(_rows(numbers, read.only(kept), part))


def _closed(model: _Model, x: Floats, joint: str, lower: str) -> Iterator[Closed]:
    """Yield what readings of a closed gap mean, by the numbers as they are likeliest."""
    for n, one in enumerate(model.read.readings):
        if isinstance(one, _CLOSED) and (one.joint, one.lower) == (joint, lower):
            yield model.closed(n, x)
