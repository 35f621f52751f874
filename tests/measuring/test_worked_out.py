"""Numbers worked out of readings: against hand calculations, and their ± against many draws."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ashen_bridge.measuring.worked_out import G, paste_by_weight, rate_by_weights, rate_by_wire
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.fasteners import SpringWire
from ashen_bridge.model.quantity import q


def test_a_spring_by_two_weights_by_hand() -> None:
    """300 g more shorten it by 0.8 mm: 0.3 · 9.80665 / 0.8 = 3.677 N/mm."""
    found = rate_by_weights(200, 500, 9.0, 8.2)
    assert found.value == pytest.approx(0.3 * G / 0.8)
    assert "200 and 500 g" in found.note


def test_the_spread_of_weights_is_that_of_many_draws() -> None:
    rng = np.random.default_rng(1)
    n = 200_000
    light, heavy = 200 + rng.normal(0, 2, n), 500 + rng.normal(0, 2, n)
    a, b = 9.0 + rng.normal(0, 0.02, n), 8.2 + rng.normal(0, 0.02, n)
    drawn = (heavy - light) * 1e-3 * G * (1 + 0.002 * rng.normal(size=n)) / (a - b)
    assert rate_by_weights(200, 500, 9.0, 8.2, 2.0).uncertainty == pytest.approx(drawn.std(), rel=0.02)


def test_a_spring_by_its_wire_is_what_the_model_makes_of_it() -> None:
    found = rate_by_wire(0.8, 6.0, 5.0)
    spring = SpringWire(wire_mm=q(0.8), mean_coil_mm=q(5.2), active_turns=q(5.0))
    assert found.value == pytest.approx(spring.rate)
    rng = np.random.default_rng(2)
    n = 200_000
    wire, outer = 0.8 + rng.normal(0, 0.02, n), 6.0 + rng.normal(0, 0.02, n)
    turns, shear = 5.0 + rng.normal(0, 0.25, n), 79.3e3 + rng.normal(0, 2e3, n)
    drawn = shear * wire**4 / (8 * (outer - wire) ** 3 * turns)
    assert found.uncertainty == pytest.approx(drawn.std(), rel=0.05)


def test_paste_by_weight_by_hand() -> None:
    """0.15 g at 2.5 g/cm³ are 60 mm³, to within 2 · 0.01 g and 5 % of density."""
    found = paste_by_weight(12.40, 12.25, 2500.0)
    assert found.value == pytest.approx(60.0)
    assert found.uncertainty == pytest.approx(60.0 * np.hypot(np.sqrt(2) * 0.01 / 0.15, 0.05), rel=1e-6)
    assert paste_by_weight(5.0, 5.15, 2500.0).value == pytest.approx(60.0), "a part without and with it is as good"


@given(st.floats(-10, 10), st.floats(-10, 10), st.floats(-10, 10), st.floats(-10, 10))
def test_what_says_nothing_is_said_and_all_else_is_above_nothing(a: float, b: float, c: float, d: float) -> None:
    try:
        found = rate_by_weights(a, b, c, d)
    except ProjectError:
        return
    assert found.value > 0
    assert found.uncertainty > 0


@pytest.mark.parametrize(
    ("work", "words"),
    [
        (lambda: rate_by_weights(500, 200, 9, 8), "heavier"),
        (lambda: rate_by_weights(200, 500, 8, 9), "shorter"),
        (lambda: rate_by_wire(4.0, 6.0, 5.0), "thinner"),
        (lambda: rate_by_wire(0.8, 6.0, 0.0), "active turns"),
        (lambda: paste_by_weight(5.0, 5.0, 2500.0), "nothing was used"),
        (lambda: paste_by_weight(5.0, 4.0, 0.0), "density"),
    ],
)
def test_bad_input_gets_one_sentence(work: object, words: str) -> None:
    with pytest.raises(ProjectError, match=words):
        work()  # type: ignore[operator]
