"""What is told instead of computed: a paste's bond line, and where the power goes that a map leaves."""

from __future__ import annotations

from typing import Any

import pytest

from ashen_bridge import api
from ashen_bridge.changes.layers import set_amount, set_amount_kind
from ashen_bridge.library import materials
from ashen_bridge.model.bodies import PowerBlock
from ashen_bridge.model.footprint import Rect
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.uncertainty.assumptions import assumptions
from devices import FOUR, Card, Part, certain, project

PASTE = "builds.now.joints.die_joint.pieces.paste.amount.bond_line_um"


def spaced(bond_line_um: float = 60.0, card: Card | None = None) -> Project:
    """The test card with the die's bond line stated, its ± a tenth."""
    stated = set_amount_kind(project(card or Card()), "now", ("die_joint",), 0, "bond line")
    return set_amount(stated, "now", ("die_joint",), 0, bond_line_um)


def of_die(made: Project) -> Any:
    return next(row for row in api.predict(made, mesh="coarse").report.joints if row.id == "die_joint")


@pytest.mark.parametrize("rate", [4.0, 12.0, 40.0])
def test_a_stated_bond_line_stays_whatever_presses(rate: float) -> None:
    """By hand t/k and two faces: 60 µm, the paste's own conductivity, its faces at 100 kPa and more of next to nothing."""
    row = of_die(spaced(60.0, Card(rate=rate)))
    paste = materials()["paste_filled"]
    assert row.bond_line_um.mean == pytest.approx(60.0, abs=0.05)
    assert row.bond_line_um.max - row.bond_line_um.min < 0.1
    by_hand = 60e-6 / paste.conductivity_w_mk.value * 1e6 + 2 * paste.contact_mm2k_w.value
    assert row.resistance_mm2k_w == pytest.approx(by_hand, rel=0.03)
    assert row.contact_fraction == pytest.approx(1.0)
    assert row.paste_coverage is None, "there is enough of it"
    assert not row.paste_outside_law, "no law is asked for it"


def test_where_pads_hold_the_cooler_off_it_fills_the_gap() -> None:
    """Pads of 2 mm in gaps of 0.84 mm: the gap is the same as with paste that is let flow, and nothing of it is air."""
    thick = Card(tuple(Part(p.x, p.y, p.height, 2.0, pad_material="pad_firm") for p in FOUR), paste_mm3=4000.0)
    free = next(row for row in api.predict(project(thick), mesh="coarse").report.joints if row.id == "die_joint")
    row = of_die(spaced(40.0, thick))
    assert row.bond_line_um.mean > 200
    assert row.bond_line_um.mean == pytest.approx(free.bond_line_um.mean, rel=0.05)
    assert row.air_um == 0.0


def test_its_uncertainty_weighs_as_moving_it_does() -> None:
    """Chances against the difference of two predictions by the main path; k of 5.5 W/m·K makes it 0.6 K or so per 10 µm."""
    made = certain(spaced(60.0), but=("bond_line_um",))
    (number,) = [one for one in assumptions(made, "now", "load") if one.uncertainty]
    assert number.paths == (PASTE,)
    die = api.chances(made, count=400).of("s_die")
    hot, cold = (api.predict(spaced(60.0 + more)).sensors_c["s_die"] for more in (10.0, -10.0))
    assert die is not None
    assert (hot - cold) / 2 > 0.3
    assert die.sd_k == pytest.approx((hot - cold) / 2, rel=0.15)


def test_from_bond_line_back_to_an_amount_is_a_film_as_people_spread_it() -> None:
    back = set_amount_kind(spaced(), "now", ("die_joint",), 0, "volume")
    assert back.build("now").joints[0].pieces[0].volume_mm3 == q(80.0)


@pytest.mark.parametrize(
    ("material", "bond_line", "said"),
    [
        ("air_still", 40.0, "is a gas"),
        ("paste_filled", 0.1, "none is below 0.5 µm"),
        ("pad_soft", 40.0, "so it needs a thickness"),
    ],
)
def test_bond_lines_that_cannot_be_are_refused(material: str, bond_line: float, said: str) -> None:
    data = project(Card()).model_dump(mode="json")
    amount = {"type": "bond line", "bond_line_um": bond_line}
    data["builds"][0]["joints"][0]["pieces"] = [{"id": "paste", "material": material, "amount": amount}]
    with pytest.raises(api.AshenError, match=said):
        api.predict(Project.parse(data), mesh="coarse")


# ---- what a power map leaves


def mapped(*blocks: tuple[float, float, float, float, float], rest: str = "whole die") -> Project:
    """The test card with power blocks (x, y, w, h, share) of its die of 20 mm."""
    power_map = tuple(
        PowerBlock(id=f"b{n}", area=Rect(x_mm=x, y_mm=y, w_mm=w, h_mm=h), share=share)
        for n, (x, y, w, h, share) in enumerate(blocks)
    )
    return api.change(project(Card(die_map=power_map)), {"device.bodies.die.make_up.rest": rest})


def test_rest_beside_a_block_is_as_if_the_other_block_were_told() -> None:
    """Left half 30 %; what is left goes to the right half, as a second block of 70 % says it."""
    told = api.predict(mapped((0, 0, 8, 20, 0.3), (8, 0, 12, 20, 0.7)))
    left = api.predict(mapped((0, 0, 8, 20, 0.3), rest="beside the blocks"))
    spread = api.predict(mapped((0, 0, 8, 20, 0.3)))
    assert left.sensors_c["s_die"] == pytest.approx(told.sensors_c["s_die"], abs=0.05)
    assert abs(spread.sensors_c["s_die"] - told.sensors_c["s_die"]) > 0.5, "spread over all of it is another thing"


def test_blocks_that_leave_power_but_no_room_are_refused() -> None:
    with pytest.raises(api.AshenError, match="'die' leave 40 % of its power to what is beside them, but they cover all"):
        api.predict(mapped((0, 0, 10, 20, 0.3), (10, 0, 10, 20, 0.3), rest="beside the blocks"))
    all_told = mapped((0, 0, 10, 20, 0.5), (10, 0, 10, 20, 0.5), rest="beside the blocks")
    assert api.predict(all_told, mesh="coarse").sensors_c["s_die"] > 25
