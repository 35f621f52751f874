"""Which fault explains what runs measured? All runs of a device judged together, with what practice says beforehand.

Readings are weighed by all that is uncertain anyway (measurement and every stated ±), so that a fault is only named where those
do not explain it; what is the same in every run (a sensor's offset, the sink) cannot explain what changed between them. Each
hypothesis is weighed by its evidence times its prior odds; those that the readings cannot tell apart are one group.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from typing import TYPE_CHECKING

import numpy as np
from scipy.stats import chi2

from ashen_bridge.bench.diagnosis.explaining import Explained, Misfit
from ashen_bridge.bench.diagnosis.grounds import Grounds
from ashen_bridge.bench.diagnosis.since import Case
from ashen_bridge.bench.diagnosis.telling_apart import told_apart, two_at_once
from ashen_bridge.bench.diagnosis.timeline import Timeline
from ashen_bridge.bench.diagnosis.trial import Trial, told_by
from ashen_bridge.bench.diagnosis.verdict import UNLIKELY, verdict
from ashen_bridge.bench.diagnosis.weighing import Weighing, log_odds
from ashen_bridge.bench.judgement import Diagnosis, Suspect
from ashen_bridge.bench.readings import readings_of
from ashen_bridge.estimate.descent import stepping
from ashen_bridge.logs.outcome import RunFigures
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine


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
            for judged, found in judging(trial, runs, others):
                yield 0.7 + 0.3 * judged, found


def judging(
    trial: Trial, runs: Sequence[RunFigures], others: Sequence[RunFigures] = ()
) -> Iterator[tuple[float, Diagnosis | None]]:
    """Yield (progress, None) while the likeliest are looked at in full, and (1, diagnosis) at the end."""
    project = trial.model.project
    every = (*runs, *told_by(project, runs, others))
    readings = readings_of(project, every, trial.model.engine)
    grounds = Grounds.of(trial.model, readings)
    said = grounds.at(np.zeros(len(trial.model.numbers)), trial.told, trial.slopes, trial.model)
    # Where places are not prepared every step is a whole prediction: there the device as it is said to be has to do.
    moves = trial.model.ready.keys() >= set(trial.model.places)
    likeliest = said
    if moves:
        likeliest = yield from stepping(grounds.likeliest(said), lambda progress: (0.2 * progress, None))
    weighing = Weighing(trial, grounds, said, likeliest, moves)
    found: dict[Case, Explained] = {}
    for progress, looked in weighing.looking(trial.cases):
        found |= looked
        yield 0.2 + 0.5 * progress, None
    none = weighing.likeliest.misfit
    best = min((one.misfit for one in found.values()), default=none.none)
    if trial.further and chi2.sf(best, max(len(none.away) - 1, 1)) < UNLIKELY:
        for progress, looked in weighing.looking(trial.further):
            found |= looked
            yield 0.7 + 0.3 * progress, None
    sensors = np.array([sensor is not None for _, sensor in readings.what])
    yield 1.0, _diagnosis(trial, tuple(run.run.id for run in runs), tuple(run.run.id for run in every), none, found, sensors)


def _diagnosis(
    trial: Trial,
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
    priors = {kind: one.odds for kind, one in trial.priors.items()}
    healthy = float(np.sqrt(np.mean(rest**2)))
    project = trial.model.project
    ordered = Timeline.of(project, [project.run(name) for name in judged if any(run.id == name for run in project.runs)]).known
    return Diagnosis(runs, suspects, healthy, none / total, words, named, judged, groups, priors, ordered)


def _suspect(misfit: Misfit, case: Case, there: Explained, weight: float, sensors: np.ndarray) -> Suspect:
    h = case.hypothesis
    value = h.healthy + there.share * (h.worst - h.healthy)
    rest = (misfit.away - there.response)[sensors]
    says = f"{h.says(value)}, {case.since}" if case.since else h.says(value)
    rms = float(np.sqrt(np.mean(rest**2)))
    return Suspect(h.id, h.title, says, h.about, h.confirm, value, rms, there.misfit, weight, case.elsewhere)
