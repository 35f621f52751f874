"""Errands on runs for a worker: public generator functions of (engine, *arguments) that yield (progress 0 to 1, value) pairs."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from ashen_bridge.bench.advice.verdicts import Attribution, Quieter, TestPlan, Transfer, Worth
from ashen_bridge.bench.judgement import Calibration, Comparison, Diagnosis, Proof
from ashen_bridge.bench.power_curve_result import PowerCurve
from ashen_bridge.logs.log import Log
from ashen_bridge.logs.outcome import RunError, RunFigures
from ashen_bridge.logs.standing import Ahead
from ashen_bridge.model.device import Device
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import Run, RunChannel

if TYPE_CHECKING:
    from ashen_bridge.bench.first_power.result import Expected, Judged
    from ashen_bridge.logs.remarks import Triage
    from ashen_bridge.predict.engine import Engine


@dataclass(frozen=True)
class ReadFile:
    """A log that was read from a file, and what its columns are taken for."""

    name: str
    log: Log
    channels: tuple[RunChannel, ...]


@dataclass(frozen=True)
class ReadRun:
    """A run's figures, and its logs by what they are kept under."""

    figures: RunFigures
    logs: tuple[tuple[str, Log], ...]


def read_file(engine: Engine, path: str, project: Project) -> Iterator[tuple[float, ReadFile]]:
    """Read a log and say what its columns are taken for."""
    from ashen_bridge.bench.recording import remembered
    from ashen_bridge.logs.mapping import propose
    from ashen_bridge.logs.reading import read_log

    log = read_log(Path(path))
    yield 1.0, ReadFile(Path(path).name, log, propose(log, project.device, remembered(project)))


def triage_files(engine: Engine, names: tuple[str, ...]) -> Iterator[tuple[float, Triage]]:
    """Say what the logs of one test tell by themselves."""
    from ashen_bridge.logs.reading import read_log
    from ashen_bridge.logs.triage import triage

    yield 1.0, triage([read_log(Path(name)) for name in names])


def keep_log(
    engine: Engine, log: Log, channels: tuple[RunChannel, ...], old: tuple[RunChannel, ...]
) -> Iterator[tuple[float, str]]:
    """Put a log into the store, its columns called as a run's earlier passes call them; gives what it is kept under."""
    from ashen_bridge.bench.logbook import as_in_run, keep_logs

    yield 1.0, keep_logs([as_in_run(log, channels, old)])[0]


def read_run(
    engine: Engine, run: Run, device: Device, known: frozenset[str] = frozenset(), slowest_s: float | None = None
) -> Iterator[tuple[float, ReadRun]]:
    """Work out a run's figures; logs that are `known` to the asker are not sent again."""
    from ashen_bridge.files.blobs import BlobStore, default_folder
    from ashen_bridge.logs.packing import unpack_log
    from ashen_bridge.logs.runs import figures

    store = BlobStore(default_folder())
    logs = [(digest, unpack_log(store.get(digest))) for digest in run.passes]
    found = figures(run, [log for _, log in logs], device, slowest_s)
    yield 1.0, ReadRun(found, tuple((digest, log) for digest, log in logs if digest not in known))


def export_run(engine: Engine, project: Project, run: Run, path: str) -> Iterator[tuple[float, int]]:
    """Write a run as one clean table; gives its number of rows."""
    from ashen_bridge.bench.logbook import table_of
    from ashen_bridge.files.tables import writer

    table = table_of(project, run.id)
    try:
        writer(Path(path))(table)
    except OSError as error:
        raise RunError(f"Cannot write “{Path(path).name}”: {error.strerror or error}.") from error
    yield 1.0, len(table)


def compare(
    engine: Engine, before: RunFigures, after: RunFigures, again: RunFigures | None, device: Device, level: Project | None
) -> Iterator[tuple[float, Comparison]]:
    """Compare two runs, the first with its repeat if there is one; at equal power by the model of `level`, if it is given."""
    from ashen_bridge.bench.compare_runs import compare_with_repeat

    answers = None
    if level is not None:
        from ashen_bridge.bench.equal_power import responses

        answers = responses(level, before.run, after.run)
    yield 1.0, compare_with_repeat(before, after, again, device, equal_power=level is not None, responses=answers)


