"""One curve through runs at different powers, against temperatures made by hand and by the model at other powers."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest

from ashen_bridge.bench.logbook import figures_of, record_run
from ashen_bridge.bench.power_curve import power_curve
from ashen_bridge.bench.power_curve_result import PowerCurve
from ashen_bridge.bench.power_model import modelled
from ashen_bridge.cli.main import main
from ashen_bridge.files.archive import save_project
from ashen_bridge.files.blobs import BlobStore
from ashen_bridge.files.demos import open_anything
from ashen_bridge.logs.log import Column, Log
from ashen_bridge.logs.outcome import RunError, RunFigures
from ashen_bridge.model import paths
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from devices import without_runs

ROOM = 22.0


def log_at(rows: dict[str, float], power: float, seed: int) -> Log:
    """A minute at rest with a little noise."""
    noise = np.random.default_rng(seed)
    columns = [Column(name, "°C", value + noise.normal(0, 0.05, 60)) for name, value in rows.items()]
    return Log(
        np.arange(60.0), (*columns, Column("Board power", "W", np.full(60, power)), Column("Room", "°C", np.full(60, ROOM)))
    )


@pytest.fixture(scope="module")
def store(tmp_path_factory: pytest.TempPathFactory) -> BlobStore:
    return BlobStore(tmp_path_factory.mktemp("blobs"))


@pytest.fixture(scope="module")
def buoy() -> Project:
    """A sealed box without a fan: its rises bend in power."""
    return without_runs(open_anything("demo:buoy").project)


def runs_of(project: Project, store: BlobStore | None, logs: dict[str, Log]) -> tuple[Project, list[RunFigures]]:
    build, point = project.build().id, project.point().id
    for name, log in logs.items():
        project = record_run(project, name, [log], build=build, point=point, store=store)
    return project, [figures_of(project, name, store) for name in logs]


@pytest.fixture(scope="module")
def told(buoy: Project, store: BlobStore) -> tuple[Project, PowerCurve]:
    """Runs as the model has them where the processor alone makes a fifth to four times of its heat, the rest as ever."""
    engine, logs = Engine(), {}
    build, point = buoy.build().id, buoy.point()
    power = point.powers_w["processor"].value
    for n, factor in enumerate((0.2, 1.0, 2.0, 4.0)):
        rows, watts = engine.shown(
            paths.set_values(buoy, {f"points.{point.id}.powers_w.processor": power * factor}), build, point.id
        )
        logs[f"run{n}"] = log_at({row.name: row.value_c - point.ambient_c.value + ROOM for row in rows}, watts, n)
    project, runs = runs_of(buoy, store, logs)
    return project, power_curve(engine, project, runs)


def test_straight_readings_of_a_made_up_device_give_back_their_line(store: BlobStore) -> None:
    """0.8 K/W over 22 °C and 3 K more of parts that never changed: by hand."""
    project = without_runs(open_anything("demo:beamformer").project)
    sensor = project.device.sensors[0].label
    watts = (60.0, 80.0, 100.0, 120.0)
    logs = {f"p{n}": log_at({sensor: ROOM + 3.0 + 0.8 * w}, w, n) for n, w in enumerate(watts)}
    project, runs = runs_of(project, store, logs)
    # Without a device that can be computed there is but the line itself.
    broken = project.model_copy(update={"builds": tuple(b.model_copy(update={"joints": ()}) for b in project.builds)})
    found = power_curve(Engine(), broken, runs)
    one = found.sensors[0]
    assert "straight" in found.along
    assert one.low < 0.8 < one.high
    assert one.k_per_w == pytest.approx(0.8, abs=0.005)
    assert one.air_c == pytest.approx(ROOM + 3.0, abs=0.3)
    assert one.air_low < ROOM + 3.0 < one.air_high


def test_a_leaking_die_is_modelled_at_the_power_that_was_measured(store: BlobStore) -> None:
    """A die that leaks makes more heat the hotter it is: half the power is far from half of what its parts are told."""
    project = without_runs(open_anything("demo:beamformer").project)
    sensor, watts = project.device.sensors[0].label, (60.0, 90.0, 120.0)
    project, runs = runs_of(project, store, {f"w{n}": log_at({sensor: ROOM + 0.8 * w}, w, n) for n, w in enumerate(watts)})
    shown = modelled(Engine(), project, runs)
    assert shown is not None
    rest = watts[0] - shown[0].watts
    assert [one.watts + rest for one in shown] == pytest.approx(watts, rel=3e-3)
    one = power_curve(Engine(), project, runs).sensors[0]
    assert one.k_per_w == pytest.approx(0.8, abs=0.02)
    assert one.air_c == pytest.approx(ROOM, abs=1.5)


def test_a_blunder_is_named_and_leaves_the_line_alone(store: BlobStore) -> None:
    project = without_runs(open_anything("demo:beamformer").project)
    sensor = project.device.sensors[0].label
    off = {2: 9.0}
    logs = {
        f"q{n}": log_at({sensor: ROOM + 0.8 * w + off.get(n, 0.0)}, w, n) for n, w in enumerate((60.0, 75.0, 90.0, 105.0, 120.0))
    }
    project, runs = runs_of(project, store, logs)
    found = power_curve(Engine(), project, runs)
    one = found.sensors[0]
    assert [misfit.run for misfit in one.misfits] == ["q2"]
    assert one.misfits[0].off_k == pytest.approx(9.0, abs=0.8)
    assert "hotter than the curve through the others" in one.misfits[0].words
    assert one.low < one.k_per_w < one.high
    told = {run: curve for run, _, _, curve in one.readings}
    assert told["q4"] == pytest.approx(ROOM + 0.8 * 120, abs=0.6)


def test_a_fanless_box_follows_the_models_bent_curve(told: tuple[Project, PowerCurve]) -> None:
    project, found = told
    assert "own curve" in found.along
    assert len(found.sensors) == len(project.device.sensors)
    for one in found.sensors:
        assert not one.misfits
        for _, _, read, curve in one.readings:
            assert curve == pytest.approx(read, abs=0.6)
        assert one.low < one.k_per_w < one.high
        # What is read off at no power is the room, although the curve is bent: a line would say more.
        assert one.air_low < ROOM < one.air_high


def test_a_line_through_a_fanless_box_would_be_wrong(told: tuple[Project, PowerCurve]) -> None:
    """Natural convection: h goes as the fourth root of the rise, so rises fall behind the heat (F. P. Incropera, D. P. DeWitt,
    Fundamentals of Heat and Mass Transfer, chapter 9): at four times the heat the box is cooler than its own line.
    """
    _, found = told
    hottest = max(found.sensors, key=lambda one: one.k_per_w)
    watts = np.array([power for _, power, _, _ in hottest.readings])
    curve = np.array([value for *_, value in hottest.readings])
    low, high = (curve[1] - curve[0]) / (watts[1] - watts[0]), (curve[3] - curve[2]) / (watts[3] - watts[2])
    assert 0.6 < high / low < 0.97
    assert "die's" in " ".join(found.cautions)


@pytest.mark.parametrize(("powers", "words"), [((90.0,), "at least two runs"), ((90.0, 90.5), "nearly the same power")])
def test_what_makes_no_curve_is_said(store: BlobStore, powers: tuple[float, ...], words: str) -> None:
    project = without_runs(open_anything("demo:beamformer").project)
    sensor = project.device.sensors[0].label
    logs = {f"s{len(powers)}{n}": log_at({sensor: 60.0}, w, n) for n, w in enumerate(powers)}
    project, runs = runs_of(project, store, logs)
    with pytest.raises(RunError, match=words):
        power_curve(Engine(), project, runs)


def test_runs_of_several_builds_and_without_power_are_refused(buoy: Project, store: BlobStore) -> None:
    sensor = buoy.device.sensors[0].label
    first, second = buoy.builds[0].id, buoy.builds[1].id
    point = buoy.point().id
    bare = Log(np.arange(60.0), (Column(sensor, "°C", np.full(60, 50.0)),))
    project = record_run(buoy, "a", [bare], build=first, point=point, store=store)
    project = record_run(project, "b", [bare], build=second, point=point, store=store)
    project = record_run(project, "c", [bare], build=first, point=point, store=store)
    figures = {name: figures_of(project, name, store) for name in "abc"}
    with pytest.raises(RunError, match="of one build"):
        power_curve(Engine(), project, [figures["a"], figures["b"]])
    with pytest.raises(RunError, match="no measured power"):
        power_curve(Engine(), project, [figures["a"], figures["c"]])


def test_the_curve_by_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    project = without_runs(open_anything("demo:beamformer").project)
    sensor = project.device.sensors[0]
    logs = {f"p{n}": log_at({sensor.label: ROOM + 0.8 * w}, w, n) for n, w in enumerate((60.0, 90.0, 120.0))}
    project, _ = runs_of(project, None, logs)
    file = tmp_path / "box.ashb"
    save_project(file, project)
    command_line(["curve", str(file), *logs, "--json"])
    plain = json.loads(capsys.readouterr().out)
    assert {"sensor", "k_per_w", "low", "high", "air_c", "misfits"} <= plain["sensors"][0].keys()
    assert plain["sensors"][0]["sensor"] == sensor.id
    assert plain["sensors"][0]["low"] < plain["sensors"][0]["k_per_w"] < plain["sensors"][0]["high"]
    with pytest.raises(SystemExit):
        main(["curve", str(file), "p0"])
    assert "at least two runs" in capsys.readouterr().err


def command_line(arguments: list[str]) -> None:
    try:
        main(arguments)
    except SystemExit as stop:
        assert not stop.code
