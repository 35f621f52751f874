"""The command line, `ashen-bridge`. Errors are one sentence on stderr and exit code 2."""

from __future__ import annotations

import json
import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

import click

from ashen_bridge import __version__
from ashen_bridge.cli import (
    advice,
    caliper,
    checking,
    choosing,
    cutting,
    evidence,
    fields,
    finishing,
    live,
    measure,
    opening_up,
    runs,
    supplies,
    triage,
)
from ashen_bridge.cli.opening import opened
from ashen_bridge.cli.said import say
from ashen_bridge.cli.saving import save_changed
from ashen_bridge.model import paths
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.words.numbers import number

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine
    from ashen_bridge.predict.prediction import Fidelity


@click.group(context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__, prog_name="ashen-bridge")
def cli() -> None:
    """Model the heat path from die to air. FILE is a .ashb or .json project, or demo:correlator."""


@cli.command()
@click.argument("file")
@click.option("--build", help="Build by id; the project's main build if not given.")
@click.option("--point", help="Operating point by id; the first if not given.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object instead of tables.")
@click.option("--assumptions", is_flag=True, help="Add ± to the temperatures, and the numbers they stand on by weight.")
@click.option("--chance", type=click.IntRange(100, 100_000), metavar="N", help="Draw N samples: ±, chance of each limit, why.")
@click.option("--dominant", metavar="SENSOR", help="Rank layers by what they would gain this sensor if they were perfect.")
@click.option("--transient", metavar="PATTERN", help='Print temperatures over time as CSV, for example for "step 60min".')
@click.option("--at", "at_s", type=float, multiple=True, metavar="SECONDS", help="With --transient: print these times only.")
@click.option("--tolerance", type=float, default=0.05, metavar="K", help="With --transient: error allowed in a step; 0.05 K.")
@click.option("--ask", type=click.Choice(["fan", "power", "ambient"]), help="Say which value just keeps all limits.")
@click.option("--mesh", metavar="coarse|fine|N", default="fine", help="N: every interval and layer of fine halved N times more.")
@click.option("--margin", type=float, default=0.0, show_default=True, help="With --ask: kelvins to keep below the limits.")
def predict(
    file: str,
    build: str | None,
    point: str | None,
    as_json: bool,
    assumptions: bool,
    chance: int | None,
    dominant: str | None,
    transient: str | None,
    at_s: tuple[float, ...],
    tolerance: float,
    ask: Literal["fan", "power", "ambient"] | None,
    mesh: str,
    margin: float,
) -> None:
    """Predict temperatures, bond lines, pressures and findings; or, for a load pattern, temperatures over time."""
    if transient is not None:
        _print_course(file, build, point, transient, at_s, tolerance)
        return
    if dominant is not None:
        _print_dominant(file, build, point, dominant, as_json)
        return
    if ask is not None:
        _print_answer(file, build, point, ask, margin, as_json)
        return
    from ashen_bridge.assess.assessment import assess
    from ashen_bridge.cli.tables import as_plain, as_text
    from ashen_bridge.uncertainty.weighing import weigh

    engine, fidelity = _engine(mesh)
    project = in_force(opened(file).project)
    assessment = assess(project, build, point, engine=engine, fidelity=fidelity)
    stands_on = None
    if assumptions:
        where = assessment.report.build, assessment.report.point
        stands_on = list(weigh(engine, project, *where))
    drawn = None
    if chance is not None:
        from ashen_bridge.uncertainty.chance import chances
        from ashen_bridge.uncertainty.preparation import prepared
        from ashen_bridge.uncertainty.sampling import draw_samples

        where = assessment.report.build, assessment.report.point
        drawn = chances(draw_samples(prepared(engine, project, *where, assessment.report), chance))
    plain = as_json and json.dumps(as_plain(project, assessment, stands_on, drawn), ensure_ascii=False, indent=1)
    say(plain or as_text(project, assessment, stands_on, drawn))


