"""Which fault explains what runs measured? All runs of a device judged together, with what practice says beforehand.

Readings are weighed by all that is uncertain anyway (measurement and every stated ±), so that a fault is only named where those
do not explain it; what is the same in every run (a sensor's offset, the sink) cannot explain what changed between them. Each
hypothesis is weighed by its evidence times its prior odds; those that the readings cannot tell apart are one group.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np
from scipy.stats import chi2

from ashen_bridge.arrays import Floats
from ashen_bridge.bench.diagnosis.explaining import Explained, Misfit
from ashen_bridge.bench.diagnosis.grounds import Grounds
from ashen_bridge.bench.diagnosis.hypotheses import Hypothesis, hypotheses
from ashen_bridge.bench.diagnosis.priors import Prior, priors_of
from ashen_bridge.bench.diagnosis.since import Case, built_before, cases, elsewhere
from ashen_bridge.bench.diagnosis.telling_apart import told_apart, two_at_once
from ashen_bridge.bench.diagnosis.timeline import Timeline
from ashen_bridge.bench.diagnosis.verdict import UNLIKELY, verdict
from ashen_bridge.bench.diagnosis.weighing import TRY, Weighing, log_odds
from ashen_bridge.bench.judgement import Diagnosis, Suspect
from ashen_bridge.bench.reading_model import Place, ReadingModel, readying
from ashen_bridge.bench.readings import readings_of, uncertain_numbers
from ashen_bridge.estimate.descent import stepping
from ashen_bridge.evidence.bearing import spoken
from ashen_bridge.logs.outcome import RunError, RunFigures
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.predict.fingerprint import shown_hash
from ashen_bridge.uncertainty.preparation import UnlikeError

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

MOST_PLACES = 4  # builds and points that are judged together: each is prepared


def diagnose(engine: Engine, project: Project, runs: Sequence[RunFigures], others: Sequence[RunFigures] = ()) -> Diagnosis:
    """Return the diagnosis of some runs, all `others` of the device speaking for or against.

    Raises `RunError` where the runs to be explained are of several builds or hold nothing to go by.
    """
    *_, (_, found) = diagnosing(engine, project, runs, others)
    assert found is not None  # the last one always is
    return found


def diagnosing(
    engine: Engine, project: Project, runs: Sequence[RunFigures], others: Sequence[RunFigures] = ()
) -> Iterator[tuple[float, Diagnosis | None]]:
    """Yield (progress, None) while hypotheses are tried, and (1, diagnosis) at the end."""
    for share, trial in Trial.preparing(engine, project, runs, others):
        yield 0.7 * share, None
        if trial is not None:
            for judged, found in trial.judging(runs, others):
                yield 0.7 + 0.3 * judged, found


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

    def judging(self, runs: Sequence[RunFigures], others: Sequence[RunFigures] = ()) -> Iterator[tuple[float, Diagnosis | None]]:
        """Yield (progress, None) while the likeliest are looked at in full, and (1, diagnosis) at the end."""
        project = self.model.project
        every = (*runs, *told_by(project, runs, others))
        readings = readings_of(project, every, self.model.engine)
        grounds = Grounds.of(self.model, readings)
        said = grounds.at(np.zeros(len(self.model.numbers)), self.told, self.slopes, self.model)
        # Where places are not prepared every step is a whole prediction: there the device as it is said to be has to do.
        moves = self.model.ready.keys() >= set(self.model.places)
        likeliest = said
        if moves:
            likeliest = yield from stepping(grounds.likeliest(said), lambda progress: (0.2 * progress, None))
        weighing = Weighing(self, grounds, said, likeliest, moves)
        found: dict[Case, Explained] = {}
        for progress, looked in weighing.looking(self.cases):
            found |= looked
            yield 0.2 + 0.5 * progress, None
        none = weighing.likeliest.misfit
        best = min((one.misfit for one in found.values()), default=none.none)
        if self.further and chi2.sf(best, max(len(none.away) - 1, 1)) < UNLIKELY:
            for progress, looked in weighing.looking(self.further):
                found |= looked
                yield 0.7 + 0.3 * progress, None
        sensors = np.array([sensor is not None for _, sensor in readings.what])
        yield 1.0, self._diagnosis(tuple(run.run.id for run in runs), tuple(run.run.id for run in every), none, found, sensors)

    def _diagnosis(
        self,
        runs: tuple[str, ...],
        judged: tuple[str, ...],
        misfit: Misfit,
        found: Mapping[Case, Explained],
        sensors: np.ndarray,
    ) -> Diagnosis:
        logs = {one: there.evidence - misfit.evidence + log_odds(one) for one, there in found.items()}
        top = max([0.0, *logs.values()])
        none = math.exp(-top)
        total = none + sum(math.exp(one - top) for one in logs.values())
        belief = {one: math.exp(log - top) / total for one, log in logs.items()}
        # The same fault since different runs is one suspect.
        by_fault: dict[str, list[Case]] = {}
        for one in sorted(found, key=lambda one: -belief[one]):
            by_fault.setdefault(one.hypothesis.id, []).append(one)
        rows = sorted(by_fault.values(), key=lambda row: -sum(belief[one] for one in row))
        suspects = tuple(_suspect(misfit, row[0], found[row[0]], sum(belief[one] for one in row), sensors) for row in rows)
        responses = {one.id: found[row[0]].response for one, row in zip(suspects, rows, strict=True)}
        groups = told_apart(misfit, suspects, responses)
        rest = misfit.away[sensors]
        best = min((one.misfit for one in found.values()), default=misfit.none)
        both = two_at_once(misfit, suspects, responses) if chi2.sf(best, max(len(misfit.away) - 1, 1)) < UNLIKELY else None
        named, words = verdict(suspects, groups, none / total, misfit, best, both, alone=len(judged) == len(runs))
        priors = {kind: one.odds for kind, one in self.priors.items()}
        healthy = float(np.sqrt(np.mean(rest**2)))
        project = self.model.project
        ordered = Timeline.of(
            project, [project.run(name) for name in judged if any(run.id == name for run in project.runs)]
        ).known
        return Diagnosis(runs, suspects, healthy, none / total, words, named, judged, groups, priors, ordered)


def _suspect(misfit: Misfit, case: Case, there: Explained, weight: float, sensors: np.ndarray) -> Suspect:
    h = case.hypothesis
    value = h.healthy + there.share * (h.worst - h.healthy)
    rest = (misfit.away - there.response)[sensors]
    says = f"{h.says(value)}, {case.since}" if case.since else h.says(value)
    rms = float(np.sqrt(np.mean(rest**2)))
    return Suspect(h.id, h.title, says, h.about, h.confirm, value, rms, there.misfit, weight, case.elsewhere)


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
