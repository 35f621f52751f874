"""Runs in a project: columns mapped, passes kept, what a run says, two runs compared, all of it by the command line too."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pandas as pd
import pytest

from ashen_bridge.bench.compare_runs import compare_runs, drift, pooled
from ashen_bridge.bench.equal_power import responses
from ashen_bridge.bench.logbook import figures_of, record_run
from ashen_bridge.bench.readings import readings_of, uncertain_numbers
from ashen_bridge.bench.simulated import Habits, simulated_device
from ashen_bridge.bench.words import in_words
from ashen_bridge.cli.main import main
from ashen_bridge.files.archive import open_project, save_project
from ashen_bridge.files.blobs import BlobStore
from ashen_bridge.files.demos import open_anything
from ashen_bridge.logs.log import Column, Log
from ashen_bridge.logs.mapping import MappingError, apply_mappings, propose
from ashen_bridge.logs.outcome import Channel, Heading, PassFigures, RunError, RunFigures
from ashen_bridge.logs.packing import as_csv, pack_log, unpack_log
from ashen_bridge.logs.runs import figures
from ashen_bridge.logs.settling import loaded_span
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import Run, RunChannel
from ashen_bridge.predict.engine import Engine
from devices import without_runs


@pytest.fixture(scope="module")
def project() -> Project:
    return without_runs(open_anything("demo:correlator").project)


def made(hot: float, mean: float, seed: int, *, power: float = 230.0, tau: float = 90.0, seconds: int = 900) -> Log:
    """A foreign logger's file: idle for a minute, then load; temperatures rise from 32 °C to `hot` and `mean`."""
    chance = np.random.default_rng(seed)
    t = np.arange(float(seconds))
    load = t >= 60
    shape = np.where(load, 1 - np.exp(-(t - 60) / tau), 0.0)
    noise = chance.normal(0.0, 0.1, (2, len(t)))
    return Log(
        t,
        (
            Column("GPU Hot Spot", "°C", 32 + (hot - 32) * shape + noise[0]),
            Column("GPU Temperature", "°C", 32 + (mean - 32) * shape + noise[1]),
            Column("Total Board Power", "W", np.where(load, power, 20.0) + chance.normal(0.0, 1.0, len(t))),
            Column("Fan", "rpm", np.full(len(t), 2100.0)),
            Column("Intake Temp", "°C", np.full(len(t), 24.0)),
            Column("Frames", "", np.full(len(t), 60.0)),
        ),
    )


# ---- mapping


def test_columns_are_proposed_by_their_words(project: Project) -> None:
    found = {one.column: one for one in propose(made(95, 85, 1), project.device)}
    assert (found["GPU Hot Spot"].sensor, found["GPU Temperature"].sensor) == ("die_hot", "die_mean")
    assert (found["Total Board Power"].role, found["Fan"].role, found["Intake Temp"].role) == ("power", "fan", "ambient")
    assert found["Frames"].role == "rate"


def test_numbers_in_names_tell_alike_sensors_apart(project: Project) -> None:
    names = ("Memory L2 Temp", "Memory T1 Temp", "VRM Phase 5", "Mem R3")
    log = Log(np.arange(3.0), tuple(Column(name, "°C", np.ones(3)) for name in names))
    found = {one.column: one.sensor for one in propose(log, project.device)}
    assert found["VRM Phase 5"] == "s_reg_5"
    assert (found["Memory L2 Temp"], found["Memory T1 Temp"], found["Mem R3"]) == ("s_mem_l2", "s_mem_t1", "s_mem_r3")


def test_mappings_set_by_hand_and_refused_in_words(project: Project) -> None:
    channels = propose(made(95, 85, 1), project.device)
    swapped = apply_mappings(channels, ["GPU Temperature=other", "GPU Hot Spot=die_mean"], project.device)
    assert {one.column: one.sensor for one in swapped}["GPU Hot Spot"] == "die_mean"
    for wrong, words in (
        ("Nothing=die_hot", "no column “Nothing”"),
        ("Fan=nose", "no sensor “nose”"),
        ("GPU Temperature=die_hot", "Two columns are mapped to sensor “die_hot”"),
        ("Fan", "no column"),
    ):
        with pytest.raises(MappingError, match=words):
            apply_mappings(channels, [wrong], project.device)


# ---- one run


