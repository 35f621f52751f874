"""A first look at a changed device, against the whole predictions that follow it."""

from __future__ import annotations

import pytest

from ashen_bridge.assess import errands
from ashen_bridge.assess.glance import glance_at
from ashen_bridge.assess.strip import thickness_strip
from ashen_bridge.changes.layers import thicken_sheets
from ashen_bridge.changes.screws import leave_out
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model import paths
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.report import Report

BUILD, POINT = "as_found", "correlate"
LEFT = ("pad_l1", "pad_l2", "pad_l3")


@pytest.fixture(scope="module")
def card() -> Project:
    return open_anything("demo:correlator").project


@pytest.fixture(scope="module")
def engine(card: Project) -> Engine:
    found = Engine()
    list(errands.predict(found, card, BUILD, POINT))
    return found


def look(engine: Engine, project: Project) -> Report:
    found = glance_at(engine, project, BUILD, POINT)
    assert found is not None
    return found.report


def worst(one: Report, other: Report) -> float:
    values = {row.id: row.value_c for row in other.sensors}
    return max(abs(row.value_c - values[row.id]) for row in one.sensors)


def test_nothing_changed_shows_what_is_shown(card: Project, engine: Engine) -> None:
    assert worst(look(engine, card), engine.predict(card, BUILD, POINT).report) < 1e-3


@pytest.mark.parametrize(
    ("change", "within"),
    [
        (lambda one: thicken_sheets(one, BUILD, LEFT, 0.1), 0.08),
        (lambda one: thicken_sheets(one, BUILD, LEFT, -0.2), 0.08),
        (lambda one: leave_out(one, BUILD, ("spring_sw",)), 0.08),
        (lambda one: paths.set_numbers(one, {"points.correlate.powers_w.die": 150.0}), 0.05),
        # Here the coarse mesh leads the heat past the worse pads by a tenth too well.
        (lambda one: paths.set_numbers(one, {"materials.pad_medium.conductivity_w_mk": 2.0}), 0.15),
        (lambda one: paths.set_numbers(one, {"device.bodies.cooler.sink.convective_k_w": 0.12}), 0.06),
    ],
)
def test_a_glance_is_near_the_refined_field_that_follows(card: Project, engine: Engine, change: object, within: float) -> None:
    """Within a share of what moves, and half a kelvin for what the coarse mesh does not see."""
    project = change(card)  # type: ignore[operator]
    seen, fine = look(engine, project), engine.predict(project, BUILD, POINT).report
    moved = worst(fine, engine.predict(card, BUILD, POINT).report)
    assert moved > 0.3
    assert worst(seen, fine) < within * moved + 0.5
    # Of the mechanics nothing is guessed.
    assert [row.bond_line_um for row in seen.joints] == pytest.approx([row.bond_line_um for row in fine.joints])
    assert seen.input_hash == fine.input_hash
    assert all(row.margin_k == pytest.approx(row.limit_c - row.value_c) for row in seen.sensors if row.limit_c is not None)


def test_another_shape_or_place_is_not_glanced_at(card: Project, engine: Engine) -> None:
    wider = paths.set_values(card, {"device.bodies.mem_l1.footprint.rects.0.w_mm": 9.0})
    assert glance_at(engine, wider, BUILD, POINT) is None
    assert glance_at(engine, card, "plan_a", POINT) is None
    throttled = paths.set_values(card, {f"points.{POINT}.throttle_at_c": {"die": 80.0}})
    assert glance_at(engine, throttled, BUILD, POINT) is None


def test_the_errand_shows_a_glance_then_the_refined_field_then_findings(card: Project, engine: Engine) -> None:
    project = thicken_sheets(card, BUILD, LEFT, 0.07)
    before = engine.fields_solved
    steps = list(errands.predict(engine, project, BUILD, POINT))
    assert [found.report.fidelity for _, found in steps] == ["glance", "fine", "fine"]
    assert not steps[1][1].findings
    assert steps[2][1].findings
    # A coarse and a fine field of it; what the die would be without the pads' push is told at a glance.
    assert engine.fields_solved - before == 2


def test_a_device_seen_for_the_first_time_leads_by_its_coarse_field(card: Project) -> None:
    steps = list(errands.predict(Engine(), card, BUILD, POINT))
    assert [found.report.fidelity for _, found in steps] == ["coarse", "fine", "fine"]


def test_the_strip_at_a_glance_is_the_strip_of_whole_fields(card: Project, engine: Engine) -> None:
    report = engine.predict(card, BUILD, POINT).report
    now = card.build(BUILD).joint("pad_l1").pieces[0].thickness_mm
    assert now is not None
    thicknesses = (0.5, 1.0, 1.25, now.value)
    quick = list(thickness_strip(card, report, LEFT, thicknesses, engine=engine))
    slow = list(thickness_strip(card, report, LEFT, thicknesses, engine=Engine()))
    for one, other in zip(quick, slow, strict=True):
        assert one.die_c == pytest.approx(other.die_c, abs=0.5)
        assert one.group_c == pytest.approx(other.group_c, abs=0.5)
        assert one.compression == pytest.approx(other.compression)
    assert quick[-1].die_c == pytest.approx(report.component("die").t_max_c, abs=1e-3)


@pytest.mark.long
def test_what_was_looked_at_before_changes_no_look(card: Project) -> None:
    wanted = thicken_sheets(card, BUILD, LEFT, 0.1)
    fresh, used = Engine(), Engine()
    for one in (fresh, used):
        list(errands.predict(one, card, BUILD, POINT))
    # One of them far away, where old factors lead nowhere and new ones are made.
    for by in (-0.3, 0.05, 0.8, 0.12):
        look(used, thicken_sheets(card, BUILD, LEFT, by))
    assert worst(look(used, wanted), look(fresh, wanted)) < 0.1  # a fifth of what a glance may be off
