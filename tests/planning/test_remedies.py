"""Remedies of findings are edits that apply, and what they are said to do is what predictions say."""

from __future__ import annotations

import pytest

from ashen_bridge.assess.assessment import assess
from ashen_bridge.changes.plans import add_washers
from ashen_bridge.findings.finding import Finding
from ashen_bridge.model.footprint import Footprint, Rect
from ashen_bridge.model.project import Project
from ashen_bridge.planning.remedies import effects, remedies
from ashen_bridge.predict.engine import Engine
from devices import FOUR, Card, Part
from devices import project as card_project


def found_in(project: Project, code: str) -> Finding:
    return next(one for one in assess(project).findings if one.code == code)


def test_pads_that_hold_the_die_off_go_a_step_thinner_softer_or_get_more_force() -> None:
    parts = tuple(Part(one.x, one.y, one.height, 2.0) for one in FOUR)
    project = card_project(Card(parts=parts, die_power=200.0))
    finding = found_in(project, "pads_hold_die_off")
    made = remedies(project, "now", finding)
    assert [one.name for one in made][:2] == ["1.5 mm on Pads", "softer pads there"]
    assert "washers" in made[2].name
    *_, (progress, told) = effects(Engine(), project, "now", "load", made)
    assert progress == 1.0
    for one, effect in zip(made, told, strict=True):
        after = Engine().predict(one.applied(project), "now", "load", fidelity="coarse").report
        assert effect.die_after_c == pytest.approx(max(row.t_max_c for row in after.components if row.kind == "die"), abs=0.1)
        assert effect.die_after_c is not None
        assert effect.die_before_c is not None
        assert effect.die_after_c < effect.die_before_c
        assert "°C" in effect.words


def test_a_pad_that_does_not_touch_goes_a_step_thicker() -> None:
    parts = (Part(8, 34, 0.6, 1.0), *FOUR[1:])
    project = card_project(Card(parts=parts))
    finding = found_in(project, "not_touching")
    first = remedies(project, "now", finding)[0]
    assert first.name.startswith("1.25 mm")
    after = first.applied(project)
    assert after.build("now").joint("pad_0").pieces[0].thickness_mm is not None
    assert after.build("now").joint("pad_0").pieces[0].thickness_mm.value == 1.25
    assert after.build("now").joint("pad_1") == project.build("now").joint("pad_1")


def test_a_piece_that_leaves_half_bare_is_cut_to_the_whole_part() -> None:
    half = Footprint(rects=(Rect(x_mm=8, y_mm=34, w_mm=6, h_mm=12),))
    project = card_project(Card(parts=(Part(8, 34, 1.2, 1.0, outline=half), *FOUR[1:])))
    (made,) = remedies(project, "now", found_in(project, "bare_part"))
    assert made.applied(project).build("now").joint("pad_0").pieces[0].footprint is None


def test_washers_come_out_again_and_too_little_paste_becomes_more() -> None:
    project = add_washers(card_project(Card(parts=FOUR)), "now", 1.0)
    bind = Finding(code="coil_bind", severity="serious", about="spring_0", text="", remedy="", numbers={})
    (made,) = remedies(project, "now", bind)
    assert all(one.washers_mm.value == 0 for one in made.applied(project).build("now").fastener_settings)
    dry = card_project(Card(parts=FOUR, paste_mm3=2.0))
    (more,) = remedies(dry, "now", found_in(dry, "too_little_paste"))
    assert not [one for one in assess(more.applied(dry)).findings if one.code == "too_little_paste"]


def test_what_is_no_edit_has_no_remedy_by_click() -> None:
    other = Finding(code="limit_exceeded", severity="serious", about="die", text="", remedy="", numbers={})
    assert remedies(card_project(Card(parts=FOUR)), "now", other) == ()
