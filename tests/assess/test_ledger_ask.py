"""Where the watts go, what a finger feels, and operating points that ask instead of tell."""

from __future__ import annotations

import json

import pytest

from ashen_bridge.assess.ask import ask
from ashen_bridge.assess.assessment import assess
from ashen_bridge.cli.main import main
from ashen_bridge.files.demos import open_anything
from ashen_bridge.guided.answers import Answers, DeviceKind
from ashen_bridge.guided.build import project_from
from ashen_bridge.library.touch import CONTACT_TIMES, longest_contact, touch_limits
from ashen_bridge.model import paths
from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from devices import FOUR, Card, project

ENGINE = Engine()
DEMO = open_anything("demo:correlator").project
BOX = project_from(Answers(kind=DeviceKind.BOX, around=(1, 0, 1, 0)))


@pytest.mark.parametrize("made", [project(Card(FOUR)), DEMO, BOX], ids=["card", "demo", "box"])
def test_the_ledger_of_every_component_adds_up_to_its_power(made: Project) -> None:
    """Heat balance of each part: what is made in it leaves by the listed ways, to the accuracy of the field."""
    report = ENGINE.predict(made).report
    for component in report.components:
        ways = [row.watts for row in report.ledger if row.component == component.id]
        assert sum(ways) == pytest.approx(component.power_w, abs=2e-3 * max(component.power_w, 1.0)), component.id


def test_most_of_a_dies_heat_goes_up_through_its_joint_and_the_rest_into_the_board() -> None:
    report = ENGINE.predict(project(Card()), fidelity="coarse").report
    rows = {row.to: row.watts for row in report.ledger if row.component == "die"}
    joint = next(row for row in report.joints if row.lower == "die")
    assert rows["plate"] == pytest.approx(joint.heat_w, rel=1e-6)
    assert rows["plate"] > 90
    assert 0 < rows["board"] < 10


def test_what_does_not_touch_loses_its_heat_to_the_board() -> None:
    loose = paths.set_values(project(Card(FOUR)), {"builds.now.joints.pad_0.pieces.pad.thickness_mm": 0.3})
    before = ENGINE.predict(project(Card(FOUR)), fidelity="coarse").report
    after = ENGINE.predict(loose, fidelity="coarse").report

    def into_board(report: object) -> float:
        return sum(row.watts for row in report.ledger if row.component == "part_0" and row.to == "board")  # type: ignore[attr-defined]

    assert into_board(after) > into_board(before) + 0.8


# ---- skin


def test_touch_limits_fall_with_contact_time_and_metal_is_the_strictest() -> None:
    """IEC 62368-1:2018 (edition 3), table 38, TS1, from memory: metal 48, 51, 60, 70 °C; plastic 48, 60, 77, 94 °C."""
    assert list(touch_limits("metal").values()) == [48, 51, 60, 70]
    assert list(touch_limits("plastic").values()) == [48, 60, 77, 94]
    for surface in ("metal", "glass", "plastic", "wood"):
        values = list(touch_limits(surface).values())  # type: ignore[arg-type]
        assert values == sorted(values), "the shorter the touch, the hotter it may be"
        assert all(touch_limits("metal")[time] <= touch_limits(surface)[time] for time in CONTACT_TIMES)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("celsius", "longest"), [(40, "over_1_min"), (48, "over_1_min"), (50, "10_s_to_1_min"), (69, "under_1_s"), (71, None)]
)
def test_how_long_hot_metal_may_be_touched(celsius: float, longest: str | None) -> None:
    assert longest_contact(celsius, "metal") == longest


def test_the_skin_of_a_box_is_a_reading_with_a_limit() -> None:
    data = BOX.model_dump(mode="json")
    data["device"]["limits"].append({"id": "held", "body": "case_wall", "place": "skin", "max_c": {"value": 51}})
    limited = Project.parse(data)
    report = ENGINE.predict(limited, fidelity="coarse").report
    wall = report.skin[0]
    assert wall.id == "case_wall"
    assert wall.surface == "metal"
    row = next(row for row in report.sensors if row.id == "skin:case_wall")
    assert row.value_c == wall.t_max_c
    assert row.limit_c == 51.0
    plate = next(plate for plate in report.plates if plate.id == "case_wall")
    assert plate.t_mean_c <= wall.t_max_c < report.component("die").t_max_c
    sensor = next(row for row in report.sensors if row.id == "skin")
    assert sensor.value_c == max(row.t_max_c for row in report.skin), "a sensor of both walls reads the hottest outside"
    hot = paths.set_values(limited, {"points.load.powers_w.die": 40.0})
    texts = [finding.text for finding in assess(hot, engine=ENGINE, fidelity="coarse").findings]
    assert any(text.startswith("Case, hottest is predicted at") for text in texts)


