"""Temperatures over time against closed forms."""

from __future__ import annotations

import csv
import io
import math
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from scipy.optimize import brentq

from ashen_bridge.cli.main import main
from ashen_bridge.files.archive import save_project
from ashen_bridge.geometry.region import Region
from ashen_bridge.model import paths
from ashen_bridge.model.project import Project
from ashen_bridge.predict.course import Course, as_csv
from ashen_bridge.predict.course_columns import stored_in_joints
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.patterns import PatternError, Watch, read_pattern
from ashen_bridge.thermal import transient
from ashen_bridge.thermal.lines import Lines
from ashen_bridge.thermal.parts import Film, Heat, HeatModel, Layer, Slab
from ashen_bridge.thermal.steady import SteadySolver
from ashen_bridge.thermal.transient import Body, MarchError, Moment, Stage, Steps, march
from devices import FOUR, Card, project

ENGINE = Engine()
SIDE = 0.02
REGION = Region(((0, 0, SIDE, SIDE),))
LINES = Lines(np.linspace(0, SIDE, 3), np.linspace(0, SIDE, 3))


def wall(thickness: float, k: float, capacity: float, layers: int, h: float, power: float = 0.0) -> HeatModel:
    """Return a plane wall, insulated at face 0, with a film at face 1 to air at 300 K."""
    slab = Slab("wall", REGION, (Layer(thickness / layers, k, k, capacity),) * layers)
    heats = (Heat("wall", tuple(range(layers)), power),) if power else ()
    return HeatModel(LINES, (slab,), (), (Film("wall", 1, REGION, h, 300.0),), heats, reference=300.0)


def run(model: HeatModel, start: float, stages: tuple[Stage, ...], **steps: float) -> list[Moment]:
    steady = SteadySolver().solve(model)
    return list(march(Body(model, steady), np.full(steady.grid.n_cell, start), stages, Steps(**steps)))  # type: ignore[arg-type]


def test_a_lump_under_a_power_step() -> None:
    """T = T∞ + P·R·(1 − exp(−t/τ)), τ = ρcV/(hA): lumped capacitance (Incropera & DeWitt, ch. 5), Bi = 2.5·10⁻⁵."""
    thickness, h, capacity, power = 5e-3, 2.0, 3e6, 0.4
    model = wall(thickness, 401.0, capacity, 2, h, power)
    tau = capacity * thickness / h
    final = power / (h * SIDE**2)
    for moment in run(model, 300.0, (Stage(3 * tau, 1.0),), tolerance=0.02):
        expected = final * (1 - math.exp(-moment.time / tau))
        assert float(moment.temperature.mean()) - 300.0 == pytest.approx(expected, abs=0.003 * final)


def test_plane_wall_cooling_by_the_series() -> None:
    """θ(x,t) = Σ Cₙ·exp(−ζₙ²Fo)·cos(ζₙx/L), ζ·tan ζ = Bi, Cₙ = 4 sin ζ/(2ζ + sin 2ζ) (Incropera & DeWitt, eq. 5.39)."""
    thickness, k, capacity, biot = 10e-3, 1.0, 2e6, 1.0
    h = biot * k / thickness
    model = wall(thickness, k, capacity, 40, h)
    diffusivity = k / capacity
    roots = [brentq(lambda z: z * math.tan(z) - biot, n * math.pi + 1e-9, n * math.pi + math.pi / 2 - 1e-9) for n in range(20)]

    def theta(fourier: float, x: float) -> float:
        terms = [4 * math.sin(z) / (2 * z + math.sin(2 * z)) * math.exp(-(z**2) * fourier) * math.cos(z * x) for z in roots]
        return sum(terms)

    end = 2.0 * thickness**2 / diffusivity
    moments = run(model, 400.0, (Stage(end, 1.0),), tolerance=0.02)
    compared = 0
    for moment in moments:
        fourier = diffusivity * moment.time / thickness**2
        if fourier < 0.05:
            continue
        compared += 1
        cells = moment.temperature.reshape(40, -1)[:, 0]
        for layer in (0, 20, 39):
            expected = 300 + 100 * theta(fourier, (layer + 0.5) / 40)
            assert cells[layer] == pytest.approx(expected, abs=0.25), (fourier, layer)
    assert compared > 5
    # Heisler's first root for Bi = 1 is 0.8603, C₁ = 1.1191 (table 5.1 of the same).
    assert roots[0] == pytest.approx(0.8603, abs=1e-4)
    assert 4 * math.sin(roots[0]) / (2 * roots[0] + math.sin(2 * roots[0])) == pytest.approx(1.1191, abs=1e-4)


