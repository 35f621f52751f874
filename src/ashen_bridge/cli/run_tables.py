"""Runs, comparisons, calibrations and diagnoses as JSON and as text."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from ashen_bridge.bench.judgement import BENT_K, TOLD, Calibration, Comparison, Diagnosis
from ashen_bridge.bench.power_curve_result import PowerCurve
from ashen_bridge.bench.words import in_words
from ashen_bridge.logs.outcome import RunFigures
from ashen_bridge.model.device import Device
from ashen_bridge.words.numbers import number

_WORTH_SHOWING = 0.02  # belief below which a suspect is not listed


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
    lines += [""] if found.beside else []
    for other in found.beside:
        change = f"{other.after - other.before:+.4g} ± {other.half_width:.2g} {other.unit}".rstrip()
        lines.append(f"{other.name:<24} {other.before:7.4g} {other.after:7.4g}  {change}")
    lines += [found.beside_words] if found.beside_words else []
    return "\n".join([*lines, *([""] if found.cautions else []), *found.cautions])


def calibration_plain(found: Calibration) -> dict[str, Any]:
    """Return a calibration as plain data; numbers that were told most first."""
    pairs = [{"one": one, "other": other, "correlation": together} for one, other, together in found.not_apart]
    return asdict(found) | {"not_apart": pairs}


def calibration_text(found: Calibration) -> str:
    """Return a calibration as two tables, readings and numbers, then what was not told apart."""
    lines = [f"{'sensor':<24} {'measured':>8} {'±':>5} {'before':>7} {'after':>7}"]
    lines += [
        f"{row.name[:24]:<24} {row.measured:8.1f} {row.uncertainty:5.1f} {row.before:7.1f} {row.after:7.1f}"
        for row in found.residuals
    ]
    misfits = f"{number(found.misfit_before_k, 1)} K before, {number(found.misfit_after_k, 1)} K after"
    lines += ["", f"Misfit (root mean square): {misfits}.", ""]
    lines.append(f"{'number':<30} {'of':<26} {'was':>10} {'±':>8} {'is':>10} {'±':>8} {'told':>5}")
    told = [one for one in found.numbers if one.told >= TOLD]
    for one in told:
        more = f" and {len(one.owners) - 1} more" if len(one.owners) > 1 else ""
        head = f"{one.field[-30:]:<30} {one.owners[0][: 26 - len(more)] + more:<26}"
        lines.append(f"{head} {one.before:10.4g} {one.before_u:8.2g} {one.after:10.4g} {one.after_u:8.2g} {one.told:5.0%}")
    lines.append(f"Of {len(found.numbers) - len(told)} other numbers the runs say next to nothing; they stay as they are.")
    lines += [
        f"Not told apart: {one} / {other} (correlation {number(together, 2, sign=True)})."
        for one, other, together in found.not_apart
    ]
    lines += [one.words for one in found.odd]
    if found.bent_k > BENT_K:
        lines.append(f"Within what is left, readings bend away from their slopes by {number(found.bent_k, 1)} K.")
    return "\n".join(lines)


def diagnosis_plain(found: Diagnosis) -> dict[str, Any]:
    """Return a diagnosis as plain data; suspects likeliest first."""
    return asdict(found) | {"none": found.healthy_weight}


def diagnosis_text(found: Diagnosis) -> str:
    """Return the verdict, then a table of suspects, likeliest first."""
    lines = [found.verdict, "", f"{'belief':>7} {'misfit K':>8}  suspect"]
    likely = [one for one in found.suspects if one.weight >= _WORTH_SHOWING]
    lines += [f"{one.weight:7.0%} {one.misfit_k:8.1f}  {one.title}, {one.says}" for one in likely]
    return "\n".join([*lines, f"{found.healthy_weight:7.0%} {found.healthy_misfit_k:8.1f}  nothing is wrong"])


def curve_plain(found: PowerCurve) -> dict[str, Any]:
    """Return the curve through runs as plain data."""
    plain = asdict(found)
    keys = ("run", "power_w", "read_c", "curve_c")
    for row, one in zip(plain["sensors"], found.sensors, strict=True):
        row["readings"] = [dict(zip(keys, reading, strict=True)) for reading in one.readings]
        row["misfits"] = [asdict(misfit) | {"says": misfit.words} for misfit in one.misfits]
    return plain


def curve_text(found: PowerCurve) -> str:
    """Return the curve through runs as a table, then what does not fit."""
    lines = [f"Along {found.along}; at {number(found.mean_w)} W.", ""]
    lines.append(f"{'sensor':<24} {'K/W':>8} {'95 %':>17} {'air °C':>7} {'95 %':>15}")
    for one in found.sensors:
        spans = f"{one.low:.4g} to {one.high:.4g}", f"{one.air_low:.1f} to {one.air_high:.1f}"
        lines.append(f"{one.name[:24]:<24} {one.k_per_w:8.4g} {spans[0]:>17} {one.air_c:7.1f} {spans[1]:>15}")
    misfits = [f"{one.name}: {misfit.words}" for one in found.sensors for misfit in one.misfits]
    return "\n".join([*lines, *([""] if misfits or found.cautions else []), *misfits, *found.cautions])
