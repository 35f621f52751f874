"""The photo under the plan: two points give scale, turn and place."""

from __future__ import annotations

import cmath

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from ashen_bridge.editing.tracing import (
    add_tracing,
    fit_tracing,
    placed,
    remove_tracing,
    seen,
    show_tracing,
    similarity,
)
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.errors import ProjectError
from devices import FOUR, Card, project

NUMBER = st.floats(-500, 500).map(lambda v: round(v, 2))
POINT = st.tuples(NUMBER, NUMBER)
BASE = project(Card(FOUR))
SHA = "0" * 64


@given(st.tuples(POINT, POINT), st.tuples(POINT, POINT), POINT)
def test_the_two_points_go_where_they_belong_and_angles_are_kept(
    pixels: tuple[tuple[float, float], tuple[float, float]],
    places: tuple[tuple[float, float], tuple[float, float]],
    other: tuple[float, float],
) -> None:
    assume(abs(complex(*pixels[0]) - complex(*pixels[1])) > 1 and abs(complex(*places[0]) - complex(*places[1])) > 1)
    map_ = similarity(pixels, places)
    for pixel, place in zip(pixels, places, strict=True):
        assert map_.place(pixel) == pytest.approx(place, abs=1e-6)
    assume(abs(complex(*other) - complex(*pixels[0])) > 1)
    turned = complex(*map_.place(other)) - complex(*map_.place(pixels[0]))
    before = complex(other[0] - pixels[0][0], -(other[1] - pixels[0][1]))
    assert abs(turned) == pytest.approx(abs(map_.a) * abs(before), rel=1e-6)
    assert cmath.phase(turned / before / map_.a) == pytest.approx(0.0, abs=1e-6)


def test_equal_points_are_refused_in_words() -> None:
    with pytest.raises(ProjectError, match="apart"):
        similarity(((1, 1), (1, 1)), ((0, 0), (5, 5)))
    with pytest.raises(ProjectError, match="apart"):
        similarity(((1, 1), (2, 1)), ((5, 5), (5, 5)))


@pytest.mark.parametrize("side", list(Side))
def test_a_new_photo_spans_the_board_as_it_is_looked_at(side: Side) -> None:
    edit = add_tracing(BASE, SHA, "jpg", side, (1600.0, 800.0), (0, 0, 80, 80))
    project_ = edit.applied(BASE)
    tracing = project_.tracings[0]
    left = placed(tracing).place((0.0, 400.0))
    assert left == pytest.approx(seen((0 if side is Side.FRONT else 80, 40), side)), "the photo's left edge is the seen left edge"
    assert abs(placed(tracing).a) == pytest.approx(0.05)
    hidden = show_tracing(tracing, False).applied(project_)
    assert not hidden.tracings[0].shown
    assert remove_tracing(tracing).applied(project_) == BASE
    fitted = fit_tracing(tracing, ((0, 0), (100, 0)), ((10.0, 10.0), (20.0, 10.0))).applied(project_)
    assert fitted.tracings[0].board_a_mm == (10, 10)


def test_a_second_photo_of_a_side_replaces_the_first() -> None:
    one = add_tracing(BASE, SHA, "jpg", Side.FRONT, (10.0, 10.0), (0, 0, 80, 80)).applied(BASE)
    two = add_tracing(one, "1" * 64, "png", Side.FRONT, (10.0, 10.0), (0, 0, 80, 80)).applied(one)
    assert len(two.tracings) == 1
    assert two.tracings[0].image == two.images[-1].id
