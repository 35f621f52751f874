"""Runs and comparisons as JSON and as text."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from ashen_bridge.bench.compare_runs import Comparison
from ashen_bridge.bench.runs import RunFigures, in_words
from ashen_bridge.model.device import Device


def run_plain(found: RunFigures, device: Device, notes: tuple[str, ...] = ()) -> dict[str, Any]:
    """Return a run's figures as plain data: temperatures in °C, what was written else."""
    roles = {one.column: one for one in found.run.channels}
    passes = [
        {
            "window_s": one.window_s,
            "ambient_c": one.ambient_c,
            "channels": [
                {"column": column, "sensor": roles[column].sensor, "role": roles[column].role, **asdict(stats)}
                for column, stats in one.channels.items()
            ],
            "climbing": [{"column": column, **asdict(ahead)} for column, ahead in one.climbing.items()],
            "throttled": None if one.throttled is None else asdict(one.throttled),
        }
        for one in found.passes
    ]
    said = in_words(found, device)
    return {
        "run": found.run.id,
        "build": found.run.build,
        "point": found.run.point,
        "passes": passes,
        "said": said,
        "notes": notes,
    }


def run_text(found: RunFigures, device: Device) -> str:
    """Return a run as an aligned table of its channels, then what there is to say."""
    labels = {sensor.id: sensor.label for sensor in device.sensors}
    lines = [f"{found.run.label}: {found.run.build} at {found.run.point}, {len(found.passes)} pass(es)", ""]
    lines.append(f"{'column':<26} {'is':<20} {'mean':>8} {'± (se)':>8} {'max':>8} {'99 %':>8}")
    last = found.passes[-1]
    for one in found.run.channels:
        stats = last.channels.get(one.column)
        if stats is None:
            continue
        figures = f"{stats.mean:8.1f} {stats.standard_error:8.2f} {stats.maximum:8.1f} {stats.p99:8.1f}"
        lines.append(f"{one.column[:26]:<26} {labels.get(one.sensor or '', one.role)[:20]:<20} {figures}")
    return "\n".join([*lines, "", *in_words(found, device)]).rstrip()


def comparison_plain(found: Comparison) -> dict[str, Any]:
    """Return a comparison as plain data; differences in K, those that became worse first."""
    rows = [{"sensor": one.sensor, "name": one.name, **asdict(one.rise)} for one in found.sensors]
    return asdict(found) | {"sensors": rows}


def comparison_text(found: Comparison) -> str:
    """Return a comparison as an aligned table of rises over ambient, worse first."""
    by = ", at equal power" if found.equal_power else ""
    lines = [f"{found.before} → {found.after}: rise over ambient [K]{by}", ""]
    lines.append(f"{'sensor':<24} {'before':>7} {'after':>7} {'change':>7}  {'95 % interval':<16}")
    for one in found.sensors:
        rise = one.rise
        interval = f"{rise.low:+.1f} to {rise.high:+.1f}"
        figures = f"{rise.before:7.1f} {rise.after:7.1f} {rise.difference:+7.1f}"
        lines.append(f"{one.name[:24]:<24} {figures}  {interval:<16} {rise.verdict}")
    if found.hot_minus_mean is not None:
        lines += ["", "Hot spot minus average: {:.1f} K before, {:.1f} K after.".format(*found.hot_minus_mean)]
    return "\n".join([*lines, *([""] if found.cautions else []), *found.cautions])
