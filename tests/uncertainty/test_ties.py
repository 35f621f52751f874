"""Numbers that share a cause: their errors do not average out, in draws, combined uncertainties and fits."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from ashen_bridge.changes.closings import tie, untie
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.model.ties import Tie
from ashen_bridge.uncertainty.assumptions import Assumption, assumptions
from ashen_bridge.uncertainty.drawing import draw
from ashen_bridge.uncertainty.together import combined, correlation_of


@pytest.fixture(scope="module")
def card() -> Project:
    return open_anything("demo:correlator").project


def two(project: Project) -> tuple[str, str]:
    """Paths of two different uncertain numbers."""
    listed = [one for one in assumptions(project, "as_found", "correlate") if one.uncertainty > 0 and not one.told]
    return listed[0].paths[0], listed[5].paths[0]


def test_a_tie_reaches_both_assumptions_and_goes_again(card: Project) -> None:
    paths = two(card)
    tied = tie(card, Tie(id="caliper", name="Zero of the caliper", paths=paths, share=0.4))
    shares = {one.paths[0]: one.shares for one in assumptions(tied, "as_found", "correlate") if one.shares}
    assert shares == dict.fromkeys(paths, (("caliper", 0.4),))
    assert not any(one.shares for one in assumptions(untie(tied, "caliper"), "as_found", "correlate"))


def test_a_tie_within_one_assumption_or_to_nothing_ties_nothing(card: Project) -> None:
    alike = next(one for one in assumptions(card, "as_found", "correlate") if len(one.paths) > 1)
    for paths in (alike.paths[:2], (alike.paths[0], "device.bodies.gone.height_mm")):
        tied = tie(card, Tie(id="t", paths=paths, share=1.0))
        assert correlation_of(assumptions(tied, "as_found", "correlate")) is None


def test_shares_beyond_the_whole_are_refused(card: Project) -> None:
    paths = two(card)
    first = tie(card, Tie(id="a", paths=paths, share=0.7))
    with pytest.raises(ProjectError, match="add up to 1.4"):
        tie(first, Tie(id="b", paths=paths, share=0.7))


def number(name: str, **more: object) -> Assumption:
    return Assumption((name,), name, (name,), 100.0, 1.0, "measured", "", **more)  # type: ignore[arg-type]


def test_draws_share_what_is_common_and_keep_their_spread() -> None:
    listed = [number("a", shares=(("zero", 0.6),)), number("b", shares=(("zero", 0.6),)), number("c")]
    drawn = draw(listed, 20_000, seed=3)
    found = np.cov(drawn.T)
    assert found == pytest.approx(np.array([[1, 0.6, 0], [0.6, 1, 0], [0, 0, 1]]), abs=0.03)


def test_the_combined_uncertainty_is_that_of_the_gum() -> None:
    """JCGM 100:2008, 5.2.2, equation 13: with r = 1 the parts add up, a difference loses them (note 1 and 5.2.3)."""
    for sign, expected in ((1.0, 7.0), (-1.0, 1.0)):
        both = [
            number("a", shares=(("zero", 1.0),), effects=(("t", 3.0),), effect_k=3.0),
            number("b", shares=(("zero", 1.0),), effects=(("t", 4.0 * sign),), effect_k=4.0),
        ]
        assert combined(both) == {"t": pytest.approx(expected)}
    apart = [replace(one, shares=()) for one in both]
    assert combined(apart) == {"t": pytest.approx(5.0)}


def test_a_tied_fit_is_the_textbooks_with_that_prior() -> None:
    """One reading of a sum ± 0.1 of two numbers that share half: (R⁻¹ + aaᵀ/σ²)⁻¹, inverted as a whole."""
    a, sd = np.array([1.0, 1.0]), 0.1
    correlation = np.array([[1.0, 0.5], [0.5, 1.0]])
    exact = np.linalg.inv(np.linalg.inv(correlation) + np.outer(a, a) / sd**2)
    told = correlation @ a / np.sqrt(a @ correlation @ a + sd**2)
    kept = np.sqrt(1 - told**2)
    listed = [
        number(name, shares=(("zero", 0.5),), told=(float(share),), effects=(("t", float(left)),), effect_k=float(left))
        for name, share, left in zip("ab", told, kept, strict=True)
    ]
    assert combined(listed) == {"t": pytest.approx(float(np.sqrt(a @ exact @ a)))}
    drawn = draw(listed, 20_000, seed=5) * kept
    assert np.cov(drawn.T) == pytest.approx(exact, abs=0.02)