def _engine(mesh: str) -> tuple[Engine, Fidelity]:
    """Return an engine and the fidelity to ask it for; raises for a mesh that cannot be meant."""
    from ashen_bridge.predict.meshes import MeshError, engine_of, halvings_of, read_mesh

    try:
        halvings, fidelity = halvings_of(read_mesh(mesh))
    except MeshError as error:
        raise click.UsageError(f"--mesh: {error}") from error
    return engine_of(halvings), fidelity


def _print_dominant(file: str, build: str | None, point: str | None, sensor: str, as_json: bool) -> None:
    from ashen_bridge.assess.dominant import dominant_layers
    from ashen_bridge.cli.tables import layers_text
    from ashen_bridge.predict.engine import Engine

    found = dominant_layers(Engine(), in_force(opened(file).project), build, point, sensor)
    plain = [{"layer": one.label, "kind": one.kind, "about": one.about, "gain_k": one.gain_k} for one in found]
    say(json.dumps(plain, ensure_ascii=False, indent=1) if as_json else layers_text(found))


def _print_answer(
    file: str, build: str | None, point: str | None, what: Literal["fan", "power", "ambient"], margin: float, as_json: bool
) -> None:
    from ashen_bridge.assess.ask import ask
    from ashen_bridge.predict.engine import Engine

    answer = ask(in_force(opened(file).project), build, point, what, margin, Engine())
    plain = {"ask": answer.what, "value": answer.value, "decided_by": answer.decided_by, "text": answer.text}
    say(json.dumps(plain, ensure_ascii=False, indent=1) if as_json else answer.text)


def _print_course(
    file: str, build: str | None, point: str | None, pattern: str, at_s: tuple[float, ...], tolerance: float
) -> None:
    from ashen_bridge.predict.course import as_csv
    from ashen_bridge.predict.engine import Engine
    from ashen_bridge.predict.patterns import Watch, read_pattern

    wanted = read_pattern(pattern)
    watch = Watch(tuple(sorted(set(at_s))), tolerance)
    found = Engine().transient(in_force(opened(file).project), build, point, wanted, watch=watch)
    say(as_csv(found.asked()), nl=False)
    if found.soak_s is not None:
        for name, seconds in zip(found.sensors, found.soak_s, strict=True):
            words = f"within 1 K after {number(seconds)} s" if seconds != float("inf") else "not within 1 K by the end"
            say(f"{name}: {words}", err=True)


@cli.command(name="set")
@click.argument("file")
@click.argument("assignments", nargs=-1, required=True, metavar="PATH=VALUE ...")
@click.option("-o", "--output", required=True, type=click.Path(dir_okay=False, path_type=Path), help="Where to save the result.")
def set_(file: str, assignments: tuple[str, ...], output: Path) -> None:
    """Change any value by its path and save the result."""
    values: dict[str, Any] = {}
    for assignment in assignments:
        path, equals, text = assignment.partition("=")
        if not equals or not path:
            raise click.UsageError(f"'{assignment}' is not of the form PATH=VALUE.")
        values[path.strip()] = paths.parse_value(text.strip())
    project = opened(file).project
    save_changed(output, project, paths.set_values(project, values), what=f"Set {', '.join(values)}"[:160])


@cli.command(name="paths")
@click.argument("file")
def paths_(file: str) -> None:
    """List every path with its present value."""
    for path, value in paths.list_paths(opened(file).project):
        say(f"{path} = {json.dumps(value, ensure_ascii=False)}")


@cli.command(name="power-map")
@click.argument("file")
@click.argument("grid", type=click.Path(dir_okay=False, path_type=Path))
@click.option("--die", required=True, help="The die that makes this heat, by id.")
@click.option("-o", "--output", required=True, type=click.Path(dir_okay=False, path_type=Path), help="Where to save the result.")
def power_map(file: str, grid: Path, die: str, output: Path) -> None:
    """Take a die's power map from a grid of numbers (CSV, first line at the upper edge) and save the result."""
    from ashen_bridge.editing.power_grid import read_grid, set_power_grid

    project = opened(file).project
    save_changed(output, project, set_power_grid(project, die, read_grid(grid)).applied(project), what="Power map from a grid")


