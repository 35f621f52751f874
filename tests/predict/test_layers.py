"""Layers of every kind between die and cooler, against hand calculations; and what the rules say about them."""

from __future__ import annotations

import math

import numpy as np
import pytest

from ashen_bridge.assess.assessment import assess
from ashen_bridge.library import materials
from ashen_bridge.mechanics.laws import bond_line_prasher, squeeze_film_thickness
from ashen_bridge.mechanics.layers import MeltedSheet, PuttyLayer, RigidLayer, layer_law
from ashen_bridge.model.joints import Piece
from ashen_bridge.model.material import DISPENSED, LAYERS, MaterialKind
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.report import JointRow, Report
from devices import Card, project

ENGINE = Engine()
FORCE = 144.0  # four springs of 12 N/mm, 3 mm of travel
DIE_AREA = 400e-6
LIBRARY = materials()


def filled(material: str, *, thickness: float | None = None, volume: float | None = None, state: str = "burned in") -> Project:
    """Return the bare test card with one layer between die and cooler."""
    data = project(Card()).model_dump(mode="json")
    amount = {"thickness_mm": {"value": thickness}} if thickness is not None else {"volume_mm3": {"value": volume}}
    data["builds"][0]["joints"][0]["pieces"] = [{"id": "layer", "material": material, "state": state, **amount}]
    return Project.parse(data)


def report_of(made: Project) -> Report:
    return ENGINE.predict(made, fidelity="coarse").report


def die_row(made: Project) -> JointRow:
    return next(row for row in report_of(made).joints if row.id == "die_joint")


def test_squeeze_film_by_hand() -> None:
    """p = 2·τy·R/(3·h): τy = 6 kPa, R = 11.28 mm (disc of 400 mm²), p = 90 kPa → h = 2·6·11.28/(3·90) = 0.5015 mm."""
    radius = math.sqrt(400 / math.pi) * 1e-3
    assert float(squeeze_film_thickness(np.array(90e3), 6e3, radius)) == pytest.approx(0.5015e-3, rel=1e-3)


def test_putty_is_squeezed_until_it_carries_the_springs() -> None:
    """Force balance by hand: mean pressure 144 N (and a little more, the plate being held up) over 400 mm²."""
    row = die_row(filled("putty_soft", volume=2000.0))
    pressure = row.force_n / DIE_AREA
    radius = math.sqrt(DIE_AREA / math.pi)
    assert row.gap_mm == pytest.approx(2 * 6e3 * radius / (3 * pressure) * 1e3, rel=0.02)
    assert row.force_n > FORCE, "held up, the springs push more"
    assert row.compression is None, "putty is no pad"


def test_putty_bridges_no_more_than_it_can() -> None:
    layer = layer_law(Piece(id="p", material="putty_soft", volume_mm3=q(100.0)), LIBRARY["putty_soft"], DIE_AREA, 0.08, 1e-6)
    assert isinstance(layer, PuttyLayer)
    thickness = layer(np.array([1.0, 1e4, 1e8]))
    assert thickness[0] == pytest.approx(3e-3), "its stated reach"
    assert thickness[2] == pytest.approx(80e-6), "never thinner than its filler"


def test_phase_change_as_fitted_and_burned_in() -> None:
    """As fitted the sheet keeps its 0.25 mm; burned in it is a film by the bond-line law, and the die cooler for it."""
    fitted, melted = (filled("phase_change", thickness=0.25, state=state) for state in ("as fitted", "burned in"))
    before, after = die_row(fitted), die_row(melted)
    assert before.bond_line_um.mean == pytest.approx(250.0, rel=0.01)
    law = float(bond_line_prasher(np.array(after.pressure_kpa.mean * 1e3), 50.0, 12e-6)) * 1e6
    assert after.bond_line_um.mean == pytest.approx(law, rel=0.02)
    gained = report_of(fitted).component("die").t_max_c - report_of(melted).component("die").t_max_c
    # By hand: 100 W (a little less goes up) through (250 − BLT) µm of 5 W/m·K over 400 mm².
    by_hand = 100.0 * (250e-6 - law * 1e-6) / 5.0 / DIE_AREA
    assert gained == pytest.approx(by_hand, rel=0.12)