def calibrate(engine: Engine, project: Project, runs: tuple[RunFigures, ...]) -> Iterator[tuple[float, Calibration | None]]:
    """Fit the model to runs."""
    from ashen_bridge.bench.calibrate import calibrating

    yield from calibrating(engine, project, runs)


def diagnose(
    engine: Engine, project: Project, runs: tuple[RunFigures, ...], others: tuple[RunFigures, ...] = ()
) -> Iterator[tuple[float, Diagnosis | None]]:
    """Say which fault explains runs best, if any does; all other runs of the device speak for or against."""
    from ashen_bridge.bench.diagnosis.diagnose import diagnosing

    yield from diagnosing(engine, project, runs, others)


def prove(engine: Engine, project: Project, before: RunFigures, after: RunFigures) -> Iterator[tuple[float, Proof | None]]:
    """Set prediction, calibrated prediction and measurement of a repair beside each other."""
    from ashen_bridge.bench.prove import proving

    yield from proving(engine, project, before, after)


def curve(engine: Engine, project: Project, runs: tuple[RunFigures, ...]) -> Iterator[tuple[float, PowerCurve | None]]:
    """Lay one curve through runs of one build at different powers."""
    from ashen_bridge.bench.power_curve import power_curve

    yield 0.1, None
    yield 1.0, power_curve(engine, project, runs)


def look_ahead(engine: Engine, log: Log, channels: tuple[RunChannel, ...]) -> Iterator[tuple[float, Ahead]]:
    """Say how a running test stands."""
    from ashen_bridge.logs import ahead

    yield 1.0, ahead.look_ahead(log, channels)


def plan_test(
    engine: Engine, project: Project, build: str, point: str, runs: tuple[RunFigures, ...], resolution_k: float
) -> Iterator[tuple[float, TestPlan | None]]:
    """Say how long a test should run and how often."""
    from ashen_bridge.bench.advice.planner import planning

    yield from planning(engine, project, build, point, runs, resolution_k)


def transfer(
    engine: Engine, project: Project, run: RunFigures, warmer_k: float, fan: float, power: float
) -> Iterator[tuple[float, Transfer]]:
    """Say what a run would have shown in warmer air, at another fan speed (times now) and another power (times now)."""
    from ashen_bridge.bench.advice import elsewhere

    yield 1.0, elsewhere.transfer(engine, project, run, elsewhere.Circumstances(warmer_k, fan, power))


def weigh_opening(engine: Engine, project: Project, run: RunFigures) -> Iterator[tuple[float, Worth | None]]:
    """Say whether opening pays."""
    from ashen_bridge.bench.advice.worth import weighing

    yield from weighing(engine, project, run)


def share_out(
    engine: Engine, project: Project, before: Run, after: Run, found: Comparison, sensor: str
) -> Iterator[tuple[float, tuple[Attribution | None, Quieter | None]]]:
    """Say what each of several changes did to a sensor, and what a gain is worth in quiet."""
    from ashen_bridge.bench.advice.attribution import attributing
    from ashen_bridge.bench.advice.quieter import quieter

    shares: Attribution | None = None
    for progress, shares in attributing(engine, project, before.build, after.build, after.point, found, sensor):
        yield 0.8 * progress, (shares, None)
    gained = -next(one.rise.difference for one in found.sensors if one.sensor == sensor)
    yield 1.0, (shares, quieter(engine, project, after.build, after.point, sensor, gained))


def first_minutes(engine: Engine, project: Project, build: str, point: str) -> Iterator[tuple[float, Expected | None]]:
    """Run everything that may go wrong in closing forward in time."""
    from ashen_bridge.bench.first_power.expecting import expecting

    yield from expecting(engine, project, build, point)


def first_judged(
    engine: Engine, expected: Expected, at_s: float, readings: Mapping[str, float]
) -> Iterator[tuple[float, Judged]]:
    """Judge readings of the first minutes."""
    from ashen_bridge.bench.first_power.judging import judge

    del engine
    yield 1.0, judge(expected, at_s, readings)


def first_log(engine: Engine, expected: Expected, project: Project, path: str) -> Iterator[tuple[float, Judged]]:
    """Judge a log of the first minutes."""
    from ashen_bridge.bench.first_power.logged import judge_log

    del engine
    yield 1.0, judge_log(expected, project, Path(path))
