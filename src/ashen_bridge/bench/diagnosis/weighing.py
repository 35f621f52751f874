"""Cases weighed against what was read: all by a first try, the promising ones in full."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import partial

from ashen_bridge.arrays import Floats
from ashen_bridge.bench.diagnosis.explaining import Explained, explained, explained_sensor, explained_whole
from ashen_bridge.bench.diagnosis.grounds import Ground, Grounds
from ashen_bridge.bench.diagnosis.since import Case
from ashen_bridge.bench.diagnosis.trial import TRY, Trial
from ashen_bridge.estimate.descent import stepping

_FITTED = 8  # cases that are looked at in full, those whose first try promises most
_MORE = (0.15, 1.0)  # shares of the way from healthy to worst at which the promising are tried as well
_ANCHORED = 4  # faults that are weighed by the fine field, one after another, while they are believed most
_SAYS, _HOPELESS = 1.5, 8.0  # logarithms of evidence: above none, for readings to speak for a fault; below the best, for nothing


def log_odds(case: Case) -> float:
    """Return the logarithm of the odds of a case beside the readings: from practice, and from what was seen."""
    return math.log(max(case.odds, 1e-12)) + case.seen


def _at(done: float, _: float) -> tuple[float, dict[Case, Explained]]:
    return done, {}


@dataclass(frozen=True)
class Weighing:
    """Cases weighed about the device as it is `said` to be, and about what it is `likeliest` if nothing is wrong; those that
    explain more also about what it is likeliest beside them, where numbers can be `moved`.
    """

    trial: Trial
    grounds: Grounds
    said: Ground
    likeliest: Ground
    moved: bool

    def looking(self, wanted: Sequence[Case]) -> Iterator[tuple[float, dict[Case, Explained]]]:
        """Yield (progress, how some cases explain the readings), the promising ones looked at in full."""
        first: dict[Case, Floats] = {}
        for n, one in enumerate(wanted):
            there = self.trial.response(one, TRY)
            if there is not None and there.any():
                first[one] = there
            yield 0.4 * (n + 1) / len(wanted), {}
        tried = {one: self._best(one, {TRY: there}) for one, there in first.items()}
        promising = sorted(tried, key=lambda one: -tried[one][0].evidence)[:_FITTED]
        none = self.likeliest.misfit.evidence
        best = none
        looked: dict[Case, Explained] = {}
        more: dict[Case, tuple[Mapping[float, Floats], Ground]] = {}
        for n, one in enumerate(promising):
            known = {TRY: first[one]}
            for share in () if one.hypothesis.sensor or one.hypothesis.all_or_nothing else _MORE:
                there = self.trial.response(one, share)
                if there is not None:
                    known[share] = there
            found, ground = self._best(one, known)
            best = max(best, found.evidence)
            if self.moved and found.evidence > max(none + _SAYS, best - _HOPELESS):
                done = 0.4 + 0.4 * n / len(promising)
                beside_it = yield from stepping(self.grounds.beside(found.response, ground), partial(_at, done))
                beside = self._explained(beside_it, one, known)
                found = max(found, beside, key=lambda each: each.evidence)
                more[one] = known, ground
            looked[one] = found
            yield 0.4 + 0.4 * (n + 1) / (len(promising) + 1), {}
        # Whichever is believed most must be so by the fine field: a descent may have led where the coarse one is off.
        for turn in range(_ANCHORED):
            first_of_all = max(looked, key=lambda one: looked[one].evidence + log_odds(one), default=None)
            if first_of_all is None or first_of_all not in more:
                break
            tries, ground = more.pop(first_of_all)
            response = looked[first_of_all].response
            done = 0.8 + 0.2 * turn / _ANCHORED
            beside_it = yield from stepping(self.grounds.beside(response, ground, anchored=True), partial(_at, done))
            again = [self._explained(one, first_of_all, tries) for one in (beside_it, ground)]
            looked[first_of_all] = max(again, key=lambda each: each.evidence)
        yield 1.0, looked | {one: tried[one][0] for one in first if one not in promising}

    def _best(self, case: Case, known: Mapping[float, Floats]) -> tuple[Explained, Ground]:
        """Return how a case explains the readings about the ground where it does so best: far away straight lines reach less."""
        both = [(self._explained(ground, case, known), ground) for ground in (self.said, self.likeliest)]
        return max(both, key=lambda each: each[0].evidence)

    def _explained(self, ground: Ground, case: Case, known: Mapping[float, Floats]) -> Explained:
        h = case.hypothesis
        if h.sensor:
            return explained_sensor(ground.misfit, known[TRY] / abs(TRY * h.worst), h.worst)
        if h.all_or_nothing:
            return explained_whole(ground.misfit, known[TRY])
        return explained(ground.misfit, known)
