"""The procedure that closes a device up: hold points stay, plugs before the cooler, screws crosswise, the tray empties."""

from __future__ import annotations

import pytest

from ashen_bridge.editing import procedures as edits
from ashen_bridge.files.demos import demo_names, open_anything
from ashen_bridge.model.fasteners import Fastener, FastenerSetting
from ashen_bridge.model.hardware import Hazards
from ashen_bridge.model.procedures import Procedure
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced
from ashen_bridge.planning.closing_up import closing_up
from ashen_bridge.planning.cutting.pieces import pieces
from ashen_bridge.planning.opening import opening
from ashen_bridge.planning.practice import cautions
from ashen_bridge.planning.tightening import tightening
from ashen_bridge.planning.tray import tray
from ashen_bridge.predict.engine import Engine
from devices import FOUR, Card
from devices import project as card_project


@pytest.fixture(scope="module")
def demo() -> Project:
    return open_anything("demo:correlator").project


@pytest.fixture(scope="module")
def closing(demo: Project) -> Procedure:
    return closing_up(Engine(), demo, "plan_a")


def first(procedure: Procedure, words: str) -> int:
    return next(n for n, one in enumerate(procedure.steps) if words in one.text)


# ---- the order of the work


def test_hold_points_come_first_and_those_of_opening_stay(demo: Project, closing: Procedure) -> None:
    kept = {one.hold for one in opening(demo, "plan_a").steps if one.stays}
    assert kept <= {one.hold for one in closing.steps if one.stays}
    begin = [one.kind for one in closing.steps[: len(kept) + 1]]
    assert begin == ["hold"] * len(begin)


def test_faces_are_clean_before_anything_is_laid_and_paste_comes_after_the_trial(closing: Procedure) -> None:
    kinds = [one.kind for one in closing.steps]
    assert max(n for n, kind in enumerate(kinds) if kind == "clean") < kinds.index("place")
    assert first(closing, "Trial closing") < kinds.index("dispense") < kinds.index("lower")


def test_hidden_plugs_are_in_before_the_cooler_is_down(demo: Project, closing: Procedure) -> None:
    for plug in demo.device.plugs:
        at = next(n for n, one in enumerate(closing.steps) if one.kind == "plug" and plug.id in one.about)
        down = next((n for n, one in enumerate(closing.steps) if one.kind == "lower" and plug.of in one.about), None)
        if plug.hidden and down is not None:
            assert at < down


def test_every_piece_of_the_build_is_laid_by_its_number(demo: Project, closing: Procedure) -> None:
    said = " ".join(one.text for one in closing.steps if one.kind == "place")
    for cut in pieces(demo, "plan_a"):
        assert f"{cut.number} on {cut.label}" in said


def test_every_screw_is_started_before_any_is_tightened_and_goes_back_into_the_device(demo: Project, closing: Procedure) -> None:
    screws = {one.id for one in tray(demo, "plan_a").slots}
    back = [one for one in closing.steps if one.kind == "screw"]
    assert {name for one in back for name in one.about} == screws
    for one in back:
        at = closing.steps.index(one)
        later = [n for n, other in enumerate(closing.steps) if "stage 1" in other.text and set(other.about) == set(one.about)]
        assert all(at < n for n in later)


def test_stages_go_crosswise(demo: Project, closing: Procedure) -> None:
    """Opposite screws follow each other, as the cross pattern of bolted flanges has it."""
    places = {one.id: (one.x_mm, one.y_mm) for one in demo.device.fasteners}
    stage = closing.steps[first(closing, "stage 1 of 3")]
    a, b, c, d = (places[name] for name in stage.about)
    middle = [sum(p[k] for p in (a, b, c, d)) / 4 for k in (0, 1)]

    def across(p: tuple[float, float], r: tuple[float, float]) -> bool:
        return (p[0] - middle[0]) * (r[0] - middle[0]) + (p[1] - middle[1]) * (r[1] - middle[1]) < 0

    assert across(a, b)
    assert across(c, d)


def test_the_expected_imprints_are_those_of_the_equilibrium(demo: Project, closing: Procedure) -> None:
    text = closing.steps[first(closing, "Trial closing")].text
    rows = [row for row in Engine().rest(demo, "plan_a", None).joints if row.joint == "pad_l1"]
    assert "Memory, front even" in text
    gap = rows[0].gap_mm
    assert f"{gap:.2g}" in text or f"{gap:.2f}" in text


