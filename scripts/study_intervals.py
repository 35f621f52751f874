"""Whether numbers hidden from a fit, and temperatures that no sensor read, lie within the intervals that it states."""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Iterator, Mapping
from functools import cache
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

from ashen_bridge.bench.calibrate import calibrate
from ashen_bridge.bench.logbook import figures_of, record_run
from ashen_bridge.files.blobs import BlobStore
from ashen_bridge.files.demos import open_anything
from ashen_bridge.logs.log import Column, Log
from ashen_bridge.model import paths
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.fingerprint import input_hash
from ashen_bridge.uncertainty.assumptions import assumptions
from ashen_bridge.uncertainty.drawing import highest, lowest
from ashen_bridge.uncertainty.preparation import prepared
from ashen_bridge.uncertainty.sampling import draw_samples
from devices import without_runs
from study import Case, Plain, Study

PLACES = (("beamformer", "lid_off", "listen", 165), ("correlator", "plan_a", "correlate", 35))
_SHRANK = 0.51  # share of the variance that went where ± shrank by three tenths
_UNREAD, _SAMPLES, _MOST = 2, 400, 3.0
_WRONG = 0.03  # by so much the law of every pad and paste is off that nobody lets vary


@cache
def _engine(name: str) -> Engine:
    """One engine for each demo: what is told of it is the same for all devices, and so is its preparation."""
    return Engine()


@cache
def _told(name: str) -> Project:
    return without_runs(open_anything(f"demo:{name}").project)


def _cases() -> Iterator[Case]:
    for name, build, point, count in PLACES:
        key = input_hash(_told(name), build, point)
        for seed in range(count):
            yield Case(f"{name} {seed}", key, lambda at=(name, build, point, seed): _device(*at))  # type: ignore[misc]


def _device(name: str, build: str, point: str, seed: int) -> Plain:
    try:
        return _fitted(name, build, point, seed)
    except AshenError as error:  # drawn so hot that its heat runs away: it would not have been measured
        return {"away": [], "parts": [], "before_k": 0.0, "after_k": 0.0, "refused": str(error)}


def _fitted(name: str, build: str, point: str, seed: int) -> Plain:
    told, chance = _told(name), np.random.default_rng([3, seed])
    listed = [one for one in assumptions(told, build, point) if one.uncertainty > 0 and one.field != "ambient_c"]
    low, high = np.maximum(lowest(listed), -_MOST), np.minimum(highest(listed), _MOST)
    drawn = np.clip(chance.normal(size=len(listed)), low, high)
    truth = {one.paths: one.value + float(by) * one.uncertainty for one, by in zip(listed, drawn, strict=True)}
    real = paths.set_values(told, {path: value for alike, value in truth.items() for path in alike})
    report = Engine().predict(_wrong_law(real, chance), build, point, fidelity="fine").report
    shown = {row.id: row.value_c for row in report.sensors}
    sensors = [one for one in told.device.sensors if one.id in shown]
    unread = {sensors[k].id for k in chance.choice(np.arange(2, len(sensors)), min(_UNREAD, len(sensors) - 3), replace=False)}
    columns = [
        Column(one.label, "°C", shown[one.id] + chance.normal(0, 0.2) + chance.normal(0, 0.1, 60))
        for one in sensors
        if one.id not in unread
    ]
    columns.append(Column("Board power", "W", report.power_w * (1 + chance.normal(0, 0.003)) + chance.normal(0, 0.2, 60)))
    columns.append(Column("Room", "°C", np.full(60, told.point(point).ambient_c.value)))
    store = BlobStore(Path(tempfile.mkdtemp(prefix="intervals-")))
    run = record_run(told, "r", [Log(np.arange(60.0), tuple(columns))], build=build, point=point, store=store)
    fit = calibrate(_engine(name), told, [figures_of(run, "r", store)])
    away = [(truth[one.paths] - one.after) / one.after_u for one in fit.numbers if one.told >= _SHRANK and one.paths in truth]
    fitted = in_force(fit.recorded(run))
    engine = Engine()
    spread = draw_samples(prepared(engine, fitted, build, point), _SAMPLES)
    pm = dict(zip(spread.sensors, spread.values_c.std(axis=0), strict=True))
    said = {row.id: row.value_c for row in engine.predict(fitted, build, point, fidelity="fine").report.sensors}
    parts = [(shown[one] - said[one]) / float(pm[one]) for one in sorted(unread)]
    return {"away": away, "parts": parts, "before_k": fit.misfit_before_k, "after_k": fit.misfit_after_k}


def _wrong_law(real: Project, chance: np.random.Generator) -> Project:
    """Return the device with pads and pastes a little off their law in a way that no number of the model says."""
    materials = []
    for one in real.materials:
        curve = one.compression
        if curve is not None:
            phase = chance.uniform(0, 6)
            points = tuple(
                point.model_copy(update={"pressure_kpa": _bent(point.pressure_kpa, point.strain, phase)})
                for point in curve.points
            )
            one = one.model_copy(update={"compression": curve.model_copy(update={"points": points})})
        materials.append(one)
    return real.model_copy(update={"materials": tuple(materials)})


def _bent(kpa: float, strain: float, phase: float) -> float:
    return kpa * (1 + _WRONG * float(np.sin(9.0 * strain + phase)))


def _line(one: Plain) -> str:
    if "refused" in one:
        return f"left out: {one['refused']}"
    parts = ", ".join(f"{value:+.1f}" for value in one["parts"])
    misfit = f"{one['before_k']:.2f} → {one['after_k']:.2f} K"
    return f"{len(one['away'])} numbers told of, misfit {misfit}; parts unread off by {parts}"


def _tell(done: Mapping[str, Plain]) -> str:
    done = {name: one for name, one in done.items() if "refused" not in one}
    away = np.array([value for one in done.values() for value in one["away"]])
    parts = np.array([value for one in done.values() for value in one["parts"]])
    return f"{_covered(away, f'{len(away)} numbers whose ± shrank by 30 % or more', len(done))}\n\n" + _covered(
        parts, f"{len(parts)} temperatures of parts whose sensor was not read", len(done)
    )


def _covered(away: np.ndarray, what: str, devices: int) -> str:
    if not len(away):
        return f"No {what}."
    within, inside = np.mean(np.abs(away) < 1), np.mean(np.abs(away) < 1.96)
    return (
        f"Of {what} on {devices} devices {within:.0%} lie within their stated standard uncertainty (68 % would), "
        f"{inside:.1%} within their 95 % interval, the furthest at {np.abs(away).max():.1f}; "
        f"their spread is {away.std():.2f} of what is stated."
    )


STUDY = Study(
    "intervals",
    "Intervals of a calibration",
    "Devices whose numbers were all drawn from their uncertainty and whose pads are a little off every law, at rest on the fine "
    "field, fitted from sensors of which two were not read; truth against what is stated.",
    _cases,
    _line,
    _tell,
)
