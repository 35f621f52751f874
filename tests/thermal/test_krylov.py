"""Temperatures over time on a few fields: against closed forms, and against steps of the whole field on whole devices."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy.optimize import brentq

from ashen_bridge.files.demos import open_anything
from ashen_bridge.model.project import Project
from ashen_bridge.predict.course import Course
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.patterns import Watch, read_pattern
from ashen_bridge.thermal.krylov import KrylovMarch, scales_of
from ashen_bridge.thermal.parts import HeatModel
from ashen_bridge.thermal.steady import SteadySolver
from ashen_bridge.thermal.transient import Body, Moment, Stage
from test_transient import SIDE, wall


def through(model: HeatModel, start: float, stages: tuple[Stage, ...], stops: tuple[float, ...] = ()) -> list[Moment]:
    steady = SteadySolver().solve(model)
    seconds = sum(stage.seconds for stage in stages)
    return list(KrylovMarch(Body(model, steady), np.full(steady.grid.n_cell, start), scales_of(seconds)).march(stages, stops))


def test_a_lump_under_a_power_step() -> None:
    """T = T∞ + P·R·(1 − exp(−t/τ)): lumped capacitance (Incropera & DeWitt, chapter 5), Bi = 2.5·10⁻⁵; exact in time."""
    thickness, h, capacity, power = 5e-3, 2.0, 3e6, 0.4
    tau, final = capacity * thickness / h, power / (h * SIDE**2)
    for moment in through(wall(thickness, 401.0, capacity, 2, h, power), 300.0, (Stage(3 * tau, 1.0),)):
        expected = final * (1 - math.exp(-moment.time / tau))
        assert float(moment.temperature.mean()) - 300.0 == pytest.approx(expected, abs=2e-4 * final)


def test_plane_wall_cooling_by_the_series() -> None:
    """θ(x,t) = Σ Cₙ·exp(−ζₙ²Fo)·cos(ζₙx/L), ζ·tan ζ = Bi (Incropera & DeWitt, equation 5.39)."""
    thickness, k, capacity, biot = 10e-3, 1.0, 2e6, 1.0
    diffusivity = k / capacity
    roots = [brentq(lambda z: z * math.tan(z) - biot, n * math.pi + 1e-9, n * math.pi + math.pi / 2 - 1e-9) for n in range(20)]
    end = 2.0 * thickness**2 / diffusivity
    compared = 0
    for moment in through(wall(thickness, k, capacity, 40, biot * k / thickness), 400.0, (Stage(end, 1.0),)):
        fourier = diffusivity * moment.time / thickness**2
        if fourier < 0.05:
            continue
        compared += 1
        cells = moment.temperature.reshape(40, -1)[:, 0]
        for layer in (0, 20, 39):
            terms = [
                4 * math.sin(z) / (2 * z + math.sin(2 * z)) * math.exp(-(z**2) * fourier) * math.cos(z * (layer + 0.5) / 40)
                for z in roots
            ]
            assert cells[layer] == pytest.approx(300 + 100 * sum(terms), abs=0.1), (fourier, layer)
    assert compared > 20


def test_what_is_made_is_stored_or_leaves() -> None:
    """Over many short stretches: ∫P dt = Δ(stored) + ∫(heat to air) dt."""
    model = wall(5e-3, 20.0, 3e6, 6, 200.0, 4.0)
    steady = SteadySolver().solve(model)
    stages = (Stage(40.0, 1.0), Stage(60.0, 0.25))
    moments = through(model, 300.0, stages, tuple(np.arange(0.5, 100.0, 0.5)))
    film = steady.films[0]
    conductance = 1 / (1 / (200.0 * film.area) + film.f / 20.0)
    rises = np.array([float((conductance * (one.temperature[film.cells] - 300.0)).sum()) for one in moments])
    left = float(np.trapezoid(rises, [one.time for one in moments]))
    stored = float(((moments[-1].temperature - 300.0) * steady.grid.capacity).sum())
    assert stored + left == pytest.approx(4.0 * 40.0 + 1.0 * 60.0, rel=2e-3)


def test_moments_that_were_asked_for_are_met() -> None:
    stops = (0.37, 7.0, 59.5)
    found = [one.time for one in through(wall(5e-3, 20.0, 3e6, 4, 50.0, 4.0), 300.0, (Stage(40.0, 1.0), Stage(20.0, 0.0)), stops)]
    assert all(any(abs(time - stop) < 1e-9 for time in found) for stop in stops)
    assert found == sorted(found)
    assert found[-1] == pytest.approx(60.0)


def differences(few: Course, whole: Course) -> np.ndarray:
    """By how much a course on few fields is off one on the whole field, at the moments of the latter."""
    late = whole.time_s > 0.05
    return np.stack(
        [
            np.interp(whole.time_s[late], few.time_s, one) - other[late]
            for one, other in zip(
                np.hstack([few.values_c, few.others_c]).T, np.hstack([whole.values_c, whole.others_c]).T, strict=True
            )
        ]
    )


@pytest.mark.long
@pytest.mark.parametrize(
    ("name", "pattern"),
    [
        ("correlator", "step 60min"),
        ("buoy", "step 30min"),
        ("buoy", "burst 60s in 10min from 5C"),
        ("beamformer", "stages 1.0 5min, 0.3 5min, 1.0 1min"),
    ],
)
def test_whole_devices_against_steps_of_the_whole_field(name: str, pattern: str) -> None:
    """A cooled card, a sealed box with its own air, radiation and rising air, and a lidded chip that leaks."""
    project: Project = open_anything(f"demo:{name}").project
    engine, build, point = Engine(), project.build().id, project.point().id
    few = engine.transient(project, build, point, read_pattern(pattern))
    whole = engine.transient(project, build, point, read_pattern(pattern), watch=Watch(tolerance=0.04))
    off = differences(few, whole)
    assert float(np.sqrt((off**2).mean())) < 0.1
    assert float(np.abs(off).max()) < 0.4
    assert few.steady_c == pytest.approx(whole.steady_c, abs=1e-2)