@cli.command()
@click.argument("files", nargs=-1, required=True)
@click.option(
    "--samples", type=click.IntRange(10, 1_000_000), default=1000, show_default=True, help="Samples per build and point."
)
@click.option("--build", "builds", multiple=True, help="Only these builds; all if none are named.")
@click.option("--point", "points", multiple=True, help="Only these operating points; all if none are named.")
@click.option("--seed", type=int, default=1, show_default=True)
@click.option("--cluster", help="Address of a scheduler, for example tcp://host:8786; a local one if not given.")
@click.option("-o", "--output", required=True, type=click.Path(dir_okay=False, path_type=Path), help="A .parquet or .csv file.")
def sweep(
    files: tuple[str, ...],
    samples: int,
    builds: tuple[str, ...],
    points: tuple[str, ...],
    seed: int,
    cluster: str | None,
    output: Path,
) -> None:
    """Draw samples of many devices, builds and operating points on a task scheduler, into one table."""
    import pandas as pd

    from ashen_bridge.assess import sweep as sweeping
    from ashen_bridge.files.tables import writer

    write = writer(output)
    todo = sweeping.errands([(name, in_force(opened(name).project)) for name in files], builds, points)
    tables = []
    for done, outcome in enumerate(sweeping.sweep(todo, samples, seed, cluster), start=1):
        errand = outcome.errand
        say(f"{done}/{len(todo)}  {errand.device} {errand.build} {errand.point}  {outcome.problem or 'done'}", err=True)
        if outcome.table is not None:
            tables.append(outcome.table)
    if not tables:
        raise sweeping.SweepError("None of the builds could be computed, so nothing was written.")
    write(pd.concat(tables, ignore_index=True))
    say(f"{sum(map(len, tables))} rows in {output}")


@cli.command()
def schema() -> None:
    """Print the JSON Schema of a project."""
    say(json.dumps(Project.model_json_schema(), indent=1))


@cli.command()
@click.option(
    "--launcher",
    type=click.Path(exists=True, dir_okay=False, path_type=Path),
    default=lambda: Path(os.environ.get("ASHEN_BRIDGE_LAUNCHER") or sys.argv[0]),
    help="What the menu entry starts.",
)
def install(launcher: Path) -> None:
    """Add menu entry, file type and icons for this user."""
    from ashen_bridge.cli import install as desktop

    for path in desktop.install(launcher):
        say(f"written  {path}")


@cli.command()
def uninstall() -> None:
    """Remove menu entry, file type and icons of this user."""
    from ashen_bridge.cli import install as desktop

    removed = desktop.uninstall()
    for path in removed:
        say(f"removed  {path}")
    if not removed:
        say("Nothing was installed for this user.")


for command in (
    *(runs.import_log, runs.export_run, runs.compare, runs.calibrate, runs.diagnose, runs.curve, live.simulate),
    *(triage.triage, fields.field, fields.network, measure.measure, measure.readings, caliper.simulate_caliper),
    *(opening_up.open_up, evidence.evidence, evidence.film, evidence.simulate_film),
    *(choosing.advise, choosing.compare_builds, choosing.tolerances, supplies.import_parts),
    *(supplies.fit_material, supplies.materials),
    *(cutting.cut, finishing.close_up, finishing.first_power, finishing.burn_in, finishing.report, finishing.card),
    *(finishing.recipe, finishing.new, finishing.service, finishing.export, checking.quick_check),
    *(advice.prove, advice.plan_test, advice.transfer, advice.worth_opening, advice.share_out),
):
    cli.add_command(command)


def main(arguments: list[str] | None = None) -> None:
    """Run the command line; anything the program can explain ends in one sentence and exit code 2, all else in one and 3."""
    try:
        cli.main(args=arguments, prog_name="ashen-bridge", standalone_mode=False)
    except click.ClickException as error:
        error.show()
        sys.exit(2)
    except click.exceptions.Exit as error:
        sys.exit(error.exit_code)
    except click.Abort:
        sys.exit(130)
    except BrokenPipeError:
        sys.exit(0)
    except AshenError as error:
        say(str(error), err=True)
        sys.exit(2)
    except Exception as error:
        from ashen_bridge.files.surprise import keep_report, sentence

        say(sentence(error, keep_report(error)), err=True)
        sys.exit(3)


if __name__ == "__main__":
    main()