def test_a_packed_log_is_the_same_log() -> None:
    log = Log(
        np.array([0.0, 1.5]), (Column("Load (2)", "", np.array([1.0, np.nan])), Column("T [a]", "°C", np.array([2.0, 3.25])))
    )
    back = unpack_log(pack_log(log))
    assert [(one.name, one.unit) for one in back.columns] == [("Load (2)", ""), ("T [a]", "°C")]
    assert np.array_equal(back.columns[0].values, log.columns[0].values, equal_nan=True)
    assert back.time_s.tolist() == [0.0, 1.5]
    with pytest.raises(RunError, match="damaged"):
        unpack_log(pack_log(log)[:30])


def test_only_the_load_counts() -> None:
    t = np.arange(600.0)
    power = np.where((t >= 60) & (t < 500), 200.0, 20.0)
    power[300:303] = 10.0  # a dip is not the end
    assert loaded_span(t, power) == (60.0, 499.0)
    assert loaded_span(t, None) == (0.0, 599.0)


def test_a_settled_run_says_its_figures(project: Project, tmp_path: Path) -> None:
    store = BlobStore(tmp_path)
    kept = record_run(project, "before", [made(95, 85, n) for n in (1, 2, 3)], build="as_found", store=store)
    found = figures_of(kept, "before", store)
    assert len(found.passes) == 3
    assert found.passes[0].ambient_c == pytest.approx(24.0)
    window = found.passes[0].window_s
    assert window is not None
    assert 200 < window[0] < 700
    assert found.values("GPU Hot Spot") == pytest.approx([95.0] * 3, abs=0.4)
    assert any("settled from" in sentence for sentence in in_words(found, kept.device))


def test_a_climbing_run_says_where_it_heads(project: Project, tmp_path: Path) -> None:
    store = BlobStore(tmp_path)
    kept = record_run(project, "short", [made(98, 85, 4, tau=400.0, seconds=760)], build="as_found", store=store)
    found = figures_of(kept, "short", store)
    ahead = found.passes[0].climbing["GPU Hot Spot"]
    assert isinstance(ahead, Heading)
    assert ahead.low < 98.0 < ahead.high
    assert any("still climbing" in sentence and "heading for" in sentence for sentence in in_words(found, kept.device))


def test_mapping_is_remembered_and_passes_are_added(project: Project, tmp_path: Path) -> None:
    store = BlobStore(tmp_path)
    kept = record_run(project, "one", [made(95, 85, 1)], mapped=["Frames=clock"], store=store)
    kept = record_run(kept, "two", [made(90, 80, 2)], store=store)
    assert {one.column: one.role for one in kept.runs[1].channels}["Frames"] == "clock"
    kept = record_run(kept, "two", [made(90, 80, 3)], store=store)
    assert len(kept.runs[1].passes) == 2
    with pytest.raises(RunError, match="holds these logs already"):
        record_run(kept, "two", [made(90, 80, 3)], store=store)
    with pytest.raises(RunError, match="give another run id"):
        record_run(kept, "two", [made(90, 80, 4)], build="as_found", store=store)
    file = tmp_path / "kept.ashb"
    save_project(file, kept, store=store)
    other = BlobStore(tmp_path / "elsewhere")
    again = open_project(file, other).project
    assert again == kept
    assert figures_of(again, "two", other).values("GPU Hot Spot") == figures_of(kept, "two", store).values("GPU Hot Spot")


def test_a_window_set_by_hand_and_kelvins(project: Project) -> None:
    log = made(95, 85, 1)
    hot = log.columns[0]
    kelvin = Log(log.time_s, (Column(hot.name, "K", hot.values + 273.15), *log.columns[1:]))
    channels = propose(kelvin, project.device)
    where = {"build": "as_found", "point": "correlate", "log_sha256": "0" * 64}
    run = Run(id="r", channels=channels, settled_s=(60.0, 90.0), **where)
    found = figures(run, [kelvin], project.device)
    assert found.passes[0].window_s == (60.0, 90.0)
    assert found.values("GPU Hot Spot")[0] < 60.0


# ---- two runs


def test_comparison_puts_what_became_worse_first(project: Project, tmp_path: Path) -> None:
    store = BlobStore(tmp_path)
    kept = record_run(project, "a", [made(95 + d, 80 + d, n) for n, d in ((1, -0.3), (2, 0.0), (3, 0.3))], store=store)
    kept = record_run(kept, "b", [made(90 + d, 84 + d, n) for n, d in ((4, -0.3), (5, 0.0), (6, 0.3))], store=store)
    found = compare_runs(figures_of(kept, "a", store), figures_of(kept, "b", store), kept.device)
    assert [(one.sensor, one.rise.verdict) for one in found.sensors] == [("die_mean", "worse"), ("die_hot", "better")]
    assert found.sensors[1].rise.difference == pytest.approx(-5.0, abs=0.2)
    assert found.sensors[1].rise.low < -5.0 < found.sensors[1].rise.high
    assert found.hot_minus_mean == pytest.approx((15.0, 6.0), abs=0.3)


