"""One preparation for every question: kept by what it depends on, its slopes and states against whole predictions."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from ashen_bridge.changes.materials import weaken_joint
from ashen_bridge.geometry.plan import lay_out
from ashen_bridge.model import paths
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.predict.engine import Engine
from ashen_bridge.thermal.conductances import all_edges, edges_like
from ashen_bridge.thermal.factorised import Factorised
from ashen_bridge.thermal.reduced import Change, basis_of
from ashen_bridge.uncertainty.assumptions import assumptions
from ashen_bridge.uncertainty.preparation import Preparation, UnlikeError, prepared
from devices import FOUR, Card, Part, project

CARD = Card((Part(60, 34, 1.2, 1.0), Part(12, 34, 1.2, 1.0)), bends=True)


@pytest.fixture(scope="module")
def engine() -> Engine:
    return Engine()


@pytest.fixture(scope="module")
def ready(engine: Engine) -> Preparation:
    return prepared(engine, project(CARD), report=engine.predict(project(CARD), fidelity="coarse").report)


def shown(engine: Engine, made: Project) -> dict[str, float]:
    return {row.id: row.value_c for row in engine.shown(made, None, None)[0]}


def test_it_is_kept_by_what_it_depends_on(engine: Engine, ready: Preparation) -> None:
    same = prepared(engine, project(CARD), report=ready.report)
    assert same is ready, "another object of the same numbers asks for the same preparation"
    vaguer = paths.set_values(project(CARD), {"points.load.ambient_c": {"value": 25.0, "uncertainty": 3.0, "origin": "assumed"}})
    assert prepared(engine, vaguer, report=ready.report) is not ready, "its ± is another"
    assert 1e5 < ready.size < 1e8


def test_workings_go_when_there_is_no_room(engine: Engine, ready: Preparation) -> None:
    kept = replace(engine.workings, limit=1.5 * ready.size)
    kept._kept.clear()
    kept.keep("one", ready)
    kept.keep("two", ready)
    assert kept.get("one") is None
    assert kept.get("two") is ready


@pytest.mark.long
def test_slopes_against_differences_of_whole_refined_predictions(engine: Engine) -> None:
    """On the mesh a user gets: the slopes of numbers of every sort, by refined predictions of the moved device."""
    spreads = {
        "device.bodies.plate.sink.convective_k_w": 0.02,
        "points.load.powers_w.die": 4.0,
        "device.bodies.part_0.height_mm": 0.03,
        "materials.paste_filled.conductivity_w_mk": 1.0,
        "materials.board_fr4_6.youngs_modulus_gpa": 4.0,
    }
    made = paths.set_values(project(CARD), {f"{path}.uncertainty": by for path, by in spreads.items()})
    ready = prepared(engine, made)
    slopes = ready.slopes()
    found = [(n, one) for n, one in enumerate(ready.numbers) if spreads.keys() & set(one.paths)]
    assert len(found) == len(spreads)
    for n, one in found:
        moved = paths.set_values(made, dict.fromkeys(one.paths, one.value + one.uncertainty))
        back = paths.set_values(made, dict.fromkeys(one.paths, one.value - one.uncertainty))
        up, down = ({row.id: row.value_c for row in Engine().predict(one).report.sensors} for one in (moved, back))
        for k, sensor in enumerate(ready.sensors):
            true = (up[sensor] - down[sensor]) / 2
            assert slopes[n, k] == pytest.approx(true, abs=0.05 + 0.05 * abs(true)), (one.field, sensor)
    assert ready.report.fidelity == "fine"


def test_states_that_carry_no_uncertainty_against_whole_predictions(engine: Engine, ready: Preparation) -> None:
    """A pad that hardly touches, dried paste, a screw left out, warmer air: on the same coarse mesh, by whole fields."""
    made = ready.project
    base = shown(engine, made)
    here = ready.in_project(made)
    assert list(here.values()) == pytest.approx(ready.nominal.tolist(), abs=1e-6)
    pads = [joint.id for joint in made.builds[0].joints if joint.id != "die_joint"]
    for changed in (
        weaken_joint(made, made.builds[0].id, pads[0], 8.0),
        weaken_joint(made, made.builds[0].id, "die_joint", 4.0),
        paths.set_values(made, {"points.load.powers_w.die": 90.0}),
        paths.set_values(made, {"device.bodies.board.thickness_mm": 2.4}),
    ):
        true, found = shown(engine, changed), ready.in_project(changed)
        for sensor in ready.sensors:
            moved = true[sensor] - base[sensor]
            assert found[sensor] - here[sensor] == pytest.approx(moved, abs=0.1 + 0.04 * abs(moved)), sensor


def test_a_kept_preparation_knows_its_device_again_when_all_else_was_forgotten(ready: Preparation) -> None:
    """Its plan is found by value: after many others were laid out the very object is gone."""
    lay_out.cache_clear()
    again = Project.parse(ready.project.model_dump(mode="json"))
    assert list(ready.in_project(again).values()) == pytest.approx(ready.nominal.tolist(), abs=1e-6)


def test_a_device_of_another_shape_is_said_to_be_one(ready: Preparation) -> None:
    with pytest.raises(UnlikeError, match="another shape"):
        ready.in_project(project(Card(FOUR)))


def test_a_sensor_that_is_off_moves_what_it_shows_and_nothing_else(engine: Engine) -> None:
    vague = {"value": 0.0, "uncertainty": 1.5, "origin": "data sheet"}
    made = paths.set_values(project(CARD), {"device.sensors.s_die.offset_k": vague})
    (one,) = [one for one in assumptions(made, "now", "load") if "offset_k" in one.field]
    ready = prepared(engine, made, report=engine.predict(made, fidelity="coarse").report)
    at = next(n for n, other in enumerate(ready.numbers) if other.paths == one.paths)
    row = dict(zip(ready.sensors, ready.slopes()[at], strict=True))
    assert row.pop("s_die") == pytest.approx(1.5)
    assert all(abs(effect) < 1e-9 for effect in row.values())


def test_links_of_other_numbers_on_the_same_cells_are_those_built_anew(ready: Preparation) -> None:
    """The short way to a changed device's links against the long one, number for number."""
    coarse = ready._coarse
    for path in ("device.bodies.plate.thickness_mm", "device.bodies.die.height_mm", "materials.copper.conductivity_w_mk"):
        changed = paths.set_values(ready.project, {path: 1.1 * paths.get(ready.project, path)})
        system = coarse.of_device(resolve(changed, "now"))
        model = replace(coarse._model, slabs=tuple(one.slab for one in system.grid.slabs.values()))
        new, _ = all_edges(system.grid, model)
        short, _ = edges_like((ready._system.grid, ready._system.edges, ready._system.contacts), system.grid, model)
        for name in ("i", "j", "fi", "fj", "gap", "lateral"):
            assert np.array_equal(getattr(new, name), getattr(short, name)) or np.allclose(
                getattr(new, name), getattr(short, name)
            )


def test_the_factorised_system_answers_as_its_own_solution(ready: Preparation) -> None:
    solver, rises = Factorised(ready._system), ready._coarse.rises
    assert solver.solve(ready._system.right[:, None])[:, 0] == pytest.approx(rises, abs=1e-4)
    n = ready._system.n
    more = Change(np.zeros(0, dtype=np.intp), np.zeros(0), np.zeros(n), 0.1 * ready._system.right)
    assert solver.solve(solver.pushed(more, rises)[:, None])[:, 0] == pytest.approx(0.1 * rises, abs=1e-4)


def test_a_basis_leaves_out_what_is_too_small_to_matter() -> None:
    random = np.random.default_rng(1)
    first, large, small = (random.standard_normal(400) for _ in range(3))
    basis = basis_of(np.stack([first, large, 1e-4 * small], axis=1), least=0.01)
    assert basis.shape == (400, 2)
    assert basis.T @ basis == pytest.approx(np.eye(2), abs=1e-12)
    assert basis @ (basis.T @ large) == pytest.approx(large, abs=1e-3)