def test_what_is_made_is_stored_or_leaves() -> None:
    """Energy over the whole march: ∫P dt = Δ(stored) + ∫(heat to air) dt."""
    model = wall(5e-3, 20.0, 3e6, 6, 200.0, 4.0)
    steady = SteadySolver().solve(model)
    stages = (Stage(40.0, 1.0), Stage(60.0, 0.25))
    moments = list(march(Body(model, steady), np.full(steady.grid.n_cell, 300.0), stages, Steps(0.005, 1.0)))
    film = steady.films[0]
    conductance = 1 / (1 / (200.0 * film.area) + film.f / 20.0)
    left = 0.0
    for a, b in pairwise(moments):
        mean = (a.temperature[film.cells] + b.temperature[film.cells]) / 2 - 300.0
        left += float((conductance * mean).sum()) * (b.time - a.time)
    stored = float(((moments[-1].temperature - 300.0) * steady.grid.capacity).sum())
    made = 4.0 * 40.0 + 1.0 * 60.0
    assert stored + left == pytest.approx(made, rel=2e-3)


def test_a_tighter_tolerance_is_nearer_the_truth() -> None:
    thickness, h, capacity = 5e-3, 50.0, 3e6
    tau = capacity * thickness / h
    errors = []
    for tolerance in (1.0, 0.1, 0.01):
        last = run(wall(thickness, 401.0, capacity, 2, h, 4.0), 300.0, (Stage(tau, 1.0),), tolerance=tolerance)[-1]
        errors.append(abs(float(last.temperature.mean()) - 300.0 - 4.0 / (h * SIDE**2) * (1 - math.exp(-1))))
    assert errors[2] < errors[0]
    assert errors[2] < 0.2


