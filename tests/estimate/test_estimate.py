"""The estimator against worked examples, a statistics library, a certified problem and brute force."""

from __future__ import annotations

import numpy as np
import pytest
import statsmodels.api as sm
from scipy.stats import norm

from ashen_bridge.estimate.next_reading import Offer, left_by_draws, next_readings
from ashen_bridge.estimate.odd import contradict, odd_one, odd_ones, redundancy, standardised, threshold
from ashen_bridge.estimate.posterior import posterior
from ashen_bridge.estimate.rows import EstimateError, Rows
from ashen_bridge.estimate.telling import information, taken
from ashen_bridge.estimate.weighed import weighed_draws
from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.uncertainty.together import correlation_of

CERTIFIED = [  # NIST StRD, linear regression, Longley (higher difficulty): certified estimates and standard deviations
    (-3482258.63459582, 890420.383607373),
    (15.0618722713733, 84.9149257747669),
    (-0.358191792925910e-01, 0.334910077722432e-01),
    (-2.02022980381683, 0.488399681651699),
    (-1.03322686717359, 0.214274163161675),
    (-0.511041056535807e-01, 0.226073200069370),
    (1829.15146461355, 455.478499142212),
]


def rows(seed: int, readings: int = 12, numbers: int = 5, **more: object) -> Rows:
    rng = np.random.default_rng(seed)
    slopes = rng.normal(size=(readings, numbers))
    some = rng.normal(size=(readings, readings))
    covariance = some @ some.T / readings + np.diag(rng.uniform(0.1, 0.5, readings))
    values = slopes @ rng.normal(size=numbers) + np.linalg.cholesky(covariance) @ rng.normal(size=readings)
    return Rows(values, covariance, np.zeros(readings), slopes, **more)  # type: ignore[arg-type]


def test_two_readings_of_one_number_by_hand() -> None:
    # Conjugate normal: prior 0 ± 1, readings 1 ± 1 and 2 ± 0.5. Precision 1 + 1 + 4 = 6, mean (1 + 8) / 6 = 1.5.
    found = posterior(Rows(np.array([1.0, 2.0]), np.diag([1.0, 0.25]), np.zeros(2), np.ones((2, 1))))
    assert found.mean == pytest.approx([1.5])
    assert found.covariance[0, 0] == pytest.approx(1 / 6)
    # Information by hand: leaving the second out there are 2 of 6 parts of precision, leaving out the first 5.
    assert information(found) == pytest.approx([0.5 * np.log(6 / 5), 0.5 * np.log(6 / 2)])
    # Of the prior's variance 1 the first takes 1/5 − 1/6, the second 1/2 − 1/6.
    assert taken(found, np.ones(1)) == pytest.approx([1 / 5 - 1 / 6, 1 / 2 - 1 / 6])


def test_readings_one_after_the_other_are_a_kalman_update() -> None:
    # R. E. Kalman, Journal of Basic Engineering 82, 1960: K = P·a / (a·P·a + σ²), x += K·(y − a·x), P −= K·a·P.
    of = rows(3, readings=7)
    of = Rows(of.values, np.diag(np.diag(of.covariance)), of.start, of.slopes)
    x, p = np.zeros(5), np.eye(5)
    for value, variance, a in zip(of.values, np.diag(of.covariance), of.slopes, strict=True):
        gain = p @ a / (a @ p @ a + variance)
        x, p = x + gain * (value - a @ x), p - np.outer(gain, a @ p)
    found = posterior(of)
    assert found.mean == pytest.approx(x)
    assert found.covariance == pytest.approx(p)


def test_longley_to_ten_digits() -> None:
    # With nothing known beforehand the posterior is least squares; its spread is per unit of residual standard deviation.
    data = sm.datasets.longley.load_pandas()
    slopes = np.column_stack([np.ones(16), data.exog.to_numpy()])
    values = data.endog.to_numpy()
    found = posterior(Rows(values, np.eye(16), np.zeros(16), slopes, free=np.ones(7, dtype=bool)))
    residual_sd = np.sqrt(found.residuals @ found.residuals / (16 - 7))
    assert residual_sd == pytest.approx(304.854073561965, rel=1e-10)
    for n, (estimate, sd) in enumerate(CERTIFIED):
        assert found.mean[n] == pytest.approx(estimate, rel=1e-9)
        assert found.sd[n] * residual_sd == pytest.approx(sd, rel=1e-9)


@pytest.mark.parametrize("seed", range(5))
def test_generalised_least_squares_as_a_statistics_library_has_it(seed: int) -> None:
    of = rows(seed, free=np.ones(5, dtype=bool))
    theirs = sm.GLS(of.values, of.slopes, sigma=of.covariance).fit(cov_type="fixed scale")
    found = posterior(of)
    assert found.mean == pytest.approx(np.asarray(theirs.params))
    assert found.covariance == pytest.approx(np.asarray(theirs.normalized_cov_params))
    assert found.misfit == pytest.approx(float(theirs.ssr))


