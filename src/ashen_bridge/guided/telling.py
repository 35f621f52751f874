"""What was assumed, what was fitted and what does not fit, in words."""

from __future__ import annotations

from collections.abc import Sequence

from ashen_bridge.bench.judgement import Calibration, FittedNumber
from ashen_bridge.guided.answers import Answers
from ashen_bridge.guided.check import SEEN, words_of
from ashen_bridge.guided.matters import cause, what
from ashen_bridge.guided.questions import Ask, pages
from ashen_bridge.guided.result import SeenBeside
from ashen_bridge.guided.usual import usual
from ashen_bridge.model.project import Project
from ashen_bridge.model.signs import unit_of
from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.words.numbers import measured, number, short

_FELT_K = 0.3
_UNLESS = {"name", "wish", "goal_c", "kind", "watts_of", "changed", "worse", "pad_wanted_mm", *SEEN}


def assumed_words(answers: Answers) -> str:
    """Return what was left open, with what stands for it, in a sentence."""
    left = [
        f"{words_of(ask.field).lower()} {_value(ask, answers)}{f' {ask.unit}' if ask.unit else ''}"
        for page in pages(answers)
        for ask in page.asked(answers)
        if ask.field not in _UNLESS and getattr(answers, ask.field) is None
    ]
    always = "heights, springs and materials are the usual of its kind"
    return f"Taken as usual: {'; '.join(left)}; and {always}." if left else f"All questions were answered; {always}."


def _value(ask: Ask, answers: Answers) -> str:
    value = usual(answers, ask.field)
    words = {str(option): said for said, option in ask.options} if ask.how == "choice" else {}
    if str(value) in words:
        return words[str(value)]
    if isinstance(value, tuple):
        return " · ".join(str(one) for one in value)
    return short(value) if isinstance(value, int | float) else str(value)


def fitted_words(found: Calibration | None) -> str:
    """Return which numbers moved to explain what was seen."""
    if found is None:
        return "Nothing was seen, so nothing could be fitted: the temperatures are those of a usual device of this kind."
    told = [one for one in found.numbers if one.counts]
    moved = sorted(told, key=lambda one: -abs(one.after - one.before) / max(one.before_u, 1e-12))[:3]
    if not moved:
        return "What was seen goes with the usual of its kind: no number had to move."
    return f"Fitted to what was seen: {'; '.join(_moved(one) for one in moved)}."


def _moved(one: FittedNumber) -> str:
    words, _ = what(_as_assumption(one))
    unit = unit_of(one.field.rsplit(".", 1)[-1])
    was, now = measured(one.before, one.before_u, unit), measured(one.after, one.after_u, unit)
    return f"{words} {now} (it was {was})"


def misfit_words(seen: Sequence[SeenBeside], causes: dict[str, tuple[str, ...]]) -> tuple[str, ...]:
    """Return a sentence for each reading that no sensible change of the numbers explains."""
    said = []
    for one in seen:
        if not one.met:
            must = " or ".join(causes.get(one.name, ())) or "something that was not asked about"
            saw = f"You saw {number(one.seen_c)} °C at {one.name}, this device gives {number(one.after_c)}"
            said.append(f"{saw}: there must be {must}.")
    return tuple(said)


def causes_of(weighed: Sequence[Assumption], project: Project, seen: Sequence[SeenBeside]) -> dict[str, tuple[str, ...]]:
    """Return for each reading, by its name, what would have to be otherwise for it: the strongest two."""
    ids = {sensor.label: sensor.id for sensor in project.device.sensors}
    causes: dict[str, tuple[str, ...]] = {}
    for one in seen:
        by = [(dict(number.effects).get(ids[one.name], 0.0), number) for number in weighed]
        strongest = sorted(by, key=lambda pair: -abs(pair[0]))[:4]
        higher = one.seen_c > one.after_c
        words = [cause(number, (effect > 0) == higher) for effect, number in strongest if abs(effect) > _FELT_K]
        causes[one.name] = tuple(dict.fromkeys(words))[:2]
    return causes


def _as_assumption(one: FittedNumber) -> Assumption:
    return Assumption(one.paths, one.field, one.owners, one.before, one.before_u, "assumed", "")
