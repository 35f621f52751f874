"""The proof of a repair on the demos: the fault that was left is found, and nothing where there is none."""

from __future__ import annotations

import json
from dataclasses import replace

import pytest

from ashen_bridge.bench import prove
from ashen_bridge.bench.judgement import Proof, ProvedSensor
from ashen_bridge.bench.logbook import figures_of
from ashen_bridge.bench.proof_words import verdict_of
from ashen_bridge.cli.main import main
from ashen_bridge.files.demos import open_anything
from ashen_bridge.logs.outcome import RunFigures
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from devices import certain

MEMORY = ("l1", "l2", "l3", "t1", "t2", "r1", "r2", "r3", "b1", "b2")


@pytest.fixture(scope="module")
def proved() -> tuple[Project, RunFigures, Proof]:
    # What is really off, and what the readings could confuse it with, stays uncertain; the rest only costs time here.
    doubtful = ("convective_k_w", "die", "conductivity_w_mk", "offset_k", *(f"mem_{name}" for name in MEMORY))
    project = certain(open_anything("demo:correlator").project, but=doubtful)
    before, after = figures_of(project, "stock"), figures_of(project, "repaired")
    steps = list(prove.proving(Engine(), project, before, after))
    progress = [share for share, _ in steps]
    assert progress == sorted(progress)
    found = steps[-1][1]
    assert found is not None
    return project, after, found


def test_calibration_on_the_baseline_sharpens_the_prediction(proved: tuple[Project, RunFigures, Proof]) -> None:
    for one in proved[2].sensors:
        assert one.calibrated[1] < 0.4 * one.predicted[1], one.name


def test_measured_values_lie_where_the_calibrated_model_says_but_for_the_planted_fault(
    proved: tuple[Project, RunFigures, Proof],
) -> None:
    for one in proved[2].sensors:
        if one.sensor == "s_mem_b2":
            assert one.surprise > 3
            assert one.measured[0] - one.calibrated[0] == pytest.approx(4.8, abs=1.0)
        else:
            assert abs(one.surprise) < 1.5, one.name
            assert abs(one.measured[0] - one.calibrated[0]) < 1.0
    assert [one.sensor for one in proved[2].surprises()] == ["s_mem_b2"]


def test_the_verdict_names_the_goal_that_was_missed_and_where_to_look(proved: tuple[Project, RunFigures, Proof]) -> None:
    project, after, found = proved
    told = verdict_of(found, project, after)
    assert told.state == "missed"
    assert told.headline.startswith("Not reached: 1 of 13 aims missed")
    assert told.lines[0].startswith("Memory B2 is 3.")
    assert any("Pad B2 again" in one for one in told.next)
    assert not any("Leave it closed" in one for one in told.next)


def changed(found: Proof, **values: ProvedSensor) -> Proof:
    return replace(found, sensors=tuple(values.get(one.sensor, one) for one in found.sensors))


def test_verdicts_of_other_outcomes(proved: tuple[Project, RunFigures, Proof]) -> None:
    project, after, found = proved
    b2 = next(one for one in found.sensors if one.sensor == "s_mem_b2")
    die = next(one for one in found.sensors if one.sensor == "die_hot")
    cool = replace(b2, measured=(80.0, 0.4), calibrated=(80.0, 0.5))
    fine = changed(found, s_mem_b2=cool, die_hot=replace(die, measured=(90.0, 1.0)))
    told = verdict_of(fine, project, after)
    assert told.state == "met"
    assert told.headline.startswith("Reached: all 13 aims hold")
    assert any("Leave it closed" in one for one in told.next)
    unsure = changed(fine, die_hot=replace(die, measured=(95.5, 1.0)))
    told = verdict_of(unsure, project, after)
    assert told.state == "open"
    assert any("log more passes" in one for one in told.next)
    hot = changed(fine, die_hot=replace(die, measured=(99.0, 1.0), calibrated=(99.0, 1.0)))
    told = verdict_of(hot, project, after)
    assert told.state == "missed"
    assert any("gains nothing" in one for one in told.next), "hot as predicted: another plan, not another opening"
    spared = changed(fine, die_hot=replace(die, measured=(99.0, 1.0), calibrated=(114.0, 1.0)))
    told = verdict_of(spared, project, after)
    assert any("Cooler than predicted, and still too hot: Die hot spot by 15.0 K" in one for one in told.next)
    assert not any("as hot as predicted" in one for one in told.next)
    lucky = changed(fine, die_hot=replace(die, measured=(80.0, 1.0), calibrated=(95.0, 1.0)))
    assert any("15.0 K better than the model" in one for one in verdict_of(lucky, project, after).next)
    assert any(one.startswith("Cooler than before: ") for one in verdict_of(lucky, project, after).lines), "gains are said"
    same = replace(fine, sensors=tuple(replace(one, measured=(one.was_c or 60.0, 0.4)) for one in fine.sensors))
    assert any("as if nothing had been changed" in one for one in verdict_of(same, project, after).lines)
    assert not any("as if nothing" in one for one in told.lines)
    hands = Project.parse(project.model_dump(mode="json") | {"aims": {"skin_c": {"value": 45.0}, "noise_db": {"value": 40.0}}})
    told = verdict_of(replace(fine, skin=(("Skin of Case wall", 48.2),)), hands, after)
    assert any("comes to 48 °C by the calibrated model, 3 K over" in one for one in told.lines)
    assert not any("comes to" in one for one in verdict_of(fine, hands, after).lines), "nothing is said of no skin"
    apart = Project.parse(project.model_dump(mode="json") | {"aims": {"sensors": ["s_mem_l1"], "opening": "never"}})
    told = verdict_of(found, apart, after)
    assert told.state == "met", "only what was said to matter decides"
    assert any("was not said to matter" in one for one in told.lines)
    assert any("not to be opened" in one for one in told.next)


def test_prove_by_the_command_line(
    proved: tuple[Project, RunFigures, Proof], monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    """The computing itself is tested above; here it is given, and what is printed counts."""
    monkeypatch.setattr(prove, "proving", lambda *_: iter([(0.5, None), (1.0, proved[2])]))
    main(["prove", "demo:correlator", "stock", "repaired", "--json"])
    told = json.loads(capsys.readouterr().out)
    assert {one["sensor"]: one["state"] for one in told["sensors"]}["s_mem_b2"] == "missed"
    assert told["verdict"]["state"] == "missed"
    main(["prove", "demo:correlator", "stock", "repaired"])
    text = capsys.readouterr().out
    assert text.startswith("Not reached")
    assert "→ Memory B2 is" in text
