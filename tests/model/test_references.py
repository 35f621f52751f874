"""Names that lead nowhere: every kind of broken reference is one sentence that says what and where."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from devices import FOUR, Card, project

Plain = dict[str, Any]


def data() -> Plain:
    return project(Card(FOUR)).model_dump(mode="json")


def break_piece(plain: Plain) -> None:
    plain["builds"][0]["joints"][0]["pieces"][0]["material"] = "butter"


def break_board(plain: Plain) -> None:
    plain["device"]["bodies"][0]["material"] = "butter"


def break_carrier(plain: Plain) -> None:
    plain["device"]["bodies"][1]["on"] = "cloud"


def break_circle(plain: Plain) -> None:
    bodies = {body["id"]: body for body in plain["device"]["bodies"]}
    bodies["part_0"]["on"], bodies["part_1"]["on"] = "part_1", "part_0"


def break_fastener(plain: Plain) -> None:
    plain["device"]["fasteners"][0]["joins"] = ["plate", "cloud"]


def break_sensor(plain: Plain) -> None:
    plain["device"]["sensors"][0]["body"] = "cloud"


def break_limit(plain: Plain) -> None:
    plain["device"]["limits"][0]["sensor"] = "cloud"


def break_removed(plain: Plain) -> None:
    plain["builds"][0]["removed"] = ["cloud"]


def break_joint(plain: Plain) -> None:
    plain["builds"][0]["joints"][0]["upper"] = "cloud"


def break_setting(plain: Plain) -> None:
    plain["builds"][0]["fastener_settings"] = [{"fastener": "cloud"}]


def break_main_build(plain: Plain) -> None:
    plain["main_build"] = "cloud"


def break_power(plain: Plain) -> None:
    plain["points"][0]["powers_w"]["cloud"] = 3


def break_fan(plain: Plain) -> None:
    plain["points"][0]["fans_percent"] = {"cloud": 50}


def break_group(plain: Plain) -> None:
    plain["groups"][0]["joints"].append("cloud")


def break_goal(plain: Plain) -> None:
    plain["goals"] = [{"id": "cool", "sensor": "cloud", "at_most_c": 90}]


def break_tracing(plain: Plain) -> None:
    places = {"pixel_a": [0, 0], "pixel_b": [9, 9], "board_a_mm": [0, 0], "board_b_mm": [9, 9]}
    plain["tracings"] = [{"id": "photo", "image": "cloud", **places}]


def break_stock(plain: Plain) -> None:
    plain["stock"] = [{"id": "left", "material": "butter"}]


@pytest.mark.parametrize(
    ("damage", "words"),
    [
        (break_piece, ("paste", "die_joint", "now", "butter")),
        (break_board, ("board", "butter")),
        (break_carrier, ("die", "cloud")),
        (break_circle, ("part_0", "circle")),
        (break_fastener, ("spring_0", "cloud")),
        (break_sensor, ("s_die", "cloud")),
        (break_limit, ("l_die", "cloud")),
        (break_removed, ("now", "cloud")),
        (break_joint, ("die_joint", "now", "cloud")),
        (break_setting, ("now", "cloud")),
        (break_main_build, ("main build", "cloud")),
        (break_power, ("load", "cloud")),
        (break_fan, ("load", "fan", "cloud")),
        (break_group, ("pads", "cloud")),
        (break_goal, ("cool", "cloud")),
        (break_tracing, ("photo", "cloud")),
        (break_stock, ("left", "butter")),
    ],
    ids=lambda value: getattr(value, "__name__", None),
)
def test_a_name_that_leads_nowhere_is_said(damage: Callable[[Plain], None], words: tuple[str, ...]) -> None:
    plain = data()
    damage(plain)
    with pytest.raises(AshenError) as error:
        Project.parse(plain)
    sentence = str(error.value)
    for word in words:
        assert word in sentence, sentence
    assert sentence.endswith(".")


def test_the_undamaged_project_is_read() -> None:
    assert Project.parse(data()) == project(Card(FOUR))


def test_a_power_block_named_as_a_part_is_recognised() -> None:
    plain = data()
    die = next(body for body in plain["device"]["bodies"] if body["id"] == "die")
    die["make_up"]["power_map"] = [{"id": "core", "area": {"x_mm": 31, "y_mm": 31, "w_mm": 5, "h_mm": 5}, "share": 1.0}]
    plain["points"][0]["powers_w"]["core"] = 5
    with pytest.raises(AshenError, match="power block of 'die'"):
        Project.parse(plain)


def test_all_broken_names_are_said_at_once() -> None:
    plain = data()
    for damage in (break_sensor, break_joint, break_stock):
        damage(plain)
    with pytest.raises(AshenError) as error:
        Project.parse(plain)
    for words in ("s_die", "die_joint", "left"):
        assert words in str(error.value)


def test_more_broken_names_than_one_reads_are_counted() -> None:
    plain = data()
    plain["stock"] = [{"id": f"left_{n}", "material": "butter"} for n in range(20)]
    with pytest.raises(AshenError, match="And 17 more like this"):
        Project.parse(plain)
