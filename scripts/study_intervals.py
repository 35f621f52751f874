"""Whether numbers hidden from a calibration lie within the intervals that it states."""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Iterator, Mapping
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

from ashen_bridge.bench.calibrate import calibrate
from ashen_bridge.bench.judgement import TOLD
from ashen_bridge.bench.logbook import figures_of
from ashen_bridge.files.blobs import BlobStore
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.fingerprint import input_hash
from devices import without_runs
from planted import BUILD, POINT, hidden, measured
from study import Case, Plain, Study

SEEDS = range(3, 11)


def _cases() -> Iterator[Case]:
    project = without_runs(open_anything("demo:beamformer").project)
    key = input_hash(project, BUILD, POINT)
    for seed in SEEDS:
        yield Case(f"device {seed}", key, lambda seed=seed: _fitted(project, seed))  # type: ignore[misc]


def _fitted(project: Project, seed: int) -> Plain:
    store = BlobStore(Path(tempfile.mkdtemp(prefix="intervals-")))
    truth = hidden(project, seed)
    fit = calibrate(Engine(), project, [figures_of(measured(project, truth, 10 * seed, store), "r", store)])
    away = [(truth[one.paths] - one.after) / one.after_u for one in fit.numbers if one.told >= TOLD]
    return {"away": away, "before_k": fit.misfit_before_k, "after_k": fit.misfit_after_k}


def _line(one: Plain) -> str:
    return f"{len(one['away'])} numbers told of, misfit {one['before_k']:.2f} → {one['after_k']:.2f} K"


def _tell(done: Mapping[str, Plain]) -> str:
    away = np.array([value for one in done.values() for value in one["away"]])
    return (
        f"Of {len(away)} numbers on {len(done)} devices {np.mean(np.abs(away) < 1):.0%} lie within their stated standard "
        f"uncertainty (68 % would), {np.mean(np.abs(away) < 2):.0%} within twice that (95 %), "
        f"the furthest at {np.abs(away).max():.1f}; "
        f"their spread is {away.std():.2f} of what is stated."
    )


STUDY = Study(
    "intervals",
    "Intervals of a calibration",
    "Devices whose numbers were all drawn from their uncertainty, run for twenty minutes, fitted; truth against what is stated.",
    _cases,
    _line,
    _tell,
)
