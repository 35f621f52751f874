"""What may be done beside choosing a material: each is an edit that leaves the rest alone, and says what it would do here."""

from __future__ import annotations

import pytest

from ashen_bridge.changes.edit import read_edit
from ashen_bridge.changes.interventions import Doing, intervene
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model import paths
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.joints import Piece
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced
from ashen_bridge.model.wishes import Wishes
from ashen_bridge.planning.interventions import Intervention, interventions, practised, weighing
from ashen_bridge.predict.engine import Engine
from devices import FOUR, Card
from devices import project as card_project

BOLD = Wishes(skill="bold", liquid_metal=True, schools={"lid": "off", "lapping": "pays"})


def found(project: Project, build: str | None = None) -> dict[str, Intervention]:
    *_, (_, some) = weighing(Engine(), project, project.build(build).id, project.point().id)
    return {one.id: one for one in some}


def wishing(project: Project, wishes: Wishes) -> Project:
    return replaced(project, aims=replaced(project.aims, wishes=wishes))


@pytest.fixture(scope="module")
def card() -> Project:
    return card_project(Card(parts=FOUR, die_power=120.0, bends=True))


def test_without_opening_comes_first_and_says_what_it_gives(card: Project) -> None:
    """A tenth less power takes about a tenth off every rise; five kelvins cooler air takes five off."""
    some = found(card)
    kinds = [one.kind for one in some.values()]
    assert kinds == sorted(kinds, key=["closed", "open", "bold"].index)
    ambient = card.point().ambient_c.value
    power, air = some["power limit"].effect, some["air"].effect
    assert power is not None
    assert air is not None
    assert power.die_after_c == pytest.approx(ambient + 0.9 * ((power.die_before_c or 0) - ambient), abs=1.0)
    assert (air.die_before_c or 0) - (air.die_after_c or 0) == pytest.approx(5.0, abs=0.4)


def test_every_one_is_an_edit_that_can_be_kept_and_taken_back(card: Project) -> None:
    for one in interventions(Engine(), wishing(card, BOLD), card.build().id, card.point().id):
        assert bool(one.edit) != bool(one.refused) or one.id == "warranty"
        if one.edit is None:
            continue
        made = read_edit(one.edit.to_plain()).applied(card)
        assert made.builds[0] == card.builds[0], "what was there stays"
        assert len(made.builds) + len(made.points) == len(card.builds) + len(card.points) + 1
        assert one.build in {b.id for b in made.builds}
        assert one.point in {p.id for p in made.points}


def test_the_bold_ones_are_off_unless_asked_for() -> None:
    """Lid off and lapping need the way and the hands; with both, the lidded demo runs cooler without its lid."""
    plain = open_anything("demo:beamformer").project
    shy = {one.id: one for one in interventions(Engine(), plain, "new_paste", "listen")}
    assert "Not asked for" in shy["lid"].refused
    half = {one.id: one for one in interventions(Engine(), wishing(plain, Wishes(schools=BOLD.schools)), "new_paste", "listen")}
    assert "accept to lose the part" in half["lid"].refused
    bold = found(wishing(plain, BOLD), "new_paste")
    effect = bold["lid"].effect
    assert effect is not None
    assert (effect.die_after_c or 0) < (effect.die_before_c or 0) - 5
    # By the demo's own builds, made by hand: the same within what their film and washers differ.
    off = Engine().shown(paths.set_values(plain, {"points.listen.throttle_at_c": {}}), "lid_off", "listen")[0]
    assert effect.die_after_c == pytest.approx(max(row.value_c for row in off if row.id == "die_hot"), abs=2.0)


def test_who_shall_not_open_it_is_not_told_to(card: Project) -> None:
    never = replaced(card, aims=replaced(card.aims, opening="never"))
    labelled = paths.set_values(never, {})
    some = interventions(Engine(), labelled, card.build().id, card.point().id)
    assert all(one.refused == "It shall not be opened." for one in some if one.kind == "open")


def test_a_label_in_the_path_is_found_and_taken_off(card: Project) -> None:
    label = Piece(id="label", material="label_paper", thickness_mm=q(0.1))
    build = card.build()
    joints = tuple(replaced(j, pieces=(label, *j.pieces)) if j.id == build.joints[-1].id else j for j in build.joints)
    from ashen_bridge.changes.materials import with_library

    labelled = replaced(with_library(card, ["label_paper"]), builds=(replaced(build, joints=joints),))
    some = found(labelled)
    assert "label" in some
    assert "label" not in found(card)
    made = some["label"].edit
    assert made is not None
    after = made.applied(labelled)
    assert after.build(some["label"].build).joints == build.joints


def test_a_leaking_air_guide_and_a_bowed_base_are_put_right(card: Project) -> None:
    cooler = next(body for body in card.device.bodies if body.kind == "plate" and body.sink is not None)
    worse = paths.set_values(
        card,
        {f"device.bodies.{cooler.id}.sink.air_lost": 0.3, f"device.bodies.{cooler.id}.form.crown_um": -120.0},
    )
    some = found(worse)
    for name, least in (("air guide", 0.5), ("flatten", 0.05)):
        effect = some[name].effect
        assert effect is not None
        assert (effect.die_after_c or 0) < (effect.die_before_c or 0) - least, name
    assert not {"air guide", "flatten"} & found(card).keys()


def test_aged_paste_alone_may_be_renewed() -> None:
    plain = open_anything("demo:beamformer").project
    some = {one.id: one for one in interventions(Engine(), plain, "as_found", "listen")}
    made = some["reseat"].edit
    assert made is not None
    joints = {joint.id: joint for joint in made.applied(plain).build(some["reseat"].build).joints}
    assert joints["lid_paste"].pieces[0].age_days == 0
    assert joints["solder"] == plain.build("as_found").joint("solder"), "what was soldered stays as it was"


def test_a_bridge_to_the_case_goes_where_there_is_a_gap() -> None:
    buoy = open_anything("demo:buoy").project
    some = found(buoy)
    assert "bridge" in some
    bridge = some["bridge"]
    assert bridge.effect is not None
    assert (bridge.effect.die_after_c or 0) < (bridge.effect.die_before_c or 0)
    assert "hot to touch" in bridge.costs


def test_a_lid_that_is_none_is_refused(card: Project) -> None:
    with pytest.raises(ProjectError, match="no lid"):
        intervene(card, card.build().id, "new", "New", "", Doing(lid="die"))


def test_what_practice_says_is_complete() -> None:
    assert len({one.id for one in practised()}) == len(practised()) == 13
    assert all(one.title and one.says and one.minutes > 0 for one in practised())
