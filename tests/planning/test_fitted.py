"""Materials from tests: an exact line with known noise, a curve that was squeezed, bad tables in one sentence."""

from __future__ import annotations

import numpy as np
import pytest

from ashen_bridge.changes.materials import fitted_curve, fitted_series
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.planning.choosing.fitted import fit_series, fit_squeeze, read_series
from devices import Card
from devices import project as card_project

THICKNESS = np.repeat([0.5, 1.0, 1.5, 2.0, 3.0], 2)


def test_an_exact_line_is_found_exactly() -> None:
    """k = 5 W/m·K, 18 mm²·K/W each face: R = 36 + 200·t by hand."""
    found = fit_series(THICKNESS, 36 + 200 * THICKNESS)
    assert found.conductivity == pytest.approx(5.0)
    assert found.face == pytest.approx(18.0)
    assert found.odd == ()


def test_the_interval_covers_what_it_says() -> None:
    """A thickness series with known noise, 2,000 times: the 95 % interval holds the truth in 93 to 97 of a hundred."""
    chance = np.random.default_rng(54)
    held = 0
    for _ in range(2000):
        found = fit_series(THICKNESS, 36 + 200 * THICKNESS + 8 * chance.standard_normal(len(THICKNESS)))
        held += found.conductivity_low <= 5.0 <= found.conductivity_high
    assert 0.93 <= held / 2000 <= 0.97


def test_the_odd_row_is_named() -> None:
    noisy = 36 + 200 * THICKNESS + np.tile([1.0, -1.0], 5)
    noisy[6] += 90
    assert fit_series(THICKNESS, noisy).odd == (7,)


def test_a_squeeze_gives_the_curve_back_in_any_order() -> None:
    strain = np.linspace(0, 0.5, 25)
    kpa = 60 * strain + 700 * strain**3
    area = 400.0
    order = np.random.default_rng(2).permutation(25)
    found = fit_squeeze((kpa * area / 1e3)[order], (2.0 * (1 - strain))[order], area)
    assert found.free_mm == 2.0
    at, shown = np.array(found.points).T
    assert shown == pytest.approx(60 * at + 700 * at**3, rel=0.05, abs=1.0)
    assert (np.diff(shown) > 0).all()
    card = card_project(Card(parts=()))
    after = fitted_curve(card, "pad_soft", found.points, found.free_mm, area, found.relative_u).material("pad_soft")
    assert after.compression is not None
    assert after.compression.points[-1].strain == pytest.approx(0.5)
    again = fitted_series(card, "pad_soft", (5.0, 0.2), (18.0, 2.0)).material("pad_soft")
    assert (again.conductivity_w_mk.value, again.contact_mm2k_w.uncertainty) == (5.0, 2.0)
    with pytest.raises(ProjectError, match="no pad"):
        fitted_curve(card, "paste_filled", found.points, 2.0, area, 0.1)


@pytest.mark.parametrize(
    ("thickness", "resistance", "says"),
    [([1, 1, 1], [3, 3, 3], "two thicknesses"), ([1, 2], [3, 4], "three readings"), ([1, 2, 3], [5, 4, 3], "does not rise")],
)
def test_series_that_say_nothing(thickness: list[float], resistance: list[float], says: str) -> None:
    with pytest.raises(ProjectError, match=says):
        fit_series(thickness, resistance)


@pytest.mark.parametrize(
    ("force", "thick", "says"),
    [([0, 1], [1, 1], "three readings"), ([0, -1, 2], [1, 1, 1], "negative"), ([0, 5, 9], [1, 1, 1], "hardly")],
)
def test_squeezes_that_say_nothing(force: list[float], thick: list[float], says: str) -> None:
    with pytest.raises(ProjectError, match=says):
        fit_squeeze(force, thick, 100.0)


def test_tables_name_their_bad_lines() -> None:
    found = read_series("thickness_mm;resistance_mm2k_w\n0.5 mm;120\n1;230\n")
    assert found == {"thickness_mm": [0.5, 1.0], "resistance_mm2k_w": [120.0, 230.0]}
    with pytest.raises(ProjectError, match=r"line 3.*line 4"):
        read_series("a,b\n1,2\nx,3\n4\n")
    with pytest.raises(ProjectError, match="no readings"):
        read_series("a,b\n")
