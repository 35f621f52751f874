"""The command that says what readings make of the gaps, what does not fit, and what to read next."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from ashen_bridge.cli.caliper import readings_from
from ashen_bridge.cli.opening import opened
from ashen_bridge.cli.said import say
from ashen_bridge.cli.saving import save_changed
from ashen_bridge.files.atomic import write_atomically
from ashen_bridge.model.errors import AshenError
from ashen_bridge.words.numbers import percent

if TYPE_CHECKING:
    from ashen_bridge.measuring.result import Closed, Found, Gap
    from ashen_bridge.model.project import Project

_SOURCES, _LIFT = 5, 0.005  # sources shown; lift from which it is said [mm]


@click.command()
@click.argument("project_file", metavar="PROJECT")
@click.option("--build", help="Build whose gaps are asked for; the main build if not given.")
@click.option("--joint", help="Show this joint only, with its budget and what to read next for it.")
@click.option("--covariance", is_flag=True, help="With --json: the covariance of all gaps.")
@click.option("--take-over", is_flag=True, help="Set every number to what the readings made of it, and save that.")
@click.option("-o", "--output", type=click.Path(path_type=Path), help="With --take-over: where to save.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")
def measure(
    project_file: str,
    build: str | None,
    joint: str | None,
    covariance: bool,
    take_over: bool,
    output: Path | None,
    as_json: bool,
) -> None:
    """Say how wide every gap is by all readings together, how well that is known and why, and what to read next."""
    from ashen_bridge.measuring.finding import finding
    from ashen_bridge.predict.engine import Engine

    file = opened(project_file)
    if take_over and output is None:
        raise AshenError("Say with -o where to save what is taken over.")
    *_, (_, found) = finding(Engine(), file.project, build)
    assert found is not None  # the last one always is
    gaps = [n for n, gap in enumerate(found.gaps) if joint in (None, gap.joint)]
    if not gaps:
        raise AshenError(f"The build '{found.build}' has no joint '{joint}'.")
    worst = max(gaps, key=lambda n: found.gaps[n].now[1])
    plain: dict[str, Any] = {"build": found.build, **_plain(found, gaps)}
    plain["next"] = [vars(one) for one in found.gaps[worst].next]
    if covariance:
        plain["covariance_mm2"] = [[found.covariance_mm2[n][m] for m in gaps] for n in gaps]
    if take_over:
        plain["taken_over"] = _taken(file.project, found, output)
    say(json.dumps(plain, ensure_ascii=False, indent=1) if as_json else _text(found, gaps, worst, plain))


def _taken(project: Project, found: Found, output: Path | None) -> list[dict[str, Any]]:
    from ashen_bridge.changes.readings import take_over

    assert output is not None  # looked at before anything was computed
    save_changed(output, project, take_over(project, found.numbers, found.ties), what="Readings taken over")
    return [
        {
            "path": one.path,
            "from": one.was.value,
            "from_uncertainty": one.was.uncertainty,
            "to": one.now.value,
            "to_uncertainty": one.now.uncertainty,
        }
        for one in found.numbers
    ]


def _plain(found: Found, gaps: list[int]) -> dict[str, Any]:
    def of(n: int, row: object) -> dict[str, Any]:
        return {"joint": found.gaps[n].joint, "lower": found.gaps[n].lower, **vars(row)}

    return {
        "combined": [_gap(found.gaps[n]) for n in gaps],
        "methods": [of(n, one) for n in gaps for one in found.gaps[n].methods],
        "budget": [of(n, one) for n in gaps for one in found.gaps[n].budget],
        "closed": [of(n, one) for n in gaps for one in found.gaps[n].closed],
        "odd": [
            {
                "reading": one.reading,
                "off": one.off,
                "standardised": one.standardised,
                "expected": one.expected[0],
                "expected_sd": one.expected[1],
                "alike": list(one.alike),
                "separable": one.separable if one.separable < 1e6 else None,
                "gaps_without": [
                    {"joint": found.gaps[n].joint, "lower": found.gaps[n].lower, "gap_mm": gap, "sd_mm": sd}
                    for n, (gap, sd) in enumerate(one.gaps)
                    if n in gaps
                ],
            }
            for one in found.odd
        ],
        "unchecked": list(found.unchecked),
        "refused": [{"reading": name, "why": why} for name, why in found.refused],
    }


def _gap(gap: Gap) -> dict[str, Any]:
    return {
        "joint": gap.joint,
        "lower": gap.lower,
        "gap_mm": gap.now[0],
        "sd_mm": gap.now[1],
        "before_mm": gap.before[0],
        "before_sd_mm": gap.before[1],
    }


def _text(found: Found, gaps: list[int], worst: int, plain: dict[str, Any]) -> str:
    lines = [f"{'joint':<24} {'before':>16} {'now':>16}  [mm]"]
    for n in gaps:
        gap = found.gaps[n]
        before, now = (f"{value:.3f} ± {sd:.3f}" for value, sd in (gap.before, gap.now))
        lines.append(f"{gap.name[:24]:<24} {before:>16} {now:>16}")
        lines += [f"    by {one.name}: {one.gap_mm:.3f} ± {one.sd_mm:.3f}" for one in gap.methods]
        lines += [f"    {_closed(one)}" for one in gap.closed]
    lines += ["", f"What makes up the ± of {found.gaps[worst].name}:"]
    lines += [f"    {percent(one.share):>5}  {one.source}" for one in found.gaps[worst].budget[:_SOURCES]]
    listed = found.gaps[worst].next
    if listed:
        lines += ["", "To read next, the most worth per minute first:"]
        lines += [f"    {one.words}: ± {one.now_mm:.3f} → {one.then_mm:.3f} mm, {one.minutes:g} min" for one in listed]
    for odd in found.odd:
        said = f"all others say {odd.expected[0]:.3f} ± {odd.expected[1]:.3f}, it is {odd.off:+.3f} off"
        moved = max(gaps, key=lambda n: abs(odd.gaps[n][0] - found.gaps[n].now[0]))
        value, sd = odd.gaps[moved]
        if odd.alike:
            said += f"; or {', '.join(odd.alike)} instead, which cannot be told apart"
        if odd.separable < 1e6:
            said += f"; a slip there is told from all others from {odd.separable:.2f} on"
        lines.append(f"'{odd.reading}' does not fit: {said}. Without it {found.gaps[moved].name} is {value:.3f} ± {sd:.3f}.")
    lines += [f"'{one}' is checked by nothing: read it a second way." for one in found.unchecked]
    lines += [f"'{name}' is not used. {why}" for name, why in found.refused]
    taken = plain.get("taken_over", [])
    lines += [f"{one['path']}: {one['from']:g} → {one['to']:g} ± {one['to_uncertainty']:.2g}" for one in taken]
    return "\n".join(lines)


def _closed(one: Closed) -> str:
    side = "too high" if one.lift_mm > 0 else "too low"
    stood = (
        f"but the stack stood {abs(one.lift_mm):.3f} {side} then"
        if abs(one.lift_mm) > _LIFT
        else "the stack standing as it shall"
    )
    return f"'{one.reading}' read {one.read_mm:.3f}, {stood}: {one.fills_mm:.3f} is to fill"


@click.command()
@click.argument("project_file", metavar="PROJECT")
@click.option("--add", "table", type=click.Path(path_type=Path), help="Take the readings of a CSV table in.")
@click.option("--from", "port", metavar="PORT", help="Take readings from a caliper on this serial port.")
@click.option("--of", "wanted", multiple=True, metavar="WHAT", help="With --from: height:BODY or step:PLATE.LANDING, in order.")
@click.option("--repeats", type=click.IntRange(1, 50), default=3, help="With --from: values of each.")
@click.option("-o", "--output", type=click.Path(path_type=Path), help="Where to save the project; else where to write the table.")
def readings(
    project_file: str, table: Path | None, port: str | None, wanted: tuple[str, ...], repeats: int, output: Path | None
) -> None:
    """Print all readings as CSV, take those of a table in, or take them from a caliper."""
    from ashen_bridge.changes.readings import add_readings
    from ashen_bridge.measuring.as_table import from_csv, to_csv

    project = opened(project_file).project
    if port is not None:
        if output is None:
            raise AshenError("Say with -o where to save the project with its new readings.")
        readings_from(project, port, wanted, repeats, output)
        return
    if table is None:
        text = to_csv(project)
        if output is None:
            say(text, nl=False)
        else:
            write_atomically(output, text.encode())
        return
    if output is None:
        raise AshenError("Say with -o where to save the project with its new readings.")
    try:
        text = table.read_text("utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise AshenError(f"The table '{table}' cannot be read: {error}.") from error
    found = from_csv(text)
    save_changed(output, project, add_readings(project, found), what="Readings")
    say(f"{len(found)} reading{'s' if len(found) != 1 else ''} taken in.")
