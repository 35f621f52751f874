"""What is decided together, and what binds: kinds, gaps, goals before limits; the rules of the front."""

from __future__ import annotations

import re

import numpy as np
import pytest

from ashen_bridge.files.demos import open_anything
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.records import Goal
from ashen_bridge.model.sharing import replaced
from ashen_bridge.model.wishes import Offer, StockItem, Wishes
from ashen_bridge.planning.choosing.bill import needs
from ashen_bridge.planning.choosing.candidates import candidates, hopeless, known_materials
from ashen_bridge.planning.choosing.limits import bounds, margins
from ashen_bridge.planning.choosing.places import gaps_to_fill, open_joints, places
from ashen_bridge.planning.choosing.practice import practice
from ashen_bridge.planning.choosing.search import naive
from ashen_bridge.predict.engine import Engine
from ashen_bridge.thermal.names import skin
from devices import FOUR, Card, Part
from devices import project as card_project


def test_the_gap_to_fill_is_that_without_pads_that_hold_the_plate_up() -> None:
    """By hand: die 2.0 mm and a bond line of some hundredths over a part of 1.2 mm, however thick the pads are that lie there."""
    thin, thick = (card_project(Card(parts=tuple(Part(p.x, p.y, p.height, pad) for p in FOUR))) for pad in (0.5, 2.0))
    gaps = [gaps_to_fill(Engine(), one, "now") for one in (thin, thick)]
    for found in gaps:
        assert found["pad_0"] == pytest.approx(0.8 + 0.04, abs=0.02)
    assert gaps[0]["pad_0"] == pytest.approx(gaps[1]["pad_0"], abs=1e-3)


def test_joints_of_one_group_with_other_gaps_are_decided_apart() -> None:
    low = (Part(8, 34, 0.7, 1.0), *FOUR[1:])
    found = places(Engine(), card_project(Card(parts=low)), "now")
    pads = [one for one in found if one.role == "memory"]
    assert sorted(len(one.joints) for one in pads) == [1, 3]
    assert max(one.gap_mm for one in pads) - min(one.gap_mm for one in pads) == pytest.approx(0.5, abs=0.05)


def test_what_is_soldered_or_stated_stays() -> None:
    beam = open_anything("demo:beamformer").project
    found = {name for one in places(Engine(), beam, "as_found") for name in one.joints}
    assert found == {"lid_paste"}, "the die is soldered to its lid"
    assert "solder" not in open_joints(beam, "as_found")


def test_groups_that_mix_kinds_are_split() -> None:
    buoy = open_anything("demo:buoy").project
    found = places(Engine(), buoy, "as_found")
    assert [one.role for one in found] == ["die", "memory", "other", "wall"]
    assert all(len(one.joints) == 1 for one in found)


@pytest.fixture(scope="module")
def card() -> Project:
    return card_project(Card(parts=FOUR))


def test_goals_bind_before_limits_and_only_where_they_matter(card: Project) -> None:
    sensors = ("s_die", "s_part_0", "s_part_1", "s_part_2", "s_part_3")
    plain = {one.sensor: one.at_most_c for one in bounds(card, "load", sensors)}
    assert plain == dict.fromkeys(sensors, 95.0)
    asked = replaced(
        card, goals=(Goal(id="g", sensor="s_die", at_most_c=q(80.0)), Goal(id="h", sensor="s_part_0", at_most_c=q(99.0)))
    )
    found = {one.sensor: one.at_most_c for one in bounds(asked, "load", sensors)}
    assert (found["s_die"], found["s_part_0"]) == (80.0, 95.0), "the lower of both"
    matter = replaced(asked, aims=replaced(asked.aims, sensors=("s_die",)))
    assert [one.sensor for one in bounds(matter, "load", sensors)] == ["s_die"]
    elsewhere = replaced(card, goals=(Goal(id="g", sensor="s_die", point="load", at_most_c=q(80.0)),))
    assert {one.sensor: one.at_most_c for one in bounds(elsewhere, "load", sensors)}["s_die"] == 80.0
    left = margins(bounds(asked, "load", sensors), sensors, np.array([[70.0, 90.0, 95.0, 96.0, 50.0]]))
    assert left[0].min() == pytest.approx(-1.0)


def test_a_skin_binds_by_its_touch_limit() -> None:
    buoy = open_anything("demo:buoy").project
    wall = str(skin("wall"))
    found = {one.sensor: one for one in bounds(buoy, "summer", ("cpu", "mem", wall))}
    assert found[wall].at_most_c == 48.0
    assert found[wall].label == "Skin, held in the hand"


