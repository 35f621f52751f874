"""What a diagnosis stands on before a reading is looked at: the model's readings, their slopes, and what every fault changes."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.bench.diagnosis.hypotheses import Hypothesis, hypotheses
from ashen_bridge.bench.diagnosis.priors import Prior, priors_of
from ashen_bridge.bench.diagnosis.since import Case, built_before, cases, elsewhere
from ashen_bridge.bench.reading_model import Place, ReadingModel, readying
from ashen_bridge.bench.readings import readings_of, uncertain_numbers
from ashen_bridge.evidence.bearing import spoken
from ashen_bridge.logs.outcome import RunError, RunFigures
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.predict.fingerprint import shown_hash
from ashen_bridge.uncertainty.preparation import UnlikeError

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

MOST_PLACES = 4  # builds and points that are judged together: each is prepared
TRY = 0.4
"""Share of the way from healthy to worst at which every fault is tried first."""


@dataclass
class Known:
    """What faults change at one place, by fault and hundredths of its range: by sensor, None for the power; None if it cannot be.

    It hangs on the device as it is said to be alone, so that a diagnosis of another run finds it.
    """

    changes: dict[tuple[str, str, int], Mapping[str | None, float] | None] = field(default_factory=dict)

    @property
    def size(self) -> float:
        """About how much memory it takes [bytes]."""
        return 200.0 * sum(len(one or ()) for one in self.changes.values())


def _known(engine: Engine, project: Project, place: Place) -> Known:
    key = f"faults {shown_hash(project, *place)}"
    kept = engine.workings.get(key)
    if not isinstance(kept, Known):
        kept = Known()
        engine.workings.keep(key, kept)
    return kept


@dataclass(frozen=True)
class Trial:
    """What does not depend on what was measured: the model's readings, their slopes, and every hypothesis' first try.

    `further` cases are faults of other closings, tried only where none of this one explains the readings.

    `known`: what faults change at every place, as far as it has been tried.
    """

    model: ReadingModel
    told: Floats
    slopes: Floats
    cases: tuple[Case, ...]
    further: tuple[Case, ...]
    priors: Mapping[str, Prior]
    base: Mapping[Place, Mapping[str | None, float]]
    known: Mapping[Place, Known] = field(default_factory=dict, compare=False)

    @classmethod
    def preparing(
        cls,
        engine: Engine,
        project: Project,
        runs: Sequence[RunFigures],
        others: Sequence[RunFigures] = (),
        priors: Mapping[str, Prior] | None = None,
    ) -> Iterator[tuple[float, Trial | None]]:
        """Yield (progress, None), and (1, trial) at the end. Raises `RunError` where runs are of several builds."""
        places = {(run.run.build, run.run.point) for run in runs}
        if len(places) != 1:
            raise RunError("A diagnosis is of one build at one operating point; these runs are of several.")
        build, point = places.pop()
        every = (*runs, *told_by(project, runs, others))
        readings = readings_of(project, every, engine)
        numbers = uncertain_numbers(project, every)
        model = ReadingModel(engine, project, numbers, readings)
        # The first field says in words why it cannot be computed, if so; the fine one decides where the readings stand.
        model.of(project)
        for progress, ready in readying(engine, project, numbers, readings):
            yield 0.5 * progress, None
            model = ready or model
        nowhere = np.zeros(len(numbers))
        model, told = model.anchored(nowhere) or (model, model.of(project))
        slopes = np.zeros((len(told), len(numbers)))
        for progress, sloped in model.sloping(nowhere, told):
            slopes = slopes if sloped is None else sloped
            yield 0.5 + 0.2 * progress, None
        used = priors_of(project) if priors is None else priors
        listed = hypotheses(project, build, point, built_before(project, every))
        beside = told_by(project, runs, others)
        found, further = cases(project, runs, beside, listed, used), elsewhere(project, runs, beside, used)
        said = spoken(engine, project)
        found, further = (tuple(one.with_seen(said) for one in each) for each in (found, further))
        base = {place: _shown(model, lambda same: same, place) for place in model.places}
        kept = {place: _known(engine, project, place) for place in model.places}
        trial = cls(model, told, slopes, found, further, used, base, kept)
        for n, one in enumerate(found):
            trial.response(one, TRY)
            yield 0.7 + 0.3 * (n + 1) / (len(found) + 1), None
        yield 1.0, trial

    def response(self, case: Case, share: float) -> Floats | None:
        """Return by how much a fault changes the readings (n,) at a share of its worst; None where it cannot be."""
        h, what = case.hypothesis, self.model.readings.what
        value = h.healthy + share * (h.worst - h.healthy)
        if h.sensor:
            return np.array([value if sensor == h.sensor and run.run.id in case.runs else 0.0 for run, sensor in what])
        places = {(run.run.build, run.run.point) for run, _ in what if run.run.id in case.runs}
        changed = {}
        for place in places:
            there = self._changed(h, share, value, place)
            if there is None:
                return None
            changed[place] = there
        return np.array(
            [changed[run.run.build, run.run.point][sensor] if run.run.id in case.runs else 0.0 for run, sensor in what]
        )

    def _changed(self, h: Hypothesis, share: float, value: float, place: Place) -> Mapping[str | None, float] | None:
        key, known = (h.id, h.title, round(100 * share)), self.known[place].changes
        if key not in known:
            try:
                there = _shown(self.model, lambda project: h.applied(project, value), place)
                known[key] = {sensor: there[sensor] - was for sensor, was in self.base[place].items()}
            except AshenError:
                known[key] = None
        return known[key]


def told_by(project: Project, runs: Sequence[RunFigures], others: Sequence[RunFigures]) -> tuple[RunFigures, ...]:
    """Return those other runs that say something: read by mapped sensors, of builds that are still there, at few places.

    A run that throttled hides how hot it would have been, so it does not speak beside others.
    """
    own = {run.run.id for run in runs}
    builds = {build.id for build in project.builds}
    places = {(run.run.build, run.run.point) for run in runs}
    found = []
    for run in others:
        if run.run.id in own or run.run.build not in builds or not any(one.sensor for one in run.run.channels):
            continue
        if any(one.throttled for one in run.passes):
            continue
        place = run.run.build, run.run.point
        if place not in places and len(places) >= MOST_PLACES:
            continue
        places.add(place)
        found.append(run)
    return tuple(found)


def _shown(model: ReadingModel, change: Callable[[Project], Project], place: Place) -> dict[str | None, float]:
    """Return what sensors show [°C] and the power made [W] (None) in a changed state of the project at a place."""
    ready = model.ready.get(place)
    # Of the very objects that were prepared, so that what does not change is known to be the same.
    same = model.project if ready is None else ready.prepared.project
    project = change(same)
    if ready is None or project.point(place[1]).throttle_at_c:
        # A fault may bring to its limit what does not throttle as it is said to be: then only whole predictions tell.
        sensors, made = model.engine.shown(project, *place)
        return {None: made} | {row.id: row.value_c for row in sensors}
    power = ready.prepared.power_in(project)
    try:
        return {None: power} | ready.prepared.in_project(project)
    except UnlikeError:
        # Of another shape: what whole predictions say of the difference.
        was, now = ({row.id: row.value_c for row in model.engine.shown(one, *place)[0]} for one in (same, project))
        here = ready.prepared.in_project(same)
        return {None: power} | {name: value + now.get(name, value) - was.get(name, value) for name, value in here.items()}
