"""The command that prints the sheet by which a device is opened up."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

import click

from ashen_bridge.cli.opening import opened
from ashen_bridge.cli.said import say
from ashen_bridge.files.atomic import write_atomically
from ashen_bridge.model.errors import AshenError

if TYPE_CHECKING:
    from ashen_bridge.model.procedures import Procedure
    from ashen_bridge.model.project import Project


@click.command(name="open-up")
@click.argument("project_file", metavar="PROJECT")
@click.option("--build", help="Build that is opened; the main build if not given.")
@click.option("--procedure", help="A procedure of the file by id; else one is worked out from the device.")
@click.option("--recipe", type=click.Path(path_type=Path), help="Go by this recipe of another device of the kind.")
@click.option("--save-recipe", type=click.Path(path_type=Path), help="Save the procedure as a recipe.")
@click.option(
    "--static", type=click.Choice(["strap", "touch"]), default="strap", help="Wrist strap (default), or touching metal."
)
@click.option("--size", type=click.Choice(["A4", "Letter"]), default="A4", show_default=True, help="Paper.")
@click.option("-o", "--output", type=click.Path(path_type=Path), help="Where to write the sheet: .pdf or .html.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")
def open_up(
    project_file: str,
    build: str | None,
    procedure: str | None,
    recipe: Path | None,
    save_recipe: Path | None,
    static: Literal["strap", "touch"],
    size: Literal["A4", "Letter"],
    output: Path | None,
    as_json: bool,
) -> None:
    """Say step by step how to open a device up: hold points first, screws crosswise, hidden plugs before the cooler."""
    from ashen_bridge.planning.opening import Schools, opening
    from ashen_bridge.planning.recipe import read_recipe, write_recipe

    project = opened(project_file).project
    if procedure is not None:
        said = next((one for one in project.procedures if one.id == procedure), None)
        if said is None:
            raise AshenError(f"The project has no procedure '{procedure}'.")
    elif recipe is not None:
        try:
            said = read_recipe(recipe.read_bytes(), project, build)
        except OSError as error:
            raise AshenError(f"The recipe '{recipe}' cannot be read: {error.strerror}.") from error
    else:
        said = opening(project, build, Schools(static))
    if save_recipe is not None:
        write_atomically(save_recipe, write_recipe(said))
    if output is not None:
        write_sheet(project, said, output, size)
    if as_json:
        say(json.dumps(plain_procedure(project, said), ensure_ascii=False, indent=1))
    elif output is None:
        say(procedure_text(project, said))


def write_sheet(project: Project, procedure: Procedure, output: Path, size: Literal["A4", "Letter"]) -> None:
    """Write the sheet of a procedure as PDF or HTML, as its file is called."""
    from ashen_bridge.report.sheet import sheet_html, sheet_pdf

    if output.suffix.lower() == ".pdf":
        write_atomically(output, sheet_pdf(project, procedure, size))
    elif output.suffix.lower() in (".html", ".htm"):
        write_atomically(output, sheet_html(project, procedure, size).encode())
    else:
        raise AshenError(f"A sheet is written as .pdf or .html, not as '{output.suffix or output.name}'.")


def plain_procedure(project: Project, procedure: Procedure) -> dict[str, Any]:
    """Return a procedure with its needs and its tray as plain data."""
    from ashen_bridge.planning.needs import needs
    from ashen_bridge.planning.tray import tray

    found = tray(project, procedure.build)
    return {
        "procedure": procedure.model_dump(mode="json"),
        "needs": [vars(one) for one in needs(project, procedure.build)],
        "tray": [
            {
                **{key: getattr(one, key) for key in ("number", "id", "label", "out", "cell", "back", "missing")},
                "looks": one.looks,
            }
            for one in found.slots
        ],
        "told": found.told,
    }


def procedure_text(project: Project, procedure: Procedure) -> str:
    """Return a procedure as text."""
    from ashen_bridge.planning.needs import needs

    lines = [procedure.label, ""]
    if len(procedure.steps) > 1:
        lines += ["You need:", *(f"  {one.what} – {one.why}" for one in needs(project, procedure.build)), ""]
    for n, step in enumerate(procedure.steps):
        held = "HOLD: " if step.kind == "hold" else ""
        lines.append(f"{n + 1:>3} [{'x' if step.done else ' '}] {held}{step.text}")
        lines += [f"        ! {step.caution}"] if step.caution else []
    return "\n".join(lines)
