"""The quick check: what it expects against the run's own log read by another way, when it opens, and what it refuses."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from click.testing import CliRunner
from scipy.stats import norm
from scipy.stats import t as student

from ashen_bridge.bench.logbook import logs_of, table_of
from ashen_bridge.cli.main import cli
from ashen_bridge.files.archive import open_project
from ashen_bridge.files.demos import open_anything
from ashen_bridge.logs.log import Column, Log
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import replaced
from ashen_bridge.planning.checked import QuickCheck, Remembered
from ashen_bridge.planning.checking import quick_check, readings_of_log
from ashen_bridge.predict.engine import Engine


@pytest.fixture
def demo() -> Project:
    """Opened for each test: its logs go to the store of the test's own home."""
    return open_anything("demo:correlator").project


@pytest.fixture(scope="module")
def check() -> QuickCheck:
    return quick_check(Engine(), open_anything("demo:correlator").project, "plan_a", "correlate")


def test_it_expects_what_the_log_shows_after_ten_minutes_of_load(demo: Project, check: QuickCheck) -> None:
    """Read off the table of the run as anybody would: where power rose, ten minutes on, less the air."""
    run = next(one for one in demo.runs if one.build == "plan_a")
    table = table_of(demo, run.id)
    power = next(name for name in table.columns if name.endswith("[W]"))
    column = next(one.column for one in run.channels if one.sensor == check.rows[0].sensor)
    shown = next(name for name in table.columns if name.rsplit(" [", 1)[0] == column)
    air = next((one.column for one in run.channels if one.role == "ambient"), None)
    aired = next((name for name in table.columns if air is not None and name.rsplit(" [", 1)[0] == air), None)
    rises = []
    for _, one in table.groupby("pass"):
        on = float(one.loc[one[power] > 0.5 * one[power].max(), "time [s]"].iloc[0])
        near = one[(one["time [s]"] - on - 600).abs() <= 15]
        room = one[aired].mean() if aired is not None else (run.ambient_c.value if run.ambient_c is not None else check.air_c)
        rises.append(near[shown].mean() - room)
    assert check.rows[0].expected_c - check.air_c == pytest.approx(float(np.mean(rises)), abs=0.25)
    assert "3 passes" in check.source
    assert [row.limit_c for row in check.rows[:2]] != [None, None], "the nearest limits come first"


def test_chance_alone_does_not_open_it(demo: Project, check: QuickCheck) -> None:
    """More than three in a thousand chances would be too many; more than 4 K nobody needs who has three passes."""
    assert all(2.0 <= row.more_k <= 4.0 for row in check.rows)
    usual = float(student.isf(norm.sf(3), 8)) * float(np.hypot(0.4 * np.sqrt(4 / 3), np.sqrt(2) * 0.3))
    assert check.rows[0].more_k < usual + 0.1, "passes that agree are no less sure than what is usual"


def test_its_own_log_leaves_it_shut_and_a_warmer_one_opens_it(demo: Project, check: QuickCheck) -> None:
    run = next(one for one in demo.runs if one.build == "plan_a")
    log = logs_of(demo, run.id)[0]
    told = check.judged(readings_of_log(check, demo, log))
    assert not told.opens, told.says
    assert told.says.startswith("Leave it shut")
    columns = {one.column for one in run.channels if one.sensor is not None}
    warm = tuple(Column(one.name, one.unit, one.values + 4.5 if one.name in columns else one.values) for one in log.columns)
    cool = replaced(demo, device=replaced(demo.device, limits=()))
    hot = quick_check(Engine(), cool, "plan_a", "correlate").judged(readings_of_log(check, demo, Log(log.time_s, warm, ())))
    assert hot.opens
    assert hot.says.startswith("Open it")


def test_a_log_that_is_too_short_or_of_another_device_says_so(demo: Project, check: QuickCheck) -> None:
    run = next(one for one in demo.runs if one.build == "plan_a")
    log = logs_of(demo, run.id)[0]
    short = log.time_s < log.time_s[0] + 300
    cut = Log(log.time_s[short], tuple(Column(one.name, one.unit, one.values[short]) for one in log.columns), ())
    with pytest.raises(ProjectError, match="does not go on for 10 minutes"):
        readings_of_log(check, demo, cut)
    strange = Log(log.time_s, (Column("Zebra", "°C", log.columns[0].values),), ())
    with pytest.raises(ProjectError, match="no column that belongs"):
        readings_of_log(check, demo, strange)


def test_a_build_without_a_run_is_held_against_the_model_with_all_it_does_not_know(demo: Project) -> None:
    bare = replaced(demo, runs=(), calibrations=(), calibration=None, closings=())
    engine = Engine()
    by_model = quick_check(engine, bare, "plan_a", "correlate")
    assert "no run of this build" in by_model.source
    assert min(row.more_k for row in by_model.rows) > 4.0
    long = quick_check(engine, bare, "plan_a", "correlate", 240.0)
    steady = {row.id: row.value_c for row in engine.predict(bare, "plan_a", "correlate").report.sensors}
    for row in long.rows:
        assert row.expected_c == pytest.approx(steady[row.sensor], abs=1.0)


def test_words_for_a_warmer_room_a_limit_and_bad_input() -> None:
    rows = (Remembered("a", "Hot spot", 80.0, 3.0, 95.0), Remembered("b", "Memory", 60.0, 3.0, None))
    check = QuickCheck("x", "y", 10.0, 25.0, "", rows)
    assert check.judged({"a": 84.0, "b": 61.0}).opens
    assert not check.judged({"a": 84.0, "b": 61.0}, 27.0).opens
    stop = check.judged({"a": 95.5}, 45.0)
    assert stop.opens
    assert "at its limit" in stop.says, "whatever the room is like"
    with pytest.raises(ProjectError, match="no sensor 'c'"):
        check.judged({"c": 80.0})
    with pytest.raises(ProjectError, match="Nothing was read"):
        check.judged({})


def test_by_the_command_line_it_is_judged_and_kept(tmp_path: Path, check: QuickCheck) -> None:
    first, out = check.rows[0], tmp_path / "kept.ashb"
    read = f"{first.sensor}={first.expected_c + 0.4:.2f}"
    asked = ["quick-check", "demo:correlator", "--build", "plan_a", "--read", read, "--keep", str(out), "--json"]
    done = CliRunner().invoke(cli, asked)
    assert done.exit_code == 0, done.output
    said = json.loads(done.output)
    assert said["opens"] is False
    assert said["rows"][0]["sensor"] == first.sensor
    kept = open_project(out).project
    assert kept.conclusions[-1].kind == "check"
    assert kept.history[-1].kind == "conclusion"
    for asked, words in (
        (["--read", "zebra=80"], "no sensor 'zebra'"),
        (["--read", f"{first.sensor}=hot"], "SENSOR=°C"),
        (["--minutes", "0"], "up to a day"),
        (["--keep", str(out)], "nothing to keep"),
    ):
        failed = CliRunner().invoke(cli, ["quick-check", "demo:correlator", "--build", "plan_a", *asked])
        assert words in str(failed.exception), failed.output
