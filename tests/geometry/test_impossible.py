"""States that cannot be put together or cannot be computed: one sentence each, with the parts it is about."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from ashen_bridge.editing.create import add_sensor, new_landing, new_plate
from ashen_bridge.editing.joining import new_joint, outline_piece, remove_joints, set_feel, span_joint
from ashen_bridge.geometry.checks import check_assembly
from ashen_bridge.geometry.scene import make_scene
from ashen_bridge.model.bodies import Plate, Side
from ashen_bridge.model.errors import AshenError, AssemblyError
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.predict.engine import predict
from devices import FOUR, Card, project

Plain = dict[str, Any]


def of(plain: Plain, kind: str, name: str) -> Plain:
    where = {"body": plain["device"]["bodies"], "joint": plain["builds"][0]["joints"], "screw": plain["device"]["fasteners"]}[
        kind
    ]
    return next(one for one in where if one["id"] == name)


def second_board(plain: Plain) -> None:
    plain["device"]["bodies"].append({**of(plain, "body", "board"), "id": "other_board"})


def no_board(plain: Plain) -> None:
    plain["device"]["bodies"] = [of(plain, "body", "plate") | {"on": "case", "height_mm": {"value": 3}}]
    plain["device"].update(fasteners=[], sensors=[], limits=[])
    plain["builds"][0]["joints"] = []
    plain["points"][0].update(powers_w={}, fans_percent={})
    plain["groups"] = []


def copper_piece(plain: Plain) -> None:
    of(plain, "joint", "pad_0")["pieces"][0]["material"] = "copper"


def pad_by_volume(plain: Plain) -> None:
    piece = of(plain, "joint", "pad_0")["pieces"][0]
    piece.update(thickness_mm=None, volume_mm3={"value": 20})


def paste_by_thickness(plain: Plain) -> None:
    piece = of(plain, "joint", "die_joint")["pieces"][0]
    piece.update(volume_mm3=None, thickness_mm={"value": 0.1})


def washers_under_a_fixed_screw(plain: Plain) -> None:
    screw = of(plain, "screw", "spring_0")
    kept = {key: screw[key] for key in ("id", "joins", "x_mm", "y_mm")}
    kept.update(kind="fixed", preload_n={"value": 50}, seat_mm={"value": 2.04}, stiffness_n_mm={"value": 3000})
    plain["device"]["fasteners"][0] = kept
    plain["builds"][0]["fastener_settings"] = [{"fastener": "spring_0", "washers_mm": {"value": 0.5}}]


def set_by_turns(plain: Plain) -> None:
    plain["builds"][0]["fastener_settings"] = [{"fastener": "spring_0", "turns": {"value": 2}}]


def skin_of_a_part(plain: Plain) -> None:
    plain["device"]["limits"].append({"id": "touch", "body": "die", "place": "skin", "max_c": {"value": 60}})


def carried_by_a_plate(plain: Plain) -> None:
    of(plain, "body", "part_0")["on"] = "plate"


def on_the_case(plain: Plain) -> None:
    of(plain, "body", "part_0")["on"] = "case"


def half_outside(plain: Plain) -> None:
    of(plain, "body", "part_0")["footprint"]["rects"][0]["x_mm"] = -4.0


def joint_to_the_rear(plain: Plain) -> None:
    of(plain, "body", "part_0")["side"] = "rear"


def joint_onto_a_part(plain: Plain) -> None:
    of(plain, "joint", "pad_0")["upper"] = "part_1"


def faces_that_miss(plain: Plain) -> None:
    of(plain, "body", "plate")["footprint"]["rects"][0].update(x_mm=24.0, w_mm=51.0)


def piece_beside(plain: Plain) -> None:
    piece = of(plain, "joint", "pad_0")["pieces"][0]
    piece["footprint"] = {"rects": [{"x_mm": 70, "y_mm": 70, "w_mm": 5, "h_mm": 5}], "holes": []}


def nothing_holds(plain: Plain) -> None:
    plain["device"]["fasteners"] = []


@pytest.mark.parametrize(
    ("damage", "words"),
    [
        (second_board, ("Two boards", "'board'", "'other_board'")),
        (no_board, ("no board yet",)),
        (copper_piece, ("'pad'", "'pad_0'", "solid", "plate between two joints")),
        (pad_by_volume, ("'pad_0'", "pad", "needs a thickness")),
        (paste_by_thickness, ("'die_joint'", "paste", "needs a dispensed volume")),
        (washers_under_a_fixed_screw, ("'spring_0'", "fixed", "sprung fasteners only")),
        (set_by_turns, ("'spring_0'", "turns")),
        (skin_of_a_part, ("'touch'", "'die'", "only plates have a skin")),
        (carried_by_a_plate, ("'part_0'", "plate 'plate'", "only board and substrates")),
        (on_the_case, ("'part_0'", "the case", "must stand on the board")),
        (half_outside, ("'part_0'", "4 mm outside", "'board'")),
        (joint_to_the_rear, ("'pad_0'", "'part_0' (rear)", "different sides")),
        (joint_onto_a_part, ("'pad_0'", "'part_1'", "not a plate")),
        (faces_that_miss, ("'pad_0'", "'part_0'", "do not face each other")),
        (piece_beside, ("'pad'", "'pad_0'", "beside the faces")),
        (nothing_holds, ("Nothing holds 'plate'", "no fastener joins it")),
    ],
    ids=lambda value: getattr(value, "__name__", None),
)
def test_what_cannot_be_is_said_in_one_sentence(damage: Callable[[Plain], None], words: tuple[str, ...]) -> None:
    plain = project(Card(FOUR)).model_dump(mode="json")
    damage(plain)
    made = Project.parse(plain)  # it can be written down, opened and saved
    with pytest.raises(AssemblyError) as error:
        predict(made, fidelity="coarse")
    sentence = str(error.value)
    for word in words:
        assert word in sentence, sentence
    assert sentence.endswith(".")


# ---- parts that are drawn


def test_a_case_wall_is_drawn_above_everything_and_stands_still() -> None:
    made = project(Card(FOUR))
    edit, path = new_plate(made, "now", "case wall", (0.0, 0.0, 80.0, 80.0), Side.FRONT)
    after = edit.applied(made)
    wall = next(body for body in after.device.bodies if path.endswith(body.id))
    assert isinstance(wall, Plate)
    assert wall.on == "case"
    assert wall.height_mm is not None
    assert wall.height_mm.value > 5.0
    assert wall.sink is not None
    assert wall.sink.exponent.value == 0.0, "no fan blows on it"
    check_assembly(make_scene(resolve(after)).resolved)


def test_a_sensor_is_added_with_and_without_a_limit() -> None:
    made = project(Card(FOUR, sensors=False))
    bare = add_sensor(made, "part_1").applied(made)
    assert [(s.body, s.reads) for s in bare.device.sensors] == [("part_1", "max")]
    assert not bare.device.limits
    limited = add_sensor(bare, "die", 90.0).applied(bare)
    assert limited.device.limits[0].max_c.value == 90.0
    rows = predict(limited, fidelity="coarse").report.sensors
    assert [row.limit_c for row in rows] == [None, 90.0]


def test_a_landing_needs_its_plate() -> None:
    made = project(Card(FOUR))
    with pytest.raises(AshenError, match="choose the plate it belongs to first"):
        new_landing(made, "die", (1.0, 1.0, 2.0, 2.0))
    edit, path = new_landing(made, "plate", (30.0, 30.0, 50.0, 50.0))
    plate = next(body for body in edit.applied(made).device.bodies if body.id == "plate")
    assert isinstance(plate, Plate)
    assert path.endswith(plate.landings[0].id)


def test_one_pad_over_two_parts_and_back_to_their_own_outlines() -> None:
    made = project(Card(FOUR))
    one = span_joint(made, "now", ("pad_0", "pad_1")).applied(made)
    joint = one.builds[0].joint("pad_0")
    assert joint.lower == ("part_0", "part_1")
    assert {j.id for j in one.builds[0].joints} == {"die_joint", "pad_0", "pad_2", "pad_3"}
    assert one.groups[0].joints == ("pad_0", "pad_2", "pad_3")
    assert joint.pieces[0].footprint is not None
    assert joint.pieces[0].footprint.bounds == (8.0, 34.0, 72.0, 46.0)
    own = outline_piece("now", "pad_0", "pad", None).applied(one)
    assert own.builds[0].joint("pad_0").pieces[0].footprint is None
    with pytest.raises(AshenError, match="two or more parts"):
        span_joint(made, "now", ("pad_0",))


def test_joints_are_taken_out_and_put_in_again() -> None:
    made = project(Card(FOUR))
    less = remove_joints("now", ("pad_0", "pad_1"), "Pads").applied(made)
    assert {joint.id for joint in less.builds[0].joints} == {"die_joint", "pad_2", "pad_3"}
    again = new_joint(less, "now", ("part_0", "part_1"), "pad").applied(less)
    assert len(again.builds[0].joints) == 5
    assert len(again.groups[0].joints) == 4, "alike pads are edited together again"
    assert predict(again, fidelity="coarse").report.power_w == pytest.approx(112.0)


@pytest.mark.parametrize("feel", ["soft", "normal", "hard"])
def test_the_feel_of_screws_sets_typical_assumed_rates(feel: Any) -> None:
    made = project(Card(FOUR))
    after = set_feel(("spring_0", "spring_1"), feel).applied(made)
    rates = [fastener.rate_n_mm for fastener in after.device.fasteners]
    assert all(rate is not None for rate in rates)
    assert rates[0] == rates[1]
    assert rates[0] is not None
    assert rates[0].origin == "assumed"
    assert rates[2] == made.device.fasteners[2].rate_n_mm, "the others stay"
