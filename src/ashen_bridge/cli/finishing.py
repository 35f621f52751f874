"""Commands of the end and after it: closing up, the first minutes, burn-in, the record, recipes, service."""

from __future__ import annotations

import json
from dataclasses import asdict
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

import click

from ashen_bridge.cli.checking import reading
from ashen_bridge.cli.opening import opened
from ashen_bridge.cli.said import say
from ashen_bridge.files.atomic import write_atomically
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.errors import AshenError
from ashen_bridge.words.numbers import number

if TYPE_CHECKING:
    from ashen_bridge.bench.first_power.result import Expected, Judged

_FILE = click.Path(dir_okay=False, path_type=Path)


@click.command(name="close-up")
@click.argument("project_file", metavar="PROJECT")
@click.option("--build", help="Build that is closed up; the main build if not given.")
@click.option(
    "--agent", type=click.Choice(["99", "70"]), default="99", show_default=True, help="Alcohol that faces are cleaned with [%]."
)
@click.option("--size", type=click.Choice(["A4", "Letter"]), default="A4", show_default=True, help="Paper.")
@click.option("-o", "--output", type=_FILE, help="Where to write the sheet: .pdf or .html.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")
def close_up(
    project_file: str,
    build: str | None,
    agent: Literal["99", "70"],
    size: Literal["A4", "Letter"],
    output: Path | None,
    as_json: bool,
) -> None:
    """Say step by step how to close a build up: clean, lay, dispense, tighten crosswise by turns, check, first start."""
    from ashen_bridge.cli.opening_up import plain_procedure, procedure_text, write_sheet
    from ashen_bridge.planning.closing_up import closing_up
    from ashen_bridge.predict.engine import Engine

    project = in_force(opened(project_file).project)
    said = closing_up(Engine(), project, build, agent)
    if output is not None:
        write_sheet(project, said, output, size)
    if as_json:
        say(json.dumps(plain_procedure(project, said), ensure_ascii=False, indent=1))
    elif output is None:
        say(procedure_text(project, said))


@click.command()
@click.argument("project_file", metavar="PROJECT")
@click.option("--build", help="Build; the main build if not given.")
@click.option("--point", help="Operating point; the first if not given.")
@click.option("--part", "parts", multiple=True, help="Only these parts, in the usual order; all if none is named.")
@click.option("--template", type=_FILE, help="A template of your own in place of the one that ships.")
@click.option("--size", type=click.Choice(["A4", "Letter"]), default="A4", show_default=True, help="Paper.")
@click.option("-o", "--output", type=_FILE, required=True, help="Where to write the record: .pdf or .html.")
def report(
    project_file: str,
    build: str | None,
    point: str | None,
    parts: tuple[str, ...],
    template: Path | None,
    size: Literal["A4", "Letter"],
    output: Path,
) -> None:
    """Write everything a file knows of a device as one paper: predictions, drawings, readings, steps, runs, sources."""
    from ashen_bridge.predict.engine import Engine
    from ashen_bridge.report.record.paper import chosen, known_of, record_html, record_pdf

    kind = output.suffix.lower()
    if kind not in (".pdf", ".html", ".htm"):
        raise AshenError(f"The record is written as .pdf or .html, not as '{output.suffix or output.name}'.")
    chosen(parts)
    own = None
    if template is not None:
        try:
            own = template.read_text("utf-8")
        except (OSError, UnicodeDecodeError) as error:
            raise AshenError(f"The template '{template}' cannot be read: {error}.") from error
    known = known_of(Engine(), in_force(opened(project_file).project), build, point)
    made = record_pdf(known, parts, size, own) if kind == ".pdf" else record_html(known, parts, size, own).encode()
    write_atomically(output, made)
    say(f"The record is in {output}.")


