"""Fitted numbers hang together: draws after a fit against the closed form, and against a fit of the demo's own sensors."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.uncertainty.drawing import draw
from ashen_bridge.uncertainty.together import combined, covariance_with, drawn_together, left


def posterior(slopes: np.ndarray, errors: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Covariance of numbers after readings by the textbook, and the directions the program keeps of it."""
    exact = np.linalg.inv(np.eye(slopes.shape[1]) + slopes.T @ np.diag(1 / errors**2) @ slopes)
    told = np.linalg.solve(np.linalg.cholesky(slopes @ slopes.T + np.diag(errors**2)), slopes).T
    return exact, told


@pytest.mark.parametrize("readings", [1, 3])
def test_draws_after_a_fit_have_the_covariance_of_the_textbook(readings: int) -> None:
    """(1 + SᵀC⁻¹S)⁻¹: A. Tarantola, "Inverse Problem Theory", SIAM 2005, equation 3.37, inverted as a whole."""
    random = np.random.default_rng(3)
    slopes, errors = random.normal(size=(readings, 6)) * 4, random.uniform(0.5, 2, readings)
    exact, told = posterior(slopes, errors)
    spread = np.sqrt(np.diag(exact))
    assert left(told) == pytest.approx(spread)
    drawn = drawn_together(random.standard_normal((200_000, 6)), told)
    assert np.cov(drawn.T) == pytest.approx(exact / np.outer(spread, spread), abs=0.01)
    effects = random.normal(size=6)
    assert covariance_with(effects, told) == pytest.approx((exact / np.outer(spread, spread)) @ effects)


def test_a_power_and_its_resistance_stay_vague_while_their_product_is_known() -> None:
    """Two numbers that one reading sums: each keeps nearly all of its ±, the sum a twentieth of what it was."""

    def one(name: str, told: float) -> Assumption:
        return Assumption((name,), name, (name,), 100.0, 1.0, "calibrated", "", told=(told,), effects=(("t", 1.0),), effect_k=1.0)

    error = 0.1
    told = 1 / np.sqrt(2 + error**2)
    both = (one("power", told), one("resistance", told))
    drawn = draw(both, 4000, seed=1)
    kept = np.sqrt(1 - told**2)
    assert kept == pytest.approx(0.709, abs=0.01)
    assert drawn.std(axis=0) == pytest.approx([1.0, 1.0], abs=0.05)
    assert (drawn.sum(axis=1) * kept).std() == pytest.approx(error * np.sqrt(2 / (2 + error**2)), rel=0.05)
    before = [replace(one, told=()) for one in both]
    assert combined(before) == {"t": pytest.approx(np.sqrt(2))}
    after = [replace(one, uncertainty=kept, effect_k=kept, effects=(("t", kept),)) for one in both]
    assert combined(after) == {"t": pytest.approx(error * np.sqrt(2 / (2 + error**2)), rel=1e-6)}


def test_what_was_not_fitted_is_drawn_as_before() -> None:
    plain = [Assumption((n,), n, (n,), 10.0, 1.0, "assumed", "") for n in "abc"]
    mixed = [Assumption(("z",), "z", ("z",), 10.0, 1.0, "calibrated", "", told=(0.9,)), *plain[1:]]
    assert np.array_equal(draw(plain, 500, seed=4)[:, 1:], draw(mixed, 500, seed=4)[:, 1:])
