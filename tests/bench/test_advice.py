"""Advice from runs: how to test, results elsewhere, shares of several changes, whether opening pays, a gain as quiet."""

from __future__ import annotations

import json
import math
from dataclasses import replace

import pytest

from ashen_bridge.bench.advice.attribution import attributing
from ashen_bridge.bench.advice.elsewhere import Circumstances, transfer
from ashen_bridge.bench.advice.planner import planning, resolution_for, spread_of
from ashen_bridge.bench.advice.quieter import quieter
from ashen_bridge.bench.advice.verdicts import Attribution
from ashen_bridge.bench.advice.worth import weighing
from ashen_bridge.bench.compare_runs import compare_runs
from ashen_bridge.bench.logbook import figures_of
from ashen_bridge.changes.difference import difference
from ashen_bridge.cli.main import main
from ashen_bridge.files.demos import open_anything
from ashen_bridge.logs.outcome import RunError, RunFigures
from ashen_bridge.model import paths
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine

Bench = tuple[Engine, Project, dict[str, RunFigures]]


@pytest.fixture(scope="module")
def here() -> Bench:
    project = open_anything("demo:correlator").project
    return Engine(), project, {run.id: figures_of(project, run.id) for run in project.runs}


def test_passes_and_resolution_are_each_others_inverse() -> None:
    """With s = 1 K, n passes resolve t(2n − 2)·√(2/n): 2 → 4.30 K, 5 → 1.46 K (t table)."""
    assert resolution_for(2, 1.0) == pytest.approx(4.303, abs=0.005)
    assert resolution_for(5, 1.0) == pytest.approx(2.306 * math.sqrt(0.4), abs=0.005)


@pytest.mark.long
def test_a_plan_stands_on_the_models_soak_and_the_measured_spread(here: Bench) -> None:
    engine, project, runs = here
    *_, (_, plan) = planning(engine, project, "plan_a", "correlate", list(runs.values()), 0.5)
    assert plan is not None
    course_end = engine.transient(project, "plan_a", "correlate", _step()).soak_s
    assert course_end is not None
    assert plan.soak_s == pytest.approx(max(course_end))
    assert plan.seconds == pytest.approx(plan.soak_s + 180)
    assert plan.measured
    assert resolution_for(plan.passes, plan.spread_k) <= 0.5
    spread, measured = spread_of([])
    assert (spread, measured) == (0.4, False)
    assert spread_of(list(runs.values()))[0] == pytest.approx(0.2, abs=0.1), "the device shifts by 0.2 K from pass to pass"


def _step() -> object:
    from ashen_bridge.predict.patterns import read_pattern

    return read_pattern("step 40min")


def test_a_result_carried_to_warmer_air_is_what_is_there(here: Bench) -> None:
    """The repaired run was logged at 4 K more: the stock-like sensors carried there must agree with the model there."""
    engine, project, runs = here
    found = transfer(engine, project, runs["stock"], Circumstances(warmer_k=8.0))
    warm = {
        path: float(paths.get(project, path)) + 8
        for path in (f"points.correlate.{name}" for name in ("ambient_c", "inlet_c", "front_air_c", "rear_air_c"))
    }
    there = engine.predict(paths.set_values(project, warm), "stock", "correlate", fidelity="coarse").report
    base = engine.predict(project, "stock", "correlate", fidelity="coarse").report
    for one in found.sensors:
        change = next(r.value_c for r in there.sensors if r.id == one.sensor) - next(
            r.value_c for r in base.sensors if r.id == one.sensor
        )
        assert one.there_c - one.here_c == pytest.approx(change, abs=0.4)
        assert one.uncertainty < 1.5
    assert "air 8 K warmer" in found.text


def test_a_louder_fan_cools_and_what_depends_on_no_fan_is_refused(here: Bench) -> None:
    engine, project, runs = here
    there = Circumstances(noise_db=6.0)
    assert there.speed == pytest.approx(10 ** (6 / 50))
    found = transfer(engine, project, runs["pads"], there)
    assert all(one.there_c < one.here_c + 0.05 for one in found.sensors)
    buoy = open_anything("demo:buoy").project
    with pytest.raises(RunError, match="no sink"):
        _lower(lambda: transfer(engine, buoy, figures_of(buoy, "stock"), Circumstances(fan=2.0)))


def _lower(act: object) -> None:
    assert callable(act)
    try:
        act()
    except RunError as error:
        raise RunError(str(error).lower()) from error


def test_a_throttling_device_throttles_there_and_does_not_run_away() -> None:
    project = open_anything("demo:beamformer").project
    found = transfer(Engine(), project, figures_of(project, "pad"), Circumstances(warmer_k=8.0, fan=0.7))
    assert found.text.endswith("it will throttle.")


