"""How a device is opened up: order, hold points that stay, cautions of this device, and the tray."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest

from ashen_bridge.changes import procedures as changes
from ashen_bridge.editing import procedures as edits
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model.errors import AshenError, ProjectError
from ashen_bridge.model.hardware import Hazards, Plug, Screw
from ashen_bridge.model.procedures import Lies
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import replaced
from ashen_bridge.planning.crosswise import crosswise
from ashen_bridge.planning.needs import needs
from ashen_bridge.planning.opening import Schools, opening
from ashen_bridge.planning.recipe import read_recipe, write_recipe
from ashen_bridge.planning.tray import tray
from described import truth

KNOWN = ("mains", "battery", "regulated", "liquid_metal", "sharp_fins", "charged_parts")
RNG = np.random.default_rng(15)


@pytest.fixture(scope="module")
def card() -> Project:
    """The demo's card as its makers know it: nothing is written down of plugs, covers, hazards, and nothing was begun."""
    plain = open_anything("demo:correlator").project.model_dump(mode="json")
    plain |= {"procedures": [], "tray": [], "signs": [], "evidence": [], "pictures": []}
    plain["device"] |= {"screws": [], "plugs": [], "hazards": {}}
    return Project.parse(plain)


def ring(count: int, turned: float = 0.3) -> list[tuple[float, float]]:
    return [
        (10 * math.cos(turned + 2 * math.pi * n / count), 10 * math.sin(turned + 2 * math.pi * n / count)) for n in range(count)
    ]


@pytest.mark.parametrize(("count", "pattern"), [(4, (1, 3, 2, 4)), (6, (1, 4, 2, 5, 3, 6)), (8, (1, 5, 3, 7, 2, 6, 4, 8))])
def test_the_cross_pattern_of_bolted_flanges(count: int, pattern: tuple[int, ...]) -> None:
    """ASME PCC-1, cross pattern of 4 and 8 bolts, from memory; 6 as is usual. Counted from the first one, either way round."""
    found = crosswise(ring(count))
    numbered = [(n - found[0]) % count + 1 for n in found]
    other_way = [(found[0] - n) % count + 1 for n in found]
    assert tuple(pattern) in (tuple(numbered), tuple(other_way))


@pytest.mark.parametrize("count", [1, 2, 3, 5, 7, 12])
def test_the_order_depends_on_places_alone(count: int) -> None:
    """Shuffled, the same places come in the same order; any number of them, each once."""
    places = [tuple(place) for place in RNG.uniform(0, 50, (count, 2)).tolist()]
    first = [places[n] for n in crosswise(places)]
    shuffled = [places[n] for n in RNG.permutation(count)]
    assert [shuffled[n] for n in crosswise(shuffled)] == first
    assert sorted(crosswise(places)) == list(range(count))


def test_screws_of_a_rectangle_are_loosened_across(card: Project) -> None:
    steps = opening(card).steps
    rounds = [one for one in steps if one.about[:1] == ("spring_sw",) and one.kind in ("do", "unscrew")]
    assert [one.about for one in rounds] == [("spring_sw", "spring_ne", "spring_se", "spring_nw")] * 3
    assert "round 1 of 3" in rounds[0].text
    assert "crack the die" in rounds[0].caution


def test_hold_points_come_first_and_cautions_cover_this_device(card: Project) -> None:
    steps = opening(card).steps
    holds = [one.hold for one in steps if one.hold]
    assert holds == ["licensed", "warranty", "power", "battery", "charge", "static", "photos"]
    assert [one.kind for one in steps[: len(holds)]] == ["hold"] * len(holds)
    assert card.aims.warranty in steps[1].text
    told = " ".join(one.caution for one in steps)
    assert "liquid metal" in told, "where it is not known whether one applies, it is shown"
    known = changes.set_hazards(
        card,
        Hazards(**dict.fromkeys(KNOWN, "no"), battery_state="sound"),
    )
    calm = opening(known)
    assert [one.hold for one in calm.steps if one.hold] == ["warranty", "power", "static", "photos"]
    told = " ".join(one.caution for one in calm.steps)
    assert "liquid metal" not in told
    assert "Fins" not in told
    touch = opening(card, schools=Schools("touch"))
    assert "wrist strap" not in next(one.text for one in touch.steps if one.hold == "static")


