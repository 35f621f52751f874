"""Springs, plates, films and forces against handbook formulas."""

from __future__ import annotations

import numpy as np
from skfem import LinearForm, condense, solve

from ashen_bridge.mechanics.bending import plate_stiffness
from ashen_bridge.mechanics.laws import bond_line_prasher, squeeze_film_thickness
from ashen_bridge.model.fasteners import Fastener, FastenerSetting, SpringArm, SpringWire, preload_of
from ashen_bridge.model.quantity import q
from published import Check
from test_bending import simply_supported

TIMOSHENKO = "Timoshenko & Woinowsky-Krieger, Theory of Plates and Shells"
SHIGLEY = "Shigley, Mechanical Engineering Design (from memory)"


def central_load() -> float:
    """w·D/(P·a²) under a central force."""
    basis, held = simply_supported()
    force = np.asarray(basis.probes(np.array([[0.05], [0.05]])).todense()).ravel()
    found = solve(*condense(plate_stiffness(basis, np.full(basis.nelems, 1.0), 0.3), force, D=held))
    return float(force @ found) / 0.1**2


def uniform_load() -> float:
    """w·D/(q·a⁴) at the middle."""
    basis, held = simply_supported()
    load = LinearForm(lambda v, w: 1.0 * v).assemble(basis)
    found = solve(*condense(plate_stiffness(basis, np.full(basis.nelems, 1.0), 0.3), load, D=held))
    return float((basis.probes(np.array([[0.05], [0.05]])) @ found)[0]) / 0.1**4


def screw(**setting: float) -> float:
    fastener = Fastener(
        id="s",
        kind="fixed",
        joins=("a", "b"),
        x_mm=0,
        y_mm=0,
        preload_n=q(1.0),
        seat_mm=q(2.0),
        stiffness_n_mm=q(2000.0),
        pitch_mm=q(0.5),
        diameter_mm=q(3.0),
    )
    return preload_of(fastener, FastenerSetting(fastener="s", **{name: q(value) for name, value in setting.items()}))


def checks() -> list[Check]:
    wire = SpringWire(wire_mm=q(1.0), mean_coil_mm=q(8.0), active_turns=q(5.0), shear_modulus_gpa=q(79.3))
    arm = SpringArm(length_mm=q(20.0), width_mm=q(6.0), thickness_mm=q(0.5), youngs_modulus_gpa=q(200.0))
    return [
        Check(
            "Springs and plates",
            "square plate, simply supported, central force: w·D/Pa²",
            f"{TIMOSHENKO}, table 23",
            "1",
            central_load,
            0.01160,
            3e-3,
        ),
        Check(
            "Springs and plates",
            "square plate, uniform load: w·D/qa⁴",
            f"{TIMOSHENKO}, table 8",
            "1",
            uniform_load,
            0.00406,
            3e-3,
        ),
        Check(
            "Springs and plates",
            "helical spring, d 1, D 8 mm, 5 turns",
            f"{SHIGLEY}, G·d⁴/(8·D³·n)",
            "N/m",
            lambda: wire.rate * 1e3,
            79.3e9 * 1e-12 / (8 * 512e-9 * 5),
            1e-6,
        ),
        Check(
            "Springs and plates",
            "spring arm 20 × 6 × 0.5 mm, E 200 GPa",
            "Timoshenko, Strength of Materials: 3·E·I/L³",
            "N/mm",
            lambda: arm.rate,
            3 * 200e3 * (6 * 0.5**3 / 12) / 20**3,
            1e-6,
        ),
        Check(
            "Springs and plates",
            "M3 screw at 0.5 N·m, K 0.2",
            f"{SHIGLEY}, F = T/(K·d)",
            "N",
            lambda: screw(torque_nm=0.5),
            0.5 / (0.2 * 0.003),
            1e-6,
        ),
        Check(
            "Springs and plates",
            "quarter turn of 0.5 mm pitch on 2 kN/mm",
            "stiffness times pitch times turns",
            "N",
            lambda: screw(turns=0.25),
            250.0,
            1e-6,
        ),
        Check(
            "Layers",
            "paste, τy 100 Pa at 300 kPa",
            "Prasher, Proc. IEEE 94(8), 2006: c·(τy/p)^m by hand",
            "µm",
            lambda: float(bond_line_prasher(np.array(3e5), 100.0, 0.0)) * 1e6,
            131 * (100 / 3e5) ** 0.166,
            1e-6,
        ),
        Check(
            "Layers",
            "putty, τy 10 kPa, R 7 mm at 50 kPa",
            "squeeze film of a Bingham fluid, plastic limit: 2·τy·R/(3·p)",
            "mm",
            lambda: float(squeeze_film_thickness(np.array(50e3), 10e3, 7e-3)) * 1e3,
            2 * 10e3 * 7 / (3 * 50e3),
            1e-6,
        ),
    ]