def test_a_melted_sheet_is_never_thicker_than_it_was() -> None:
    flow = LIBRARY["phase_change"].flow
    assert flow is not None
    assert MeltedSheet(flow, 0.2e-3)(np.array([1e-3, 1.0, 1e6])).max() <= 0.2e-3


def test_liquid_metal_carries_no_force_and_is_as_thin_as_the_faces_are_rough() -> None:
    """Both faces have 1 µm of roughness: √2 µm between them, and the whole spring force goes through where they meet."""
    row = die_row(filled("liquid_metal", volume=5.0))
    assert row.bond_line_um.mean == pytest.approx(math.sqrt(2), rel=0.25)
    # The springs are measured with the plate 40 µm above the die; that much of their travel is not used now.
    assert row.force_n == pytest.approx(48.0 * (3.0 - 0.04 + row.gap_mm), rel=0.002)
    paste = report_of(filled("paste_filled", volume=30.0)).component("die").t_max_c
    assert report_of(filled("liquid_metal", volume=5.0)).component("die").t_max_c < paste - 1.0


def test_liquid_metal_fills_a_hollow_only_as_far_as_it_was_applied() -> None:
    data = filled("liquid_metal", volume=1.0).model_dump(mode="json")
    next(b for b in data["device"]["bodies"] if b["id"] == "plate")["form"]["crown_um"]["value"] = -600.0
    hollow = Project.parse(data)
    row = die_row(hollow)
    assert row.paste_coverage is not None
    assert row.paste_coverage < 1.0
    assert report_of(hollow).component("die").t_max_c > report_of(filled("liquid_metal", volume=1.0)).component("die").t_max_c


@pytest.mark.parametrize(("material", "thickness"), [("solder_indium", 0.3), ("adhesive_filled", 0.1)])
def test_rigid_layers_keep_their_thickness_and_conduct_as_they_should(material: str, thickness: float) -> None:
    """ΔT = q·(t/k + 2·R_c), layers in series (Incropera & DeWitt, ch. 3)."""
    row = die_row(filled(material, thickness=thickness))
    assert row.bond_line_um.mean == pytest.approx(thickness * 1e3, rel=0.01)
    assert row.compression is None
    own = LIBRARY[material]
    per_area = thickness * 1e-3 / own.conductivity_w_mk.value + 2 * own.contact_mm2k_w.value * 1e-6
    assert row.drop_k == pytest.approx(row.heat_w / DIE_AREA * per_area, rel=0.03)


def test_graphite_is_an_elastic_sheet() -> None:
    row = die_row(filled("graphite_sheet", thickness=0.2))
    assert row.compression is not None
    assert 0.1 < row.compression < 0.4
    pressure = np.interp(row.compression, [0, 0.1, 0.2, 0.3, 0.4], [0, 150, 400, 900, 2000])
    assert row.pressure_kpa.mean == pytest.approx(pressure, rel=0.1), "on its data sheet's curve"


def test_every_layer_kind_computes_with_its_energy_and_forces_balanced() -> None:
    for kind in LAYERS:
        material = next((m for m in LIBRARY.values() if m.kind is kind), None)
        assert material is not None, f"the library has no {kind.value}"
        made = filled(material.id, volume=40.0) if kind in DISPENSED else filled(material.id, thickness=0.25)
        report = ENGINE.predict(made).report
        assert report.balance.energy_rel < 1e-6, kind
        assert report.balance.force_rel < 1e-3, kind
        poor = kind in (MaterialKind.GAS, MaterialKind.FILM)
        assert 40 < report.component("die").t_max_c < (400 if poor else 150), kind


