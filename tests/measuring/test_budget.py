"""Budgets against published ones, and estimates against the textbook's."""

from __future__ import annotations

import math

import numpy as np
import pytest

from ashen_bridge.estimate.posterior import posterior
from ashen_bridge.estimate.rows import Rows
from ashen_bridge.measuring.budget import budget


def test_the_end_gauge_of_the_guide() -> None:
    """JCGM 100:2008 (GUM), H.1: an end gauge compared with a standard; standard uncertainties in nm from its table H.1."""
    standard, difference, expansion, temperature = 25.0, 9.7, 2.9, 16.6
    # Numbers: the gauge (nothing known), the standard, what its expansion and the temperatures differ by.
    rows = Rows(
        np.array([215.0]),
        np.diag([difference**2]),
        np.zeros(1),
        np.array([[1.0, standard, expansion, temperature]]),
        ("comparison",),
        np.eye(4),
        np.array([True, False, False, False]),
    )
    found = posterior(rows)
    target = np.array([1.0, 0.0, 0.0, 0.0])
    value, sd = found.of(target)
    assert value == pytest.approx(215.0)
    assert sd == pytest.approx(32.0, abs=0.5)  # u_c(l) = 32 nm there
    shares = {one.source: one.share for one in budget(found, target, ("gauge", "standard", "expansion", "temperature"))}
    assert sum(shares.values()) == pytest.approx(1.0)
    assert shares["standard"] == pytest.approx(standard**2 / sd**2)
    assert shares["comparison"] == pytest.approx(difference**2 / sd**2)
    assert "gauge" not in shares, "nothing was known of it beforehand"


def test_ten_resistors_of_one_standard() -> None:
    """JCGM 100:2008 (GUM), 5.2.2, example: ten resistors by one standard of ±100 mΩ, in series: ±1 Ω, not ±0.32 Ω."""
    one = 0.1
    slopes = np.hstack([np.eye(10), np.full((10, 1), -one)])
    free = np.array([True] * 10 + [False])
    rows = Rows(np.full(10, 1000.0), np.eye(10) * 1e-8, np.zeros(10), slopes, (), np.eye(11), free)
    found = posterior(rows)
    in_series, two = np.array([1.0] * 10 + [0.0]), np.array([1.0, -1.0] + [0.0] * 9)
    assert found.of(in_series)[1] == pytest.approx(1.0, rel=1e-4)
    assert found.of(two)[1] == pytest.approx(math.sqrt(2) * 1e-4, rel=1e-3), "a difference loses what both have in common"
    assert budget(found, in_series, [f"resistor {n}" for n in range(10)] + ["standard"])[0].source == "standard"


def test_two_methods_make_their_weighted_mean() -> None:
    """Weighted mean and its uncertainty: JCGM 100:2008, and any statistics book; chi-square by hand."""
    values, errors = np.array([0.86, 0.73, 0.75]), np.array([0.06, 0.03, 0.02])
    rows = Rows(values, np.diag(errors**2), np.zeros(3), np.ones((3, 1)), (), None, np.array([True]))
    found = posterior(rows)
    weights = 1 / errors**2
    mean, sd = found.of(np.ones(1))
    assert mean == pytest.approx(float(weights @ values / weights.sum()))
    assert sd == pytest.approx(1 / math.sqrt(weights.sum()))
    assert found.misfit == pytest.approx(float(weights @ (values - mean) ** 2))
    shares = budget(found, np.ones(1), ("gap",))
    assert [one.share for one in shares] == pytest.approx(sorted(weights / weights.sum(), reverse=True))


def test_a_budget_with_numbers_that_share_a_cause_is_whole() -> None:
    random = np.random.default_rng(4)
    slopes = random.normal(size=(5, 6))
    prior = np.full((6, 6), 0.6) + 0.4 * np.eye(6)
    rows = Rows(random.normal(size=5), np.diag(random.uniform(0.1, 1, 5)), np.zeros(5), slopes, (), prior)
    found, target = posterior(rows), random.normal(size=6)
    shares = budget(found, target, [f"number {n}" for n in range(6)])
    assert sum(one.share for one in shares) == pytest.approx(1.0, abs=1e-3)