@pytest.mark.parametrize("says", [{"mains": "yes"}, {"regulated": "yes"}, {"battery_state": "swollen or pierced"}])
def test_what_belongs_to_licensed_people_stops_before_step_one(card: Project, says: dict[str, str]) -> None:
    shut = changes.set_hazards(card, Hazards.model_validate(says))
    (only,) = opening(shut).steps
    assert only.hold == "licensed"
    assert "licensed people" in only.caution
    loaded = read_recipe(write_recipe(opening(card)), shut)
    assert [one.hold for one in loaded.steps] == ["licensed"], "a recipe of another one opens no such device either"


def test_hidden_plugs_come_off_before_the_cooler(card: Project) -> None:
    hidden = Plug(id="fan", name="Blower", what="fan", x_mm=150, y_mm=60, of="cooler", hidden=True)
    battery = Plug(id="cell", what="battery", x_mm=10, y_mm=10)
    light = Plug(id="light", what="light", x_mm=12, y_mm=10)
    with_plugs = changes.set_plug(changes.set_plug(changes.set_plug(card, light), hidden), battery)
    order = [one.about[0] for one in opening(with_plugs).steps if one.kind in ("unplug", "lift")]
    assert order == ["cell", "light", "backplate", "fan", "cooler"]
    assert "no metal tool" in next(one.caution for one in opening(with_plugs).steps if one.kind == "unplug")
    assert "a plastic pick" in {one.what for one in needs(with_plugs)}


def test_a_step_past_an_open_hold_point_is_refused(card: Project) -> None:
    made = edits.add_procedure(opening(card)).applied(card)
    name = made.procedures[-1].id
    with pytest.raises(ProjectError, match="First confirm"):
        changes.tick(made, name, "lift_cooler")
    for kept in ("licensed", "power", "battery", "charge"):
        with pytest.raises(ProjectError, match="only be confirmed"):
            changes.remove_step(made, name, kept)
        with pytest.raises(ProjectError, match="only be confirmed"):
            changes.write_step(made, name, kept, {"hold": ""})
    with pytest.raises(ProjectError, match="only be confirmed"):
        changes.set_procedure(made, replaced(made.procedures[-1], steps=made.procedures[-1].steps[5:]))
    with pytest.raises(ProjectError, match="stay where they are"):
        changes.move_step(made, name, "static", -3)
    fewer = changes.remove_step(made, name, "photos")
    assert len(fewer.procedures[-1].steps) == len(made.procedures[-1].steps) - 1


def ticked(project: Project, upto: str = "") -> Project:
    name = project.procedures[-1].id
    for step in project.procedures[-1].steps:
        project = edits.tick(project, name, step.id, "2031-03-14T19:00").applied(project)
        if step.id == upto:
            break
    return project


def test_the_tray_keeps_every_screw_and_names_the_missing_one(card: Project) -> None:
    made = edits.add_procedure(opening(card)).applied(card)
    assert tray(made).told == "All 8 screws are in the device."
    done = ticked(made)
    assert [one.cell for one in tray(done).lying] == sorted(one.cell for one in tray(done).lying) or len(tray(done).lying) == 8
    assert tray(done).told == "8 of 8 screws lie in the tray."
    lost = edits.lose("spring_ne").applied(done)
    assert "Missing: screw 2 “Spring screw NE”" in tray(lost).told
    for n in range(7):
        slot = tray(done).asked()
        assert slot is not None, n
        done = edits.put_back(slot.id).applied(done)
    left = tray(done).lying
    assert len(left) == 1
    assert tray(done).told == f"Left over in the tray: {left[0].number} ({left[0].cell})."
    done = edits.put_back(left[0].id).applied(done)
    assert tray(done).told == "The tray is empty: every screw is back."
    back = edits.untick(made := ticked(made), made.procedures[-1].id, "unscrew_rear_w").applied(made)
    assert len(tray(back).lying) == 4


