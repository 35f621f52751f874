"""Commands on runs: logs imported, runs compared, the model fitted to them, faults told from them."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import click

from ashen_bridge.cli.opening import opened
from ashen_bridge.cli.said import say
from ashen_bridge.cli.saving import KEEP, keep_answer, save_changed
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.errors import AshenError


def _say(as_json: bool, plain: dict[str, Any], text: str) -> None:
    say(json.dumps(plain, ensure_ascii=False, indent=1) if as_json else text)


@click.command(name="import-log")
@click.argument("logs", nargs=-1, required=True, type=click.Path(dir_okay=False, path_type=Path), metavar="FILE ...")
@click.option("--project", "project_file", required=True, help="The project the run goes to; it is saved.")
@click.option("--run", "run_id", required=True, help="Id of the run; one that is there gets further passes.")
@click.option("--name", default="", help="Name of the run.")
@click.option("--build", help="Build that was tested; the project's main build if not given.")
@click.option("--point", help="Operating point it was tested at; the first if not given.")
@click.option("--map", "mapped", multiple=True, metavar="COLUMN=SENSOR", help="Correct a mapping; also =power, =ambient, =other.")
@click.option("--ambient", type=float, help="Air around the device [°C], where no column says it.")
@click.option("--workload", default="", help="What the device did.")
@click.option("--taken", default="", help="When it was: YYYY-MM-DD, perhaps with THH:MM. It says which run was before which.")
@click.option("-o", "--output", type=click.Path(dir_okay=False, path_type=Path), help="Save here and not in the project.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object instead of a table.")
def import_log(
    logs: tuple[Path, ...],
    project_file: str,
    run_id: str,
    name: str,
    build: str | None,
    point: str | None,
    mapped: tuple[str, ...],
    ambient: float | None,
    workload: str,
    taken: str,
    output: Path | None,
    as_json: bool,
) -> None:
    """Read sensor logs, one per pass, map their columns and keep them as a run of the project."""
    from ashen_bridge.bench.logbook import record_run
    from ashen_bridge.bench.modelled import modelled_figures
    from ashen_bridge.changes.records import change_run
    from ashen_bridge.cli.run_tables import run_plain, run_text
    from ashen_bridge.logs.reading import read_log

    content = opened(project_file)
    if output is None and project_file.startswith("demo:"):
        raise AshenError("A demo cannot be saved in place; say with -o where the project goes.")
    read = [read_log(path) for path in logs]
    project = record_run(
        content.project, run_id, read, build=build, point=point, mapped=mapped, ambient_c=ambient, name=name, workload=workload
    )
    if taken:
        project = change_run(project, run_id, {"taken": taken})
    found = modelled_figures(project, run_id)[0]
    save_changed(output or Path(project_file), content.project, project, content.extras, f"Run '{run_id}' gone on with")
    notes = tuple(f"{path.name}: {note}" for path, log in zip(logs, read, strict=True) for note in log.notes)
    _say(as_json, run_plain(found, project.device, notes), run_text(found, project.device) + "\n\n" + "\n".join(notes))


@click.command(name="export-run")
@click.argument("project_file", metavar="PROJECT")
@click.argument("run_id", metavar="RUN")
@click.option("-o", "--output", required=True, type=click.Path(dir_okay=False, path_type=Path), help="A .csv or .parquet file.")
def export_run(project_file: str, run_id: str, output: Path) -> None:
    """Write a run as one clean table: pass, seconds, one column per channel with its unit."""
    from ashen_bridge.bench.logbook import table_of
    from ashen_bridge.files.tables import writer

    write = writer(output)
    table = table_of(opened(project_file).project, run_id)
    try:
        write(table)
    except OSError as error:
        raise AshenError(f"Cannot write '{output.name}': {error.strerror or error}.") from error
    say(f"{len(table)} rows in {output}")


@click.command()
@click.argument("project_file", metavar="PROJECT")
@click.argument("run_a")
@click.argument("run_b")
@click.option("--again", help="A run that repeats the first one after the second: a drift between them is said.")
@click.option("--equal-power", is_flag=True, help="Bring the second run's rises to the first one's power.")
@KEEP
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object instead of a table.")
def compare(
    project_file: str, run_a: str, run_b: str, again: str | None, equal_power: bool, keep: Path | None, as_json: bool
) -> None:
    """Compare two runs sensor by sensor, as rise over ambient with its interval, what became worse first."""
    from ashen_bridge.bench.compare_runs import compare_with_repeat
    from ashen_bridge.bench.equal_power import responses
    from ashen_bridge.bench.modelled import modelled_figures
    from ashen_bridge.cli.run_tables import comparison_plain, comparison_text

    content = opened(project_file)
    project = content.project
    before, after = modelled_figures(project, run_a, run_b)
    repeat = modelled_figures(project, again)[0] if again is not None else None
    answers = responses(in_force(project), before.run, after.run) if equal_power else None
    found = compare_with_repeat(before, after, repeat, project.device, equal_power=equal_power, responses=answers)
    if keep is not None:
        from ashen_bridge.editing.keeping import keep_comparison

        keep_answer(keep, content, keep_comparison, found)
    _say(as_json, comparison_plain(found), comparison_text(found))


@click.command()
@click.argument("project_file", metavar="PROJECT")
@click.argument("run_ids", nargs=-1, required=True, metavar="RUN ...")
@click.option(
    "-o", "--output", type=click.Path(dir_okay=False, path_type=Path), help="Save the project with the fit kept and in use."
)
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object instead of tables.")
def calibrate(project_file: str, run_ids: tuple[str, ...], output: Path | None, as_json: bool) -> None:
    """Fit the model to what runs measured, every number within its own uncertainty."""
    from ashen_bridge.bench.calibrate import calibrate as fit
    from ashen_bridge.bench.modelled import modelled_figures
    from ashen_bridge.cli.run_tables import calibration_plain, calibration_text
    from ashen_bridge.predict.engine import Engine

    content = opened(project_file)
    found = fit(Engine(), content.project, modelled_figures(content.project, *dict.fromkeys(run_ids)))
    if output is not None:
        save_changed(output, content.project, found.recorded(content.project), content.extras, "Fitted")
    _say(as_json, calibration_plain(found), calibration_text(found))


@click.command()
@click.argument("project_file", metavar="PROJECT")
@click.argument("run_ids", nargs=-1, required=True, metavar="RUN RUN ...")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object instead of a table.")
def curve(project_file: str, run_ids: tuple[str, ...], as_json: bool) -> None:
    """Lay one curve through runs of one build at different powers: kelvin per watt with its interval, and the air it implies."""
    from ashen_bridge.bench.modelled import modelled_figures
    from ashen_bridge.bench.power_curve import power_curve
    from ashen_bridge.cli.run_tables import curve_plain, curve_text
    from ashen_bridge.predict.engine import Engine

    project = opened(project_file).project
    engine = Engine()
    found = power_curve(engine, in_force(project), modelled_figures(project, *dict.fromkeys(run_ids), engine=engine))
    _say(as_json, curve_plain(found), curve_text(found))


@click.command()
@click.argument("project_file", metavar="PROJECT")
@click.argument("run_ids", nargs=-1, metavar="[RUN ...]")
@KEEP
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object instead of a table.")
def diagnose(project_file: str, run_ids: tuple[str, ...], keep: Path | None, as_json: bool) -> None:
    """Say which fault explains runs of one build best, if any does; the project's first run if none is named.

    All other runs of the project speak for or against.
    """
    from ashen_bridge.bench.diagnosis.diagnose import diagnose as judge
    from ashen_bridge.bench.modelled import modelled_figures
    from ashen_bridge.cli.run_tables import diagnosis_plain, diagnosis_text
    from ashen_bridge.predict.engine import Engine

    content = opened(project_file)
    project = content.project
    if not run_ids and not project.runs:
        raise AshenError("The project holds no runs yet; bring in logs with import-log.")
    wanted = tuple(dict.fromkeys(run_ids)) or (project.runs[0].id,)
    others = [run.id for run in project.runs if run.id not in wanted]
    figures = modelled_figures(project, *wanted, *others)
    found = judge(Engine(), in_force(project), figures[: len(wanted)], figures[len(wanted) :])
    if keep is not None:
        from ashen_bridge.editing.keeping import keep_diagnosis

        keep_answer(keep, content, keep_diagnosis, found)
    _say(as_json, diagnosis_plain(found), diagnosis_text(found))
