"""The whole field for other programs: as a mesh file, and as a network of resistances."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from ashen_bridge.cli.opening import opened
from ashen_bridge.cli.said import say


def _told(command: Any) -> Any:
    """Add what both commands ask for."""
    for option in (
        click.option("-o", "--output", required=True, type=click.Path(dir_okay=False, path_type=Path), help="Where to write it."),
        click.option("--mesh", metavar="coarse|fine|N", default="fine", help="N: the fine one halved N times more."),
        click.option("--point", help="Operating point by id; the first if not given."),
        click.option("--build", help="Build by id; the project's main build if not given."),
        click.argument("file"),
    ):
        command = option(command)
    return command


@click.command(name="field")
@_told
def field(file: str, build: str | None, point: str | None, mesh: str, output: Path) -> None:
    """Write the temperature field as a mesh for general viewers (.vtu or .vtk)."""
    from ashen_bridge import api
    from ashen_bridge.predict.meshes import read_mesh

    bricks = api.solid_mesh(opened(file).project, build, point, mesh=read_mesh(mesh))
    api.save_mesh(bricks, output)
    say(f"{len(bricks.bricks)} bricks; body {', '.join(f'{n} is {name}' for n, name in enumerate(bricks.bodies))}.")


@click.command(name="network")
@_told
def network(file: str, build: str | None, point: str | None, mesh: str, output: Path) -> None:
    """Write the resistances between bodies and ambient: a netlist for circuit programs, or a table if OUTPUT ends in .csv."""
    from ashen_bridge import api
    from ashen_bridge.files.atomic import write_atomically
    from ashen_bridge.predict.meshes import read_mesh

    found = api.network(opened(file).project, build, point, mesh=read_mesh(mesh))
    write_atomically(output, (found.table() if output.suffix.lower() == ".csv" else found.netlist()).encode())
