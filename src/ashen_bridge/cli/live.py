"""A simulated device that sends its readings live, in the line format any program may send."""

from __future__ import annotations

import contextlib
import os
import socket
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING

import click

from ashen_bridge.cli.opening import opened
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    from ashen_bridge.bench.simulated import Habits

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
@click.option("--cycle", nargs=2, type=click.FloatRange(0.0, 1440.0), help="Minutes of load and of pause, again and again.")
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
    cycle: tuple[float, float] | None,
    unlike: int | None,
) -> None:
    """Run a simulated device and send one line of readings for each of its seconds."""
    with contextlib.ExitStack() as ends:
        # A place that cannot be waited at is said before anything is computed.
        waiting = Waiting(address) if address is not None else None
        if waiting is not None:
            ends.callback(waiting.close)
        project = in_force(opened(project_file).project)
        where = project.build(build).id, project.point(point).id
        from ashen_bridge.bench.simulated import FanRule, Habits

        on, off = cycle or (0.0, 0.0)
        habits = Habits(warmer_k=warmer, fan=FanRule() if fan_rule else None, cycle_s=(60 * on, 60 * off))
        rows = _readings(project if unlike is None else _unlike(project, where, unlike), where, minutes, habits, seed)
        send, close = _standard_output() if waiting is None else (waiting.accept(), waiting.close)
        ends.callback(close)
        with contextlib.suppress(BrokenPipeError, ConnectionError):  # whoever listened has had enough
            _send_all(rows, send, minutes, speed)


def _unlike(project: Project, where: tuple[str, str], seed: int) -> Project:
    from ashen_bridge.bench.simulated import another_device

    return another_device(project, *where, seed)


def _readings(
    project: Project, where: tuple[str, str], minutes: float, habits: Habits, seed: int
) -> Iterator[tuple[float, dict[str, float]]]:
    from ashen_bridge.bench.simulated import simulated_device
    from ashen_bridge.predict.engine import Engine

    return simulated_device(Engine(), project, *where, habits, minutes=min(max(minutes, 20.0), 90.0)).readings(seed)


def _send_all(rows: Iterator[tuple[float, dict[str, float]]], send: Send, minutes: float, speed: float) -> None:
    """Send a header and a line per second of the device, at some times real time."""
    from ashen_bridge.logs.live import END, header_line, reading_line

    start = time.monotonic()
    for second, row in rows:
        if second > minutes * 60:
            break
        if second == 0:
            send(header_line(list(row)))
        wait = second / speed - (time.monotonic() - start)
        if wait > 0:
            time.sleep(wait)
        send(reading_line(second, row))
    send(END)


def _standard_output() -> tuple[Send, Callable[[], object]]:
    def send(line: str) -> None:
        sys.stdout.write(line + "\n")
        sys.stdout.flush()

    def close() -> None:
        # Nothing may be flushed into a closed pipe when the interpreter ends.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())

    return send, close if not sys.stdout.isatty() and hasattr(sys.stdout, "fileno") else lambda: None


class Waiting:
    """A Unix socket only this user may speak to, bound at once and taken away again; nothing else ever is."""

    def __init__(self, address: Path) -> None:
        self._address = address
        self._server = socket.socket(socket.AF_UNIX)
        self._connection: socket.socket | None = None
        before = os.umask(0o177)
        try:
            self._server.bind(str(address))
        except OSError as error:
            self._server.close()
            raise AshenError(f"Cannot wait on “{address}”: {error.strerror or error}.") from error
        finally:
            os.umask(before)
        self._made = address.stat().st_ino
        self._server.listen(1)

    def accept(self) -> Send:
        """Wait for somebody to listen; returns what sends a line."""
        connection, _ = self._server.accept()
        self._connection = connection
        return lambda line: connection.sendall((line + "\n").encode())

    def close(self) -> None:
        """Hang up, and take the socket away if it is still the one that was made here."""
        for one in (self._connection, self._server):
            if one is not None:
                one.close()
        try:
            if self._address.lstat().st_ino == self._made:
                self._address.unlink()
        except OSError:
            pass  # somebody else took it away, or the folder
