"""Exact region algebra against counting on a raster."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ashen_bridge.geometry.plan import PlanBody, PlanJoint, lay_out
from ashen_bridge.geometry.region import EMPTY, Region, region_of
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.footprint import Footprint, Rect, rectangle
from ashen_bridge.thermal.lines import Feature, Lines, Spacing, grid_lines
from ashen_bridge.thermal.parts import cell_areas

whole = st.integers(0, 12)


@st.composite
def regions(draw: st.DrawFn) -> Region:
    found = EMPTY
    for _ in range(draw(st.integers(1, 4))):
        x, y = draw(whole), draw(whole)
        found = found | Region(((x, y, x + draw(st.integers(1, 8)), y + draw(st.integers(1, 8))),))
    return found


def raster(region: Region) -> np.ndarray:
    x, y = np.meshgrid(np.arange(22) + 0.5, np.arange(22) + 0.5)
    return region.covers(x, y)


@given(regions(), regions())
def test_algebra_agrees_with_a_raster(a: Region, b: Region) -> None:
    assert np.array_equal(raster(a & b), raster(a) & raster(b))
    assert np.array_equal(raster(a - b), raster(a) & ~raster(b))
    assert np.array_equal(raster(a | b), raster(a) | raster(b))
    for made in (a & b, a - b, a | b):
        assert made.area == pytest.approx(raster(made).sum())


@given(regions(), st.lists(st.floats(0.1, 19.9), min_size=1, max_size=6, unique=True))
def test_column_areas_add_up(region: Region, cuts: list[float]) -> None:
    lines = Lines(np.array([0.0, *sorted(cuts), 21.0]), np.array([0.0, 7.3, 21.0]))
    assert cell_areas(region, lines).sum() == pytest.approx(region.area)


def test_footprint_with_hole_and_overlapping_rectangles() -> None:
    shape = Footprint(
        rects=(Rect(x_mm=0, y_mm=0, w_mm=10, h_mm=10), Rect(x_mm=5, y_mm=0, w_mm=10, h_mm=10)),
        holes=(Rect(x_mm=1, y_mm=1, w_mm=2, h_mm=2),),
    )
    assert region_of(shape).area == pytest.approx((150 - 4) * 1e-6)


def test_grid_lines_follow_grade_and_keep_their_distance() -> None:
    die = Feature((0.05, 0.03, 0.07, 0.05), 9, 1e-3)
    beside = Feature((0.0501, 0.03, 0.09, 0.06), 5)
    lines = grid_lines((0.0, 0.0, 0.2, 0.1), (die, beside), Spacing(5e-3, 0.3e-3))
    for edge in (0.05, 0.07, 0.09):
        assert np.abs(lines.x - edge).min() < 1e-12
    assert np.abs(lines.x - 0.0501).min() > 1e-5, "edges that crowd share the line of the weightier"
    gaps = np.diff(lines.x)
    assert gaps.min() >= 0.3e-3 * 0.9
    assert gaps.max() <= 1.2 * 5e-3
    inside = (lines.x[:-1] >= 0.05 - 1e-12) & (lines.x[1:] <= 0.07 + 1e-12)
    assert gaps[inside].max() <= 1.05e-3
    twice = grid_lines((0.0, 0.0, 0.2, 0.1), (die, beside), Spacing(5e-3, 0.3e-3, 1))
    assert np.isin(lines.x, twice.x).all()
    assert len(twice.x) == 2 * len(lines.x) - 1


def test_half_covering_piece_splits_a_facing_into_patches() -> None:
    bodies = (
        PlanBody("board", rectangle(0, 0, 40, 40), tuple(Side)),
        PlanBody("part", rectangle(10, 10, 10, 10), (Side.FRONT,), "board"),
        PlanBody("plate", rectangle(5, 5, 30, 30), (Side.FRONT,), is_plate=True),
    )
    joint = PlanJoint("j", "plate", ("part",), (("pad", rectangle(10, 10, 5, 10), ()),))
    plan = lay_out(bodies, (joint,))
    facing = next(f for f in plan.facings if f.lower == "part")
    assert {patch.pieces: round(patch.region.area * 1e6, 6) for patch in facing.patches} == {("pad",): 50.0, (): 50.0}
    air = next(f for f in plan.facings if f.lower == "board")
    assert air.joint is None
    assert air.area * 1e6 == pytest.approx(900 - 100)
    assert plan.bare[("board", Side.FRONT)].area * 1e6 == pytest.approx(1600 - 900)
    assert plan.bare[("board", Side.REAR)].area * 1e6 == pytest.approx(1600)
    assert not plan.bare_under["plate"]
