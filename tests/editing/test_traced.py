"""Curves traced off pictures of charts: straight, turned and skewed pictures give back the points that were drawn."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ashen_bridge.editing.traced import Axis, compression_curve, traced
from ashen_bridge.editing.typed import TypedError

POINTS = ((5.0, 20.0), (10.0, 45.0), (20.0, 110.0), (40.0, 390.0))


@given(st.floats(-0.4, 0.4), st.floats(-0.15, 0.15), st.floats(50, 300), st.floats(0.5, 8.0), st.floats(0.2, 3.0))
def test_a_turned_and_skewed_picture_gives_the_points_back(turn: float, skew: float, shift: float, sx: float, sy: float) -> None:
    cos, sin = np.cos(turn), np.sin(turn)
    along = np.array([[cos, -sin], [sin, cos]]) @ np.array([[1.0, skew], [0.0, -1.0]])

    def pixel(x: float, y: float) -> tuple[float, float]:
        at = along @ np.array([sx * 10 * x, sy * y]) + shift
        return float(at[0]), float(at[1])

    x_axis = Axis(pixel(0, 0), pixel(40, 0), 0, 40)
    y_axis = Axis(pixel(0, 0), pixel(0, 400), 0, 400)
    found = traced(x_axis, y_axis, [pixel(*one) for one in POINTS])
    assert np.allclose(found, POINTS, rtol=1e-5, atol=1e-4)


def test_an_axis_by_decades() -> None:
    x_axis, y_axis = Axis((100, 500), (500, 500), 0, 40), Axis((100, 500), (100, 100), 1, 1000, log=True)
    ((x, y),) = traced(x_axis, y_axis, [(300, 500 - 400 / 3)])
    assert (x, y) == pytest.approx((20.0, 10.0))


@pytest.mark.parametrize(
    ("x_axis", "y_axis", "wrong"),
    [
        (Axis((0, 0), (5, 0), 0, 1), Axis((0, 0), (0, 99), 0, 1), "too near"),
        (Axis((0, 0), (99, 0), 1, 1), Axis((0, 0), (0, 99), 0, 1), "different values"),
        (Axis((0, 0), (99, 0), 0, 1), Axis((0, 0), (99, 3), 0, 1), "same direction"),
        (Axis((0, 0), (99, 0), 0, 1), Axis((0, 0), (0, 99), 0, 1, log=True), "above 0"),
    ],
)
def test_axes_that_say_nothing(x_axis: Axis, y_axis: Axis, wrong: str) -> None:
    with pytest.raises(TypedError, match=wrong):
        traced(x_axis, y_axis, [(1, 1)])


def test_either_axis_may_be_the_compression_and_order_does_not_matter() -> None:
    wanted = ((0.0, 0.0), (0.05, 20.0), (0.1, 45.0), (0.2, 110.0), (0.4, 390.0))
    assert compression_curve(POINTS[::-1], "compression") == wanted
    assert compression_curve([(y, x) for x, y in POINTS], "pressure") == wanted
    assert compression_curve([(0.01, 0.3), *POINTS], "compression") == wanted, "a click beside the origin is the origin"


def test_a_curve_that_falls_is_refused() -> None:
    with pytest.raises(TypedError, match="rise everywhere"):
        compression_curve([*POINTS, (50.0, 200.0)], "compression")
    with pytest.raises(TypedError, match="two points"):
        compression_curve(POINTS[:1], "compression")
