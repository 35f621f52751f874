"""The heat solver against published solutions and closed forms. Each expected number names where it comes from."""

from __future__ import annotations

import math
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest

from ashen_bridge.geometry.region import Region
from ashen_bridge.library import materials
from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sinks import RatedSink
from ashen_bridge.thermal.lines import Lines
from ashen_bridge.thermal.parts import Contact, Film, Heat, HeatModel, Layer, Slab, cell_areas
from ashen_bridge.thermal.sink import Base, film_from_base, rated_resistance
from ashen_bridge.thermal.spreading import spreading_lee
from ashen_bridge.thermal.steady import SteadySolver
from ashen_bridge.thermal.surfaces import STEFAN_BOLTZMANN, effective_emissivity

HOLD = 1e9  # W/m²·K: as good as a face held at its air's temperature


def even(length: float, cells: int) -> np.ndarray:
    return np.linspace(0, length, cells + 1)


def block(name: str, region: Region, thickness: float, k: float, layers: int, exponent: float = 0.0) -> Slab:
    return Slab(name, region, (Layer(thickness / layers, k, k, 1e6, exponent),) * layers)


def test_layered_wall_in_series() -> None:
    """q = ΔT / Σ(t/k): plane wall of three layers, textbook conduction in series (Incropera & DeWitt, ch. 3)."""
    side, region = 0.02, Region(((0, 0, 0.02, 0.02),))
    lines = Lines(even(side, 4), even(side, 4))
    slabs = (block("a", region, 1e-3, 401, 3), block("b", region, 2e-3, 0.5, 3), block("c", region, 3e-3, 148, 3))
    area = cell_areas(region, lines)
    joints = tuple(Contact((m, n), (1, 0), area, area * 1e5) for m, n in (("a", "b"), ("b", "c")))  # 10 mm²K/W each
    films = (Film("a", 0, region, HOLD, 400.0), Film("c", 1, region, HOLD, 300.0))
    field = SteadySolver().solve(HeatModel(lines, slabs, joints, films, (), reference=300.0))
    resistance = 1e-3 / 401 + 1e-5 + 2e-3 / 0.5 + 1e-5 + 3e-3 / 148
    assert field.film_power[1] == pytest.approx(100 / resistance * side**2, rel=1e-6)
    assert field.energy_rel < 1e-6


def series(
    a: float, b: float, c: float, d: float, t: float, k: float, h: float, xc: float, yc: float, terms: int = 160
) -> tuple[float, float]:
    """Mean and centre temperature rise per watt of a rectangular source c × d at (xc, yc) on a plate a × b × t, film h below.

    Y. S. Muzychka, J. R. Culham, M. M. Yovanovich, "Thermal spreading resistance of eccentric heat sources on rectangular
    flux channels", J. Electronic Packaging 125, 2003, eqs. for the single layer channel.
    """
    m = np.arange(1, terms + 1)
    lam, dlt = m * np.pi / a, m * np.pi / b

    def phi(z: np.ndarray) -> np.ndarray:
        th = np.tanh(z * t)
        return (z * th + h / k) / (z + h / k * th)

    base = (t / k + 1 / h) / (a * b)
    am = 2 * (np.sin((2 * xc + c) / 2 * lam) - np.sin((2 * xc - c) / 2 * lam)) / (a * b * c * k * lam**2 * phi(lam))
    an = 2 * (np.sin((2 * yc + d) / 2 * dlt) - np.sin((2 * yc - d) / 2 * dlt)) / (a * b * d * k * dlt**2 * phi(dlt))
    lm, dn = np.meshgrid(lam, dlt, indexing="ij")
    beta = np.hypot(lm, dn)
    top = 16 * np.cos(lm * xc) * np.sin(lm * c / 2) * np.cos(dn * yc) * np.sin(dn * d / 2)
    amn = top / (a * b * c * d * k * beta * lm * dn * phi(beta))
    mean = (
        base
        + 2 * (am * np.cos(lam * xc) * np.sin(lam * c / 2) / (lam * c)).sum()
        + 2 * (an * np.cos(dlt * yc) * np.sin(dlt * d / 2) / (dlt * d)).sum()
        + 4 * (amn * np.cos(dn * yc) * np.sin(dn * d / 2) * np.cos(lm * xc) * np.sin(lm * c / 2) / (lm * c * dn * d)).sum()
    )
    centre = (
        base + (am * np.cos(lam * xc)).sum() + (an * np.cos(dlt * yc)).sum() + (amn * np.cos(lm * xc) * np.cos(dn * yc)).sum()
    )
    return float(mean), float(centre)