def test_only_plates_have_a_skin() -> None:
    data = project(Card()).model_dump(mode="json")
    data["device"]["limits"].append({"id": "l_skin", "body": "die", "place": "skin", "max_c": {"value": 50}})
    with pytest.raises(AssemblyError, match="only plates have a skin"):
        ENGINE.predict(Project.parse(data))


# ---- asking


def margin(made: Project) -> float:
    rows = ENGINE.predict(made).report.sensors
    return min(row.margin_k for row in rows if row.margin_k is not None)


def test_the_power_that_is_possible_is_where_the_margin_goes() -> None:
    """Put the answer in: the worst margin is what was asked for. Heat is nearly proportional to power (radiation is small)."""
    made = project(Card(FOUR))
    answer = ask(made, None, None, "power", 3.0, ENGINE)
    powers = {f"points.load.powers_w.{name}": power.value * answer.value for name, power in made.points[0].powers_w.items()}
    assert margin(paths.set_values(made, powers)) == pytest.approx(3.0, abs=0.2)
    now = margin(made)
    assert answer.value == pytest.approx((95 - 3 - 25) / (95 - now - 25), rel=0.05)
    assert "present power" in answer.text


@pytest.mark.long
def test_the_ambient_that_is_possible_shifts_all_air_alike() -> None:
    answer = ask(DEMO, None, None, "ambient", 0.0, ENGINE)
    shift = answer.value - 24.0
    air = {"ambient_c": 24.0, "inlet_c": 32.0, "front_air_c": 40.0, "rear_air_c": 36.0}
    warmer = paths.set_values(DEMO, {f"points.correlate.{name}": value + shift for name, value in air.items()})
    assert margin(warmer) == pytest.approx(0.0, abs=0.3)
    assert answer.value == pytest.approx(24.0 + margin(DEMO), abs=1.0), "a kelvin of air is nearly a kelvin everywhere"


def test_the_fan_that_is_needed_and_its_noise() -> None:
    """Fan laws: noise rises by 50·log10 of the speed ratio."""
    answer = ask(DEMO, None, None, "fan", 5.0, ENGINE)
    slower = paths.set_values(DEMO, {"points.correlate.fans_percent.cooler": answer.value})
    assert margin(slower) == pytest.approx(5.0, abs=0.2)
    import math

    assert f"{-50 * math.log10(answer.value / 100):.1f} dB quieter" in answer.text


def test_questions_without_an_answer_are_refused_in_words() -> None:
    with pytest.raises(AssemblyError, match="stays too hot"):
        ask(DEMO, None, None, "fan", 60.0, ENGINE)
    with pytest.raises(AssemblyError, match="No sink of this device depends on a fan"):
        ask(BOX, None, None, "fan", 0.0, ENGINE)
    bare = project(Card(FOUR, sensors=False))
    with pytest.raises(AssemblyError, match="No sensor has a limit"):
        ask(bare, None, None, "power", 0.0, ENGINE)


def test_the_command_line_answers_and_prints_the_ledger(capsys: pytest.CaptureFixture[str]) -> None:
    def run(*arguments: str) -> str:
        main(["predict", "demo:correlator", *arguments])
        return capsys.readouterr().out

    answer = json.loads(run("--ask", "ambient", "--margin", "5", "--json"))
    assert answer["ask"] == "ambient"
    assert answer["decided_by"] == "Memory B2"
    plain = json.loads(run("--json", "--mesh", "coarse"))
    assert sum(row["watts"] for row in plain["ledger"] if row["component"] == "die") == pytest.approx(180.0, rel=2e-3)
    assert plain["skin"] == []
