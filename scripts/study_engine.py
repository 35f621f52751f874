"""How near the prepared engine is to whole fine fields: slopes of its strongest numbers, and samples it has not seen."""

from __future__ import annotations

import sys
from collections.abc import Iterator, Mapping
from functools import partial
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

from ashen_bridge.arrays import Floats
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model import paths
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.fingerprint import input_hash
from ashen_bridge.uncertainty.drawing import draw
from ashen_bridge.uncertainty.preparation import Preparation, prepared
from described import truth
from study import Case, Plain, Study

SAMPLES, SEED, STRONGEST, STEP = 10, 20_261_129, 8, 0.5
_SEEDS = (3, 6)  # devices of the generator, beside the demos


def _device(name: str) -> tuple[Project, str, str]:
    if name.startswith("device"):
        return truth(int(name.split()[1])).project, "now", "load"
    project = open_anything(f"demo:{name}").project
    build, point = project.builds[0].id, project.points[0].id
    # What is drawn shows how hot things would get: whole fields must not throttle either.
    return paths.set_values(project, {f"points.{point}.throttle_at_c": {}}), build, point


def _moved(made: Preparation, project: Project, x: Floats) -> Project:
    steps = zip(made.numbers, x, strict=True)
    return paths.set_numbers(project, {p: one.value + one.uncertainty * by for one, by in steps if by for p in one.paths})


def _fine(project: Project, build: str, point: str, made: Preparation) -> Floats:
    report = Engine().predict(project, build, point).report
    shown = {row.id: row.t_max_c for row in report.components} | {row.id: row.value_c for row in report.sensors}
    return np.array([shown[one] for one in made.sensors])


def compared(name: str) -> Plain:
    """Compare slopes and samples of one device with fields computed for each alone."""
    project, build, point = _device(name)
    made = prepared(Engine(), project, build, point)
    slopes, names = made.slopes(by=STEP), [one.paths[0] for one in made.numbers]
    strongest = np.argsort(-np.abs(slopes).max(axis=1))[:STRONGEST]
    pairs: list[list[float]] = []
    rows: list[tuple[str, float, float]] = []
    for n in strongest:
        step = STEP * np.eye(len(names))[n]
        try:
            up, down = (_fine(_moved(made, project, sign * step), build, point, made) for sign in (1, -1))
        except AshenError:
            continue
        whole = (up - down) / (2 * STEP)
        at = int(np.argmax(np.abs(whole)))
        rows.append((names[n], float(slopes[n, at]), float(whole[at])))
        pairs += [[float(a), float(b)] for a, b in zip(slopes[n], whole, strict=True)]
    away: list[float] = []
    spread: list[Floats] = []
    for x in draw(made.numbers, SAMPLES, SEED):
        shown, fine = made.temperatures(x[None], exact=True)
        if fine.all():
            try:
                there = _fine(_moved(made, project, x), build, point, made)
            except AshenError:
                continue
            away += (shown[0] - there).tolist()
            spread.append(there)
    return {
        "numbers": len(names),
        "rows": rows,
        "slopes": pairs,
        "away": away,
        "spread": float(np.std(np.array(spread), axis=0).mean()),
    }


def _cases() -> Iterator[Case]:
    for name in ("correlator", "beamformer", "buoy", *(f"device {seed}" for seed in _SEEDS)):
        yield Case(name, input_hash(*_device(name)), partial(compared, name))


def _rms(values: object) -> float:
    return float(np.sqrt(np.mean(np.square(np.asarray(values, dtype=float)))))


def _line(one: Plain) -> str:
    pairs, away = np.array(one["slopes"]), np.abs(one["away"])
    worst = max(one["rows"], key=lambda row: abs(row[1] - row[2]))
    slopes = f"slopes off by {_rms(pairs[:, 0] - pairs[:, 1]):.3f} K of {_rms(pairs[:, 1]):.3f} K (root mean squares"
    return (
        f"{one['numbers']} numbers; {slopes}; most at {worst[0]}: {worst[1]:.2f} for {worst[2]:.2f} K), samples by "
        f"{np.median(away):.2f} K in the middle and {_rms(away):.2f} K root mean square, spread {one['spread']:.1f} K"
    )


def _tell(done: Mapping[str, Plain]) -> str:
    pairs = np.vstack([np.array(one["slopes"]) for one in done.values()])
    away = np.concatenate([np.array(one["away"]) for one in done.values()])
    slopes = f"{_rms(pairs[:, 0] - pairs[:, 1]):.3f} K of {_rms(pairs[:, 1]):.3f} K"
    return (
        f"Over {len(done)} devices slopes are off by {slopes}, samples by {np.median(np.abs(away)):.2f} K in the middle and "
        f"{_rms(away):.2f} K root mean square."
    )


STUDY = Study(
    "engine",
    "The prepared engine against whole fields",
    "Slopes of the eight strongest numbers of a device, by steps of half a standard uncertainty, and ten samples of all numbers, "
    "against fine fields computed for each alone.",
    _cases,
    _line,
    _tell,
)