@pytest.mark.parametrize("seed", range(3))
def test_leverage_and_standardised_residuals_as_a_statistics_library_has_them(seed: int) -> None:
    of = rows(seed, free=np.ones(5, dtype=bool))
    sd = np.sqrt(np.diag(of.covariance))
    of = Rows(of.values, np.diag(sd**2), of.start, of.slopes, free=of.free)
    influence = sm.OLS(of.values / sd, of.slopes / sd[:, None]).fit().get_influence()
    found = posterior(of)
    assert 1 - redundancy(found) == pytest.approx(influence.hat_matrix_diag)
    residual_sd = np.sqrt(found.misfit / (12 - 5))
    assert standardised(found) / residual_sd == pytest.approx(influence.resid_studentized_internal)


def test_order_units_and_splitting_change_nothing() -> None:
    of = rows(11)
    order = np.random.default_rng(1).permutation(of.n_reading)
    scale = np.random.default_rng(2).uniform(0.01, 100, of.n_reading)
    mixed = Rows(
        (of.values * scale)[order],
        (of.covariance * np.outer(scale, scale))[np.ix_(order, order)],
        of.start[order],
        (of.slopes * scale[:, None])[order],
    )
    found, other = posterior(of), posterior(mixed)
    assert other.mean == pytest.approx(found.mean)
    assert other.covariance == pytest.approx(found.covariance)
    assert standardised(other) == pytest.approx(standardised(found)[order])
    assert information(other) == pytest.approx(information(found)[order])


def test_a_blunder_is_named_and_what_it_would_have_been() -> None:
    of = rows(5, readings=20, labels=tuple(f"reading {n}" for n in range(20)))
    sd = float(np.sqrt(of.covariance[7, 7]))
    values = of.values.copy()
    values[7] += 12 * sd
    spoilt = posterior(Rows(values, of.covariance, of.start, of.slopes, of.labels))
    odd = odd_one(spoilt)
    assert odd is not None
    assert (odd.index, odd.label) == (7, "reading 7")
    assert contradict(spoilt)
    # What the others say, and its ±, are what one finds without it.
    rest = posterior(of.without(7))
    expected, u = rest.of(of.slopes[7])
    cross = np.delete(of.covariance[7], 7) @ np.linalg.inv(of.without(7).covariance)
    expected += float(cross @ rest.residuals)
    assert odd.expected[0] == pytest.approx(expected)
    assert odd.without.mean == pytest.approx(rest.mean)
    assert u > 0


def test_two_blunders_are_named_one_after_the_other() -> None:
    of = rows(6, readings=25)
    values = of.values.copy()
    values[[3, 17]] += np.array([15.0, -11.0]) * np.sqrt(np.diag(of.covariance)[[3, 17]])
    assert {one.index for one in odd_ones(Rows(values, of.covariance, of.start, of.slopes))} == {3, 17}


def test_healthy_readings_are_seldom_accused() -> None:
    accused = 0
    for seed in range(400):
        rng = np.random.default_rng(seed)
        slopes = rng.normal(size=(10, 3))
        values = slopes @ rng.normal(size=3) + 0.3 * rng.normal(size=10)
        accused += odd_one(posterior(Rows(values, 0.09 * np.eye(10), np.zeros(10), slopes))) is not None
    assert 6 <= accused <= 34  # 5 % of 400 are 20, ± three binomial standard deviations of 4.4


def test_thresholds_by_the_table_of_the_normal_distribution() -> None:
    assert threshold(1) == pytest.approx(1.959964, abs=1e-5)
    assert threshold(10) == pytest.approx(float(norm.ppf(1 - (1 - 0.95**0.1) / 2)))
    assert threshold(200) > threshold(10) > threshold(1)


def test_a_reading_that_nothing_checks_is_never_odd() -> None:
    # One free number, one reading: whatever it says is believed.
    of = Rows(np.array([1e6]), np.eye(1), np.zeros(1), np.ones((1, 1)), free=np.ones(1, dtype=bool))
    found = posterior(of)
    assert odd_one(found) is None
    assert redundancy(found) == pytest.approx([0.0], abs=1e-9)


def test_the_next_reading_is_what_brute_force_finds() -> None:
    of = rows(8, readings=4)
    found = posterior(of)
    target = np.random.default_rng(0).normal(size=5)
    rng = np.random.default_rng(1)
    offers = [Offer(str(n), rng.normal(size=5), float(rng.uniform(0.2, 1)), float(rng.uniform(1, 9))) for n in range(6)]
    ranked = next_readings(found, target, offers)
    for one in ranked:
        grown = np.zeros((5, 5))
        grown[:4, :4], grown[4, 4] = of.covariance, one.offer.uncertainty**2
        after = posterior(Rows(np.append(of.values, 0), grown, np.zeros(5), np.vstack([of.slopes, one.offer.slopes])))
        assert one.then == pytest.approx(after.of(target)[1])
    gains = [(one.now**2 - one.then**2) / one.offer.minutes for one in ranked]
    assert gains == sorted(gains, reverse=True)


