"""Slips of hands in sets of readings as a route makes them: named where they can be told apart; nobody accused for nothing."""

from __future__ import annotations

import numpy as np
import pytest

from ashen_bridge.arrays import Floats
from ashen_bridge.estimate.odd import odd_one, odd_ones, separable
from ashen_bridge.estimate.posterior import posterior
from ashen_bridge.estimate.rows import Rows
from ashen_bridge.files.demos import open_anything
from ashen_bridge.measuring.gauging import Gauging, gauging
from ashen_bridge.measuring.route import Candidate, candidates, on_the_way
from ashen_bridge.model.sharing import replaced
from ashen_bridge.predict.engine import Engine
from ashen_bridge.uncertainty.together import correlation_of

SETS, ERROR_MM, ZERO_MM = 500, 0.02, 0.01
SLIPS = (0.1, 0.3, 0.5, 1.0)


@pytest.fixture(scope="module")
def bench() -> tuple[Gauging, list[Candidate], list[int]]:
    """What can be read of the demo's card, in the order of a route for all its gaps."""
    project = replaced(open_anything("demo:correlator").project, readings=(), taken_over=())
    *_, (_, gauged) = gauging(Engine(), project, "as_found")
    assert gauged is not None
    can = [one for one in candidates(project, gauged) if one.slopes.any()]
    return gauged, can, list(on_the_way(gauged, range(len(gauged.gaps)), can, len(can)))


def drawn(bench: tuple[Gauging, list[Candidate], list[int]], random: np.random.Generator) -> tuple[Rows, Floats]:
    """Return a set of 10 to 50 readings of a real device, all with one caliper's zero, and their true values."""
    gauged, can, way = bench
    count = len(gauged.numbers)
    size = int(random.integers(10, 51))
    chosen = [way[n % len(way)] for n in range(size)]
    slopes = np.array([np.append(can[n].slopes, ZERO_MM if can[n].form != "step" else 0.0) for n in chosen])
    prior = np.eye(count + 1)
    shared = correlation_of(gauged.numbers)
    if shared is not None:
        prior[:count, :count] = shared
    start = np.array([can[n].value for n in chosen])
    x = np.linalg.cholesky(prior + 1e-12 * np.eye(count + 1)) @ random.standard_normal(count + 1)
    truth = start + slopes @ x
    values = truth + ERROR_MM * random.standard_normal(size)
    labels = tuple(f"r{n}" for n in range(size))
    return Rows(values, np.diag(np.full(size, ERROR_MM**2)), start, slopes, labels, prior), truth


def test_clean_sets_of_any_size_accuse_nobody(bench: tuple[Gauging, list[Candidate], list[int]]) -> None:
    random = np.random.default_rng(150)
    accused = sum(odd_one(posterior(drawn(bench, random)[0])) is not None for _ in range(SETS))
    assert accused <= 0.05 * SETS + 2 * np.sqrt(0.05 * 0.95 * SETS)


def test_slips_above_the_separable_limit_are_named_and_below_it_are_among_those_named(
    bench: tuple[Gauging, list[Candidate], list[int]],
) -> None:
    random = np.random.default_rng(151)
    above = named = below = told = 0
    for n in range(SETS):
        rows, _ = drawn(bench, random)
        at, slip = int(random.integers(rows.n_reading)), SLIPS[n % len(SLIPS)]
        values = rows.values.copy()
        values[at] += slip * random.choice([-1, 1])
        wrong = Rows(values, rows.covariance, rows.start, rows.slopes, rows.labels, rows.prior)
        found = posterior(wrong)
        limit = separable(found)[at]
        odd = odd_one(found)
        if slip >= limit:
            above += 1
            named += odd is not None and odd.index == at
        elif odd is not None:
            below += 1
            told += odd.index == at or wrong.label(at) in odd.alike
    assert above > 200, "most slips of a digit are above it"
    assert named >= 0.9 * above
    assert told >= 0.75 * below


def test_two_readings_that_say_the_same_cannot_be_told_apart(bench: tuple[Gauging, list[Candidate], list[int]]) -> None:
    """By hand: two readings of one length of which nothing else is known: either may be wrong, and the limit is infinite."""
    rows = Rows(np.array([1.0, 1.5]), 1e-4 * np.eye(2), np.zeros(2), np.ones((2, 1)), ("a", "b"), free=np.array([True]))
    (odd,) = odd_ones(rows, most=1)
    assert {odd.label, *odd.alike} == {"a", "b"}
    assert odd.separable == np.inf
    third = Rows(
        np.array([1.0, 1.5, 1.0]), 1e-4 * np.eye(3), np.zeros(3), np.ones((3, 1)), ("a", "b", "c"), free=np.array([True])
    )
    (odd,) = odd_ones(third, most=1)
    assert (odd.label, odd.alike) == ("b", ())
    assert odd.separable < 0.1
