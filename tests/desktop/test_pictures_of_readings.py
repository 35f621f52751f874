"""Small pictures that say where jaws go, and drawings of the open board: every form has one, and sides are as they are."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QImage
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.charts.outlines import outlines_of
from ashen_bridge.desktop.charts.placement import Placement
from ashen_bridge.desktop.look.theme import THEMES
from ashen_bridge.desktop.measure.entry import FORMS
from ashen_bridge.desktop.measure.jaws import JawsView, pictures
from ashen_bridge.files.demos import open_anything
from ashen_bridge.measuring.practice import practice
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.resolve import resolve
from ashen_bridge.planning.tray import tray
from ashen_bridge.report.board_drawing import board_drawing


def test_every_form_that_can_be_entered_has_its_picture() -> None:
    forms = {form for _, form in FORMS}
    assert forms == set(pictures())
    assert forms == set(practice().forms)


@pytest.mark.parametrize("look", ["light", "dark"])
@pytest.mark.parametrize("form", sorted(pictures()))
def test_the_length_that_is_read_stands_out(qtbot: QtBot, form: str, look: str) -> None:
    """The ember of the arrow is there, in both looks, and lies within the picture."""
    view = JawsView(THEMES[look])
    qtbot.addWidget(view)
    view.show_form(form)
    view.resize(104, 66)
    image: QImage = view.grab().toImage()
    ember = THEMES[look].colour("ember")
    hits = [
        (x, y)
        for x in range(image.width())
        for y in range(image.height())
        if abs(image.pixelColor(x, y).red() - ember.red()) < 12 and abs(image.pixelColor(x, y).blue() - ember.blue()) < 12
    ]
    assert len(hits) > 15
    assert min(x for x, _ in hits) > 0
    assert max(x for x, _ in hits) < image.width() - 1


def test_outlines_carry_what_is_carried_last_and_stay_on_their_side() -> None:
    project = open_anything("demo:correlator").project
    bodies = project.bodies_of(project.build("as_found"))
    front = outlines_of(bodies, Side.FRONT, ("substrate", "component", "plate"), ["die"])
    kinds = [one.kind for one in front]
    assert kinds[0] == "board"
    assert kinds == sorted(kinds, key=["board", "substrate", "component", "plate"].index)
    assert [one.id for one in front if one.held] == ["die"]
    rear = {one.id for one in outlines_of(bodies, Side.REAR, ("component",))}
    assert rear == {"board", "mem_b1", "mem_b2"}


def test_the_printed_board_is_turned_over_for_its_rear() -> None:
    """A screw at the left of the front is at the right of the drawing of the rear."""
    project = open_anything("demo:correlator").project
    resolved, slots = resolve(project, "as_found"), tray(project, "as_found").slots

    def across(side: Side, name: str) -> float:
        one = next(slot for slot in slots if slot.id == name)
        drawing = board_drawing(resolved, [one], (), side, 100)
        return float(drawing.partition('<circle cx="')[2].partition('"')[0])

    assert across(Side.FRONT, "spring_sw") < across(Side.FRONT, "spring_se")
    assert across(Side.REAR, "rear_w") > across(Side.REAR, "rear_e")
    place = Placement.fit((0, 0, 100, 50), 400, 300, False, True)
    assert place.point(10, 0).x() > place.point(90, 0).x()
    assert isinstance(place.point(0, 0), QPointF)
