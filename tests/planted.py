"""A demo device with faults planted in it, or with other numbers than told, and logs of it: for tests and long studies."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np

from ashen_bridge.bench.diagnosis.diagnose import judging
from ashen_bridge.bench.diagnosis.hypotheses import Hypothesis, hypotheses
from ashen_bridge.bench.diagnosis.trial import Trial
from ashen_bridge.bench.judgement import Diagnosis
from ashen_bridge.bench.logbook import figures_of, record_run
from ashen_bridge.bench.simulated import simulated_device
from ashen_bridge.files.blobs import BlobStore
from ashen_bridge.files.demos import open_anything
from ashen_bridge.logs.log import Column, Log
from ashen_bridge.logs.outcome import RunFigures
from ashen_bridge.model import paths
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from ashen_bridge.uncertainty.assumptions import assumptions
from ashen_bridge.uncertainty.drawing import highest, lowest
from devices import without_runs

BUILD, POINT = "lid_off", "listen"
FAULTS = {
    "worn-bare_die": 3,
    "sink-cooler": 2,
    "air": 2,
    "power": 2,
    "offset-die_hot-high": 1,
    "offset-die_mean-low": 1,
    "offset-s_bank_2-high": 1,
}
"""Which are planted, and how many times, each time stronger."""
SHARES = (0.4, 0.45, 0.5)  # beyond, the heat runs away: the device would not survive its fault


def faults() -> Iterator[tuple[str, float, int]]:
    """Yield what is planted: the fault, its share of the worst, and a seed."""
    listed = [(name, SHARES[n]) for name, times in FAULTS.items() for n in range(times)]
    for number, (name, share) in enumerate(listed):
        yield name, share, 100 + number


class Planted:
    """One device, its trial prepared once, and logs of it with faults."""

    def __init__(self, folder: Path) -> None:
        self.engine, self.store = Engine(), BlobStore(folder)
        self.project = without_runs(open_anything("demo:beamformer").project)
        self.listed = {one.id: one for one in hypotheses(self.project, BUILD, POINT)}
        self.trial = self._trial()

    def _trial(self) -> Trial:
        *_, (_, found) = Trial.preparing(self.engine, self.project, [self.run(self.log(self.project, 0))])
        assert found is not None
        return found

    def log(self, real: Project, seed: int, offsets: dict[str, float] | None = None) -> Log:
        """A minute of a device at rest."""
        return minute_at_rest(self.engine, self.project, real, seed, offsets)

    def run(self, log: Log) -> RunFigures:
        return figures_of(record_run(self.project, "r", [log], build=BUILD, point=POINT, store=self.store), "r", self.store)

    def diagnosed(self, log: Log) -> Diagnosis:
        *_, (_, found) = judging(self.trial, [self.run(log)])
        assert found is not None
        return found

    def planted(self, one: Hypothesis, share: float, seed: int) -> Log:
        value = one.healthy + share * (one.worst - one.healthy)
        if one.sensor:
            return self.log(self.project, seed, {one.sensor: value})
        return self.log(one.applied(self.project, value), seed)

    def named_first(self, name: str, share: float, seed: int) -> tuple[bool, Diagnosis]:
        """Plant a fault; return whether the group that holds it stands first among faults, and what was found."""
        found = self.diagnosed(self.planted(self.listed[name], share, seed))
        return bool(found.groups) and name in found.groups[0].ids, found


def hidden(project: Project, seed: int) -> dict[tuple[str, ...], float]:
    """Numbers as they might really be: each drawn from its own uncertainty, two of them away at most, none out of range."""
    chance = np.random.default_rng(seed)
    listed = [one for one in assumptions(project, BUILD, POINT) if one.uncertainty > 0 and one.field != "ambient_c"]
    low, high = np.maximum(lowest(listed), -2), np.minimum(highest(listed), 2)
    drawn = np.clip([chance.normal() for _ in listed], low, high)
    return {one.paths: one.value + float(by) * one.uncertainty for one, by in zip(listed, drawn, strict=True)}


def minute_at_rest(engine: Engine, told: Project, real: Project, seed: int, offsets: dict[str, float] | None = None) -> Log:
    """A minute of a device at rest: every sensor a little off for good, and noise."""
    report = engine.predict(real, BUILD, POINT).report
    chance = np.random.default_rng(seed)
    shown = {row.id: row.value_c + (offsets or {}).get(row.id, 0.0) for row in report.sensors}
    columns = [
        Column(one.label, "°C", shown[one.id] + chance.normal(0, 0.2) + chance.normal(0, 0.1, 60)) for one in told.device.sensors
    ]
    columns.append(Column("Board power", "W", report.power_w * (1 + chance.normal(0, 0.003)) + chance.normal(0, 0.2, 60)))
    columns.append(Column("Room", "°C", np.full(60, told.point(POINT).ambient_c.value)))
    return Log(np.arange(60.0), tuple(columns))


def measured(project: Project, truth: dict[tuple[str, ...], float], seed: int, store: BlobStore) -> Project:
    """The project with a run of three passes of the device as it really is."""
    device = simulated_device(Engine(), really(project, truth), BUILD, POINT, minutes=20)
    logs = [device.record(1200, seed + n) for n in range(3)]
    return record_run(project, "r", logs, build=BUILD, point=POINT, store=store)


def really(project: Project, truth: dict[tuple[str, ...], float]) -> Project:
    """The device with its hidden numbers."""
    return paths.set_values(project, {path: value for alike, value in truth.items() for path in alike})
