"""Commands that draw advice from runs: what a repair came to, how to test, what it would be elsewhere, whether opening pays."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

import click

from ashen_bridge.cli.opening import opened
from ashen_bridge.cli.said import say
from ashen_bridge.cli.saving import KEEP, keep_answer
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.words.numbers import number, plus_minus

if TYPE_CHECKING:
    from ashen_bridge.bench.judgement import Proof

T = TypeVar("T")


def _last(steps: Iterator[tuple[float, T | None]]) -> T:
    *_, (_, found) = steps
    assert found is not None  # the last one always is
    return found


def _say(as_json: bool, plain: dict[str, Any], text: str) -> None:
    say(json.dumps(plain, ensure_ascii=False, indent=1) if as_json else text)


_JSON = click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")


@click.command()
@click.argument("project_file", metavar="PROJECT")
@click.argument("run_a")
@click.argument("run_b")
@KEEP
@_JSON
def prove(project_file: str, run_a: str, run_b: str, keep: Path | None, as_json: bool) -> None:
    """Set prediction, calibrated prediction and measurement of a repair beside each other, and judge it."""
    from ashen_bridge.bench.modelled import modelled_figures
    from ashen_bridge.bench.proof_words import verdict_of
    from ashen_bridge.bench.prove import proving
    from ashen_bridge.predict.engine import Engine

    content = opened(project_file)
    project = content.project
    before, after = modelled_figures(project, run_a, run_b)
    proof = _last(proving(Engine(), project, before, after))
    verdict = verdict_of(proof, project, after)
    if keep is not None:
        from ashen_bridge.editing.keeping import keep_proof

        keep_answer(keep, content, keep_proof, proof, after)
    rows = [asdict(one) | {"state": one.state, "surprise": one.surprise} for one in proof.sensors]
    text = "\n".join([verdict.headline, "", _table(proof), "", *verdict.lines, *(f"→ {one}" for one in verdict.next)])
    _say(as_json, {"before": run_a, "after": run_b, "sensors": rows, "verdict": asdict(verdict)}, text)


def _table(proof: Proof) -> str:
    lines = [f"{'sensor':<22} {'before':>7} {'predicted':>13} {'calibrated':>13} {'measured':>13} {'aim':>5}"]
    for one in proof.sensors:
        was = "–" if one.was_c is None else f"{one.was_c:.1f}"
        pairs = " ".join(f"{value:7.1f} ± {u:3.1f}" for value, u in (one.predicted, one.calibrated, one.measured))
        aim = "–" if one.aim_c is None else f"{one.aim_c:.0f}"
        lines.append(f"{one.name[:22]:<22} {was:>7} {pairs} {aim:>5}  {one.state if one.state != 'none' else ''}".rstrip())
    return "\n".join(lines)


@click.command(name="plan-test")
@click.argument("project_file", metavar="PROJECT")
@click.option("--build", help="Build to be tested; the main build if not given.")
@click.option("--point", help="Operating point; the first if not given.")
@click.option("--show", "resolution", type=click.FloatRange(0.01, 100), default=1.0, help="Difference that is to be shown [K].")
@_JSON
def plan_test(project_file: str, build: str | None, point: str | None, resolution: float, as_json: bool) -> None:
    """Say how long a test must run, from the model's time constants, and how many passes show a difference."""
    from ashen_bridge.bench.advice.planner import planning
    from ashen_bridge.bench.modelled import modelled_figures
    from ashen_bridge.predict.engine import Engine

    project = in_force(opened(project_file).project)
    runs = modelled_figures(project, *(run.id for run in project.runs))
    where = project.build(build).id, project.point(point).id
    plan = _last(planning(Engine(), project, *where, runs, resolution))
    text = (
        f"Run {number(plan.seconds / 60)} min under load, {plan.passes} passes of each build. {plan.slowest} needs "
        f"{number(plan.soak_s / 60, 1)} min to come within 1 K of its end; passes differ by {number(plan.spread_k, 2)} K"
        f"{'' if plan.measured else ' as a rule'}."
    )
    _say(as_json, asdict(plan), text)


@click.command()
@click.argument("project_file", metavar="PROJECT")
@click.argument("run_id", metavar="RUN")
@click.option("--warmer", type=float, default=0.0, help="Air warmer by [K]: another case, a hot neighbour.")
@click.option("--fan", type=click.FloatRange(0.05, 5), default=1.0, help="Fan speed, times now.")
@click.option("--noise", type=click.FloatRange(-60, 40), default=0.0, help="Fan noise more than now [dB].")
@click.option("--power", type=click.FloatRange(0.01, 10), default=1.0, help="Power, times now.")
@_JSON
def transfer(project_file: str, run_id: str, warmer: float, fan: float, noise: float, power: float, as_json: bool) -> None:
    """Say what a run would have shown under other circumstances."""
    from ashen_bridge.bench.advice.elsewhere import Circumstances
    from ashen_bridge.bench.advice.elsewhere import transfer as carry
    from ashen_bridge.bench.modelled import modelled_figures
    from ashen_bridge.predict.engine import Engine

    project = in_force(opened(project_file).project)
    found = carry(Engine(), project, modelled_figures(project, run_id)[0], Circumstances(warmer, fan, power, noise))
    rows = [
        f"{one.name[:24]:<24} {one.here_c:7.1f} → {number(one.there_c, 1)} {plus_minus(one.uncertainty)} °C"
        for one in found.sensors
    ]
    _say(as_json, asdict(found), "\n".join([found.text, "", *rows]))


@click.command(name="worth-opening")
@click.argument("project_file", metavar="PROJECT")
@click.argument("run_id", metavar="RUN")
@_JSON
def worth_opening(project_file: str, run_id: str, as_json: bool) -> None:
    """Say what the best possible repair could gain, against what is needed and what the test can show."""
    from ashen_bridge.bench.advice.worth import weighing
    from ashen_bridge.bench.modelled import modelled_figures
    from ashen_bridge.predict.engine import Engine

    project = in_force(opened(project_file).project)
    found = _last(weighing(Engine(), project, modelled_figures(project, run_id)[0]))
    _say(as_json, asdict(found), found.text)


@click.command(name="share-out")
@click.argument("project_file", metavar="PROJECT")
@click.argument("run_a")
@click.argument("run_b")
@click.option("--sensor", help="Id of the sensor; the one that changed most if not given.")
@_JSON
def share_out(project_file: str, run_a: str, run_b: str, sensor: str | None, as_json: bool) -> None:
    """Say what share each of several changes may have had in a difference, and which one run would settle it."""
    from ashen_bridge.bench.advice.attribution import attributing
    from ashen_bridge.bench.compare_runs import compare_runs
    from ashen_bridge.bench.modelled import modelled_figures
    from ashen_bridge.predict.engine import Engine

    project = in_force(opened(project_file).project)
    before, after = modelled_figures(project, run_a, run_b)
    compared = compare_runs(before, after, project.device)
    wanted = sensor or max(compared.sensors, key=lambda one: abs(one.rise.difference)).sensor
    builds = before.run.build, after.run.build, after.run.point
    found = _last(attributing(Engine(), project, *builds, compared, wanted))
    rows = [f"{one.middle_k:+7.1f} ± {one.undecided_k:3.1f} K  {one.label}" for one in found.shares]
    head = f"{found.doubt}\n\n" if found.doubt else ""
    head += (
        f"{found.name}: {number(found.measured_k, 1, sign=True)} K measured, "
        f"{number(found.model_k, 1, sign=True)} K by the model."
    )
    _say(as_json, asdict(found), "\n".join([head, "", *rows, "", found.settle]))