def test_equal_power(project: Project, tmp_path: Path) -> None:
    store = BlobStore(tmp_path)
    kept = record_run(project, "a", [made(84, 74, 1, power=230.0)], store=store)
    kept = record_run(kept, "b", [made(54, 49, 2, power=115.0)], store=store)
    runs = figures_of(kept, "a", store), figures_of(kept, "b", store)
    assert compare_runs(*runs, kept.device).sensors[-1].rise.difference == pytest.approx(-30, abs=0.3)
    level = compare_runs(*runs, kept.device, equal_power=True)
    hot = next(one for one in level.sensors if one.sensor == "die_hot")
    assert hot.rise.difference == pytest.approx(0.0, abs=0.6)
    assert any("one pass" in sentence for sentence in level.cautions)


def test_equal_power_by_the_model_where_only_the_die_throttled() -> None:
    """One device at full power, and with a fifth of its die's power taken back: at equal power nothing differs anywhere."""
    project = open_anything("demo:correlator").project
    engine, point = Engine(), project.point("correlate")
    die = point.powers_w["die"]
    less = point.model_copy(update={"powers_w": {**point.powers_w, "die": die.model_copy(update={"value": die.value * 0.8})}})
    throttled = project.model_copy(update={"points": tuple(less if one.id == point.id else one for one in project.points)})
    runs = []
    for name, what in (("full", project), ("less", throttled)):
        rows, watts = engine.shown(what, "plan_a", "correlate")
        channels = [RunChannel(column=row.id, unit="°C", sensor=row.id, role="temperature") for row in rows]
        power = RunChannel(column="P", unit="W", role="power")
        run = Run(id=name, build="plan_a", point="correlate", channels=(*channels, power), log_sha256="0" * 64)
        figures = {row.id: Channel(row.value_c, 0.1, 0.05, row.value_c, row.value_c, 600, 60.0, 0) for row in rows}
        figures["P"] = Channel(watts, 1.0, 0.1, watts, watts, 600, 60.0, 0)
        runs.append(RunFigures(run, (PassFigures((0.0, 600.0), figures, {}, None, point.ambient_c.value),)))
    level = compare_runs(*runs, project.device, equal_power=True, responses=responses(project, runs[0].run, runs[1].run))
    assert max(abs(one.rise.difference) for one in level.sensors) < 0.5
    ratio = compare_runs(*runs, project.device, equal_power=True)
    assert max(abs(one.rise.difference) for one in ratio.sensors) > 3.0, "one ratio for all is what this is better than"
    assert any("proportional" in caution for caution in ratio.cautions)


# ---- the simulated device


@pytest.mark.long
def test_the_simulated_device_is_the_model_with_a_loggers_habits() -> None:
    buoy = open_anything("demo:buoy").project
    engine = Engine()
    device = simulated_device(engine, buoy, "as_found", "summer", Habits(remount_k=0.0), minutes=300)
    log = device.record(5 * 3600, seed=1)
    told = engine.predict(buoy, "as_found", "summer", fidelity="coarse").report
    for sensor in told.sensors[: len(buoy.device.sensors)]:
        label = next(one.label for one in buoy.device.sensors if one.id == sensor.id)
        late = log.column(label).values[-600:]
        assert late.mean() == pytest.approx(sensor.value_c, abs=1.5), sensor.id
    assert np.array_equal(device.record(100, seed=1).columns[0].values, log.columns[0].values[:101])
    assert not np.array_equal(device.record(100, seed=2).columns[0].values, log.columns[0].values[:101])


@pytest.mark.long
def test_a_throttling_device_is_found_out(tmp_path: Path) -> None:
    card = open_anything("demo:beamformer").project
    limit = next(one for one in card.device.limits if one.sensor == "die_hot")
    device = simulated_device(Engine(), card, "as_found", "listen", Habits(limits_c={"die_hot": limit.max_c.value}), minutes=20)
    log = device.record(1200, seed=3)
    store = BlobStore(tmp_path)
    kept = record_run(card, "hot", [log], build="as_found", point="listen", store=store)
    found = figures_of(kept, "hot", store)
    assert device.course.steady_c[0] > limit.max_c.value + 2
    assert found.passes[0].throttled is not None
    assert any("true temperature would have been higher" in sentence for sentence in in_words(found, kept.device))


# ---- the command line