def test_a_march_that_needs_too_many_steps_says_where_it_came_to(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(transient, "MAX_STEPS", 5)
    with pytest.raises(MarchError, match="more than 5 steps") as error:
        run(wall(5e-3, 401.0, 3e6, 2, 50.0, 4.0), 300.0, (Stage(1e4, 1.0),))
    assert 0 <= error.value.time_s < 1e4


@pytest.mark.parametrize(
    ("text", "before", "stages"),
    [
        ("step 60min", 0.0, [(3600.0, 1.0)]),
        ("cool 30 min", 1.0, [(1800.0, 0.0)]),
        ("burst 30s in 10min", 0.0, [(30.0, 1.0), (570.0, 0.0)]),
        ("duty 10s/20s 1min", 0.0, [(10.0, 1.0), (20.0, 0.0)] * 2),
        ("Stages 0.5 10min, 1.0 1h", 0.0, [(600.0, 0.5), (3600.0, 1.0)]),
    ],
)
def test_patterns(text: str, before: float, stages: list[tuple[float, float]]) -> None:
    pattern = read_pattern(text)
    assert pattern.before == before
    assert [(stage.seconds, stage.factor) for stage in pattern.stages] == stages


@pytest.mark.parametrize(
    "text", ["", "step", "step ten", "burst 10min in 5min", "step 0s", "step 900h", "duty 1s/1s 2h", "stages 99 1min"]
)
def test_patterns_that_cannot_be_are_refused_in_words(text: str) -> None:
    with pytest.raises(PatternError) as error:
        read_pattern(text)
    assert "\n" not in str(error.value)


def course_of(made: Project, pattern: str) -> Course:
    return ENGINE.transient(made, None, None, read_pattern(pattern))


def test_a_step_ends_where_the_steady_field_is() -> None:
    made = project(Card(FOUR))
    found = course_of(made, "step 3h")
    steady = ENGINE.predict(made).report
    for name, value in zip(found.sensors, found.values_c[-1], strict=True):
        expected = next(row.value_c for row in steady.sensors if row.name == name)
        assert value == pytest.approx(expected, abs=0.3)
    rising = np.diff(found.values_c, axis=0)
    assert (rising > -0.02).all(), "under a constant load nothing cools on its way"
    assert found.soak_s is not None
    assert all(0 < seconds < 3 * 3600 for seconds in found.soak_s)
    cooled = course_of(made, "cool 3h")
    assert cooled.values_c[0] == pytest.approx(found.values_c[-1], abs=0.3), "cooling begins soaked"
    assert cooled.values_c[-1] == pytest.approx(np.full(5, 25.0), abs=0.5)


@pytest.mark.long
def test_mass_that_leads_nowhere_softens_a_burst_and_changes_no_steady_value() -> None:
    """Common practice, no source: pads stuck on a heat pipe only add heat capacity."""
    light = project(Card(FOUR))
    heavy = paths.set_values(light, {"device.bodies.plate.sink.heat_capacity_j_k": 2000.0})
    bursts = [course_of(made, "burst 60s in 10min").values_c.max(axis=0) for made in (light, heavy)]
    assert (bursts[1] < bursts[0] - 1.0).all()
    steady = [course_of(made, "step 1min").steady_c for made in (light, heavy)]
    assert steady[0] == pytest.approx(steady[1], abs=0.05)


def test_the_course_is_written_as_csv() -> None:
    found = course_of(project(Card(FOUR)), "burst 10s in 60s")
    rows = list(csv.reader(io.StringIO(as_csv(found))))
    assert rows[0][:2] == ["time_s", "power_w"]
    assert len(rows) == len(found.time_s) + 1
    assert {float(row[1]) for row in rows[2:]} == {112.0, 0.0}
    assert float(rows[-1][0]) == pytest.approx(60.0)


def test_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    save_project(tmp_path / "card.json", project(Card(FOUR)))
    command = ["predict", str(tmp_path / "card.json"), "--transient", "step 1min"]
    main(command)
    done = capsys.readouterr()
    assert done.out.startswith("time_s,power_w,s_die [C]")
    assert "s_die: not within 1 K by the end" in done.err
    with pytest.raises(SystemExit) as refused:
        main([*command[:-1], "soon"])
    assert refused.value.code == 2
    assert "not a load pattern" in capsys.readouterr().err


# ---- what is looked at, from where, how exactly

MADE = project(Card(FOUR))


def looked(pattern: str, made: Project = MADE, fidelity: Any = "coarse", **watch: Any) -> Course:
    return ENGINE.transient(made, None, None, read_pattern(pattern), fidelity=fidelity, watch=Watch(**watch))


def test_output_times_are_met_exactly_and_change_nothing() -> None:
    free, stopped = looked("step 5min"), looked("step 5min", times=(7.0, 60.0, 300.0))
    assert set(stopped.output_s) <= set(stopped.time_s.tolist())
    asked = stopped.asked()
    assert asked.time_s.tolist() == [7.0, 60.0, 300.0]
    for row, time in zip(asked.values_c, asked.time_s, strict=True):
        between = [np.interp(time, free.time_s, column) for column in free.values_c.T]
        assert row == pytest.approx(between, abs=0.15)


def test_components_without_a_sensor_and_faces_of_plates_are_there() -> None:
    card = project(Card(FOUR, sensors=False))
    found = looked("step 30min", card)
    assert "Part 0" in found.others
    assert {"Cooler, near face", "Cooler, outer face"} <= set(found.others)
    report = Engine().predict(card).report
    hottest = found.others_c[-1][found.others.index("Part 0")]
    assert hottest == pytest.approx(report.component("part_0").t_max_c, abs=0.3), "the coarse course ends at the prediction"
    near, outer = (found.others_c[-1][found.others.index(f"Cooler, {face} face")] for face in ("near", "outer"))
    assert near > outer, "heat passes from one to the other"


def test_any_start_temperature() -> None:
    """From a cold store into a warm room: everything starts at −10 °C and comes to the room's 25 °C without power."""
    found = looked("cool 60min from -10C", tolerance=0.1)
    assert found.values_c[0] == pytest.approx(np.full(len(found.sensors), -10.0))
    assert found.values_c[-1] == pytest.approx(np.full(len(found.sensors), 25.0), abs=0.2)
    assert (np.diff(found.values_c, axis=0) > -0.02).all(), "never colder on the way"
    loaded, cold = (looked(f"step 30min{start}", tolerance=0.1) for start in (" from -10 °C", ""))
    assert loaded.values_c[-1] == pytest.approx(cold.values_c[-1], abs=0.3), "where it ends does not depend on it"
    with pytest.raises(PatternError, match="cannot start"):
        read_pattern("step 5min from 900C")


@pytest.mark.long
def test_the_error_of_a_step_is_within_what_is_allowed() -> None:
    truth = looked("burst 20s in 1min", tolerance=0.005, times=(20.0, 60.0)).asked().values_c
    misses = []
    for tolerance in (0.049, 0.02):  # so that every step is one of the whole field
        found = looked("burst 20s in 1min", tolerance=tolerance, times=(20.0, 60.0))
        assert found.step_error_k <= tolerance
        misses.append(np.abs(found.asked().values_c - truth).max())
    assert misses[1] < misses[0]
    assert misses[1] < 0.1
    with pytest.raises(PatternError, match="not by 0 K"):
        Watch(tolerance=0.0)


def test_pads_and_pastes_store_heat() -> None:
    """By hand: volume times ρc of every pad and of the paste, half at each face; and a burst is softer for it."""
    engine = Engine()
    half = engine.rest(MADE, None, MADE.point())
    actual, frame = engine.field(half, MADE.point(), "coarse")
    stored = stored_in_joints(half.scene, frame, actual.field)
    pad, paste = MADE.material("pad_medium"), MADE.material("paste_filled")
    pads = sum(part.size[0] * part.size[1] * (part.pad or 0.0) for part in FOUR) * 1e-9 * pad.capacity_j_m3k
    film = 4 * paste.flow.filler_um.value * 1e-6 * 400e-6 * paste.capacity_j_m3k  # type: ignore[union-attr]
    assert stored.sum() == pytest.approx(pads + film, rel=1e-6)
    heavy = paths.set_values(MADE, {"materials.pad_medium.specific_heat_j_kgk": 8000.0})
    light, slow = (looked("burst 10s in 20s", made) for made in (MADE, heavy))
    pad_sensor = light.sensors.index("Part 0 hottest") if "Part 0 hottest" in light.sensors else 1
    assert slow.values_c[:, pad_sensor].max() < light.values_c[:, pad_sensor].max()


@pytest.mark.long
def test_an_operating_points_own_cycle() -> None:
    plain = MADE.model_dump(mode="json")
    plain["points"][0]["cycle"] = [{"share": 1.0, "seconds": 20.0}, {"share": 0.2, "seconds": 60.0}]
    made = Project.parse(plain)
    found = looked("cycle 8min", made, times=(240.0,))
    assert found.power_w.max() == pytest.approx(Engine().predict(MADE).report.power_w, rel=1e-6)
    late = found.time_s >= 240.0 - 1e-9
    steady = Engine().predict(made).report
    seconds = np.diff(found.time_s[late])
    for n, row in enumerate(steady.sensors):
        values = found.values_c[late][:, n]
        mean = float(seconds @ ((values[1:] + values[:-1]) / 2) / seconds.sum())
        assert mean == pytest.approx(row.value_c, abs=0.6), "a steady prediction at the mean power is the mean over time"
    with pytest.raises(PatternError, match="no cycle of its own"):
        looked("cycle 5min")