PLATE = {"a": 0.06, "b": 0.048, "t": 4e-3, "k": 200.0, "h": 1500.0}
SOURCE = {"c": 0.012, "d": 0.012}


def grid_mean(xc: float, yc: float, cells: int, layers: int) -> float:
    """Mean surface rise under a 1 W source on an even grid whose lines meet the source's edges."""
    region = Region(((0, 0, PLATE["a"], PLATE["b"]),))
    source = Region(((xc - 0.006, yc - 0.006, xc + 0.006, yc + 0.006),))
    slab = block("plate", region, PLATE["t"], PLATE["k"], layers)
    lines = Lines(even(PLATE["a"], 5 * cells), even(PLATE["b"], 4 * cells))
    model = HeatModel(
        lines, (slab,), (), (Film("plate", 0, region, PLATE["h"], 0.0),), (Heat("plate", (layers - 1,), 1.0, source),), 0.0
    )
    field = SteadySolver().solve(model)
    area = cell_areas(source, lines).ravel()
    top = field.temperature[field.grid.slabs["plate"].layer(-1)]
    half_cell = PLATE["t"] / layers / 2 / PLATE["k"] / source.area  # from the cell's middle to the face the heat enters by
    return float(top @ area / area.sum()) + half_cell


@pytest.mark.parametrize(("xc", "yc"), [(0.030, 0.024), (0.018, 0.018), (0.006, 0.006)], ids=["centred", "eccentric", "corner"])
def test_spreading_matches_the_exact_series_within_one_percent(xc: float, yc: float) -> None:
    exact, _ = series(**PLATE, **SOURCE, xc=xc, yc=yc)
    assert grid_mean(xc, yc, cells=12, layers=12) == pytest.approx(exact, rel=0.01)


def test_spreading_converges_with_the_grid() -> None:
    """Refinement order of the scheme, measured on the eccentric source against the exact series."""
    exact, _ = series(**PLATE, **SOURCE, xc=0.018, yc=0.018, terms=400)
    errors = [abs(grid_mean(0.018, 0.018, cells=n, layers=n) - exact) for n in (4, 8, 16)]
    orders = [math.log2(coarse / fine) for coarse, fine in pairwise(errors)]
    assert min(orders) > 1.4


@pytest.mark.parametrize(("side", "thickness", "film"), [(0.012, 4e-3, 1500.0), (0.02, 3e-3, 800.0), (0.008, 6e-3, 5000.0)])
def test_spreading_closed_form_of_lee_within_eight_percent(side: float, thickness: float, film: float) -> None:
    """Lee, Song, Au & Moran 1995 against the centre temperature of the exact series, square source on square plate."""
    _, centre = series(0.05, 0.05, side, side, thickness, 200.0, film, 0.025, 0.025, terms=300)
    one_dimensional = (thickness / 200 + 1 / film) / 0.05**2
    closed = spreading_lee(side**2, 0.05**2, thickness, 200.0, film) + one_dimensional
    assert closed == pytest.approx(centre, rel=0.08)


def test_silicon_by_the_kirchhoff_transform() -> None:
    """Flux through a wall with k = 148·(T/300)^−1.3 between two fixed temperatures: q·L = ∫k dT, in closed form."""
    region = Region(((0, 0, 0.01, 0.01),))
    lines = Lines(even(0.01, 2), even(0.01, 2))
    films = (Film("si", 0, region, HOLD, 420.0), Film("si", 1, region, HOLD, 300.0))
    field = SteadySolver().solve(HeatModel(lines, (block("si", region, 8e-4, 148, 40, -1.3),), (), films, (), 300.0))
    integral = 148 * 300**1.3 / -0.3 * (420**-0.3 - 300**-0.3)
    assert field.film_power[1] == pytest.approx(integral / 8e-4 * 1e-4, rel=2e-3)