# ---- turns


def screw(**says: object) -> Fastener:
    usual = {"id": "s", "kind": "sprung", "joins": ("cooler", "board"), "x_mm": 0.0, "y_mm": 0.0}
    numbers = {"rate_n_mm": q(12.0), "travel_mm": q(3.0), "reference_mm": q(5.0), "pitch_mm": q(0.5)}
    return Fastener.model_validate({**usual, **numbers, **says})


def test_turns_and_preload_per_turn_by_hand() -> None:
    """Travel 3 mm at a pitch of 0.5 mm: six turns; each adds 12 N/mm times 0.5 mm = 6 N. Washers add no turn."""
    found = tightening(screw(), FastenerSetting(fastener="s"))
    assert found.turns == pytest.approx(6.0)
    assert found.newtons_per_turn == pytest.approx(6.0)
    assert [found.stage(n) for n in range(3)] == ["2 turns (+ 12 N)"] * 3
    washers = tightening(screw(), FastenerSetting(fastener="s", washers_mm=q(1.0)))
    assert washers.turns == pytest.approx(6.0)
    assert "shoulder" in found.stop


def test_without_a_pitch_nobody_is_told_turns() -> None:
    found = tightening(screw(pitch_mm=None), FastenerSetting(fastener="s"))
    assert found.turns is None
    assert found.stage(0) == "until it just touches"


def test_a_plain_screw_stops_where_the_build_says() -> None:
    plain = screw(kind="fixed", preload_n=q(40.0), seat_mm=q(5.0), diameter_mm=q(3.0))
    assert tightening(plain, FastenerSetting(fastener="s", torque_nm=q(0.4))).stop == "at 0.4 N·m"
    turned = tightening(plain, FastenerSetting(fastener="s", turns=q(0.5)))
    assert "0.5 turns after first contact" in turned.stop
    assert turned.newtons_per_turn == pytest.approx(plain.stiffness_n_mm.value * 0.5)


# ---- working by it


def test_the_tray_empties_as_screws_go_back_and_fills_again_when_it_is_not_done(demo: Project) -> None:
    closing = closing_up(Engine(), demo, "as_found")
    project = edits.add_procedure(closing).applied(demo)
    lying = {one.id for one in tray(project, "as_found").lying}
    assert lying, "the demo lies open"
    for step in closing.steps:
        project = edits.tick(project, closing.id, step.id, "2031-04-02T10:00").applied(project)
        if step.kind == "screw":
            lying -= set(step.about)
            assert {one.id for one in tray(project, "as_found").lying} == lying
    assert not lying
    assert "every screw is back" in tray(project, "as_found").told
    last = next(one for one in reversed(closing.steps) if one.kind == "screw")
    undone = edits.untick(project, closing.id, last.id).applied(project)
    assert {one.id for one in tray(undone, "as_found").lying} == set(last.about) & {one.screw for one in demo.tray}


def test_licensed_work_stops_before_step_one(demo: Project) -> None:
    mains = replaced(demo, device=replaced(demo.device, hazards=Hazards(mains="yes")))
    closing = closing_up(Engine(), mains, "plan_a")
    assert len(closing.steps) == 1
    assert closing.steps[0].hold == "licensed"


def test_cautions_of_this_device_stand_at_their_steps(demo: Project) -> None:
    metal = replaced(demo, device=replaced(demo.device, hazards=replaced(demo.device.hazards, liquid_metal="yes")))
    said = " ".join(one.caution for one in closing_up(Engine(), metal, "plan_a").steps)
    assert "Liquid metal: gloves" in said
    assert "can crack the die" in said
    places = {"wipe", "place", "shim", "screw", "plug", "start", "dispense"}
    assert places <= {one.at for one in cautions()}


@pytest.mark.parametrize("name", demo_names())
def test_every_demo_can_be_closed_up(name: str) -> None:
    project = open_anything(f"demo:{name}").project
    closing = closing_up(Engine(), project)
    assert closing.steps[-1].kind == "look"
    assert len({one.id for one in closing.steps}) == len(closing.steps)


def test_a_card_without_pads_or_plugs_is_closed_too() -> None:
    for card in (Card(), Card(parts=FOUR)):
        closing = closing_up(Engine(), card_project(card))
        assert any(one.kind == "screw" for one in closing.steps)
