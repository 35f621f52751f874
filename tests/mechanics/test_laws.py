"""Single laws against hand calculations and their sources."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ashen_bridge.library import materials
from ashen_bridge.mechanics.laws import (
    bond_line_prasher,
    pad_pressure,
    shape_factor,
    shape_stiffening,
)
from ashen_bridge.mechanics.layers import PadLayer
from ashen_bridge.mechanics.stack import stack_law
from ashen_bridge.model.fasteners import SpringWire
from ashen_bridge.model.quantity import q
from ashen_bridge.predict.mechanics_rows import bond_line_of

SOFT = materials()["pad_soft"].compression
assert SOFT is not None


def test_bond_line_law_by_hand() -> None:
    """BLT = 0.131 mm·(τy/p)^0.166 (Prasher 2006): τy = 160 Pa, p = 270 kPa → 0.131·exp(0.166·ln(160/270000)) = 38.1 µm."""
    by_hand = 0.131e-3 * math.exp(0.166 * math.log(160 / 270e3))
    assert by_hand == pytest.approx(38.1e-6, abs=0.1e-6)
    assert float(bond_line_prasher(np.array(270e3), 160.0, 0.0)) == pytest.approx(by_hand)
    assert float(bond_line_prasher(np.array(270e3), 160.0, 45e-6)) == 45e-6, "never thinner than its filler"
    thick, thin = bond_line_prasher(np.array([1e5, 6.4e6]), 160.0, 0.0)
    assert thick / thin == pytest.approx(64**0.166), "pressure goes as BLT^-6: 64 times the pressure halves the bond line"


def test_wedge_means_in_closed_form() -> None:
    """A linear wedge from a to b: arithmetic mean (a+b)/2, harmonic mean (b−a)/ln(b/a)."""
    a, b = 20e-6, 140e-6
    place = (np.arange(400) + 0.5) / 400
    bond = bond_line_of(a + (b - a) * place, np.full(400, 1 / 400))
    assert bond.mean == pytest.approx((a + b) / 2 * 1e6, rel=1e-6)
    assert bond.harmonic == pytest.approx((b - a) / math.log(b / a) * 1e6, rel=1e-4)
    assert bond.min < bond.harmonic < bond.mean < bond.max


def test_spring_rate_by_hand() -> None:
    """k = G·d⁴/(8·D³·n), helical compression spring (Shigley, Mechanical Engineering Design, ch. 10).

    Music wire G = 80 GPa, d = 0.8 mm, D = 5 mm, n = 6: 80000·0.4096/(8·125·6) = 5.461 N/mm.
    """
    wire = SpringWire(wire_mm=q(0.8), mean_coil_mm=q(5), active_turns=q(6), shear_modulus_gpa=q(80))
    assert wire.rate == pytest.approx(5.461, rel=1e-3)


@given(st.floats(0, 0.9))
def test_pad_layer_inverts_the_pressure_curve(strain: float) -> None:
    pressure = pad_pressure(np.array(strain), SOFT)
    assert float(PadLayer(SOFT, 1e-3)(pressure)) == pytest.approx(1e-3 * (1 - strain), abs=2e-6)


def test_pad_curve_goes_through_its_points_and_stiffens_beyond() -> None:
    for point in SOFT.points:
        assert float(pad_pressure(np.array(point.strain), SOFT)) == pytest.approx(point.pressure_kpa * 1e3, rel=1e-9)
    beyond = pad_pressure(np.linspace(0.6, 0.97, 60), SOFT)
    slopes = np.diff(beyond)
    assert (slopes > 0).all()
    assert (np.diff(slopes) > 0).all()
    assert float(pad_pressure(np.array(-0.1), SOFT)) == 0.0


def test_shape_factor_makes_small_pads_softer_than_the_sample() -> None:
    """S = loaded area / free side area (Gent & Lindley 1959): 12 × 14 × 1 mm → 168/52 = 3.23."""
    assert shape_factor(168, 52, 1) == pytest.approx(3.2308, rel=1e-4)
    large = shape_stiffening(SOFT, 645e-6, 4 * 645**0.5 * 1e-3, 2e-3)
    assert large == pytest.approx(1.0), "a pad like the sample is as firm as the sample"
    assert shape_stiffening(SOFT, 16e-6, 16e-3, 2e-3) < 1.0


def test_stack_energy_is_the_integral_of_its_pressure() -> None:
    law = stack_law([PadLayer(SOFT, 1e-3), PadLayer(SOFT, 0.5e-3)], 1e-11, False)
    assert law.gap_high == pytest.approx(1.5e-3)
    gaps = np.linspace(0.9e-3, 1.5e-3, 4001)
    pressure = law.pressure_at(gaps)
    work = float(((pressure[1:] + pressure[:-1]) / 2 * np.diff(gaps)).sum())
    step = (law.gap_high - law.gap_low) / (len(law.pressure) - 1)
    assert work == pytest.approx(float(np.interp(0.9e-3, law.gap_low + step * np.arange(len(law.energy)), law.energy)), rel=1e-3)
    single = stack_law([PadLayer(SOFT, 1.5e-3)], 1e-11, False)
    assert float(law.pressure_at(np.array(1.2e-3))) == pytest.approx(float(single.pressure_at(np.array(1.2e-3))), rel=5e-3), (
        "1 + 0.5 = 1.5"
    )


def test_bare_contact_gives_by_its_compliance() -> None:
    law = stack_law([], 2e-11, False)
    assert float(law.pressure_at(np.array(-2e-5))) == pytest.approx(1e6, rel=1e-3)
    assert float(law.pressure_at(np.array(1e-6))) == 0.0
