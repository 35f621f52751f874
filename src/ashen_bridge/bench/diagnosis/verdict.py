"""What a diagnosis comes to, in words."""

from __future__ import annotations

from collections.abc import Sequence

from scipy.stats import chi2

from ashen_bridge.bench.diagnosis.explaining import Misfit
from ashen_bridge.bench.judgement import Alike, Suspect
from ashen_bridge.words.numbers import number, percent

UNLIKELY = 1e-3  # chance below which readings are not explained
UNDECIDED = 2.0  # times as likely as the next: below, it is not decided


def verdict(
    suspects: Sequence[Suspect],
    groups: Sequence[Alike],
    none: float,
    misfit: Misfit,
    best: float,
    both: tuple[Suspect, Suspect] | None,
    alone: bool,
) -> tuple[str | None, str]:
    """Return the id of the fault that is named, if one is, and the verdict in a sentence or two.

    `none` : belief that nothing is wrong. `best` : the least chi-square of any single fault. `both` : two that explain together
    what no single one does. `alone` : whether nothing but the runs in question was there to compare with.
    """
    count = len(misfit.away)
    if both is not None and chi2.sf(misfit.none, count) < UNLIKELY:
        first, second = both
        return first.id, f"Two at once: {first.title}, {first.says}; and {second.title}, {second.says}. {first.confirm}"
    group = groups[0] if groups else None
    if group is None or none >= group.weight:
        if chi2.sf(misfit.none, count) < UNLIKELY:
            return None, "None of the usual faults explains these readings; something else is wrong, or a number is far off."
        if alone:
            return None, _hidden(suspects, none)
        return (
            None,
            f"All runs fit the device as it is said to be (belief {percent(none)}): no fault is needed to explain them.",
        )
    first = next(one for one in suspects if one.id == group.ids[0])
    if first.elsewhere:
        told = f"Nothing needs to be wrong in this run; what does not fit is “{first.elsewhere}”: {first.title}, {_bare(first)}."
        return None, f"{told} {first.confirm}"
    if chi2.sf(best, max(count - 1, 1)) < UNLIKELY:
        return None, f"None explains it: even the best, “{first.title}”, leaves {number(first.misfit_k, 1)} K."
    if len(group.ids) > 1:
        others = [one for one in suspects if one.id in group.ids[1:]]
        rest = "; ".join(one.title for one in others[:3])
        told = (
            f"{first.title}, {first.says}; these readings cannot tell it from: {rest} (belief together {percent(group.weight)})."
        )
    else:
        told = f"{first.title}, {first.says} (belief {percent(group.weight)})."
    titles = {one.id: one.title for one in suspects}
    beside = max([("nothing is wrong", none), *((titles[one.ids[0]], one.weight) for one in groups[1:])], key=lambda one: one[1])
    if group.weight < UNDECIDED * beside[1]:
        told = f"Undecided: “{first.title}” ({percent(group.weight)}) or “{beside[0]}” ({percent(beside[1])})."
    rivals = [titles[one.ids[0]] for one in groups[1:] if one.weight > 0.1]
    more = f" Not ruled out: {'; '.join(rivals)}." if rivals and not told.startswith("Undecided") else ""
    return first.id, f"{told} {first.confirm}{more}"


def _bare(one: Suspect) -> str:
    return one.says.rpartition(", in “")[0] or one.says


def _hidden(suspects: Sequence[Suspect], none: float) -> str:
    """What one run by itself leaves open."""
    likely = [one.title for one in suspects if one.weight > 0.03][:3]
    could = f" What could hide in it: {'; '.join(likely)}." if likely else ""
    return (
        f"One run by itself fits the device as it is said to be (belief {percent(none)}): no fault is needed to explain it, but "
        f"smaller ones may be there.{could} A run before the last opening, or after a change, would tell."
    )