# ---- candidates


def test_pads_around_the_gap_are_tried_and_hopeless_ones_only_listed(card: Project) -> None:
    pads = places(Engine(), card, "now")[1]
    found = candidates(card, "now", pads, Wishes())
    sheets = [one for one in found if one.kind == "pad"]
    assert {one.thickness_mm for one in sheets if one.materials == ("pad_medium",)} <= {0.75, 1.0, 1.25, 1.5}
    assert hopeless(pads, next(one for one in sheets if one.thickness_mm == 0.75))
    assert not hopeless(pads, next(one for one in sheets if one.thickness_mm == 1.25))
    assert all(
        piece.thickness_mm is None or piece.thickness_mm.uncertainty > 0
        for one in sheets
        for p in one.fills.values()
        for piece in p
    )


def test_a_stack_is_offered_where_it_is_wanted(card: Project) -> None:
    pads = places(Engine(), card, "now")[1]
    stacked = [one for one in candidates(card, "now", pads, Wishes(schools={"stack": "stacked"})) if one.kind == "stack"]
    assert stacked
    assert len(next(iter(stacked[0].fills.values()))) == 2
    assert not [one for one in candidates(card, "now", pads, Wishes()) if one.kind == "stack"]


def test_the_trade_rule_is_a_fifth_more_and_the_next_step(card: Project) -> None:
    found = places(Engine(), card, "now")
    options = [candidates(card, "now", place, Wishes()) for place in found]
    chosen = naive(found, options)
    pads = options[1][chosen[1]]
    assert pads.kind == "pad"
    assert pads.thickness_mm == 1.25, "0.84 mm and a fifth is 1.01; the next stock step is 1.25"


def test_putty_beyond_its_reach_is_refused_in_a_sentence() -> None:
    wide = card_project(Card(parts=tuple(Part(p.x, p.y, 0.2, 3.0) for p in FOUR)))
    from ashen_bridge.model import paths

    tall = paths.set_values(
        wide, {"device.bodies.die.height_mm": 4.0, **{f"device.fasteners.spring_{n}.reference_mm": 4.04 for n in range(4)}}
    )
    pads = next(one for one in places(Engine(), tall, "now") if one.role == "memory")
    said = {one.id: one.refused for one in candidates(tall, "now", pads, Wishes())}
    assert re.fullmatch(r"The gap is 3\.8\d mm; it bridges 3 mm\.", said["putty_soft"])


def test_what_is_bought_is_summed_by_sheet_and_volume(card: Project) -> None:
    known = known_materials(card)
    pads = places(Engine(), card, "now")[1]
    sheet = next(one for one in candidates(card, "now", pads, Wishes()) if one.id == "pad_soft 1")
    putty = next(one for one in candidates(card, "now", pads, Wishes()) if one.id == "putty_soft")
    (area,) = needs([(piece, 144.0) for pieces in sheet.fills.values() for piece in pieces], known)
    assert (area.material, area.thickness_mm, area.area_mm2) == ("pad_soft", 1.0, 576.0)
    (volume,) = needs([(piece, 144.0) for pieces in putty.fills.values() for piece in pieces], known)
    assert volume.volume_mm3 == pytest.approx(576 * practice().putty_over_gap * 0.84, rel=0.03)


def test_the_shelf_survives_a_file(card: Project, tmp_path_factory: pytest.TempPathFactory) -> None:
    from ashen_bridge.changes.plans import set_shop, set_stock, set_wishes, silence, speak_again
    from ashen_bridge.files.archive import open_project, save_project
    from ashen_bridge.files.blobs import BlobStore
    from ashen_bridge.model.wishes import Silenced

    folder = tmp_path_factory.mktemp("shelf")
    made = set_stock(card, (StockItem(id="tub", material="putty_soft", ml=10.0, opened="2031-05-01", note="half full"),))
    made = set_shop(made, (Offer(id="o", material="pad_soft", thickness_mm=1.0, price=9.0),), "marks")
    made = set_wishes(made, Wishes(chance=0.95, schools={"memory": "putty"}))
    made = silence(made, Silenced(code="cliff", about="die_joint", reason="known"))
    save_project(folder / "a.ashb", made)
    again = open_project(folder / "a.ashb", BlobStore(folder / "blobs")).project
    assert again == made
    assert speak_again(again, "cliff", "die_joint").silenced == ()