def test_draws_say_of_straight_readings_what_the_formula_says() -> None:
    found = posterior(rows(9, readings=3))
    target = np.random.default_rng(4).normal(size=5)
    offers = [Offer(str(n), np.random.default_rng(n).normal(size=5), 0.4) for n in range(4)]
    drawn = found.mean + np.random.default_rng(5).normal(size=(6000, 5)) @ found.root.T
    reads = np.stack([drawn @ one.slopes for one in offers], axis=1)
    left = left_by_draws(drawn @ target, reads, np.full(4, 0.4))
    by_formula = {one.offer.label: one.then**2 for one in next_readings(found, target, offers)}
    for one, variance in zip(offers, left, strict=True):
        assert variance == pytest.approx(by_formula[one.label], rel=0.12)


def test_draws_are_weighed_to_the_linear_posterior_where_that_is_exact() -> None:
    of = rows(12, readings=6, numbers=3)
    found = posterior(of)
    inverse = np.linalg.inv(of.covariance)

    def likely(x: np.ndarray) -> np.ndarray:
        rest = of.values - x @ of.slopes.T
        return np.asarray(-0.5 * np.einsum("si,ij,sj->s", rest, inverse, rest))

    # Started from the prior, where nearly no draw is any good.
    weighed = weighed_draws(np.random.default_rng(1), np.zeros(3), np.eye(3), likely, count=6000)
    assert weighed.effective >= 500
    assert weighed.mean(weighed.draws) == pytest.approx(found.mean, abs=4 * found.sd.max() / np.sqrt(weighed.effective))
    assert weighed.mean((weighed.draws - found.mean) ** 2) == pytest.approx(found.sd**2, rel=0.15)


def test_draws_of_a_statement_by_quadrature() -> None:
    # "At least half a unit above": the mean of a normal cut off below, φ(0.5) / (1 − Φ(0.5)).
    weighed = weighed_draws(
        np.random.default_rng(2), np.zeros(1), np.eye(1), lambda x: np.where(x[:, 0] > 0.5, 0.0, -np.inf), count=6000
    )
    assert weighed.mean(weighed.draws)[0] == pytest.approx(norm.pdf(0.5) / norm.sf(0.5), abs=0.05)


def test_what_cannot_be_is_refused_in_words() -> None:
    with pytest.raises(EstimateError, match="cannot be"):
        weighed_draws(np.random.default_rng(1), np.zeros(2), np.eye(2), lambda x: np.full(len(x), -np.inf))
    with pytest.raises(EstimateError, match="contradicts"):
        # Two statements that hold nowhere together, each with all its weight far out.
        weighed_draws(np.random.default_rng(1), np.zeros(2), np.eye(2), lambda x: -1e9 * np.abs(np.sin(1e5 * x[:, 0])))


def test_what_shares_a_cause_does_not_average_out() -> None:
    # Four heights by one caliper: half of the variance is its zero. Mean of four: s + (1 − s) / 4.
    heights = [Assumption((n,), n, (n,), 1.0, 0.1, "measured", "", shares=(("caliper", 0.5),)) for n in "abcd"]
    prior = correlation_of(heights)
    found = posterior(Rows(np.zeros(0), np.zeros((0, 0)), np.zeros(0), np.zeros((0, 4)), prior=prior))
    assert found.of(np.full(4, 0.25))[1] ** 2 == pytest.approx(0.5 + 0.5 / 4)
    # A difference loses the zero altogether.
    assert found.of(np.array([1.0, -1.0, 0.0, 0.0]))[1] ** 2 == pytest.approx(2 * 0.5)


@pytest.mark.parametrize(
    ("spoil", "words"),
    [
        (lambda of: Rows(of.values, of.covariance * 0, of.start, of.slopes), "no uncertainty"),
        (lambda of: Rows(of.values[:-1], of.covariance, of.start, of.slopes), "different sizes"),
        (lambda of: Rows(of.values * np.nan, of.covariance, of.start, of.slopes), "not a number"),
        (lambda of: posterior(Rows(of.values, of.covariance, of.start, of.slopes * 0, free=np.ones(5, dtype=bool))), "nothing"),
        (lambda of: posterior(Rows(of.values, of.covariance, of.start, of.slopes, prior=np.ones((5, 5)) * 2)), "share more"),
    ],
)
def test_bad_rows_are_refused_in_words(spoil: object, words: str) -> None:
    with pytest.raises(EstimateError, match=words):
        spoil(rows(1))  # type: ignore[operator]


def test_no_reading_leaves_everything_as_it_was() -> None:
    found = posterior(Rows(np.zeros(0), np.zeros((0, 0)), np.zeros(0), np.zeros((0, 3))))
    assert found.mean == pytest.approx(np.zeros(3))
    assert found.covariance == pytest.approx(np.eye(3))
    assert not len(standardised(found))
    assert odd_one(found) is None
    assert not contradict(found)
