"""Screws by turns and torque, arms, glue, washers, and what closes over the stack."""

from __future__ import annotations

from typing import Any

import pytest

from ashen_bridge.assess.assessment import assess
from ashen_bridge.model.errors import AssemblyError, ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import predict
from devices import FOUR, Card, project

Plain = dict[str, Any]


def changed(card: Card | None = None, settings: list[Plain] | None = None, **fastener: Any) -> Project:
    """Return the test card with some fields of all its fasteners changed, and its build's fastener settings."""
    plain = project(card or Card(FOUR)).model_dump(mode="json")
    for one in plain["device"]["fasteners"]:
        one.update({name: {"value": value} if isinstance(value, float) else value for name, value in fastener.items()})
    if settings is not None:
        ids = [one["id"] for one in plain["device"]["fasteners"]]
        plain["builds"][0]["fastener_settings"] = [{"fastener": name, **one} for name in ids for one in settings]
    return Project.parse(plain)


def force(made: Project) -> float:
    return sum(row.force_n for row in predict(made, fidelity="coarse").report.fasteners)


def test_turns_are_travel_for_springs() -> None:
    """4 turns of 0.75 mm are 3 mm of travel, which is what the card's springs have."""
    assert force(changed(settings=[{"turns": 4.0}], pitch_mm=0.75)) == pytest.approx(force(changed()), rel=1e-6)
    assert force(changed(settings=[{"turns": 5.0}], pitch_mm=0.75)) > force(changed())


def test_a_spring_arm_pulls_by_its_beam() -> None:
    """An arm of the springs' own rate, 12 N/mm = E·b·t³/(4·L³), does what they do."""
    arm = {"length_mm": {"value": 20.0}, "width_mm": {"value": 3.84}, "thickness_mm": {"value": 1.0}}
    arm["youngs_modulus_gpa"] = {"value": 100.0}  # 100e3·3.84·1/(4·8000) = 12
    assert force(changed(kind="spring arm", arm=arm, rate_n_mm=None)) == pytest.approx(force(changed()), rel=1e-6)


def test_torque_makes_preload_through_the_nut_factor() -> None:
    fixed: Plain = {"kind": "fixed", "seat_mm": 2.1, "preload_n": 1.0, "diameter_mm": 3.0, "pitch_mm": 0.5}
    by_torque = force(changed(settings=[{"torque_nm": 0.06}], **fixed))
    assert by_torque == pytest.approx(force(changed(**{**fixed, "preload_n": 100.0})), rel=1e-6)  # 0.06/(0.2·0.003) = 100 N
    by_turns = force(changed(settings=[{"turns": 0.1}], **fixed))
    assert by_turns == pytest.approx(by_torque, rel=1e-6)  # 2000·0.5·0.1 = 100 N


def test_glue_pulls_and_pushes() -> None:
    """A glued plate stays where the glue holds it, whatever the pads want."""
    heights = []
    for thick in (1.0, 2.0):
        parts = tuple(type(part)(**{**vars(part), "pad": thick}) for part in FOUR)
        report = predict(changed(Card(parts), kind="glued", seat_mm=2.2, stiffness_n_mm=1e5), fidelity="coarse").report
        heights.append(next(row.z_mm for row in report.plates if row.floats))
    assert heights[0] == pytest.approx(2.2, abs=0.02)
    assert heights[1] == pytest.approx(2.2, abs=0.02)


@pytest.mark.parametrize(
    ("settings", "fields", "words"),
    [
        ([{"turns": 2.0}], {}, "set by turns, so it needs pitch_mm"),
        ([{"torque_nm": 0.3}], {}, "is sprung: its force comes from travel"),
        ([{"torque_nm": 0.3}], {"kind": "fixed", "seat_mm": 2.1, "preload_n": 1.0}, "set by torque, so it needs diameter_mm"),
        (
            [{"torque_nm": 90.0}],
            {"kind": "fixed", "seat_mm": 2.1, "preload_n": 1.0, "diameter_mm": 3.0},
            "no screw of such a device",
        ),
        ([{"turns": 2.0}], {"kind": "glued", "seat_mm": 2.1}, "is glued: it has no turns"),
        ([{"washers_mm": 0.5}], {"kind": "glued", "seat_mm": 2.1}, "washers change the force of sprung fasteners only"),
    ],
)
def test_settings_that_cannot_be(settings: list[Plain], fields: Plain, words: str) -> None:
    with pytest.raises(AssemblyError, match=words):
        force(changed(settings=settings, **fields))


def test_a_setting_says_turns_or_torque_once() -> None:
    with pytest.raises(ProjectError, match="by turns and by torque; say only one"):
        changed(settings=[{"turns": 1.0, "torque_nm": 0.2}])
    with pytest.raises(ProjectError, match="out of range: must be at least 0 and at most 100"):
        changed(settings=[{"turns": -1.0}])


def codes(made: Project) -> set[str]:
    return {finding.code for finding in assess(made).findings}


def test_springs_at_their_end_and_steel_washers_are_found() -> None:
    assert "coil_bind" in codes(changed(settings=[{"washers_mm": 2.5}], coil_bind_mm=4.0))
    assert "steel_washer" in codes(changed(settings=[{"washers_mm": 1.0, "washer_material": "steel"}]))
    assert "steel_washer" not in codes(changed(settings=[{"washers_mm": 1.0, "washer_material": "plastic"}]))


def with_lid(pad_mm: float, most_n: float | None = None, give: float = 0.0) -> Project:
    """Return the card with a case back 1.0 mm behind it and a pad between."""
    plain = project(Card(FOUR)).model_dump(mode="json")
    board = next(body for body in plain["device"]["bodies"] if body["id"] == "board")
    plain["device"]["bodies"].append(
        {
            "kind": "plate", "id": "back", "name": "Case back", "role": "case wall", "on": "case", "side": "rear",
            "footprint": board["footprint"], "thickness_mm": 1.0, "height_mm": 1.0, "material": "copper",
            "give_um_n": give, "closing_force_n": most_n,
        }
    )  # fmt: skip
    outline = {"rects": [{"x_mm": 30, "y_mm": 30, "w_mm": 20, "h_mm": 20}]}
    pad = {"id": "pad", "material": "pad_medium", "thickness_mm": pad_mm, "footprint": outline}
    plain["builds"][0]["joints"].append({"id": "rear", "upper": "back", "lower": ["board"], "pieces": [pad]})
    return Project.parse(plain)


def test_what_closes_over_the_stack() -> None:
    fits = predict(with_lid(0.9), fidelity="coarse").report.closing[0]
    assert (fits.id, fits.force_n, fits.closes) == ("back", 0.0, True)
    assert fits.clearance_mm == pytest.approx(1.0, abs=1e-3)
    presses = predict(with_lid(1.3, most_n=20.0), fidelity="coarse").report.closing[0]
    assert presses.force_n > 20
    assert not presses.closes
    assert "will_not_close" in codes(with_lid(1.3, most_n=20.0))
    bulges = predict(with_lid(1.3, give=10.0), fidelity="coarse").report.closing[0]
    assert 0 < bulges.force_n < presses.force_n
    assert bulges.bulge_mm == pytest.approx(bulges.force_n * 10e-3, rel=1e-6)
    assert "lid_bulges" in codes(with_lid(2.0, give=30.0))


def test_what_is_forced_into_less_room_than_it_takes_is_said() -> None:
    plain = with_lid(0.5).model_dump(mode="json")
    back = next(body for body in plain["device"]["bodies"] if body["id"] == "back")
    back["height_mm"] = {"value": 0.05}
    assert "crushed" in codes(Project.parse(plain))
