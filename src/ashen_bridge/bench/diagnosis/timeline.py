"""Which run was before which, and what was opened in between."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from ashen_bridge.model.closings import Closing
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import Run


@dataclass(frozen=True)
class Timeline:
    """Runs in their order, by id. `lifted`: the plates lifted between the run before and each; `known`: whether that was said.

    `unsaid`: runs before which the stack was opened, and nobody said how far: any joint may be another one.
    Where nobody said when runs were taken they stand in the order of the file.
    """

    runs: tuple[str, ...]
    lifted: Mapping[str, frozenset[str]]
    unsaid: frozenset[str]
    known: bool

    @classmethod
    def of(cls, project: Project, runs: Sequence[Run]) -> Timeline:
        """Return the timeline of some runs of a project."""
        at = {run.id: n for n, run in enumerate(project.runs)}
        closing = {run.id: _closing_of(project, run) for run in runs}
        order = {one.id: n for n, one in enumerate(_in_order(project.closings))}
        moments = {run.id: run.taken or (one.taken if (one := closing[run.id]) is not None else "") for run in runs}
        placed = {run.id: order[one.id] if (one := closing[run.id]) is not None else -1 for run in runs}
        timed, closed = all(moments.values()), all(place >= 0 for place in placed.values())

        def key(run: Run) -> tuple[object, ...]:
            return (moments[run.id] if timed else "", placed[run.id] if closed else 0, at.get(run.id, len(at)))

        ordered = sorted(runs, key=key)
        lifted = {ordered[0].id: frozenset[str]()} if ordered else {}
        unsaid = set()
        for before, after in pairwise(ordered):
            said = _said(project, closing[before.id], closing[after.id])
            lifted[after.id] = _changed(project, before, after) if said is None else said
            if said is None and lifted[after.id]:
                unsaid.add(after.id)
        known = len(runs) < 2 or (timed and len(set(moments.values())) == len(runs)) or (closed and _each_its_own(placed))
        return cls(tuple(run.id for run in ordered), lifted, frozenset(unsaid), known)

    def together(self, run: str, plates: frozenset[str]) -> frozenset[str]:
        """Return the runs, this one with them, between which none of some plates was lifted."""
        first = last = self.runs.index(run)
        while first > 0 and not self._parted(self.runs[first], plates):
            first -= 1
        while last + 1 < len(self.runs) and not self._parted(self.runs[last + 1], plates):
            last += 1
        return frozenset(self.runs[first : last + 1])

    def _parted(self, run: str, plates: frozenset[str]) -> bool:
        return run in self.unsaid or bool(self.lifted[run] & plates)

    def opened_before(self, run: str, plates: frozenset[str]) -> bool:
        """Return whether one of some plates was lifted between any earlier run and this one."""
        return any(self.lifted[one] & plates for one in self.runs[: self.runs.index(run) + 1])


def _each_its_own(placed: Mapping[str, int]) -> bool:
    return len(set(placed.values())) == len(placed)


def _in_order(closings: Sequence[Closing]) -> list[Closing]:
    """Return closings by when they were, if all say so, else as they stand."""
    return sorted(closings, key=lambda one: one.taken) if all(one.taken for one in closings) else list(closings)


def _closing_of(project: Project, run: Run) -> Closing | None:
    named = next((one for one in project.closings if run.id in one.runs), None)
    return named or next((one for one in reversed(project.closings) if run.build in one.builds), None)


def _said(project: Project, was: Closing | None, now: Closing | None) -> frozenset[str] | None:
    """Return the plates that were lifted from one closing to another, None where nobody said."""
    if was is None or now is None:
        return None
    closings = _in_order(project.closings)
    between = closings[closings.index(was) + 1 : closings.index(now) + 1]
    if any(one.opened is None for one in between):
        return None
    uppers = {joint.id: joint.upper for build in project.builds for joint in build.joints}
    return frozenset(uppers[name] for one in between for name in one.opened or () if name in uppers)


def _changed(project: Project, before: Run, after: Run) -> frozenset[str]:
    """Return the plates that must have been lifted for the joints of one run to become those of the other."""
    then = {joint.id: joint for joint in project.build(before.build).joints}
    later = {joint.id: joint for joint in project.build(after.build).joints}
    changed = [name for name in then.keys() | later.keys() if then.get(name) != later.get(name)]
    return frozenset((later.get(name) or then[name]).upper for name in changed)
