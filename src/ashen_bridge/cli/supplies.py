"""Parts of a board from a table, and materials: their curves, and what tests of one's own make of them."""

from __future__ import annotations

import json
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from ashen_bridge.cli.opening import opened
from ashen_bridge.cli.said import say
from ashen_bridge.model.errors import AshenError

if TYPE_CHECKING:
    pass


@click.command(name="import-parts")
@click.argument("project_file", metavar="PROJECT")
@click.argument("table", type=click.Path(path_type=Path), required=False)
@click.option("-o", "--output", type=click.Path(path_type=Path), help="Where to save; without a table: the parts as CSV.")
def import_parts(project_file: str, table: Path | None, output: Path | None) -> None:
    """Put parts of a table (reference, x, y, turn, side, size, height, watts) on the board; without one, write such a table."""
    from ashen_bridge.cli.saving import save_changed
    from ashen_bridge.editing.parts_list import add_parts, read_parts, to_csv
    from ashen_bridge.files.atomic import write_atomically

    project = opened(project_file).project
    if table is None:
        text = to_csv(project)
        if output is None:
            say(text.rstrip())
        else:
            write_atomically(output, text.encode())
        return
    if output is None:
        raise AshenError("Say with -o where to save the project with these parts.")
    try:
        text = table.read_text("utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise AshenError(f"The table '{table}' cannot be read: {error}.") from error
    parts = read_parts(text)
    save_changed(output, project, add_parts(project, None, parts).applied(project), what="Parts from a table")
    say(f"{len(parts)} part{'s' if len(parts) > 1 else ''} put on the board.")


@click.command(name="fit-material")
@click.argument("table", type=click.Path(path_type=Path))
@click.option("--area", type=click.FloatRange(min=0, min_open=True), help="Area of the sample that was squeezed [mm²].")
@click.option("--into", "project_file", metavar="PROJECT", help="Take what was found into a material of this project; with -o.")
@click.option("--material", help="Id of that material.")
@click.option("-o", "--output", type=click.Path(path_type=Path), help="Where to save that project.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")
def fit_material(
    table: Path, area: float | None, project_file: str | None, material: str | None, output: Path | None, as_json: bool
) -> None:
    """Say what a material is by tests.

    Columns thickness_mm and resistance_mm2k_w are a thickness series, force_n and thickness_mm a squeeze under a scale.
    """
    from ashen_bridge.planning.choosing.fitted import fit_series, fit_squeeze, read_series

    try:
        columns = read_series(table.read_text("utf-8"))
    except (OSError, UnicodeDecodeError) as error:
        raise AshenError(f"The table '{table}' cannot be read: {error}.") from error
    if {"thickness_mm", "resistance_mm2k_w"} <= columns.keys():
        series = fit_series(columns["thickness_mm"], columns["resistance_mm2k_w"])
        odd = f" Rows {', '.join(map(str, series.odd))} do not fit." if series.odd else ""
        text = (
            f"{series.conductivity:.2f} ± {series.conductivity_u:.2f} W/m·K, {series.face:.1f} ± {series.face_u:.1f} mm²·K/W "
            f"each face, from {series.count} readings.{odd}"
        )
        found: Any = series
    elif {"force_n", "thickness_mm"} <= columns.keys():
        if area is None:
            raise AshenError("Say the area of the sample with --area.")
        found = fit_squeeze(columns["force_n"], columns["thickness_mm"], area)
        points = ", ".join(f"{100 * x:.0f} % {y:.0f} kPa" for x, y in found.points[1:])
        text = f"{found.free_mm:g} mm free; {points}; ± {100 * found.relative_u:.0f} %."
    else:
        raise AshenError("The table needs the columns thickness_mm and resistance_mm2k_w, or force_n and thickness_mm.")
    if project_file is not None:
        _into(found, area, project_file, material, output)
    say(json.dumps(asdict(found), ensure_ascii=False, indent=1) if as_json else text)


def _into(found: Any, area: float | None, project_file: str, material: str | None, output: Path | None) -> None:
    from ashen_bridge.changes.materials import fitted_curve, fitted_series
    from ashen_bridge.cli.saving import save_changed

    if material is None or output is None:
        raise AshenError("Say with --material which one, and with -o where to save.")
    project = opened(project_file).project
    project.material(material)
    if hasattr(found, "conductivity"):
        made = fitted_series(project, material, (found.conductivity, found.conductivity_u), (found.face, found.face_u))
    else:
        made = fitted_curve(project, material, found.points, found.free_mm, area or 1.0, found.relative_u)
    save_changed(output, project, made, what=f"Material '{material}' fitted to tests")


@click.command()
@click.argument("project_file", metavar="PROJECT", required=False)
@click.option("--pressure", type=click.FloatRange(1, 10_000), default=100.0, show_default=True, help="Pressure [kPa].")
@click.option(
    "--thickness", type=click.FloatRange(0.05, 10), default=1.0, show_default=True, help="Of which push-back is said [mm]."
)
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")
def materials(project_file: str | None, pressure: float, thickness: float, as_json: bool) -> None:
    """List materials by what people decide by: resistance over thickness at a pressure, push-back over compression."""
    from ashen_bridge.library import materials as library
    from ashen_bridge.planning.choosing.candidates import known_materials
    from ashen_bridge.planning.choosing.shelf import shelf

    known = known_materials(opened(project_file).project) if project_file else library()
    curves = shelf(known.values(), pressure, thickness)
    if as_json:
        say(json.dumps({"pressure_kpa": pressure, "materials": [asdict(one) for one in curves]}, ensure_ascii=False, indent=1))
        return
    lines = [f"{'material':<34} {'mm²·K/W':>9}  at {pressure:g} kPa"]
    for one in curves:
        least, most = min(one.resistance), max(one.resistance)
        spread = f"{least:9.3g}" + (
            f" to {most:.3g} ({one.thickness_mm[0]:g} to {one.thickness_mm[-1]:g} mm)" if most > least else ""
        )
        film = f"  film {one.film_um:.0f} µm" if one.film_um is not None else ""
        lines.append(
            f"{one.name[:34]:<34} {spread}{film}{'  (claim)' if one.claimed else ''}{'  ! ' + one.odd if one.odd else ''}"
        )
    say("\n".join(lines))
