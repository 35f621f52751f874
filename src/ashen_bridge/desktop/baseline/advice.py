"""Advice beside a run, as rich text."""

from __future__ import annotations

from html import escape

from ashen_bridge.bench.advice.verdicts import Attribution, Quieter, TestPlan, Transfer, Worth
from ashen_bridge.words.numbers import number
from ashen_bridge.words.times import time_words


def plan_words(plan: TestPlan) -> str:
    """Return a test plan as rich text."""
    spread = "measured here" if plan.measured else "usual, none was repeated yet"
    return (
        f"<b>Run {time_words(plan.seconds)} under load, {plan.passes} passes of each build.</b> {escape(plan.slowest)} needs "
        f"{time_words(plan.soak_s)} to come within 1 K of its end. Passes differ by {number(plan.spread_k, 2)} K ({spread}); so "
        f"many show a difference of {number(plan.resolution_k, 1)} K."
    )


def transfer_words(found: Transfer) -> str:
    """Return a transferred result as rich text."""
    rows = "".join(
        f"<tr><td>{escape(one.name)}</td><td align='right'>{number(one.here_c, 1)} → <b>{number(one.there_c, 1)}</b> ± "
        f"{number(one.uncertainty, 1)} °C</td><td align='right'>{'! over' if one.over else ''}</td></tr>"
        for one in found.sensors[:5]
    )
    return f"<b>{escape(found.text)}</b><table cellspacing='2' width='100%'>{rows}</table>"


def worth_words(found: Worth) -> str:
    """Return whether opening pays as rich text."""
    return f"<b>{escape(found.text)}</b>"


def shares_words(value: tuple[Attribution | None, Quieter | None]) -> str:
    """Return shares of several changes, and what a gain is worth in quiet, as rich text."""
    found, quiet = value
    if found is None:
        return ""
    rows = ""
    for one in found.shares[:6]:
        undecided = f" ± {number(one.undecided_k, 1)}" if one.undecided_k >= 0.05 else ""
        told = one.first_k is not None or one.last_k is not None
        figure = f"{number(one.middle_k, 1, sign=True)}{undecided} K" if told else "cannot be computed alone"
        rows += f"<tr><td>{escape(one.label)}</td><td align='right'>{figure}</td></tr>"
    said = f"<p><b>{escape(found.doubt)}</b></p>" if found.doubt else ""
    said += f"<p><b>{escape(found.name)}: {number(found.measured_k, 1, sign=True)} K measured</b>, "
    said += f"{number(found.model_k, 1, sign=True)} K by the model.</p><table cellspacing='2' width='100%'>{rows}</table>"
    said += f"<p>{escape(found.settle)}</p>"
    if quiet is not None:
        least = "at least " if quiet.at_least else ""
        said += (
            f"<p>Or as hot as before with the fans at {quiet.speed:.0%} of now: {least}{number(quiet.less_db, 1)} dB quieter.</p>"
        )
    return said
