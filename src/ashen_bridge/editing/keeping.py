"""Answers of the workspaces as edits that keep them for the record: as they were given, on the day, in words and a table."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from ashen_bridge.bench.compare_words import verdict_words
from ashen_bridge.bench.judgement import Comparison, Diagnosis, Proof
from ashen_bridge.bench.proof_words import verdict_of
from ashen_bridge.changes.edit import Edit
from ashen_bridge.editing.history import conclude
from ashen_bridge.logs.outcome import RunFigures
from ashen_bridge.model.project import Project
from ashen_bridge.planning.burn_follow import Gained
from ashen_bridge.planning.checked import Checked, QuickCheck
from ashen_bridge.planning.choosing.result import Advice
from ashen_bridge.words.numbers import number, percent

_SUSPECTS, _SHOWN = 12, 0.02


def keep_proof(project: Project, proof: Proof, after: RunFigures, *, who: str, now: datetime) -> Edit:
    """Return the edit that keeps what a repair came to."""
    told = verdict_of(proof, project, after)
    head = ("Sensor", "was °C", "predicted °C", "by the fitted model °C", "measured °C", "at most °C")
    rows = [
        (
            one.name,
            "–" if one.was_c is None else number(one.was_c, 1),
            *(f"{number(value, 1)} ± {number(pm, 1)}" for value, pm in (one.predicted, one.calibrated, one.measured)),
            "–" if one.aim_c is None else number(one.aim_c, 1),
        )
        for one in proof.sensors
    ]
    about = f"{_run(project, proof.before)} → {_run(project, proof.after)}"
    says = (*told.lines, *told.next)
    return conclude(project, "proof", told.headline, says, (head, rows), about=about, who=who, now=now)


def keep_comparison(project: Project, found: Comparison, *, who: str, now: datetime) -> Edit:
    """Return the edit that keeps what two runs differ by."""
    head = ("Sensor", "before K over air", "after K over air", "change K", "95 % interval K", "")
    rows = [
        (
            row.name,
            number(row.rise.before, 1),
            number(row.rise.after, 1),
            number(row.rise.difference, 1, sign=True),
            f"{number(row.rise.low, 1)} to {number(row.rise.high, 1)}",
            row.rise.verdict,
        )
        for row in found.sensors
    ]
    about = f"{_run(project, found.before)} → {_run(project, found.after)}{', at equal power' if found.equal_power else ''}"
    return conclude(project, "comparison", verdict_words(found), found.cautions, (head, rows), about=about, who=who, now=now)


def keep_diagnosis(project: Project, found: Diagnosis, *, who: str, now: datetime) -> Edit:
    """Return the edit that keeps what is believed to be wrong, and how surely."""
    suspects = [one for one in found.suspects if one.weight >= _SHOWN][:_SUSPECTS]
    rows: list[Sequence[str]] = [
        (one.title, percent(one.weight), number(one.misfit_k, 1), one.says, one.confirm) for one in suspects
    ]
    rows.append(("Nothing is wrong", percent(found.healthy_weight), number(found.healthy_misfit_k, 1), "", ""))
    groups = [f"Not told apart, {percent(one.weight)} together: {one.confirm}" for one in found.groups if one.weight >= _SHOWN]
    about = ", ".join(_run(project, one) for one in found.runs)
    head = ("Fault", "believed", "misfit K", "How it would be", "What would confirm it")
    return conclude(project, "diagnosis", found.verdict, groups, (head, rows), about=about, who=who, now=now)


def keep_advice(project: Project, found: Advice, taken: int, *, who: str, now: datetime) -> Edit:
    """Return the edit that keeps a plan with what comes of it, and why the other candidates of each place were refused."""
    plan = found.plans[taken]
    says = [f"{plan.name}: {plan.why}" if plan.why else plan.name]
    says += [f"{one.label}: {one.says}{'' if one.changed else ' (as it is)'}" for one in plan.chosen]
    says += [
        f"{one.label}: {number(one.value_c, 1)} °C"
        + (f" ± {number(one.pm_k, 1)} K" if one.pm_k is not None else "")
        + f", at most {number(one.at_most_c)} °C"
        + (f", holds in {percent(one.chance)}" if one.chance is not None else "")
        for one in plan.outlooks
    ]
    says += [f"Risk: {one}" for one in plan.risks] + [f"Does not hold: {one}" for one in plan.broken]
    says += [one.says for one in found.undecided]
    head = ("At", "Instead", "Why not")
    rows = [(place.label, row.says, row.refusal) for place in found.why_not for row in place.rows if row.refusal]
    about = f"“{project.build(found.build).label}” at “{project.point(found.point).label}”"
    title = f"{found.says or 'Plan'} Taken: {plan.name}."
    return conclude(project, "plan", title, says, (head, rows), about=about, who=who, now=now)


def keep_check(project: Project, check: QuickCheck, told: Checked, *, who: str, now: datetime) -> Edit:
    """Return the edit that keeps a quick check."""
    head = ("Sensor", "record °C", "read °C, in the record's air", "over K", "opened from K")
    rows = [
        (
            one.label,
            number(one.read_c - one.over_k, 1),
            number(one.read_c, 1),
            number(one.over_k, 1, sign=True),
            number(one.more_k, 1),
        )
        for one in told.seen
    ]
    about = f"“{project.build(check.build).label}” at “{project.point(check.point).label}”, {number(check.minutes)} minutes"
    return conclude(
        project, "check", told.says, (f"Held against the record {check.source}.",), (head, rows), about=about, who=who, now=now
    )


def keep_burn_in(project: Project, build: str, found: Sequence[Gained], *, who: str, now: datetime) -> Edit:
    """Return the edit that keeps what burning in did to rise over power."""
    best = found[0]
    change = f"{number(100 * abs(best.share), 1)} % {'less' if best.share < 0 else 'more'}"
    title = f"Burn-in: {best.label} rises {change} per watt than in the first cycle."
    head = ("Sensor", "first cycle K/W", "last cycle K/W", "change %")
    rows = [(one.label, f"{one.before_k_w:.3f}", f"{one.after_k_w:.3f}", number(100 * one.share, 1, sign=True)) for one in found]
    return conclude(project, "burn in", title, (), (head, rows), about=f"“{project.build(build).label}”", who=who, now=now)


def _run(project: Project, name: str) -> str:
    return next((f"“{run.label}”" for run in project.runs if run.id == name), name)
