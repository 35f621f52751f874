"""Snapping and arranging, by properties that hold for any boxes."""

from __future__ import annotations

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ashen_bridge.changes.boxes import Box, contains, hull, meet, rect_of, shifted
from ashen_bridge.changes.copies import mirrored
from ashen_bridge.editing.arrange import align, around, distribute, row
from ashen_bridge.editing.snapping import snap_move, snap_value
from ashen_bridge.model.errors import ProjectError

COORDINATE = st.floats(-200, 200).map(lambda v: round(v, 3))
SIZE = st.floats(0.5, 60).map(lambda v: round(v, 3))


@st.composite
def boxes(draw: st.DrawFn) -> Box:
    x, y, w, h = draw(COORDINATE), draw(COORDINATE), draw(SIZE), draw(SIZE)
    return x, y, x + w, y + h


MANY = st.lists(boxes(), min_size=1, max_size=8)
STEP = st.floats(-20, 20).map(lambda v: round(v, 3))
EDGES = ("left", "centre", "right", "top", "middle", "bottom")


@given(boxes(), STEP, STEP, MANY, st.floats(0.1, 3))
def test_snapping_never_goes_further_than_its_reach_and_lands_on_a_line(
    box: Box, dx: float, dy: float, others: list[Box], reach: float
) -> None:
    found = snap_move(box, dx, dy, others, reach)
    assert abs(found.dx - dx) <= reach + 1e-9
    assert abs(found.dy - dy) <= reach + 1e-9
    moved = shifted(box, found.dx, found.dy)
    for guide in found.guides:
        at = 0 if guide.axis == "x" else 1
        mine = (moved[at], (moved[at] + moved[at + 2]) / 2, moved[at + 2])
        assert min(abs(value - guide.at) for value in mine) < 1e-9
        theirs = [v for b in others for v in (b[at], (b[at] + b[at + 2]) / 2, b[at + 2])]
        assert min(abs(value - guide.at) for value in theirs) < 1e-9
    if not found.guides:
        assert (found.dx, found.dy) == (dx, dy), "without a line or a grid nothing is moved on its own"


@given(boxes(), STEP, STEP, MANY)
def test_snapping_takes_the_nearest_line(box: Box, dx: float, dy: float, others: list[Box]) -> None:
    found = snap_move(box, dx, dy, others, 5.0)
    moved = shifted(box, dx, dy)
    lines = [v for b in others for v in (b[0], (b[0] + b[2]) / 2, b[2])]
    nearest = min(abs(a - b) for a in (moved[0], (moved[0] + moved[2]) / 2, moved[2]) for b in lines)
    expected = nearest if nearest <= 5.0 else 0.0
    assert abs(found.dx - dx) == pytest.approx(expected, abs=1e-9)


@given(boxes(), STEP, STEP)
def test_without_others_the_grid_catches(box: Box, dx: float, dy: float) -> None:
    found = snap_move(box, dx, dy, [], 1.0, grid=0.5)
    for at, by in ((0, found.dx), (1, found.dy)):
        assert (box[at] + by) / 0.5 == pytest.approx(round((box[at] + by) / 0.5), abs=1e-6)
    assert abs(found.dx - dx) <= 0.25 + 1e-9


@given(COORDINATE, MANY)
def test_a_dragged_edge_snaps_within_reach(value: float, others: list[Box]) -> None:
    assert abs(snap_value(value, "x", others, 2.0) - value) <= 2.0 + 1e-9
    assert snap_value(value, "y", [], 2.0) == value


@given(MANY, st.sampled_from(EDGES))
def test_aligning_lines_up_and_stays_in_the_hull(listed: list[Box], edge: str) -> None:
    moved = [shifted(box, *by) for box, by in zip(listed, align(listed, edge), strict=True)]  # type: ignore[arg-type]
    pick = {
        "left": lambda b: b[0],
        "right": lambda b: b[2],
        "bottom": lambda b: b[1],
        "top": lambda b: b[3],
        "centre": lambda b: (b[0] + b[2]) / 2,
        "middle": lambda b: (b[1] + b[3]) / 2,
    }[edge]
    values = [pick(box) for box in moved]
    assert max(values) - min(values) < 1e-9
    whole = hull(listed)
    grown = (whole[0] - 1e-9, whole[1] - 1e-9, whole[2] + 1e-9, whole[3] + 1e-9)
    assert all(contains(grown, box) for box in moved)
    again = align(moved, edge)  # type: ignore[arg-type]
    assert all(max(abs(dx), abs(dy)) < 1e-9 for dx, dy in again), "aligning twice changes nothing more"


@given(st.lists(boxes(), min_size=3, max_size=7), st.sampled_from(["x", "y"]))
def test_distributing_makes_gaps_equal_and_keeps_the_ends(listed: list[Box], axis: str) -> None:
    moves = distribute(listed, axis)  # type: ignore[arg-type]
    moved = [shifted(box, *by) for box, by in zip(listed, moves, strict=True)]
    at = 0 if axis == "x" else 1
    order = sorted(range(len(listed)), key=lambda n: (listed[n][at] + listed[n][at + 2], n))
    assert moves[order[0]] == moves[order[-1]] == (0.0, 0.0)
    gaps = [moved[b][at] - moved[a][at + 2] for a, b in pairwise(order)]
    assert max(gaps) - min(gaps) < 1e-6


@given(boxes(), COORDINATE, st.sampled_from(["x", "y"]))
def test_mirroring_twice_is_nothing_and_keeps_the_size(box: Box, at: float, axis: str) -> None:
    once = mirrored(box, axis, at)  # type: ignore[arg-type]
    assert mirrored(once, axis, at) == pytest.approx(box)  # type: ignore[arg-type]
    assert once[2] - once[0] == pytest.approx(box[2] - box[0])


@given(boxes(), st.tuples(*[st.integers(0, 5)] * 4), st.floats(0.5, 10), st.floats(0.5, 5))
def test_a_ring_stands_around_without_touching(box: Box, counts: tuple[int, int, int, int], gap: float, between: float) -> None:
    places = around(box, (12.0, 14.0), counts, gap, between)
    assert len(places) == sum(counts)
    for n, (side, place) in enumerate(places):
        assert not meet(place, box)
        across = {"left": box[0] - place[2], "right": place[0] - box[2], "top": place[1] - box[3], "bottom": box[1] - place[3]}[
            side
        ]
        assert across == pytest.approx(gap)
        for other_side, other in places[n + 1 :]:
            if other_side == side:
                assert not meet(place, other)


def test_a_row_leaves_the_first_where_it_is() -> None:
    assert row(4, 15.0, 0.0) == [(15.0, 0.0), (30.0, 0.0), (45.0, 0.0)]
    assert row(1, 15.0, 0.0) == []


def test_a_box_too_small_to_be_meant_is_refused() -> None:
    with pytest.raises(ProjectError, match="too small"):
        rect_of((0, 0, 0.01, 5))