def test_radiating_plate_in_closed_form() -> None:
    """A plate that only radiates: T⁴ = T₀⁴ + P/(εσA) (Stefan-Boltzmann)."""
    region = Region(((0, 0, 0.05, 0.05),))
    lines = Lines(even(0.05, 4), even(0.05, 4))
    model = HeatModel(
        lines, (block("p", region, 1e-3, 400, 1),), (), (Film("p", 1, region, 0.0, 300.0, 0.9),), (Heat("p", (0,), 2.0),), 300.0
    )
    field = SteadySolver().solve(model)
    expected = (300**4 + 2.0 / (0.9 * STEFAN_BOLTZMANN * 0.0025)) ** 0.25
    assert field.temperature.mean() == pytest.approx(expected, abs=0.02)
    assert field.energy_rel < 1e-6


def test_parallel_grey_plates() -> None:
    """1/(1/ε₁+1/ε₂−1), Incropera & DeWitt, radiation exchange between large parallel plates."""
    assert effective_emissivity(0.8, 0.5) == pytest.approx(1 / (1 / 0.8 + 1 / 0.5 - 1))
    assert effective_emissivity(0.0, 0.5) == 0.0


def test_handbook_conductivities() -> None:
    """Incropera & DeWitt, table A.1 at 300 K (from memory): copper 401, aluminium 237, silicon 148 W/m·K."""
    library = materials()
    assert {n: library[n].conductivity_w_mk.value for n in ("copper", "aluminium", "silicon")} == {
        "copper": 401,
        "aluminium": 237,
        "silicon": 148,
    }
    silicon = library["silicon"]
    assert silicon.conductivity_w_mk.value * (400 / 300) ** silicon.temperature_exponent == pytest.approx(
        98.9, rel=0.04
    )  # A.1: 98.9 at 400 K
    assert all(material.sources for material in library.values())


def test_sink_rating_by_hand() -> None:
    sink = RatedSink(fixed_k_w=q(0.05), convective_k_w=q(0.2), exponent=q(0.5))
    assert rated_resistance(sink, 0.25) == pytest.approx(0.05 + 0.2 * 2)
    assert film_from_base(rated_resistance(sink, 1.0), Base(0.01, 5e-3, 400, 400, 1e-4), False) == pytest.approx(
        1 / (0.25 * 0.01)
    )
    mean = RatedSink(fixed_k_w=q(0.05), convective_k_w=q(0.2), exponent=q(0.5), air_reference="mean", air_rise_k_w=q(0.1))
    assert rated_resistance(mean, 0.5) == pytest.approx(0.05 + 0.2 * 2**0.5 + 0.1)
    with pytest.raises(AssemblyError, match="standing fan"):
        rated_resistance(sink, 0.0)


def test_spreading_inside_a_rating_is_taken_out_again() -> None:
    """A sink rated from a spot must, computed with that spot on its base, give back its rating."""
    spot = 0.02
    sink = RatedSink(fixed_k_w=q(0.0001), convective_k_w=q(0.3), base_reference="source_spot", spot_w_mm=20, spot_h_mm=20)
    base = Base(0.06 * 0.06, 4e-3, 400.0, 400.0, 0.02 * 0.02)
    film = film_from_base(rated_resistance(sink, 1.0), base, True)
    _, centre = series(0.06, 0.06, spot, spot, 4e-3, 400.0, film, 0.03, 0.03, terms=300)
    assert centre == pytest.approx(0.3001, rel=0.06)
    with pytest.raises(AssemblyError, match="less than its own base"):
        film_from_base(0.01, replace(base, along=20.0, through=20.0), True)
