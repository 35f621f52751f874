"""A simulated device that sends its readings live, in the line format any program may send."""

from __future__ import annotations

import os
import socket
import sys
import time
from collections.abc import Callable
from pathlib import Path

import click

from ashen_bridge.cli.opening import opened
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.errors import AshenError

Send = Callable[[str], None]


@click.command()
@click.argument("project_file", metavar="PROJECT")
@click.option("--build", help="Build that is simulated; the main build if not given.")
@click.option("--point", help="Operating point; the first if not given.")
@click.option("--speed", type=click.FloatRange(0.1, 100_000), default=1.0, help="Times real time.")
@click.option("--minutes", type=click.FloatRange(0.1, 3000), default=30.0, help="How long it runs.")
@click.option("--seed", type=int, default=1, help="Seed of its noise.")
@click.option("--warmer", type=float, default=0.0, help="By how much the room is warmer than stated [K].")
@click.option("--socket", "address", type=click.Path(path_type=Path), help="Wait on this Unix socket, else standard output.")
@click.option("--fan-rule", is_flag=True, help="Let its fans follow the hottest sensor, from half their speed.")
@click.option("--unlike", type=int, help="Draw its numbers from their ± with this seed, so that it is not quite the model.")
def simulate(
    project_file: str,
    build: str | None,
    point: str | None,
    speed: float,
    minutes: float,
    seed: int,
    warmer: float,
    address: Path | None,
    fan_rule: bool,
    unlike: int | None,
) -> None:
    """Run a simulated device and send one line of readings for each of its seconds."""
    from ashen_bridge.bench.logs.live import END, header_line, reading_line
    from ashen_bridge.bench.simulated import FanRule, Habits, another_device, simulated_device
    from ashen_bridge.predict.engine import Engine

    project = in_force(opened(project_file).project)
    where = project.build(build).id, project.point(point).id
    if unlike is not None:
        project = another_device(project, *where, unlike)
    device = simulated_device(
        Engine(),
        project,
        *where,
        Habits(warmer_k=warmer, fan=FanRule() if fan_rule else None),
        minutes=min(max(minutes, 20.0), 90.0),
    )
    send, close = _standard_output() if address is None else _unix_socket(address)
    start = time.monotonic()
    try:
        for second, row in device.readings(seed):
            if second > minutes * 60:
                break
            if second == 0:
                send(header_line(list(row)))
            wait = second / speed - (time.monotonic() - start)
            if wait > 0:
                time.sleep(wait)
            send(reading_line(second, row))
        send(END)
    except (BrokenPipeError, ConnectionError):
        pass  # whoever listened has had enough
    finally:
        close()


def _standard_output() -> tuple[Send, Callable[[], object]]:
    def send(line: str) -> None:
        sys.stdout.write(line + "\n")
        sys.stdout.flush()

    def close() -> None:
        # Nothing may be flushed into a closed pipe when the interpreter ends.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())

    return send, close if not sys.stdout.isatty() and hasattr(sys.stdout, "fileno") else lambda: None


def _unix_socket(address: Path) -> tuple[Send, Callable[[], object]]:
    server = socket.socket(socket.AF_UNIX)
    try:
        server.bind(str(address))
    except OSError as error:
        server.close()
        raise AshenError(f"Cannot wait on “{address}”: {error.strerror or error}.") from error
    server.listen(1)
    connection, _ = server.accept()
    server.close()

    def close() -> None:
        connection.close()
        address.unlink(missing_ok=True)

    return lambda line: connection.sendall((line + "\n").encode()), close
