"""Since when a fault holds: in every run, since the one that is looked at, or only from one opening to the next."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

from ashen_bridge.bench.diagnosis.hypotheses import Hypothesis, hypotheses
from ashen_bridge.bench.diagnosis.priors import Prior
from ashen_bridge.bench.diagnosis.timeline import Timeline
from ashen_bridge.evidence.bearing import Spoken, log_ratio
from ashen_bridge.logs.outcome import RunFigures
from ashen_bridge.model.project import Project


@dataclass(frozen=True)
class Case:
    """A hypothesis with the runs in which it would hold (by id), and its odds against nothing being wrong.

    `since`: in words, empty where one run leaves no question. `elsewhere`: the label of a run it is in, if it is in none of those
    that are to be explained. `seen`: the logarithm of how much likelier it makes what was seen.
    """

    hypothesis: Hypothesis
    runs: frozenset[str]
    odds: float
    since: str = ""
    elsewhere: str = ""
    seen: float = 0.0

    def with_seen(self, said: Collection[Spoken]) -> Case:
        """Return the case with what was seen of the opened device."""
        h = self.hypothesis
        found = log_ratio(said, h.kind, h.about, h.plates, self.runs)
        return replace(self, seen=found) if found else self


def cases(
    project: Project,
    explained: Sequence[RunFigures],
    others: Sequence[RunFigures],
    listed: Sequence[Hypothesis],
    priors: Mapping[str, Prior],
) -> tuple[Case, ...]:
    """Return every hypothesis with each answer to since when it holds that the runs leave room for.

    What belongs to a closing (pads, pastes, screws) holds in all runs between which its plates were not lifted; what belongs to
    the device holds always, or since the first run that is to be explained; a sensor's offset always.
    """
    order = Timeline.of(project, [one.run for one in (*explained, *others)])
    every = frozenset(order.runs)
    own = frozenset(run.run.id for run in explained)
    first = min(own, key=order.runs.index)
    # What came about stays: runs after the first explained one have it too.
    later = frozenset(order.runs[order.runs.index(first) :])
    found = []
    for one in listed:
        prior = priors.get(one.kind)
        if prior is None:
            continue
        if one.of == "closing":
            same = order.together(first, one.plates) | own
            odds = prior.of(order.opened_before(first, one.plates))
            found.append(Case(one, same, odds, "since it was closed" if same != every else ""))
        elif later == every:
            found.append(Case(one, every, prior.odds))
        else:
            if prior.always > 0:
                found.append(Case(one, every, prior.odds * prior.always, "in every run"))
            if prior.always < 1:
                found.append(Case(one, later, prior.odds * (1 - prior.always), "since this run"))
    return tuple(found)


def built_before(project: Project, runs: Sequence[RunFigures]) -> str | None:
    """Return the build that was there before that of the first of some runs, as far as runs were made of it."""
    order = Timeline.of(project, [one.run for one in runs])
    builds = {one.run.id: one.run.build for one in runs}
    now = runs[0].run
    earlier = [builds[name] for name in order.runs[: order.runs.index(now.id)]]
    return next((build for build in reversed(earlier) if build != now.build), None)


def elsewhere(
    project: Project, explained: Sequence[RunFigures], others: Sequence[RunFigures], priors: Mapping[str, Prior]
) -> tuple[Case, ...]:
    """Return what may be wrong with the closings of other runs: they speak of the device, and may have faults of their own."""
    order = Timeline.of(project, [one.run for one in (*explained, *others)])
    own = frozenset(run.run.id for run in explained)
    found: dict[tuple[str, frozenset[str]], Case] = {}
    for there in others:
        run = there.run
        for one in hypotheses(project, run.build, run.point, built_before(project, (there, *explained, *others))):
            runs = order.together(run.id, one.plates) if one.of == "closing" else own
            if one.kind in priors and not runs & own and (one.id, runs) not in found:
                odds = priors[one.kind].of(order.opened_before(run.id, one.plates))
                named = replace(one, id=f"{one.id}@{run.build}")
                found[one.id, runs] = Case(named, runs, odds, f"in “{run.label}”", run.label)
    return tuple(found.values())
