"""Whole predictions: balances, limiting cases, symmetry, and what anyone in the trade would expect to see."""

from __future__ import annotations

import numpy as np
import pytest

from ashen_bridge.changes.layers import set_sheets
from ashen_bridge.changes.materials import make_pads_limp
from ashen_bridge.files.demos import open_anything
from ashen_bridge.geometry.scene import make_scene
from ashen_bridge.geometry.section import Cut, section
from ashen_bridge.model import paths
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.predict.engine import Engine, predict
from ashen_bridge.predict.fingerprint import input_hash
from ashen_bridge.predict.report import Report
from devices import FOUR, Card, Part, project


@pytest.fixture(scope="module")
def demo() -> Project:
    return open_anything("demo:correlator").project


@pytest.fixture(scope="module")
def engine() -> Engine:
    return Engine()


@pytest.fixture(scope="module")
def plan_a(demo: Project, engine: Engine) -> Report:
    return engine.predict(demo, "plan_a").report


def test_demo_balances_and_size(plan_a: Report) -> None:
    assert plan_a.balance.energy_rel < 1e-6
    assert plan_a.balance.force_rel < 1e-3
    assert plan_a.mesh.cells >= 20_000
    assert plan_a.mesh.refinement_k is not None
    assert sum(way.watts for way in plan_a.ways) == pytest.approx(plan_a.power_w, rel=1e-6)


def test_demo_is_plausible_for_a_card_of_its_size(plan_a: Report) -> None:
    """Sanity bands, common practice, no source: hot-spot minus average 10 to 20 K, bond line 20 to 60 µm under a good mount."""
    die = plan_a.component("die")
    assert 7 < die.t_max_c - die.t_mean_c < 20
    row = plan_a.joint_over("die")
    assert row is not None
    assert 20 < row.bond_line_um.mean < 60
    assert row.bond_line_um.harmonic <= row.bond_line_um.mean
    assert 100 < row.pressure_kpa.mean < 600
    for descent in plan_a.descents:
        falls = [step.t_from_c - step.t_to_c for step in descent.steps]
        assert sum(falls) == pytest.approx(plan_a.component(descent.component).t_max_c - plan_a.ambient_c)


def test_thicker_memory_pads_open_the_die_and_heat_it(demo: Project, engine: Engine, plan_a: Report) -> None:
    """The mistake of the trade: 0.5 mm too much, the bond line opens, its pressure goes, the die gets hotter."""
    thick = engine.predict(set_sheets(demo, "plan_a", demo.groups[0].joints, 1.5), "plan_a", fidelity="coarse").report
    before, after = plan_a.joint_over("die"), thick.joint_over("die")
    assert before is not None
    assert after is not None
    assert after.bond_line_um.mean > 3 * before.bond_line_um.mean
    assert after.pressure_kpa.mean < 0.1 * before.pressure_kpa.mean
    assert thick.component("die").t_max_c > plan_a.component("die").t_max_c + 15
    assert after.bond_line_um.max - after.bond_line_um.min > 40, "packages on three sides only: it opens as a wedge"


def test_as_found_is_lifted_and_tilted(demo: Project, engine: Engine) -> None:
    found = engine.predict(demo, "as_found", fidelity="coarse").report
    cooler = next(plate for plate in found.plates if plate.id == "cooler")
    assert cooler.tilt_x_mrad > 3
    assert found.joint_over("die").bond_line_um.mean > 70  # type: ignore[union-attr]


def test_rear_pads_do_nothing_for_the_die(demo: Project, engine: Engine) -> None:
    base = engine.predict(demo, "plan_a", fidelity="coarse").report
    without = Project.parse(
        {
            **dict(demo),
            "builds": tuple(
                {**dict(b), "joints": tuple(j for j in b.joints if j.id not in demo.groups[1].joints)} for b in demo.builds
            ),
            "groups": (demo.groups[0], demo.groups[2]),
        }
    )
    bare = engine.predict(without, "plan_a", fidelity="coarse").report
    assert abs(bare.component("die").t_max_c - base.component("die").t_max_c) < 1.0
    assert bare.component("mem_b1").t_max_c > base.component("mem_b1").t_max_c + 10, "memory on the rear needs them"


def test_coarse_and_fine_agree_within_the_stated_mesh_error(demo: Project, engine: Engine, plan_a: Report) -> None:
    coarse = engine.predict(demo, "plan_a", fidelity="coarse").report
    for a, b in zip(plan_a.sensors, coarse.sensors, strict=True):
        assert abs(a.value_c - b.value_c) < 4 * (plan_a.mesh.refinement_k or 0) + 0.5


def test_zero_power_is_all_at_ambient() -> None:
    report = predict(
        project(Card(tuple(Part(p.x, p.y, p.height, p.pad, power=0) for p in FOUR), die_power=0)), fidelity="coarse"
    ).report
    assert all(row.t_max_c == pytest.approx(25.0, abs=1e-6) for row in report.components)
    assert report.balance.energy_rel < 1e-6