@click.command(name="burn-in")
@click.argument("project_file", metavar="PROJECT")
@click.option("--build", help="Build; the main build if not given.")
@click.option("--point", help="Operating point; the first if not given.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")
def burn_in(project_file: str, build: str | None, point: str | None, as_json: bool) -> None:
    """Say how long a build is run hot and cold until its layers have melted or settled."""
    from ashen_bridge.planning.burn_in import burn_in as planned
    from ashen_bridge.planning.burn_in import plain
    from ashen_bridge.predict.engine import Engine

    found = planned(Engine(), in_force(opened(project_file).project), build, point)
    say(json.dumps(plain(found), ensure_ascii=False, indent=1) if as_json else found.says)


@click.command(name="first-power")
@click.argument("project_file", metavar="PROJECT")
@click.option("--build", help="Build; the main build if not given.")
@click.option("--point", help="Operating point; the first if not given.")
@click.option(
    "--log",
    "log",
    type=click.Path(exists=True, dir_okay=False, path_type=Path),
    help="A sensor log of the first minutes: it is judged as it goes.",
)
@click.option("--read", "read", multiple=True, metavar="SENSOR=°C", help="A reading; with --at.")
@click.option("--at", "at_s", type=click.FloatRange(0, 300), default=180.0, show_default=True, help="When it was read [s].")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")
def first_power(
    project_file: str,
    build: str | None,
    point: str | None,
    log: Path | None,
    read: tuple[str, ...],
    at_s: float,
    as_json: bool,
) -> None:
    """Say what each sensor shows in the first minutes, and judge readings or a log: as planned, or stop and why."""
    from ashen_bridge.bench.first_power.expecting import expect
    from ashen_bridge.bench.first_power.judging import judge
    from ashen_bridge.bench.first_power.logged import judge_log
    from ashen_bridge.predict.engine import Engine

    project = in_force(opened(project_file).project)
    readings = dict(map(reading, read))
    sensors = [one.id for one in project.device.sensors]
    if readings and not readings.keys() & set(sensors):
        # Said before a minute is spent on what is expected.
        raise AshenError(f"None of the sensors that were read is one of this device: {', '.join(sensors)}.")
    expected = expect(Engine(), project, build, point)
    told = judge_log(expected, project, log) if log is not None else judge(expected, at_s, readings) if readings else None
    say(json.dumps(_expected_plain(expected, told), ensure_ascii=False, indent=1) if as_json else _expected_text(expected, told))


def _expected_plain(expected: Expected, told: Judged | None) -> dict[str, Any]:
    def course(values: Any) -> dict[str, list[float]]:
        return {name: [round(float(v), 2) for v in values[:, n]] for n, name in enumerate(expected.sensors)}

    return {
        "build": expected.build,
        "point": expected.point,
        "times_s": [float(t) for t in expected.times_s],
        "expected": course(expected.healthy_c),
        "pm": course(expected.pm_k),
        "faults": [{"id": one.id, "title": one.title, "shows": course(one.shown_c[-1])} for one in expected.cases],
        "says": None if told is None else told.says,
        "stop": None if told is None else told.stop,
        "suspects": [] if told is None else [asdict(one) for one in told.suspects],
    }


def _expected_text(expected: Expected, told: Judged | None) -> str:
    at = [int(abs(expected.times_s - t).argmin()) for t in (60.0, 180.0, 300.0)]
    lines = [told.says, ""] if told is not None else []
    lines.append(f"{'sensor':<24} {'1 min':>10} {'3 min':>10} {'5 min':>10}")
    for n, name in enumerate(expected.names):
        shown = "  ".join(
            f"{number(float(expected.healthy_c[k, n]))} ± {number(float(expected.pm_k[k, n]))}".rjust(9) for k in at
        )
        lines.append(f"{name[:24]:<24} {shown}")
    return "\n".join(lines)