def test_a_cell_holds_one_screw(card: Project) -> None:
    one = changes.lay(card, "spring_sw", "A1")
    with pytest.raises(ProjectError, match="A1 holds screw 'spring_sw'"):
        changes.lay(one, "spring_ne", "A1")
    with pytest.raises(ProjectError, match="lies in no cell"):
        changes.put_back(one, "spring_ne")
    again = changes.lay(changes.put_back(one, "spring_sw"), "spring_ne", "A1")
    assert [lies.screw for lies in again.tray if not lies.back] == ["spring_ne"]
    with pytest.raises(AshenError, match="cell"):
        changes.lay(card, "spring_sw", "nowhere")


def test_numbers_follow_places_not_names(card: Project) -> None:
    plain = card.model_dump(mode="json")
    plain["device"]["fasteners"].reverse()
    turned = Project.parse(plain)
    assert [one.id for one in tray(turned).slots] == [one.id for one in tray(card).slots]
    cover = changes.set_screw(card, Screw(id="lid", x_mm=5, y_mm=5))
    assert len(tray(cover).slots) == 9
    assert opening(cover).steps[8].about == ("lid",)


def test_a_recipe_goes_to_the_next_device_without_ticks_and_with_its_holds(card: Project) -> None:
    made = ticked(edits.add_procedure(opening(card)).applied(card), "photos")
    own = edits.add_step(made, made.procedures[-1].id, "Note where the label is", "photos").applied(made).procedures[-1]
    recipe = write_recipe(own)
    other = changes.set_hazards(open_anything("demo:buoy").project, Hazards())
    loaded = read_recipe(recipe, other)
    assert not any(one.done for one in loaded.steps)
    assert [one.hold for one in loaded.steps[:4]] == ["licensed", "power", "battery", "charge"]
    assert "Note where the label is" in [one.text for one in loaded.steps]
    stripped = recipe.replace(b'"hold": "battery"', b'"hold": "other"')
    assert [one.hold for one in read_recipe(stripped, other).steps[:4]] == ["licensed", "power", "battery", "charge"]
    for wrong in (
        b"",
        b"[]",
        b'{"format": "ashen-bridge-recipe", "version": 9}',
        b"\xff\xfe",
        recipe.replace(b'"steps"', b'"paces"'),
    ):
        with pytest.raises(ProjectError) as error:
            read_recipe(wrong, other)
        assert "\n" not in str(error.value)


def test_every_demo_and_build_has_a_procedure() -> None:
    for name in ("correlator", "beamformer", "buoy"):
        project = open_anything(f"demo:{name}").project
        for build in project.builds:
            steps = opening(project, build.id).steps
            lifted = [one.about[0] for one in steps if one.kind == "lift"]
            assert len(set(lifted)) == len(lifted) > 0
            pairs = itertools.pairwise(one.id for one in steps)
            assert all(one != other for one, other in pairs)


def test_lies_of_what_is_gone_do_no_harm(card: Project) -> None:
    history = replaced(card, tray=(Lies(screw="of_old", cell="A1"),))
    assert "In" not in tray(history).told or tray(history).told
    assert not tray(history).lying


@pytest.mark.long
@pytest.mark.parametrize("seed", range(1, 26))
def test_devices_of_every_kind_are_opened_and_their_lids_stay(seed: int) -> None:
    """Twenty-five invented devices: cards, lidded processors, boxes; springs, arms, shoulders, with and without a backplate."""
    project = truth(seed).project
    steps = opening(project).steps
    roles = {body.id: getattr(body, "role", "") for body in project.all_bodies}
    lifted = [one.about[0] for one in steps if one.kind == "lift"]
    assert lifted
    assert not any(roles[name] == "lid" for name in lifted), "nobody lifts a lid off in passing"
    before = {name: n for n, one in enumerate(steps) for name in one.about if one.kind in ("unscrew", "do")}
    for n, one in enumerate(steps):
        for fastener in project.device.fasteners:
            if one.kind == "lift" and one.about[0] in fastener.joins and fastener.kind != "glued":
                assert before[fastener.id] < n, "loose before it is lifted"
    screws = {slot.id for slot in tray(project).slots}
    out = {name for one in steps if one.kind == "unscrew" for name in one.about}
    assert out == screws, "what comes out has a number and a cell; spring arms stay where they are"
    done = ticked(edits.add_procedure(opening(project)).applied(project))
    assert not tray(done).missing
    assert len(tray(done).lying) == len(screws)
    assert needs(project)
