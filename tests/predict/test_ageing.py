"""Layers over time and under pressure: relaxation, drying, faces, claims, bare metal, solder that holds on."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from ashen_bridge.assess.assessment import assess
from ashen_bridge.mechanics.contact_state import contact_state
from ashen_bridge.mechanics.layers import RigidLayer, relaxation
from ashen_bridge.mechanics.stack import stack_law
from ashen_bridge.model import paths
from ashen_bridge.model.material import Compression, CurvePoint
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.predict.engine import predict
from ashen_bridge.predict.report import Report
from ashen_bridge.thermal.contact import WETTING, asperity_slope, bare_contact_cooper, face_resistance
from ashen_bridge.uncertainty.assumptions import assumptions
from devices import FOUR, Card, project


def coarse(made: Project) -> Report:
    return predict(made, fidelity="coarse").report


def aged(days: float, **material: Any) -> Project:
    plain = project(Card(FOUR)).model_dump(mode="json")
    for joint in plain["builds"][0]["joints"]:
        for piece in joint["pieces"]:
            piece["age_days"] = days
    made = Project.parse(plain)
    return paths.set_values(made, {f"materials.{name.replace('__', '.')}": value for name, value in material.items()})


def test_pads_relax_with_the_logarithm_of_time_for_a_day() -> None:
    points = (CurvePoint(strain=0, pressure_kpa=0), CurvePoint(strain=0.5, pressure_kpa=200))
    pad = Compression(points=points, sample_thickness_mm=q(1), sample_area_mm2=q(645), relaxed_share=q(0.6))
    assert relaxation(pad, 0.0) == 1.0
    assert relaxation(pad, 1.0) == pytest.approx(0.6)
    assert relaxation(pad, 400.0) == pytest.approx(0.6)
    hour = relaxation(pad, 1 / 24)
    assert hour == pytest.approx(1 - 0.4 * np.log10(61) / np.log10(1441))
    assert 0.6 < hour < 0.9


def test_after_a_day_the_pads_push_less_and_the_die_gets_more_force() -> None:
    fresh, day = coarse(aged(0.0)), coarse(aged(1.0))
    for pad in ("pad_0", "pad_3"):
        assert day.joint_rows(pad)[0].force_n < fresh.joint_rows(pad)[0].force_n
    over = [next(row for row in report.joints if row.lower == "die") for report in (fresh, day)]
    assert over[1].force_n > over[0].force_n
    assert over[1].bond_line_um.mean < over[0].bond_line_um.mean


def test_years_add_resistance_as_stated() -> None:
    """A layer of +30 % a year drops 1.6 times as much after two years, at the same flux and bond line."""
    stated = {
        "paste_filled__ageing_per_year": 0.3,
        "pad_medium__ageing_per_year": 0.0,
        "pad_medium__compression__relaxed_share": 1.0,
    }
    new, old = coarse(aged(0.0, **stated)), coarse(aged(2 * 365.25, **stated))
    drops = [next(row for row in report.joints if row.lower == "die") for report in (new, old)]
    ratio = (drops[1].drop_k / drops[1].heat_w) / (drops[0].drop_k / drops[0].heat_w)
    assert ratio == pytest.approx(1.6, rel=0.01)


def test_age_plays_a_part_among_the_assumptions_only_once_there_is_age() -> None:
    def fields(days: float) -> set[str]:
        return {one.field.rsplit(".", 1)[-1] for one in assumptions(aged(days), "now", "load")}

    assert "ageing_per_year" not in fields(0.0)
    assert {"ageing_per_year", "relaxed_share"} <= fields(30.0)


def test_faces_get_better_under_pressure() -> None:
    at = np.array([0.0, 100e3, 400e3])
    found = face_resistance(at, 2e-5, 100e3, 0.5)
    assert found[1] == pytest.approx(2e-5)
    assert found[2] == pytest.approx(2e-5 * ((100e3 + WETTING) / (400e3 + WETTING)) ** 0.5)
    assert np.isfinite(found[0])
    assert (np.diff(found) < 0).all()
    assert (face_resistance(at, 2e-5, 100e3, 0.0) == 2e-5).all()


def test_a_mere_claim_is_derated_and_said_so() -> None:
    made = project(Card(FOUR)).model_dump(mode="json")
    pad = next(m for m in made["materials"] if m["id"] == "pad_medium")
    pad["sources"] = [{"text": "printed on the packet", "claimed": True}]
    claimed, stated = Project.parse(made), project(Card(FOUR))
    assert claimed.material("pad_medium").effective_w_mk == pytest.approx(0.7 * 6.0)
    assert coarse(claimed).component("part_0").t_max_c > coarse(stated).component("part_0").t_max_c
    finding = next(one for one in assess(claimed).findings if one.code == "only_claimed")
    assert finding.numbers == {"claimed_w_mk": 6.0, "counted_w_mk": pytest.approx(4.2)}
    assert any(one.field == "claim_factor" for one in assumptions(claimed, "now", "load"))
    pad["sources"][0]["method"] = "guarded hot plate"
    assert Project.parse(made).material("pad_medium").effective_w_mk == 6.0


def test_bare_metal_conducts_by_its_asperities() -> None:
    pressure = np.array([0.0, 0.5e6, 1e6])
    found = bare_contact_cooper(pressure, 300.0, 1e-6, asperity_slope(1e-6), 1.1e9)
    assert found[0] == 0.0
    assert found[2] / found[1] == pytest.approx(2**0.95)
    assert asperity_slope(1e-6) == pytest.approx(0.125)


def test_a_die_pressed_bare_on_copper_is_far_better_than_one_that_stands_apart() -> None:
    made = project(Card(FOUR)).model_dump(mode="json")
    for joint in made["builds"][0]["joints"]:
        if joint["id"] == "die_joint":
            joint["pieces"] = []
    for part in made["builds"][0]["joints"]:
        for piece in part["pieces"]:
            piece["thickness_mm"] = {"value": 0.6}
    pressed = coarse(Project.parse(made))
    over = next(row for row in pressed.joints if row.lower == "die")
    assert over.force_n > 50
    for part in made["builds"][0]["joints"]:
        for piece in part["pieces"]:
            piece["thickness_mm"] = {"value": 2.0}
    apart = coarse(Project.parse(made))
    assert pressed.component("die").t_max_c + 20 < apart.component("die").t_max_c
    hard = {one.field for one in assumptions(Project.parse(made), "now", "load")}
    assert "microhardness_gpa" in hard
    assert "microhardness_gpa" not in {one.field for one in assumptions(project(Card(FOUR)), "now", "load")}


def test_solder_holds_on_to_both_faces() -> None:
    """Parted by a few µm it is stretched, not opened; a sheet that only lies there leaves air."""

    class Patch:
        def __init__(self, layer: RigidLayer) -> None:
            self.layers, self.law = (layer,), stack_law([layer], 1e-11, False)
            self.pieces = (type("P", (), {"thickness_mm": q(0.3)})(),)

    gap = np.array([290e-6, 310e-6])
    solder, sheet = (contact_state(Patch(RigidLayer(300e-6, bonds)), gap) for bonds in (True, False))  # type: ignore[arg-type]
    assert solder.air == pytest.approx([0.0, 0.0])
    assert solder.piece_thickness[0][1] == pytest.approx(310e-6)
    assert sheet.air[1] == pytest.approx(10e-6, rel=1e-3)