@click.command()
@click.argument("project_file", metavar="PROJECT")
@click.option("--build", help="Build; the main build if not given.")
@click.option("--point", help="Operating point; the first if not given.")
@click.option("--size", type=click.Choice(["A4", "Letter"]), default="A4", show_default=True, help="Paper.")
@click.option("-o", "--output", type=_FILE, required=True, help="Where to write the card: .pdf or .html.")
def card(project_file: str, build: str | None, point: str | None, size: Literal["A4", "Letter"], output: Path) -> None:
    """Write the bench card for the wall: the board, what lies where, the screws, what to expect, when it is due."""
    from ashen_bridge.predict.engine import Engine
    from ashen_bridge.report.record.card import card_html, card_pdf

    kind = output.suffix.lower()
    if kind not in (".pdf", ".html", ".htm"):
        raise AshenError(f"The card is written as .pdf or .html, not as '{output.suffix or output.name}'.")
    project, engine = in_force(opened(project_file).project), Engine()
    made = (
        card_pdf(engine, project, build, point, size)
        if kind == ".pdf"
        else card_html(engine, project, build, point, size).encode()
    )
    write_atomically(output, made)
    say(f"The card is in {output}.")


@click.command()
@click.argument("project_file", metavar="PROJECT")
@click.option("--name", help="What the kind is called; the device's own name if not given.")
@click.option("-o", "--output", type=_FILE, required=True, help="Where to save the recipe, as a project file.")
def recipe(project_file: str, name: str | None, output: Path) -> None:
    """Make a device the recipe of its kind: runs, readings and photographs are left out."""
    from ashen_bridge.changes.kinds import as_kind
    from ashen_bridge.files.archive import save_project

    project = in_force(opened(project_file).project)
    save_project(output, as_kind(project, name or project.name))
    say(f"The recipe is in {output}.")


@click.command()
@click.option("--from", "source", required=True, metavar="RECIPE", help="The recipe, or any project of the kind.")
@click.option("--name", default="", help="What the new device is called.")
@click.option("-o", "--output", type=_FILE, required=True, help="Where to save the new project.")
def new(source: str, name: str, output: Path) -> None:
    """Begin the next device of a kind: only what differs is measured."""
    from ashen_bridge.changes.kinds import as_kind
    from ashen_bridge.cli.saving import save_changed

    project = opened(source).project
    made = as_kind(project, name or project.name)
    save_changed(output, made, made, what="")
    say(f"{made.name or 'The device'} is in {output}: {len(made.builds)} builds, nothing measured yet.")


@click.command()
@click.argument("project_file", metavar="PROJECT")
@click.option("-o", "--output", type=click.Path(file_okay=False, path_type=Path), required=True, help="Folder to write into.")
def export(project_file: str, output: Path) -> None:
    """Write everything a file holds as clean tables, one CSV per kind of thing, and as one JSON file."""
    from ashen_bridge.files.everything import export_everything

    try:
        written = export_everything(opened(project_file).project, output)
    except OSError as error:
        raise AshenError(f"Nothing can be written into '{output}': {error.strerror}.") from error
    say(f"{len(written)} files are in {output}.")


@click.command()
@click.argument("folder", type=click.Path(exists=True, path_type=Path))
@click.option("--ics", "calendar_file", type=_FILE, help="Write a calendar file with every date.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")
def service(folder: Path, calendar_file: Path | None, as_json: bool) -> None:
    """List the devices of a folder: state, worst margin, and when each is due by the ageing of its layers."""
    from ashen_bridge.planning.devices import devices
    from ashen_bridge.planning.service import calendar
    from ashen_bridge.predict.engine import Engine

    found = list(devices(Engine(), folder, opened))
    if not found:
        raise AshenError(f"The folder '{folder}' holds no device files (.ashb or .json).")
    if calendar_file is not None:
        write_atomically(calendar_file, calendar([(one.name, one.due) for one in found if one.due is not None], date.today()))
    if as_json:
        say(json.dumps({"devices": [one.plain(date.today()) for one in found]}, ensure_ascii=False, indent=1))
    else:
        say("\n".join(one.line for one in found))
