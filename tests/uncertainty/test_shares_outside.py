"""Shares of variance against a sensitivity-analysis library (SALib) and its own test functions."""

from __future__ import annotations

import numpy as np
import pytest
from SALib.analyze import sobol as indices
from SALib.sample import sobol as points
from SALib.test_functions import Ishigami
from scipy.stats import norm, qmc

from ashen_bridge.arrays import Floats
from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.uncertainty.chance import chances
from ashen_bridge.uncertainty.outcome import Chance
from ashen_bridge.uncertainty.sampling import Samples

NAMES = ("a", "b", "c", "d")


def told(drawn: Floats, values: Floats) -> Chance:
    numbers = tuple(Assumption((name,), name, (name,), 0.0, 1.0, "assumed", "") for name in NAMES[: drawn.shape[1]])
    found = chances(Samples(("s",), ("S",), (None,), np.zeros(1), values[:, None], drawn, numbers, 1, 0))
    return found.sensors[0]


def test_a_linear_answer_has_the_shares_of_the_library() -> None:
    weights = np.array([4.0, 2.0, 1.0, 0.5])
    problem = {"num_vars": 4, "names": list(NAMES), "bounds": [[0.0, 1.0]] * 4, "dists": ["norm"] * 4}
    at = points.sample(problem, 4096, calc_second_order=False, seed=11)
    theirs = indices.analyze(problem, at @ weights, calc_second_order=False, seed=11)["S1"]
    drawn = norm.ppf(qmc.Sobol(4, seed=7).random(4096))
    mine = told(drawn, drawn @ weights)
    shares = {one.owners[0]: one.share for one in mine.shares}
    for name, wanted in zip(NAMES, theirs, strict=True):
        assert shares.get(name, 0.0) == pytest.approx(wanted, abs=0.01)
    assert mine.unexplained == pytest.approx(0.0, abs=0.01)


def test_what_is_not_linear_is_left_as_a_rest_and_never_claimed() -> None:
    """Ishigami's function: x2 and x3 act without a slope on the whole, so most is rest; x1 at most what the library says."""
    uniform = qmc.Sobol(3, seed=5).random(8192)
    drawn = (uniform - 0.5) * np.sqrt(12)  # of variance 1, as standard uncertainties are
    x = (uniform - 0.5) * 2 * np.pi
    values = Ishigami.evaluate(x)
    problem = {"num_vars": 3, "names": list(NAMES[:3]), "bounds": [[-np.pi, np.pi]] * 3}
    at = points.sample(problem, 4096, calc_second_order=False, seed=3)
    theirs = indices.analyze(problem, Ishigami.evaluate(at), calc_second_order=False, seed=3)
    mine = told(drawn, values)
    shares = {one.owners[0]: one.share for one in mine.shares}
    assert 0.0 < shares["a"] <= theirs["S1"][0] + 0.01
    assert shares.get("c", 0.0) < 0.01
    assert mine.unexplained > 1 - theirs["S1"][0]