def test_mirrored_card_is_symmetric() -> None:
    report = predict(project(Card(FOUR)), fidelity="coarse").report
    left, right = report.component("part_0").t_max_c, report.component("part_1").t_max_c
    assert left == pytest.approx(right, abs=0.05)


def test_warm_engine_gives_the_same_as_a_cold_one() -> None:
    made = project(Card(FOUR))
    warm = Engine()
    for thickness in (1.5, 0.75, 1.0):
        last = warm.predict(set_sheets(made, "now", made.groups[0].joints, thickness), fidelity="coarse").report
    cold = predict(set_sheets(made, "now", made.groups[0].joints, 1.0), fidelity="coarse").report
    for a, b in zip(last.components, cold.components, strict=True):
        assert a.t_max_c == pytest.approx(b.t_max_c, abs=0.02)


def test_a_pad_that_does_not_touch_is_pad_and_air_not_an_open_circuit() -> None:
    apart = predict(project(Card((Part(8, 34, 1.2, 0.5), *FOUR[1:]))), fidelity="coarse").report
    row = apart.joint_over("part_0")
    assert row is not None
    assert row.contact_fraction == 0.0
    assert row.air_um > 100
    assert row.heat_w > 0.3, "heat still crosses pad and air"
    touching = predict(project(Card(FOUR)), fidelity="coarse").report
    assert apart.component("part_0").t_max_c > touching.component("part_0").t_max_c + 5


def test_half_a_pad_covers_half_and_leaves_it_hotter() -> None:
    from ashen_bridge.model.footprint import rectangle

    half = predict(project(Card((Part(8, 34, 1.2, 1.0, outline=rectangle(8, 34, 6, 12)), *FOUR[1:]))), fidelity="coarse").report
    assert half.component("part_0").covered == pytest.approx(0.5)
    assert half.component("part_1").covered == pytest.approx(1.0)
    assert half.component("part_0").t_max_c > half.component("part_1").t_max_c + 2


def test_too_little_paste_leaves_part_of_the_gap_to_air() -> None:
    rich, poor = (predict(project(Card(FOUR, paste_mm3=v)), fidelity="coarse").report for v in (30.0, 6.0))
    assert rich.joint_over("die").paste_coverage == 1.0  # type: ignore[union-attr]
    assert poor.joint_over("die").paste_coverage < 0.6  # type: ignore[union-attr]
    assert poor.component("die").t_max_c > rich.component("die").t_max_c + 0.5


def test_limp_pads_show_what_the_pads_cost() -> None:
    firm = project(Card(tuple(Part(p.x, p.y, 1.5, 1.5, p.size, "pad_firm") for p in FOUR)))
    now, free = (predict(p, fidelity="coarse").report.joint_over("die") for p in (firm, make_pads_limp(firm)))
    assert now is not None
    assert free is not None
    assert now.bond_line_um.mean > 2 * free.bond_line_um.mean


def test_more_fan_is_cooler_and_overrides_act() -> None:
    slow, fast = (predict(project(Card(FOUR, fan_percent=v)), fidelity="coarse").report for v in (50.0, 100.0))
    assert slow.component("die").t_max_c > fast.component("die").t_max_c + 5
    lapped = project(Card(FOUR, overrides={"device.bodies.die.height_mm": 1.8}))
    plates = [predict(p, fidelity="coarse").report.plates[0].z_mm for p in (project(Card(FOUR)), lapped)]
    assert plates[1] < plates[0] - 0.05
    assert lapped.device.bodies[1].height_mm.value == 2.0, "an override belongs to the build, the device keeps its number"  # type: ignore[union-attr]


def test_hash_follows_what_counts_and_nothing_else(demo: Project) -> None:
    base = input_hash(demo, "plan_a", None)
    renamed = paths.set_values(
        demo, {"device.bodies.die.name": "Other", "notes": "x", "device.bodies.die.height_mm.uncertainty": 0.5}
    )
    assert input_hash(renamed, "plan_a", None) == base
    assert input_hash(paths.set_values(demo, {"device.bodies.die.height_mm": 0.86}), "plan_a", None) != base
    assert input_hash(demo, "as_found", None) != base


def test_section_shows_true_order_and_gaps(demo: Project, engine: Engine) -> None:
    prediction = engine.predict(demo, "as_found", fidelity="coarse")
    scene = make_scene(resolve(demo, "as_found"))
    poses = {pose.plate: pose for pose in prediction.poses}
    cut = section(
        scene,
        lambda p, x, y: poses[p].z + poses[p].slope_x * (x - poses[p].x0) + poses[p].slope_y * (y - poses[p].y0),
        lambda joint, lower: 0.0,
        Cut("x", 0.0555),
    )
    air = [f for f in cut.fillings if f.what == "air" and f.lower.startswith("reg")]
    assert air, "the lifted regulator pad leaves air in the picture"
    for body in cut.bodies:
        assert (body.high > body.low).all()
    paste = next(f for f in cut.fillings if f.what == "paste")
    assert np.ptp(paste.high - paste.low) > 50e-6, "the wedge on the die is visible"
