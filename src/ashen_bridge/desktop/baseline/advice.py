"""Advice beside a run, as rich text."""

from __future__ import annotations

from ashen_bridge.bench.advice.verdicts import Attribution, Quieter, TestPlan, Transfer, Worth
from ashen_bridge.desktop.parts.rich import NOTHING, Rich, bold, paragraph, rich, table
from ashen_bridge.words.numbers import number, percent
from ashen_bridge.words.times import time_words


def plan_words(plan: TestPlan) -> Rich:
    """Return a test plan as rich text."""
    spread = "measured here" if plan.measured else "usual, none was repeated yet"
    return rich(
        bold(f"Run {time_words(plan.seconds)} under load, {plan.passes} passes of each build."),
        f" {plan.slowest} needs {time_words(plan.soak_s)} to come within 1 K of its end. Passes differ by "
        f"{number(plan.spread_k, 2)} K ({spread}); so many show a difference of {number(plan.resolution_k, 1)} K.",
    )


def transfer_words(found: Transfer) -> Rich:
    """Return a transferred result as rich text."""
    rows = [
        (
            one.name,
            rich(f"{number(one.here_c, 1)} → ", bold(number(one.there_c, 1)), f" ± {number(one.uncertainty, 1)} °C"),
            "! over" if one.over else "",
        )
        for one in found.sensors[:5]
    ]
    return rich(bold(found.text), table(rows, right=(1, 2)))


def worth_words(found: Worth) -> Rich:
    """Return whether opening pays as rich text."""
    return bold(found.text)


def shares_words(value: tuple[Attribution | None, Quieter | None]) -> Rich:
    """Return shares of several changes, and what a gain is worth in quiet, as rich text."""
    found, quiet = value
    if found is None:
        return NOTHING
    rows = []
    for one in found.shares[:6]:
        undecided = f" ± {number(one.undecided_k, 1)}" if one.undecided_k >= 0.05 else ""
        told = one.first_k is not None or one.last_k is not None
        figure = f"{number(one.middle_k, 1, sign=True)}{undecided} K" if told else "cannot be computed alone"
        rows.append((one.label, figure))
    said = rich(
        paragraph(bold(found.doubt)) if found.doubt else NOTHING,
        paragraph(
            bold(f"{found.name}: {number(found.measured_k, 1, sign=True)} K measured"),
            f", {number(found.model_k, 1, sign=True)} K by the model.",
        ),
        table(rows, right=(1,)),
        paragraph(found.settle),
    )
    if quiet is None:
        return said
    least = "at least " if quiet.at_least else ""
    share = f"the fans at {percent(quiet.speed)} of now"
    return rich(said, paragraph(f"Or as hot as before with {share}: {least}{number(quiet.less_db, 1)} dB quieter."))
