"""Commands that choose: advice for all joints together, builds beside each other."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import asdict, fields
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from ashen_bridge.changes.edit import Edit
from ashen_bridge.changes.plans import Filling, StageOfPlan
from ashen_bridge.cli.opening import opened
from ashen_bridge.cli.said import say
from ashen_bridge.cli.saving import KEEP
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.planning.remedies import Effect
from ashen_bridge.words.numbers import number, percent

if TYPE_CHECKING:
    from ashen_bridge.planning.choosing.result import Advice, Plan
    from ashen_bridge.planning.choosing.stages import Stage
    from ashen_bridge.planning.interventions import Intervention
    from ashen_bridge.predict.engine import Engine


@click.command()
@click.argument("project_file", metavar="PROJECT")
@click.option("--build", help="Build from which is started; the main build if not given.")
@click.option("--point", help="Operating point; the first if not given.")
@click.option("--chance", type=click.FloatRange(0.5, 0.999), help="Wanted chance of every limit; as the file says if not given.")
@click.option("--stock-only", is_flag=True, help="Use only what is at hand.")
@click.option("--ways", is_flag=True, help="Say as well what may be done beside choosing a material.")
@click.option("--stages", is_flag=True, help="Split the first plan into stages, so that each change can be told apart.")
@click.option("--apply", "taken", type=click.IntRange(1, 5), help="Make this plan a build; with -o.")
@click.option("-o", "--output", type=click.Path(path_type=Path), help="Where to save the project with the plan as a build.")
@KEEP
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")
def advise(
    project_file: str,
    build: str | None,
    point: str | None,
    chance: float | None,
    stock_only: bool,
    ways: bool,
    stages: bool,
    taken: int | None,
    output: Path | None,
    keep: Path | None,
    as_json: bool,
) -> None:
    """Choose material and thickness for all joints together, with chances, and say why not the others."""
    from ashen_bridge.planning.choosing.advise import advise as chosen
    from ashen_bridge.predict.engine import Engine

    if (taken is None) != (output is None):
        raise AshenError("To make a plan a build, give both --apply and -o.")
    content = opened(project_file)
    project = content.project
    said: dict[str, Any] = {**({"chance": chance} if chance else {}), **({"source": "stock"} if stock_only else {})}
    engine, computed = Engine(), in_force(project)
    found = chosen(engine, computed, build, point, project.aims.wishes.model_copy(update=said))
    beside = _beside(engine, computed, found, ways, stages)
    if taken is not None and output is not None:
        from ashen_bridge.cli.saving import save_changed
        from ashen_bridge.editing.choosing import take_plan

        if taken > len(found.plans):
            raise AshenError(
                f"There {'is' if len(found.plans) == 1 else 'are'} only {len(found.plans)} plans, so there is no plan {taken}."
            )
        _, made = take_plan(project, found.build, found.plans[taken - 1])
        save_changed(output, project, made.applied(project))
    if keep is not None:
        from ashen_bridge.cli.saving import keep_answer
        from ashen_bridge.editing.keeping import keep_advice

        keep_answer(keep, content, keep_advice, found, (taken or 1) - 1)
    if as_json:
        plain = {name: [_plain(one) for one in some] for name, some in beside.items()}
        say(json.dumps(advice_plain(found) | plain, ensure_ascii=False, indent=1))
    else:
        say("\n".join([advice_text(found), *_beside_text(beside)]))


def _beside(engine: Engine, project: Project, found: Advice, ways: bool, stages: bool) -> dict[str, tuple[Any, ...]]:
    """Return what was asked for beside plans: interventions, and the stages of the first plan."""
    from ashen_bridge.planning.choosing.stages import staging
    from ashen_bridge.planning.interventions import weighing

    told: dict[str, tuple[Any, ...]] = {}
    if ways:
        *_, (_, told["interventions"]) = weighing(engine, project, found.build, found.point)
    if stages and found.plans:
        *_, (_, told["stages"]) = staging(engine, project, found.build, found.point, found.plans[0])
    return told


def _plain(one: Intervention | Stage) -> dict[str, Any]:
    """Return an intervention or a stage as plain data, with the edit that makes it or what is done up to there."""
    said = {field.name: getattr(one, field.name) for field in fields(one)}
    for name, value in said.items():
        if isinstance(value, Edit):
            said[name] = value.to_plain()
        elif isinstance(value, StageOfPlan):
            said[name] = value.model_dump(mode="json", exclude_defaults=True)
        elif isinstance(value, Effect):
            said[name] = asdict(value)
    return said


def _beside_text(beside: dict[str, tuple[Any, ...]]) -> Iterator[str]:
    for one in beside.get("interventions", ()):
        effect = one.effect.words if one.effect is not None else ""
        yield f"{one.title}: {one.says}. {one.refused or effect}".rstrip()
    for n, one in enumerate(beside.get("stages", ()), 1):
        yield f"Stage {n}, opening {one.opens}: {one.says}. {one.words}".rstrip()


def advice_plain(found: Advice) -> dict[str, Any]:
    """Return advice as plain data: plans, refusals by group, what cannot be told."""

    def plan(one: Plan) -> dict[str, Any]:
        plain = asdict(one) | {"edits": [_filling(filling) for filling in one.fillings]}
        del plain["fillings"]
        return plain

    return {
        "build": found.build,
        "point": found.point,
        "chance": found.chance,
        "says": found.says,
        "plans": [plan(one) for one in found.plans],
        "present": None if found.present is None else plan(found.present),
        "refusals": [
            {
                "group": one.place,
                "label": one.label,
                "gap_mm": one.gap_mm,
                "pm_mm": one.pm_mm,
                "candidates": [asdict(row) for row in one.rows],
            }
            for one in found.why_not
        ],
        "undecided": [asdict(one) for one in found.undecided],
        "closed": None if found.closed is None else asdict(found.closed),
        "tried": found.tried,
    }


def _filling(filling: Filling) -> dict[str, Any]:
    return filling.model_dump(mode="json", exclude_defaults=True)


def advice_text(found: Advice) -> str:
    """Return advice as text."""
    lines = [found.says, ""]
    for n, one in enumerate([*found.plans, *([found.present] if found.present is not None else [])]):
        head = f"{n + 1}  {one.name}" if n < len(found.plans) else f"–  {one.name}"
        die = "" if one.hottest_die_c is None else f"die {number(one.hottest_die_c, 1)} °C"
        chance = "" if one.chance is None else f"every limit {percent(one.chance)}"
        cost = "" if one.cost is None else f"{one.cost:g} {found.currency}".strip()
        lines.append("   ".join(filter(None, (head, die, chance, f"{number(one.minutes)} min", cost))))
        lines += [f"     {chosen.label}: {chosen.says}" for chosen in one.chosen if chosen.changed]
        lines += [f"     {one.washers_mm:g} mm of washers under the sprung screws"] if one.washers_mm else []
        lines += [f"     ! {said}" for said in one.broken]
    for place in found.why_not:
        lines += ["", f"{place.label}: gap {number(place.gap_mm, 2)} mm ± {number(place.pm_mm, 2)} mm"]
        for row in place.rows:
            hot = "" if row.closest_c is None else f"{row.closest} {number(row.closest_c, 1)} °C"
            lines.append(f"  {'→' if row.chosen else ' '} {row.says:<38} {hot:<26} {row.refusal}".rstrip())
    lines += ["", *(f"{one.label}: {one.says} {one.measure}" for one in found.undecided)]
    if found.closed is not None:
        lines.append(found.closed.says)
    return "\n".join(lines).strip()


@click.command(name="compare-builds")
@click.argument("project_file", metavar="PROJECT")
@click.argument("builds", nargs=-1)
@click.option("--point", "points", multiple=True, help="Operating point, may be given several times; the first if not given.")
@click.option("--with", "others", multiple=True, metavar="FILE", help="Another file: its builds and runs stand beside.")
@click.option("--equal-power", is_flag=True, help="Bring all to the power and ambient of the first.")
@click.option("--csv", "as_csv_too", is_flag=True, help="Print a CSV table.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")
def compare_builds(
    project_file: str,
    builds: tuple[str, ...],
    points: tuple[str, ...],
    others: tuple[str, ...],
    equal_power: bool,
    as_csv_too: bool,
    as_json: bool,
) -> None:
    """Set builds beside each other, all if none is named: temperatures, what differs, what it is worth in quiet."""
    from ashen_bridge.planning.comparing import as_csv, as_table, at_equal_power, comparing
    from ashen_bridge.planning.comparing_files import comparing_file
    from ashen_bridge.predict.engine import Engine

    project = in_force(opened(project_file).project)
    names = [project.build(one).id for one in builds] or [one.id for one in project.builds]
    at = [project.point(one).id for one in points] or [project.point().id]
    engine = Engine()
    *_, (_, rows) = comparing(engine, project, names, at)
    for other in others:
        *_, (_, theirs) = comparing_file(engine, in_force(opened(other).project), Path(other).stem)
        rows = (*rows, *theirs)
    rows = at_equal_power(rows) if equal_power else rows
    if as_json:
        say(json.dumps({"builds": [asdict(row) for row in rows]}, ensure_ascii=False, indent=1))
        return
    if as_csv_too:
        say(as_csv(rows).rstrip())
        return
    table = as_table(rows)
    widths = [max(len(line[n]) for line in table) for n in range(len(table[0]))]
    say("\n".join("  ".join(cell.ljust(width) for cell, width in zip(line, widths, strict=True)).rstrip() for line in table))


@click.command()
@click.argument("project_file", metavar="PROJECT")
@click.option("--build", help="Build; the main build if not given.")
@click.option("--point", help="Operating point; the first if not given.")
@click.option("--chance", type=click.FloatRange(0.5, 0.9999), default=0.9, show_default=True, help="Wanted chance of all limits.")
@click.option("--weight", "weights", multiple=True, metavar="PATH=W", help="What is dear to tighten, times what others cost.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")
def tolerances(
    project_file: str, build: str | None, point: str | None, chance: float, weights: tuple[str, ...], as_json: bool
) -> None:
    """Say how wide the ± of every length, pad and force may be for all limits to hold, and what is not worth tightening."""
    from ashen_bridge.planning.tolerances import tolerating
    from ashen_bridge.predict.engine import Engine

    project = in_force(opened(project_file).project)
    dear = dict(map(_weight, weights))
    *_, (_, found) = tolerating(Engine(), project, project.build(build).id, project.point(point).id, chance, dear)
    assert found is not None  # the last one always is
    if as_json:
        say(json.dumps(asdict(found), ensure_ascii=False, indent=1))
        return
    lines = [found.says, "", "number, ± now, ± may be, ± in the worst case, share"]
    for row in found.rows:
        worst = "–" if row.worst_case is None else f"{row.worst_case:.3g}"
        numbers = f"{row.now:9.3g} {row.statistical:9.3g} {worst:>10}  {row.share:5.1%}"
        lines.append(f"{row.words[:46]:<46} {row.unit:<5} {numbers}  {row.advice}")
    say("\n".join(lines))


def _weight(said: str) -> tuple[str, float]:
    path, _, value = said.partition("=")
    try:
        weight = float(value)
    except ValueError:
        weight = 0.0
    if not path or weight <= 0:
        raise AshenError(f"A weight is said as PATH=W with W above 0, not '{said}'.")
    return path, weight
