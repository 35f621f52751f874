"""The demo logs against the truth they were made from: what is found in them is what was put in."""

from __future__ import annotations

import sys

import numpy as np
import pytest

from ashen_bridge.bench.compare_runs import compare_runs
from ashen_bridge.bench.logbook import figures_of, logs_of
from ashen_bridge.files.demos import open_anything
from ashen_bridge.logs.outcome import Heading, RunFigures
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from here import ROOT

sys.path.insert(0, str(ROOT / "scripts"))

from demo_runs import LOGS, TRUTH, real_device

DEMOS = ("correlator", "beamformer", "buoy")


@pytest.fixture
def projects() -> dict[str, Project]:
    return {name: open_anything(f"demo:{name}").project for name in DEMOS}


def test_every_demo_has_three_runs_of_three_passes(projects: dict[str, Project]) -> None:
    for name in DEMOS:
        runs = projects[name].runs
        assert [run.id for run in runs] == [one.id for one in TRUTH[name].runs]
        assert all(len(run.passes) == 3 for run in runs)
        assert len({run.build for run in runs}) == 3


def test_settled_means_are_the_true_temperatures(projects: dict[str, Project]) -> None:
    """Within remounting (0.2 K), the sensors' last digit, and what is left of the climb."""
    engine = Engine()
    for name in ("correlator", "buoy"):
        truth = TRUTH[name]
        wanted = truth.runs[-1]
        project = projects[name]
        found = figures_of(project, wanted.id)
        real = real_device(project, name, wanted)
        report = engine.predict(real, wanted.build, wanted.point).report
        ambient = project.point(wanted.point).ambient_c.value
        for row in report.sensors:
            column = found.column_of(row.id)
            if column is None:
                continue
            air = np.mean([one.ambient_c for one in found.passes if one.ambient_c is not None])
            rise = float(np.mean(found.values(column)) - air)
            expected = row.value_c - ambient + truth.offsets_k.get(row.id, 0.0)
            assert rise == pytest.approx(expected, abs=1.0), (name, row.id)


def test_the_throttled_runs_are_found_out_and_only_they(projects: dict[str, Project]) -> None:
    for name in DEMOS:
        for run in projects[name].runs:
            found = figures_of(projects[name], run.id)
            throttled = all(one.throttled is not None for one in found.passes)
            assert throttled == (name == "beamformer" and run.id in ("stock", "pad")), (name, run.id)


def test_where_the_climbing_run_heads_is_where_it_would_have_come(projects: dict[str, Project]) -> None:
    project, truth = projects["buoy"], TRUTH["buoy"]
    wanted = truth.runs[1]
    found = figures_of(project, "pad")
    real = real_device(project, "buoy", wanted)
    report = Engine().predict(real, wanted.build, wanted.point).report
    ends = {row.id: row.value_c for row in report.sensors}
    told, inside = 0, 0
    for one in found.passes:
        assert one.climbing, "25 minutes are too short for a box that soaks for 40"
        for column, ahead in one.climbing.items():
            sensor = next(c.sensor for c in found.run.channels if c.column == column)
            if isinstance(ahead, Heading) and sensor is not None:
                drift = (one.ambient_c or 0.0) - project.point(wanted.point).ambient_c.value
                true = ends[sensor] + truth.offsets_k.get(sensor, 0.0) + drift
                told += 1
                # Passes are remounted by 0.2 K, and the room wanders.
                inside += ahead.low - 0.8 < true < ahead.high + 0.8
    assert told >= 4
    assert inside >= told - 1


def test_the_other_ambient_leaves_rises_alone(projects: dict[str, Project]) -> None:
    project = projects["correlator"]
    before, after = figures_of(project, "stock"), figures_of(project, "repaired")
    airs = [float(np.mean([one.ambient_c for one in run.passes if one.ambient_c is not None])) for run in (before, after)]
    assert airs[1] - airs[0] == pytest.approx(4.0, abs=0.6)
    die = next(row for row in compare_runs(before, after, project.device).sensors if row.sensor == "die_hot")
    assert abs(die.rise.difference) < 0.5, "4 K more of air, and no difference as rise"


def test_the_foreign_pass_says_what_the_others_say(projects: dict[str, Project]) -> None:
    project = projects["correlator"]
    found = figures_of(project, "repaired")
    for channel in found.run.channels:
        if channel.sensor is not None:
            values = found.values(channel.column)
            assert len(values) == 3, channel.column
            assert np.ptp(values) < 1.2, channel.column
    names = [{column.name for column in log.columns} for log in logs_of(project, "repaired")]
    assert names[2] >= {"Die hot spot", "Memory B2", "Room"}, "its columns go by the run's names"
    assert (LOGS / "correlator-repaired-3.csv").read_bytes().startswith(b"Messprotokoll")


def hidden_change(found: RunFigures, sensor: str) -> float:
    column = found.column_of(sensor)
    assert column is not None
    return float(np.mean(found.values(column)))


def test_the_planted_fault_shows_where_it_was_planted(projects: dict[str, Project]) -> None:
    project = projects["correlator"]
    assert TRUTH["correlator"].runs[2].faults == {"touch-pad_b2": 3.0}
    found = figures_of(project, "repaired")
    assert hidden_change(found, "s_mem_b2") - hidden_change(found, "s_mem_b1") == pytest.approx(5.4, abs=1.0)
    before = figures_of(project, "stock")
    assert abs(hidden_change(before, "s_mem_b2") - hidden_change(before, "s_mem_b1")) < 1.0
