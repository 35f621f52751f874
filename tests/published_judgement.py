"""Uncertainty against the GUM, the reduced model against full fields, and what the trade knows as bands."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from ashen_bridge.files.demos import open_anything
from ashen_bridge.model import paths
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.report import Report
from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.uncertainty.drawing import draw
from ashen_bridge.uncertainty.preparation import prepared
from ashen_bridge.uncertainty.together import combined
from published import PRACTICE, Check

GUM = "JCGM 100:2008"


def number(value: float, uncertainty: float, **effects: float) -> Assumption:
    return Assumption(
        ("x",), "height_mm", ("a",), value, uncertainty, "measured", "", max(effects.values()), "", tuple(effects.items())
    )


def end_gauge() -> float:
    """H.1: the calibration of a gauge block; contributions in nm: standard 25, comparator 9.7, δα 2.9, δθ 16.6."""
    parts = [number(0.0, 1.0, length=size) for size in (25.0, 9.7, 2.9, 16.6)]
    found = combined(parts)
    assert found is not None
    return found["length"]


def product() -> float:
    """5.1.6: relative uncertainty of a product P = V²/R: √((2·u(V)/V)² + (u(R)/R)²), by drawing 20,000 samples."""
    volts, ohms = number(10.0, 0.1, p=0.0), number(50.0, 0.5, p=0.0)
    drawn = draw((volts, ohms), 20_000, 5)
    power = (10 + 0.1 * drawn[:, 0]) ** 2 / (50 + 0.5 * drawn[:, 1])
    return float(power.std() / power.mean())


def impedance(which: str) -> float:
    """H.2: R, X or Z of an impedance from V, I and phase, which were read together and so hang together."""
    volts, amps, phase = 4.9990, 19.6610e-3, 1.04446
    spread = np.array([0.0032, 0.0095e-3, 0.00075])
    together = np.array([[1.0, -0.36, 0.86], [-0.36, 1.0, -0.65], [0.86, -0.65, 1.0]])
    z = volts / amps
    r, x = z * np.cos(phase), z * np.sin(phase)
    slopes = {"R": (r / volts, -r / amps, -x), "X": (x / volts, -x / amps, r), "Z": (z / volts, -z / amps, 0.0)}[which]
    # As if a fit had left a tenth of each number's variance, with these correlations.
    told = np.linalg.cholesky(np.eye(3) - 0.1 * together)
    parts = [
        Assumption(
            (name,), name, (name,), 0.0, 1.0, "calibrated", "", 1.0, "", ((which, float(slope * u)),), told=tuple(map(float, row))
        )
        for name, slope, u, row in zip("VIp", slopes, spread, told, strict=True)
    ]
    found = combined(parts)
    assert found is not None
    return found[which]


@lru_cache(maxsize=1)
def demo() -> Project:
    return open_anything("demo:correlator").project


@lru_cache(maxsize=1)
def reduced_error() -> tuple[float, float]:
    """Median and root mean square error [K] of all sensors in six samples the model has not seen, against full coarse fields."""
    engine = Engine()
    base = engine.predict(demo(), "plan_a", fidelity="coarse").report
    sampler = prepared(engine, demo(), "plan_a", report=base)
    drawn = draw(sampler.numbers, 6, 99)
    found, _ = sampler.temperatures(drawn)
    misses = []
    for row, sample in zip(found, drawn, strict=True):
        values = {
            path: one.value + one.uncertainty * by for one, by in zip(sampler.numbers, sample, strict=True) for path in one.paths
        }
        full = Engine().predict(paths.set_values(demo(), values), "plan_a", fidelity="coarse").report
        misses.append(row - np.array([sensor.value_c for sensor in full.sensors]))
    errors = np.abs(np.array(misses))
    return float(np.median(errors)), float(np.sqrt((errors**2).mean()))


@lru_cache(maxsize=32)
def report(*changes: tuple[str, object]) -> Report:
    return Engine().predict(paths.set_values(demo(), dict(changes)), "plan_a", fidelity="coarse").report


def die(found: Report) -> float:
    return found.component("die").t_max_c


def spread(found: Report) -> float:
    row = found.component("die")
    return row.t_max_c - row.t_mean_c


def wedged() -> float:
    """By how much more the hot spot stands out under a cooler held up on one side by pads much too thick, paste as it was [K]."""
    changes = [(f"builds.plan_a.joints.pad_{name}.pieces.pad.thickness_mm", 2.0) for name in ("r1", "r2", "r3")]
    found = report(*changes)
    over = next(row for row in found.joints if row.lower == "die")
    assert over.bond_line_um.max - over.bond_line_um.min > 100
    return spread(found) - spread(report())


def plastic_back() -> float:
    """By how much the front memory changes when the backplate is plastic instead of aluminium, and the die with it [K]."""
    library = "plastic"
    plain = demo().model_dump(mode="json")
    if all(material["id"] != library for material in plain["materials"]):
        from ashen_bridge.library import materials

        plain["materials"].append(materials()[library].model_dump(mode="json"))
    next(body for body in plain["device"]["bodies"] if body["id"] == "backplate")["material"] = library
    other = Engine().predict(Project.parse(plain), "plan_a", fidelity="coarse").report
    return abs(die(other) - die(report()))


def checks() -> list[Check]:
    better = [("materials.pad_medium.conductivity_w_mk", 12.0)]
    return [
        *(
            Check(
                "Uncertainty",
                f"{which} of an impedance, correlated",
                f"{GUM}, H.2: {u} Ω (from memory)",
                "Ω",
                lambda which=which: impedance(which),
                u,
                0.02,
            )  # type: ignore[misc]
            for which, u in (("R", 0.071), ("X", 0.295), ("Z", 0.236))
        ),
        Check("Uncertainty", "calibration of an end gauge, combined", f"{GUM}, H.1: 32 nm", "nm", end_gauge, 32.0, 0.02),
        Check(
            "Uncertainty",
            "relative uncertainty of V²/R",
            f"{GUM}, 5.1.6, by drawing",
            "1",
            product,
            (0.02**2 + 0.01**2) ** 0.5,
            0.02,
            digits=3,
        ),
        Check(
            "Reduced model",
            "median error on unseen samples, all sensors of the demo",
            "full fields of the same mesh",
            "K",
            lambda: reduced_error()[0],
            band=(0.0, 0.3),
            digits=2,
            slow=True,
        ),
        Check(
            "Reduced model",
            "root mean square error on unseen samples",
            "full fields of the same mesh",
            "K",
            lambda: reduced_error()[1],
            band=(0.0, 1.0),
            digits=2,
            slow=True,
        ),
        Check(
            "Facts of the trade",
            "hot spot minus average of a sound mount",
            PRACTICE,
            "K",
            lambda: spread(report()),
            band=(8.0, 20.0),
            digits=2,
        ),
        Check(
            "Facts of the trade",
            "a wedge of 0.18 mm under 0.4 W/mm²: it stands out by as much more",
            PRACTICE,
            "K",
            wedged,
            band=(5.0, 60.0),
            digits=2,
        ),
        Check(
            "Facts of the trade",
            "memory pads twice as good: the shared cooler's die gets warmer by",
            PRACTICE,
            "K",
            lambda: die(report(*better)) - die(report()),
            band=(0.0, 1.0),
            digits=2,
        ),
        Check(
            "Facts of the trade",
            "plastic instead of aluminium behind the board: the die changes by",
            PRACTICE,
            "K",
            plastic_back,
            band=(0.0, 1.0),
            digits=2,
        ),
        Check(
            "Facts of the trade",
            "paste with a third more conductivity in place of paste: die cooler by",
            PRACTICE,
            "K",
            lambda: die(report()) - die(report(("materials.paste_filled.conductivity_w_mk", 9.3))),
            band=(0.0, 1.5),
            digits=2,
        ),
    ]
