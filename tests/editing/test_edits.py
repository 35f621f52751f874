"""Edits and undo as pure values: every edit is re-validated, and undo brings back exactly what was there."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ashen_bridge.changes.edit import Edit
from ashen_bridge.desktop.charts.pictures import even_raster, ramp_image, ramp_table
from ashen_bridge.desktop.look.theme import THEMES
from ashen_bridge.desktop.stack.scale import HeightScale
from ashen_bridge.desktop.state.document import Document
from ashen_bridge.editing import edits
from ashen_bridge.model.amounts import FilmAmount
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.words.numbers import length, number, thickness
from ashen_bridge.words.verdict import margin
from devices import FOUR, Card, project

pytestmark = pytest.mark.usefixtures("qapp")
BASE = project(Card(FOUR))
PADS = BASE.groups[0].joints


@st.composite
def some_edit(draw: st.DrawFn) -> Edit:
    kind = draw(st.integers(0, 6))
    if kind == 0:
        return edits.set_thickness("now", PADS, 0, draw(st.floats(0.1, 3.0)), "Pads")
    if kind == 1:
        return edits.set_material(BASE, "now", PADS, 0, draw(st.sampled_from(["pad_soft", "pad_firm", "paste_filled"])), "Pads")
    if kind == 2:
        return edits.add_piece("now", PADS, "Pads")
    if kind == 3:
        return edits.move_piece("now", PADS, draw(st.integers(0, 2)), draw(st.sampled_from([-1, 1])), "Pads")
    if kind == 4:
        return edits.remove_piece("now", PADS, draw(st.integers(0, 2)), "Pads")
    if kind == 5:
        return edits.set_washers("now", ("spring_0", "spring_1"), draw(st.floats(0, 2)))
    return edits.set_fan("load", ("plate",), draw(st.floats(10, 150)))


@settings(max_examples=25)
@given(st.lists(some_edit(), min_size=1, max_size=8))
def test_undo_all_brings_back_the_start_and_redo_all_the_end(made: list[Edit]) -> None:
    document = Document(BASE)
    for edit in made:
        document.apply(edit)
    end = document.project
    while document.undo_stack.canUndo():
        document.undo_stack.undo()
    assert document.project == BASE
    assert not document.modified
    while document.undo_stack.canRedo():
        document.undo_stack.redo()
    assert document.project == end


def test_edits_of_the_same_thing_merge_and_no_change_is_no_edit() -> None:
    document = Document(BASE)
    for value in (1.1, 1.2, 1.3):
        document.apply(edits.set_thickness("now", PADS, 0, value, "Pads"))
    assert document.undo_stack.count() == 1
    document.apply(edits.set_thickness("now", PADS, 0, 1.3, "Pads"))
    assert document.undo_stack.count() == 1
    document.apply(edits.set_washers("now", ("spring_0",), 0.5))
    assert document.undo_stack.count() == 2


def test_paste_and_pad_change_places_with_a_sensible_amount() -> None:
    pasted = edits.set_material(BASE, "now", PADS, 0, "paste_filled", "Pads").applied(BASE).build().joint("pad_0").pieces[0]
    assert pasted.thickness_mm is None
    assert isinstance(pasted.amount, FilmAmount)
    assert (pasted.amount.film_mm.value, pasted.amount.film_mm.uncertainty) == (0.2, 0.1), "as people spread it"


def test_builds_get_ids_of_their_own_and_the_last_one_stays() -> None:
    edit, first = edits.new_build(BASE, "now", "Plan β – 2.0 mm!")
    copied = edit.applied(BASE)
    assert copied.build(first).joints == BASE.build("now").joints
    _, second = edits.new_build(copied, "now", "Plan β – 2.0 mm!")
    assert first != second
    with pytest.raises(ProjectError, match="only build"):
        edits.delete_build("now").applied(BASE)


@given(st.lists(st.floats(-5e-3, 8e-3), min_size=2, max_size=12, unique=True))
def test_height_scale_is_monotone_and_fills_the_picture(levels: list[float]) -> None:
    scale = HeightScale(levels)
    shares = [scale.share(level) for level in sorted(levels)]
    assert shares == sorted(shares)
    assert shares[0] == pytest.approx(0.0)


def test_forty_micrometres_and_four_millimetres_are_both_legible() -> None:
    scale = HeightScale([0.0, 2e-3, 2.04e-3, 6.04e-3])
    assert scale.share(2.04e-3) - scale.share(2e-3) > 0.08
    assert scale.share(6.04e-3) - scale.share(2.04e-3) < 0.6


def test_words() -> None:
    assert number(-0.04, 1) == "0.0"
    assert number(-3.26, 1) == "−3.3"
    assert length(0.038) == "38 µm"
    assert length(0.86) == "0.86 mm"
    assert [thickness(value) for value in (0.5, 0.75, 1.0, 1.25)] == ["0.5", "0.75", "1.0", "1.25"]
    assert margin(-4.2) == "4 K over"


def test_pictures_have_y_up_and_leave_holes_open() -> None:
    values = np.array([[0.0, np.nan], [1.0, 0.5]])
    image = ramp_image(values, 0.0, 1.0, ramp_table(THEMES["light"].heat))
    assert image.pixelColor(1, 1).alpha() == 0, "row 0 is the lowest, so it is the picture's last"
    assert image.pixelColor(0, 0).lightnessF() > image.pixelColor(0, 1).lightnessF()
    even = even_raster(values, np.array([0.0, 1.0, 4.0]), np.array([0.0, 1.0, 2.0]), 4, 2)
    assert even[1].tolist() == [1.0, 0.5, 0.5, 0.5]
