"""Since when a fault holds: in every run, since the one that is looked at, or only where its joint was opened."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from ashen_bridge.bench.hypotheses import Hypothesis, hypotheses
from ashen_bridge.bench.priors import Prior
from ashen_bridge.logs.outcome import RunFigures
from ashen_bridge.model.project import Project


@dataclass(frozen=True)
class Case:
    """A hypothesis with the runs in which it would hold (by id), and its odds against nothing being wrong.

    `since`: in words, empty where one run leaves no question. `elsewhere`: the label of a run it is in, if it is in none of those
    that are to be explained.
    """

    hypothesis: Hypothesis
    runs: frozenset[str]
    odds: float
    since: str = ""
    elsewhere: str = ""


def cases(
    project: Project,
    explained: Sequence[RunFigures],
    others: Sequence[RunFigures],
    listed: Sequence[Hypothesis],
    priors: Mapping[str, Prior],
) -> tuple[Case, ...]:
    """Return every hypothesis with each answer to since when it holds that the runs leave room for.

    What belongs to a closing (pads, pastes, screws) holds in all runs of that build and in no other; what belongs to the device
    holds always or since the run that is to be explained; a sensor's offset always.
    """
    build = explained[0].run.build
    every = frozenset(run.run.id for run in (*explained, *others))
    own = frozenset(run.run.id for run in explained)
    same = own | {run.run.id for run in others if run.run.build == build}
    lifted = _lifted(project, build, [run.run.build for run in others])
    found = []
    for one in listed:
        prior = priors.get(one.kind)
        if prior is None:
            continue
        if one.of == "closing":
            found.append(Case(one, same, prior.of(bool(one.plates & lifted)), "since it was closed" if same != every else ""))
        elif own == every:
            found.append(Case(one, every, prior.odds))
        else:
            if prior.always > 0:
                found.append(Case(one, every, prior.odds * prior.always, "in every run"))
            if prior.always < 1:
                found.append(Case(one, own, prior.odds * (1 - prior.always), "since this run"))
    return tuple(found)


def elsewhere(
    project: Project, explained: Sequence[RunFigures], others: Sequence[RunFigures], priors: Mapping[str, Prior]
) -> tuple[Case, ...]:
    """Return what may be wrong with the closings of other runs: they speak of the device, and may have faults of their own."""
    own = explained[0].run.build
    found = []
    for build in dict.fromkeys(run.run.build for run in others if run.run.build != own):
        there = [run for run in others if run.run.build == build]
        runs, label = frozenset(run.run.id for run in there), there[0].run.label
        lifted = _lifted(project, build, [run.run.build for run in (*explained, *others)])
        for one in hypotheses(project, build, there[0].run.point):
            if one.of == "closing" and one.kind in priors:
                odds = priors[one.kind].of(bool(one.plates & lifted))
                found.append(Case(replace(one, id=f"{one.id}@{build}"), runs, odds, f"in “{label}”", label))
    return tuple(found)


def _lifted(project: Project, build: str, others: Sequence[str]) -> set[str]:
    """Return the plates that must have been lifted between the build before and this one: a joint under them is another."""
    before = next((one for one in reversed(others) if one != build), None)
    if before is None:
        return set()
    then = {joint.id: joint for joint in project.build(before).joints}
    now = {joint.id: joint for joint in project.build(build).joints}
    changed = [name for name in then.keys() | now.keys() if then.get(name) != now.get(name)]
    return {(now.get(name) or then[name]).upper for name in changed}
