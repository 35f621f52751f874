"""The quick check by the command line."""

from __future__ import annotations

import json
import math
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from ashen_bridge.cli.opening import opened
from ashen_bridge.cli.said import say
from ashen_bridge.cli.saving import KEEP
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.errors import AshenError
from ashen_bridge.words.numbers import number

if TYPE_CHECKING:
    from ashen_bridge.planning.checked import Checked, QuickCheck

_FILE = click.Path(dir_okay=False, path_type=Path)


def reading(said: str) -> tuple[str, float]:
    """Return a sensor's id and what it read, said as SENSOR=°C. Raises `AshenError`."""
    name, _, value = said.partition("=")
    try:
        celsius = float(value)
    except ValueError:
        celsius = math.nan
    if not math.isfinite(celsius):
        raise AshenError(f"A reading is said as SENSOR=°C, not as '{said}'.")
    return name, celsius


@click.command(name="quick-check")
@click.argument("project_file", metavar="PROJECT")
@click.option("--build", help="Build; the main build if not given.")
@click.option("--point", help="Operating point; the first if not given.")
@click.option("--minutes", type=float, default=10.0, show_default=True, help="How long the load runs.")
@click.option("--read", "read", multiple=True, metavar="SENSOR=°C", help="What a sensor showed then.")
@click.option("--air", "air_c", type=click.FloatRange(-60, 90), help="The room's air [°C]; as in the record if not given.")
@click.option("--log", type=click.Path(exists=True, dir_okay=False, path_type=Path), help="A sensor log in place of readings.")
@KEEP
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")
def quick_check(
    project_file: str,
    build: str | None,
    point: str | None,
    minutes: float,
    read: tuple[str, ...],
    air_c: float | None,
    log: Path | None,
    keep: Path | None,
    as_json: bool,
) -> None:
    """Hold some minutes of a load against the record: leave it shut, or open it and why."""
    from ashen_bridge.cli.saving import keep_answer
    from ashen_bridge.editing.keeping import keep_check
    from ashen_bridge.logs.reading import read_log
    from ashen_bridge.planning.checking import quick_check as checking
    from ashen_bridge.planning.checking import readings_of_log
    from ashen_bridge.predict.engine import Engine

    content = opened(project_file)
    project, readings = in_force(content.project), dict(map(reading, read))
    check = checking(Engine(), project, build, point, minutes)
    if log is not None:
        readings = readings_of_log(check, project, read_log(log)) | readings
    told = check.judged(readings, air_c if log is None else None) if readings else None
    if keep is not None:
        if told is None:
            raise AshenError("There is nothing to keep: say with --read or --log what was read.")
        keep_answer(keep, content, keep_check, check, told)
    say(json.dumps(_plain(check, told), ensure_ascii=False, indent=1) if as_json else _text(check, told))


def _plain(check: QuickCheck, told: Checked | None) -> dict[str, Any]:
    return asdict(check) | {
        "says": check.words if told is None else told.says,
        "opens": None if told is None else told.opens,
        "seen": [] if told is None else [asdict(one) | {"opens": one.opens} for one in told.seen],
    }


def _text(check: QuickCheck, told: Checked | None) -> str:
    lines = [told.says if told is not None else check.words, f"({check.source})", ""]
    seen = {one.sensor: one for one in told.seen} if told is not None else {}
    lines.append(f"{'sensor':<24} {'record':>8} {'opened from':>12} {'read':>8} {'over':>7}")
    for row in check.rows:
        one = seen.get(row.sensor)
        read = f" {number(one.read_c, 1):>8} {number(one.over_k, 1, sign=True):>7}" if one is not None else ""
        lines.append(f"{row.label[:24]:<24} {number(row.expected_c, 1):>8} {'+' + number(row.more_k, 1):>12}{read}")
    return "\n".join(lines)