def test_changes_of_two_builds_are_named_joint_by_joint(here: Bench) -> None:
    _, project, _ = here
    labels = [one.name for one in difference(project, "stock", "as_found")]
    assert labels == ["Pad L1, Pad L2, Pad L3 and 2 more", "Pad R1, Pad R2, Pad R3", "Pad B1, Pad B2"]
    beamformer = open_anything("demo:beamformer").project
    assert [one.name for one in difference(beamformer, "pad_on_lid", "new_paste")] == ["Lid to cooler"]
    lid = [one.name for one in difference(beamformer, "new_paste", "lid_off")]
    assert lid[0].startswith("plates added or taken out")
    assert difference(project, "stock", "stock") == ()


def test_shares_bracket_the_whole_and_the_guilty_one_stands_first(here: Bench) -> None:
    engine, project, runs = here
    compared = compare_runs(runs["stock"], runs["pads"], project.device)
    *_, (_, found) = attributing(engine, project, "stock", "as_found", "correlate", compared, "s_reg_5")
    assert found is not None
    assert found.shares[0].label == "Pad R1, Pad R2, Pad R3"
    assert found.model_k == pytest.approx(found.measured_k, abs=2.0)
    assert sum(one.middle_k for one in found.shares) == pytest.approx(found.model_k, abs=0.5)
    assert "would settle it" in found.settle
    later = compare_runs(runs["pads"], runs["repaired"], project.device)
    *_, (_, one_change) = attributing(engine, project, "as_found", "plan_a", "correlate", later, "die_hot")
    assert one_change is not None
    assert "all its doing" in one_change.settle
    with pytest.raises(RunError, match="do not differ"):
        list(attributing(engine, project, "stock", "stock", "correlate", compared, "s_reg_5"))


def test_shares_of_the_other_sign_are_doubted_first() -> None:
    """Measured hotter where the changes cool: that is said before any share."""
    doubted = Attribution("a", "b", "die_hot", "Die hot spot", 3.4, -2.1, (), "")
    assert doubted.doubt.startswith("These changes do not explain it: Die hot spot became 3.4 K hotter")
    assert "they make it 2.1 K cooler" in doubted.doubt
    assert replace(doubted, model_k=2.1).doubt == ""
    assert replace(doubted, model_k=-0.2).doubt == "", "too little to have a sign"


@pytest.mark.long
def test_worth_opening_and_leave_it_alone(here: Bench) -> None:
    engine, project, runs = here
    *_, (_, hot) = weighing(engine, project, runs["pads"])
    assert hot is not None
    assert hot.open
    assert hot.needed_k is not None
    assert hot.needed_k > 0
    assert hot.best_k >= hot.best_joint_k > 0
    *_, (_, cool) = weighing(engine, project, runs["stock"])
    assert cool is not None
    assert not cool.open
    assert cool.text.startswith("Leave it alone")
    never = Project.parse(project.model_dump(mode="json") | {"aims": {"opening": "never"}})
    *_, (_, shut) = weighing(engine, never, runs["pads"])
    assert shut is not None
    assert not shut.open
    assert "not to be opened" in shut.text
    cold = [{"id": "g", "sensor": "die_hot", "at_most_c": 40.0}]
    far = Project.parse(project.model_dump(mode="json") | {"goals": cold})
    *_, (_, beyond) = weighing(engine, far, runs["pads"])
    assert beyond is not None
    assert beyond.text.startswith("Opening cannot do it")


def test_a_gain_in_quiet_gives_the_old_temperature_back(here: Bench) -> None:
    engine, project, _ = here
    found = quieter(engine, project, "plan_a", "correlate", "die_hot", 5.0)
    assert found is not None
    slower = paths.set_values(project, {"points.correlate.fans_percent.cooler": 100.0 * found.speed})
    values = []
    for one in (project, slower):
        report = engine.predict(one, "plan_a", "correlate", fidelity="coarse").report
        values.append(next(row.value_c for row in report.sensors if row.id == "die_hot"))
    assert values[1] - values[0] == pytest.approx(5.0, abs=0.1)
    assert found.less_db == pytest.approx(-50 * math.log10(found.speed)), "fan laws"
    assert quieter(engine, project, "plan_a", "correlate", "die_hot", -1.0) is None
    assert quieter(engine, open_anything("demo:buoy").project, "as_found", "bench", "cpu", 5.0) is None


@pytest.mark.long
def test_advice_by_the_command_line(capsys: pytest.CaptureFixture[str]) -> None:
    main(["transfer", "demo:buoy", "stock", "--warmer", "8", "--json"])
    assert json.loads(capsys.readouterr().out)["text"].endswith("past its limit of 65 °C.")
    main(["share-out", "demo:buoy", "pad", "repaired", "--sensor", "cpu"])
    told = capsys.readouterr().out
    assert "Wall pad" in told
    assert "Memory pad" in told
