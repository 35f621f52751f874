"""A caliper on a serial port: a simulated one that speaks, and readings taken from any that sends the same lines."""

from __future__ import annotations

import os
import time
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

import click

from ashen_bridge.cli.said import say
from ashen_bridge.cli.saving import save_changed
from ashen_bridge.model.errors import AshenError

if TYPE_CHECKING:
    from ashen_bridge.measuring.lines import Said
    from ashen_bridge.model.project import Project

_PATIENCE_S = 60.0  # without a word from the port


@click.command(name="simulate-caliper")
@click.argument("lengths", nargs=-1, type=click.FloatRange(-500, 500), metavar="MM…")
@click.option("--repeats", type=click.IntRange(1, 50), default=3, help="Times that each length is read.")
@click.option("--unit", type=click.Choice(["mm", "in"]), default="mm", help="What it sends.")
@click.option("--slips", type=click.FloatRange(0, 1), default=0.0, help="Chance of a slip in each reading.")
@click.option("--held", type=click.FloatRange(0, 1), default=0.0, help="Chance that the display was held.")
@click.option("--seed", type=int, default=1, help="Seed of its errors.")
@click.option("--every", type=click.FloatRange(0.0, 60), default=0.5, help="Seconds between presses of its button.")
@click.option("--pty", is_flag=True, help="Speak on a pseudo-terminal, whose name is printed first; else on standard output.")
def simulate_caliper(
    lengths: tuple[float, ...], repeats: int, unit: str, slips: float, held: float, seed: int, every: float, pty: bool
) -> None:
    """Read some true lengths [mm] with a simulated caliper, and send what it says line by line."""
    from ashen_bridge.simulated.caliper import Caliper

    lines = Caliper(slips=slips, held=held, unit=unit, seed=seed).lines(lengths, repeats)
    if not pty:
        for line in lines:
            say(line)
        return
    ours, theirs = os.openpty()
    say(os.ttyname(theirs))
    try:
        for line in lines:
            time.sleep(every)
            os.write(ours, f"{line}\r\n".encode())
        time.sleep(max(every, 0.2))
    finally:
        os.close(ours)
        os.close(theirs)


def readings_from(project: Project, port: str, wanted: tuple[str, ...], repeats: int, output: Path) -> None:
    """Take readings from a caliper's port for some parts, one after another, and save what came of it."""
    from ashen_bridge.changes.readings import set_instrument
    from ashen_bridge.editing import readings as edits

    before, asked = project, [_what(project, one) for one in wanted]
    if not asked:
        raise AshenError("Say with --of what is read, for example --of height:die or --of step:cooler.memory_left.")
    if not project.instruments:
        project = set_instrument(project, edits.USUAL)
    instrument = project.instruments[0].id
    day, zeros = time.strftime("%Y-%m-%d"), 0
    taken = 0
    for said in _heard(port):
        if said.kind == "zero":
            zeros += 1
            continue
        if said.kind == "rubbish":
            say(f"Not understood, and left out: “{said.text}”", err=True)
            continue
        if said.held:
            say("The display was held: that value was taken before, and is left out.", err=True)
            continue
        form, of = asked[taken // repeats]
        sitting = day if zeros < 2 else f"{day}, zero {zeros}"
        made = edits.take(project, form, of, said.value_mm, instrument, sitting)
        project = made.applied(project)
        taken += 1
        say(f"{wanted[(taken - 1) // repeats]}: {said.value_mm:.2f} mm")
        if taken == len(asked) * repeats:
            break
    save_changed(output, before, project)
    if taken < len(asked) * repeats:
        raise AshenError(f"The port fell silent after {taken} of {len(asked) * repeats} values; those are kept in '{output}'.")


def _what(project: Project, said: str) -> tuple[str, dict[str, str]]:
    """Return the form of a reading and what it is of, as it is written on the command line."""
    form, _, of = said.partition(":")
    board = next((one.id for one in project.device.bodies if one.kind == "board"), "board")
    if form == "height" and of:
        return form, {"body": of, "above": board}
    plate, _, landing = of.partition(".")
    if form == "step" and landing:
        return form, {"plate": plate, "landing": landing}
    raise AshenError(f"'{said}' says nothing to read: write height:BODY or step:PLATE.LANDING.")


def _heard(port: str) -> Iterator[Said]:
    """Yield what a port says until it goes away or falls silent. Raises `AshenError` where it cannot be opened."""
    import serial

    from ashen_bridge.measuring.lines import CaliperLines

    lines = CaliperLines()
    try:
        with serial.Serial(port, timeout=0.2) as line:
            last = time.monotonic()
            while time.monotonic() - last < _PATIENCE_S:
                data = line.read(256)
                if data:
                    last = time.monotonic()
                    yield from lines.feed(data)
    except serial.SerialException as error:
        if "could not open" in str(error):
            raise AshenError(f"The port '{port}' cannot be opened.") from error
        return  # unplugged: what came is kept
    except OSError:
        return