def test_import_and_compare_by_the_command_line(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    file = tmp_path / "card.ashb"
    save_project(file, without_runs(open_anything("demo:correlator").project))
    for run, hot, seeds in (("a", 95.0, (1, 2, 3)), ("b", 88.0, (4, 5, 6))):
        logs = []
        for seed in seeds:
            path = tmp_path / f"{run}{seed}.csv"
            path.write_text(as_csv(made(hot, hot - 12, seed)).replace(",", ";").replace(".", ","), encoding="utf-16")
            logs.append(str(path))
        main_quietly(["import-log", *logs, "--project", str(file), "--run", run, "--json"])
        told = json.loads(capsys.readouterr().out)
        assert len(told["passes"]) == 3
        assert told["passes"][0]["channels"][0]["mean"] == pytest.approx(hot, abs=0.3)
    for suffix, read in ((".csv", pd.read_csv), (".parquet", pd.read_parquet)):
        main_quietly(["export-run", str(file), "a", "-o", str(tmp_path / f"out{suffix}")])
        table = read(tmp_path / f"out{suffix}")
        assert len(table) == 3 * 900
        assert table.columns[:3].tolist() == ["pass", "time [s]", "GPU Hot Spot [°C]"]
        assert table["GPU Hot Spot [°C]"].tail(100).mean() == pytest.approx(95.0, abs=0.2)
    capsys.readouterr()
    main_quietly(["compare", str(file), "a", "b", "--json"])
    told = json.loads(capsys.readouterr().out)
    assert {row["verdict"] for row in told["sensors"]} == {"better"}
    main_quietly(["compare", str(file), "a", "b"])
    assert "rise over ambient" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["compare", "demo:correlator", "x", "y"], "There is no run 'x'"),
        (["export-run", "demo:correlator", "x", "-o", "LOG"], "There is no run 'x'"),
        (["export-run", "demo:correlator", "x", "-o", "EMPTY.png"], "must end in"),
        (["import-log", "LOG", "--project", "demo:correlator", "--run", "r"], "cannot be saved in place"),
        (["import-log", "EMPTY", "--project", "FILE", "--run", "r"], "is empty"),
        (["import-log", "LOG", "--project", "FILE", "--run", "r", "--build", "x"], "There is no build 'x'"),
        (["import-log", "LOG", "--project", "FILE", "--run", "Bad Id"], "id"),
    ],
)
def test_refusals_are_one_sentence(
    arguments: list[str], words: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    places = {"FILE": tmp_path / "p.ashb", "LOG": tmp_path / "l.csv", "EMPTY": tmp_path / "e.csv"}
    save_project(places["FILE"], without_runs(open_anything("demo:correlator").project))
    before = places["FILE"].read_bytes()
    places["LOG"].write_text(as_csv(made(95, 85, 1)))
    places["EMPTY"].write_text("")
    with pytest.raises(SystemExit) as stop:
        main([str(places.get(one, one)) for one in arguments])
    told = capsys.readouterr().err.strip()
    assert stop.value.code == 2
    assert words in told
    assert len(told.splitlines()) == 1
    assert places["FILE"].read_bytes() == before


def main_quietly(arguments: list[str]) -> None:
    try:
        main(arguments)
    except SystemExit as stop:
        assert not stop.code


def test_no_number_of_two_builds_moves_twice(project: Project, tmp_path: Path) -> None:
    store = BlobStore(tmp_path)
    kept = record_run(project, "a", [made(95, 85, 1)], build="as_found", store=store)
    kept = record_run(kept, "b", [made(90, 80, 2)], build="plan_a", store=store)
    numbers = uncertain_numbers(kept, [figures_of(kept, "a", store), figures_of(kept, "b", store)])
    moved = [path for one in numbers for path in one.paths]
    assert len(moved) == len(set(moved))
    assert any(path.startswith("builds.plan_a.") for path in moved)


def test_what_creeps_and_nobody_can_say_where_to_is_not_at_rest(project: Project, tmp_path: Path) -> None:
    """A tail of a fifth of the rise, logged for a third of its constant: it drifts little in any short window."""
    log = made(98, 85, 4, seconds=700)
    t = log.time_s
    slow = 32 + np.where(t >= 60, 50 * (1 - np.exp(-(t - 60) / 30)) + 14 * (1 - np.exp(-(t - 60) / 2000)), 0.0)
    slow = slow + np.random.default_rng(3).normal(0, 0.1, len(t))
    columns = tuple(replace(one, values=slow) if one.name == "GPU Hot Spot" else one for one in log.columns)
    store = BlobStore(tmp_path)
    kept = record_run(project, "short", [replace(log, columns=columns)], build="as_found", store=store)
    found = figures_of(kept, "short", store).passes[0]
    assert found.window_s is None
    assert "GPU Hot Spot" in found.climbing


def test_what_still_climbs_counts_with_where_it_heads(project: Project, tmp_path: Path) -> None:
    store = BlobStore(tmp_path)
    kept = record_run(project, "short", [made(98, 85, 4, tau=400.0, seconds=760)], build="as_found", store=store)
    readings = readings_of(kept, [figures_of(kept, "short", store)], Engine())
    hot = next(k for k, (_, sensor) in enumerate(readings.what) if sensor == "die_hot")
    assert readings.values[hot] == pytest.approx(98.0, abs=4 * readings.covariance[hot, hot] ** 0.5)
    assert readings.covariance[hot, hot] > 1.0


def test_a_repeat_after_the_change_tells_a_drift_from_a_repair(project: Project, tmp_path: Path) -> None:
    store = BlobStore(tmp_path)
    kept = project
    for name, hot, seeds in (("a", 95.0, (1, 2)), ("b", 85.0, (3, 4)), ("again", 95.1, (5, 6)), ("drifted", 90.0, (7, 8))):
        build = "plan_a" if name == "b" else "as_found"
        for seed in seeds:
            kept = record_run(kept, name, [made(hot, hot - 10, seed)], build=build, point="correlate", store=store)
    a, b, again, drifted = (figures_of(kept, name, store) for name in ("a", "b", "again", "drifted"))
    both = pooled(a, again)
    assert len(both.passes) == 4
    assert len(both.values("GPU Hot Spot")) == 4
    assert drift(a, again, kept.device) == ""
    assert "differs by −5.0 K" in drift(a, drifted, kept.device)
    alone, repeated = (compare_runs(run, b, kept.device).sensors[-1].rise for run in (a, both))
    assert repeated.high - repeated.low < alone.high - alone.low, "more passes, a narrower interval"
    with pytest.raises(RunError, match="no repeat"):
        pooled(a, b)


def test_a_pass_that_does_not_go_with_the_others_is_named(project: Project, tmp_path: Path) -> None:
    store = BlobStore(tmp_path)
    kept = project
    for seed, hot in ((1, 95.0), (2, 95.0), (3, 103.0), (4, 95.0), (5, 95.0)):
        kept = record_run(kept, "a", [made(hot, hot - 10, seed)], build="as_found", point="correlate", store=store)
    for seed in (6, 7, 8):
        kept = record_run(kept, "b", [made(94.0, 84.0, seed)], build="plan_a", point="correlate", store=store)
    found = compare_runs(figures_of(kept, "a", store), figures_of(kept, "b", store), kept.device)
    assert [one for one in found.cautions if "does not go with the others" in one] == [
        "Pass 3 of run 'a' does not go with the others at 2 of 2 sensors."
    ]


# ---- what a run does besides being warm


def with_work(project: Project, store: BlobStore, name: str, rate: float, noise: float, seed: int) -> Project:
    """Three passes of a run that counts frames and says how loud it was."""
    chance = np.random.default_rng(seed)
    for n in range(3):
        log = made(88, 78, seed + n)
        count = len(log.time_s)
        more = (
            Column("Frame rate", "fps", rate * (1 + chance.normal(0, 0.003)) + chance.normal(0, 1, count)),
            Column("Noise", "dB", np.full(count, noise + chance.normal(0, 0.1))),
        )
        kept = tuple(one for one in log.columns if one.name != "Frames")
        project = record_run(project, name, [Log(log.time_s, (*kept, *more))], store=store)
    return project


def test_a_repair_that_helps_only_in_work_and_noise_is_seen(project: Project, tmp_path: Path) -> None:
    """The same temperature, four per cent more work and seven decibels less."""
    store = BlobStore(tmp_path)
    kept = with_work(project, store, "a", 120.0, 44.0, 1)
    kept = with_work(kept, store, "b", 124.8, 37.0, 11)
    assert {one.column: one.role for one in kept.runs[0].channels}["Frame rate"] == "rate"
    found = compare_runs(figures_of(kept, "a", store), figures_of(kept, "b", store), kept.device)
    assert all(one.rise.verdict.startswith("no difference") for one in found.sensors)
    rate = found.beside[0]
    assert (rate.role, rate.unit) == ("rate", "fps")
    assert rate.after - rate.before == pytest.approx(4.8, abs=rate.half_width + 0.5)
    assert 0 < rate.half_width < 2.0
    assert found.beside_words == "Beside it: 4 % more work, 7 dB quieter."
    equal = compare_runs(figures_of(kept, "a", store), figures_of(kept, "a", store), kept.device)
    assert equal.beside_words == "Beside it: the same work."
