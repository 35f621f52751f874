"""Which faults readings can tell apart, and which two explain together what none does alone."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from scipy.stats import chi2

from ashen_bridge.arrays import Floats
from ashen_bridge.bench.diagnosis.explaining import Misfit
from ashen_bridge.bench.diagnosis.verdict import UNLIKELY
from ashen_bridge.bench.judgement import Alike, Suspect

_ALIKE = 1.5  # standard deviations between readings of two faults within which they are not told apart
_BELIEVED = 0.01  # below, a suspect makes no group


def told_apart(misfit: Misfit, suspects: Sequence[Suspect], responses: Mapping[str, Floats]) -> tuple[Alike, ...]:
    """Return the suspects in groups that the readings cannot tell apart, the likeliest first."""
    left = [one for one in suspects if one.weight >= _BELIEVED]
    groups = []
    while left:
        first = left[0]
        own = [one for one in left if one is first or misfit.apart(responses[first.id], responses[one.id]) < _ALIKE]
        groups.append(Alike(tuple(one.id for one in own), sum(one.weight for one in own), first.confirm))
        left = [one for one in left if one not in own]
    return tuple(sorted(groups, key=lambda one: -one.weight))


def two_at_once(misfit: Misfit, suspects: Sequence[Suspect], responses: Mapping[str, Floats]) -> tuple[Suspect, Suspect] | None:
    """Return the two faults that explain together what none does alone; None where these do not either."""
    if len(suspects) < 2:
        return None
    first = min(suspects, key=lambda one: one.criterion)
    beside = {one.id: float(misfit.of(responses[first.id] + responses[one.id])) for one in suspects if one is not first}
    second = min((one for one in suspects if one is not first), key=lambda one: beside[one.id])
    return (first, second) if chi2.sf(beside[second.id], max(len(misfit.away) - 2, 1)) >= UNLIKELY else None
