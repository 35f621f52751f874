"""Whether a channel has settled and where it is heading: against closed forms, and two hundred invented runs with known ends."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest
from scipy.optimize import least_squares

from ashen_bridge.logs.heading import KNOWN_K, heading, thinned, without_spikes
from ashen_bridge.logs.outcome import Heading, Refusal
from ashen_bridge.logs.settling import SETTLED_K, Rest, at_rest, last_step, settled_window
from ashen_bridge.logs.statistics import effective_count
from ashen_bridge.simulated.loads import KINDS, LoadRun, load_run, load_runs


def climbing(end: float, tau: float, length: float, seed: int, rho: float = 0.0) -> tuple[np.ndarray, np.ndarray]:
    t = np.arange(0.0, length, 1.0)
    kicks = np.random.default_rng(seed).normal(0, np.sqrt(1 - rho**2), len(t))
    noise = np.zeros(len(t))
    for n in range(1, len(t)):
        noise[n] = rho * noise[n - 1] + kicks[n]
    return t, end - 50 * np.exp(-t / tau) + 0.3 * noise


def test_the_settled_window_starts_when_the_curve_has_come_to_rest() -> None:
    t, y = climbing(90.0, 200.0, 3000.0, 3)
    window = settled_window(t, y)
    assert window is not None
    assert 600 < window[0] < 1500  # 50·exp(−t/200) is below 1 K after 780 s
    assert settled_window(*climbing(90.0, 2000.0, 1500.0, 3)) is None
    assert settled_window(np.arange(3.0), np.arange(3.0)) is None


def test_a_short_window_on_a_slow_climb_is_not_taken_for_rest() -> None:
    """A box with τ = 1200 s, logged for 1500 s: it drifts less than 1 K over the last tenth, with 13 K to go."""
    t = np.arange(0.0, 1500.0, 5.0)
    chance = np.random.default_rng(2)
    slow = 20 + 45 * (1 - np.exp(-t / 1200)) + chance.normal(0, 0.05, len(t))
    assert at_rest(t, slow).window is None
    done = 20 + 45 * (1 - np.exp(-t / 120)) + chance.normal(0, 0.05, len(t))
    assert at_rest(t, done).window is not None
    assert at_rest(t, 60 + chance.normal(0, 0.1, len(t))).window is not None


@pytest.mark.parametrize(("rho", "times"), [(0.0, 150), (0.7, 100)])
def test_ends_are_covered_as_often_as_they_claim(rho: float, times: int) -> None:
    """First-order curves against known truth: what is left beside noise is a floor, so the interval may hold it more often."""
    found = [heading(*climbing(95.0, 300.0, 600.0, seed, rho=rho)) for seed in range(times)]
    told = [one for one in found if isinstance(one, Heading)]
    assert len(told) > 0.3 * times
    assert np.mean([one.low <= 95.0 <= one.high for one in told]) >= 0.93
    assert np.median([(one.high - one.low) / 2 for one in told]) < KNOWN_K


def test_two_constants_are_found_where_there_are_two() -> None:
    t = np.arange(0.0, 4000.0, 1.0)
    y = 88 - 30 * np.exp(-t / 40) - 25 * np.exp(-t / 900) + np.random.default_rng(2).normal(0, 0.2, len(t))
    found = heading(t, y)
    assert isinstance(found, Heading)
    assert found.end == pytest.approx(88, abs=0.5)
    assert found.low <= 88 <= found.high
    assert max(found.constants_s) == pytest.approx(900, rel=0.25)


def test_what_the_data_cannot_carry_is_refused() -> None:
    t = np.arange(0.0, 300.0, 1.0)
    straight = heading(t, 50 + 0.02 * t + np.random.default_rng(1).normal(0, 0.2, len(t)))
    assert isinstance(straight, Refusal)
    assert straight.slope_per_min == pytest.approx(1.2, abs=0.4)
    assert isinstance(heading(t[:5], t[:5]), Refusal)


def test_a_known_slowest_constant_is_no_reason_to_call_it_settled() -> None:
    t = np.arange(0.0, 900.0, 2.0)
    y = 80 - 35 * np.exp(-t / 50) - 10 * np.exp(-t / 1200) + np.random.default_rng(4).normal(0, 0.1, len(t))
    assert at_rest(t, y, slowest_s=1200.0).window is None
    assert at_rest(t, y, slowest_s=30.0).window is None, "neither is a wrong one"


def test_one_spike_does_not_keep_a_run_from_rest() -> None:
    t, y = climbing(90.0, 60.0, 1500.0, 5)
    y[700] += 60.0
    assert at_rest(t, y).window is not None


def test_the_last_step_of_the_load_is_found() -> None:
    run = load_run("load steps", 3)
    assert last_step(run.time, run.power) == pytest.approx(run.stepped_s, abs=15)
    steady = load_run("two constants", 3)
    assert last_step(steady.time, steady.power) == steady.time[0]
    assert last_step(steady.time, None) == steady.time[0]


# ---- two hundred runs


@pytest.fixture(scope="module")
def judged() -> list[tuple[LoadRun, Rest]]:
    return [(run, at_rest(run.time, run.temperature, last_step(run.time, run.power))) for run in load_runs(20)]


@pytest.mark.long
def test_what_is_called_settled_is(judged: list[tuple[LoadRun, Rest]]) -> None:
    right = []
    for run, rest in judged:
        if rest.window is not None:
            mean = np.nanmean(without_spikes(run.temperature)[run.time >= rest.window[0]])
            right.append(abs(mean - run.end) <= SETTLED_K)
    assert len(right) >= 60
    assert np.mean(right) >= 0.95


@pytest.mark.long
def test_ends_of_what_still_climbs_lie_within_their_interval(judged: list[tuple[LoadRun, Rest]]) -> None:
    inside = [
        rest.ahead.low <= run.end <= rest.ahead.high
        for run, rest in judged
        if rest.window is None and isinstance(rest.ahead, Heading)
    ]
    assert len(inside) >= 50
    assert 0.90 <= np.mean(inside) <= 0.99
    widths = [rest.ahead.high - rest.ahead.low for _, rest in judged if isinstance(rest.ahead, Heading)]
    assert max(widths) <= 2 * KNOWN_K


@pytest.mark.long
def test_a_refusal_is_never_rest_and_seldom_where_the_end_can_be_known(judged: list[tuple[LoadRun, Rest]]) -> None:
    slow = [rest for run, rest in judged if run.kind == "slow tail"]
    assert all(rest.window is None for rest in slow), "20 of 20 slow tails were once called settled"
    known = [isinstance(rest.ahead, Refusal) and rest.window is None for run, rest in judged if half_width(run) <= KNOWN_K]
    assert len(known) >= 180
    assert np.mean(known) <= 0.20


def half_width(run: LoadRun) -> float:
    """How well a fit of the true form, begun at the truth, knows the end [K]."""
    after = run.time >= run.stepped_s
    t, y = thinned(run.time[after], without_spikes(run.temperature[after]))
    t, count = t - t[0], len(run.constants)

    def miss(p: np.ndarray) -> np.ndarray:
        modes = p[1 : 1 + count] @ np.exp(-t / np.exp(p[1 + count :, None]))
        return np.asarray(p[0] + modes - y)

    begin = np.concatenate([[run.end], np.full(count, (y[0] - run.end) / count), np.log(run.constants)])
    found = least_squares(miss, begin)
    worth = max(effective_count(found.fun), 2 * count + 3)
    try:
        inverse = np.linalg.inv(found.jac.T @ found.jac)
    except np.linalg.LinAlgError:
        return float("inf")
    return float(1.96 * np.sqrt(inverse[0, 0] * (found.fun @ found.fun) / (len(t) - 2 * count - 1) * len(t) / worth))


@pytest.mark.long
def test_every_kind_is_among_them(judged: list[tuple[LoadRun, Rest]]) -> None:
    assert Counter(run.kind for run, _ in judged) == dict.fromkeys(KINDS, 20)
    again = load_run("spikes", 7)
    assert np.array_equal(again.temperature, load_run("spikes", 7).temperature)