def test_a_layer_without_pressure_dependence_is_the_same_at_any_pressure() -> None:
    thickness = RigidLayer(0.2e-3)(np.geomspace(1, 1e8, 5))
    assert thickness.tolist() == [0.2e-3] * 5


# ---- what the rules say


def codes(made: Project) -> dict[str, str]:
    return {finding.code: finding.text for finding in assess(made, engine=ENGINE, fidelity="coarse").findings}


def test_thin_solder_cracks() -> None:
    assert "cracks" in codes(filled("solder_indium", thickness=0.1))["solder_too_thin"]
    assert "solder_too_thin" not in codes(filled("solder_indium", thickness=0.3))


def test_liquid_metal_on_aluminium_is_serious() -> None:
    data = filled("liquid_metal", volume=5.0).model_dump(mode="json")
    assert "gallium_on_aluminium" not in codes(Project.parse(data)), "copper bears it"
    next(b for b in data["device"]["bodies"] if b["id"] == "plate")["material"] = "aluminium_alloy"
    text = codes(Project.parse(data))["gallium_on_aluminium"]
    assert "will be destroyed" in text


def test_a_conductor_beside_other_parts_is_said() -> None:
    from devices import Part

    near = project(Card((Part(51.0, 34.0, 1.2, 1.0),))).model_dump(mode="json")
    near["builds"][0]["joints"][0]["pieces"] = [{"id": "lm", "material": "liquid_metal", "volume_mm3": {"value": 5.0}}]
    assert "could creep to Part 0" in codes(Project.parse(near))["conductor_near_parts"]
    far = project(Card((Part(60.0, 34.0, 1.2, 1.0),))).model_dump(mode="json")
    far["builds"][0]["joints"][0]["pieces"] = near["builds"][0]["joints"][0]["pieces"]
    assert "conductor_near_parts" not in codes(Project.parse(far))


def test_wide_gaps_are_for_metal() -> None:
    from devices import Part

    wide = project(Card((Part(8, 34, 0.4, 1.0), Part(60, 34, 1.2, 1.0)))).model_dump(mode="json")
    for body in wide["device"]["bodies"]:
        if body["id"] == "die":
            body["height_mm"]["value"] = 4.2
    for fastener in wide["device"]["fasteners"]:
        fastener["reference_mm"]["value"] = 4.24
    wide["builds"][0]["joints"][1]["pieces"] = [{"id": "p", "material": "putty_soft", "volume_mm3": {"value": 700.0}}]
    wide["builds"][0]["joints"][2]["pieces"][0]["thickness_mm"]["value"] = 3.6
    found = codes(Project.parse(wide))
    assert "bridges 3 mm" in found["putty_beyond_reach"]
    assert "long way for heat" in found["filler_too_thick"]


def test_a_shim_smaller_than_its_die() -> None:
    data = project(Card()).model_dump(mode="json")
    shim = {
        "kind": "plate",
        "role": "shim",
        "id": "shim",
        "name": "Shim",
        "footprint": {"rects": [{"x_mm": 32, "y_mm": 30, "w_mm": 16, "h_mm": 20}]},
        "thickness_mm": {"value": 1.0},
        "material": "copper",
    }
    data["device"]["bodies"].append(shim)
    joint = data["builds"][0]["joints"][0]
    joint["upper"] = "shim"
    above = {**joint, "id": "above", "upper": "plate", "lower": ["shim"]}
    data["builds"][0]["joints"].append(above)
    for fastener in data["device"]["fasteners"]:
        fastener["reference_mm"]["value"] = 3.08
    assert "covers 80 % of Die" in codes(Project.parse(data))["shim_smaller_than_die"]


def test_kinds_say_what_they_need() -> None:
    from ashen_bridge.model.material import Material

    for kind in (MaterialKind.PUTTY, MaterialKind.PHASE_CHANGE, MaterialKind.GRAPHITE):
        plain = LIBRARY["copper"].model_dump(mode="json") | {"kind": kind.value}
        with pytest.raises(ValueError, match="needs"):
            Material.model_validate(plain)
