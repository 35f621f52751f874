"""A plan in stages: the cheapest opening first, each stage the one before and one change more, the last the whole plan."""

from __future__ import annotations

import pytest

from ashen_bridge.changes.plans import Filling, add_washers, fill_joints
from ashen_bridge.editing.choosing import take_stages
from ashen_bridge.model.amounts import FilmAmount
from ashen_bridge.model.joints import Piece
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.planning.choosing.result import Chosen, Plan
from ashen_bridge.planning.choosing.stages import Stage, staging
from ashen_bridge.predict.engine import Engine
from devices import FOUR, Card
from devices import project as card_project


@pytest.fixture(scope="module")
def card() -> Project:
    return card_project(Card(parts=FOUR, die_power=120.0))


def plan_for(card: Project) -> Plan:
    joints = card.build().joints
    pads = tuple(one.id for one in joints if one.id != "die_joint")
    soft = Piece(id="pad", material="pad_soft", thickness_mm=q(1.0, 0.05))
    paste = Piece(id="paste", material="paste_filled", amount=FilmAmount())
    fillings = (Filling(joints=("die_joint",), pieces=(paste,)), Filling(joints=pads, pieces=(soft,)))
    chosen = (
        Chosen("die_joint", "Die joint", "paste", "paste, highly filled", "paste", True),
        Chosen(pads[0], "Pads", "pad_soft 1", "1 mm soft gap pad", "pad", True),
    )
    return Plan("x", "Coolest", "", chosen, 0.5, fillings, (), None, None, None, None, (), 5, 60.0, 2.5)


def stages_of(card: Project, plan: Plan) -> tuple[Stage, ...]:
    *_, (_, found) = staging(Engine(), card, card.build().id, card.point().id, plan)
    return found


def test_screws_come_before_the_cooler_and_the_die_last(card: Project) -> None:
    found = stages_of(card, plan_for(card))
    assert [one.opens for one in found] == ["the screws only", "the cooler", "the cooler"]
    assert "washers" in found[0].says
    assert "Pads" in found[1].says
    assert "Die joint" in found[2].says


def test_every_stage_stands_where_its_build_stands(card: Project) -> None:
    """What a stage says is what a prediction of the build says that it makes."""
    plan = plan_for(card)
    found = stages_of(card, plan)
    builds, made = take_stages(card, card.build().id, plan, found)
    after = made.applied(card)
    assert len(after.builds) == len(card.builds) + 3
    for name, stage in zip(builds, found, strict=True):
        report = Engine().predict(after, name, fidelity="coarse").report
        assert stage.die_c == pytest.approx(max(row.t_max_c for row in report.components if row.kind == "die"), abs=0.05)
    whole = fill_joints(add_washers(card, card.build().id, 0.5), card.build().id, plan.fillings)
    assert after.build(builds[-1]).joints == whole.build().joints


def test_what_no_test_tells_apart_is_said(card: Project) -> None:
    found = stages_of(card, plan_for(card))
    for one in found:
        assert one.told == (abs(one.moved_k or 0.0) >= 1.0)
        assert ("no more than runs differ by" in one.words) != one.told


def test_a_plan_that_changes_nothing_has_no_stages(card: Project) -> None:
    nothing = Plan("x", "As it is", "", (), 0.0, (), (), None, None, None, None, (), 0, 0.0, 2.0)
    assert stages_of(card, nothing) == ()
