"""What people really put into joints: amounts as dispensed, ages of single pieces, voids, films, stated joints, gases."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from ashen_bridge.assess.assessment import assess
from ashen_bridge.library import materials
from ashen_bridge.model import paths
from ashen_bridge.model.errors import AssemblyError, ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.report import JointRow, Report
from ashen_bridge.thermal.surfaces import AIR_CONDUCTIVITY, AIR_EXPONENT, GAS_REFERENCE
from devices import FOUR, Card, project

ENGINE = Engine()
BASE = project(Card(FOUR))


def with_piece(joint: str, **piece: Any) -> Project:
    data = BASE.model_dump(mode="json")
    target = next(one for one in data["builds"][0]["joints"] if one["id"] == joint)
    old = target["pieces"][0]
    kept = {"id": old["id"], "material": old["material"]}
    if not {"thickness_mm", "volume_mm3", "amount"} & set(piece):
        kept |= {"thickness_mm": old["thickness_mm"], "volume_mm3": old["volume_mm3"]}
    target["pieces"] = [{**kept, **piece}]
    return Project.parse(data)


def coarse(made: Project) -> Report:
    return ENGINE.predict(made, fidelity="coarse").report


def die_row(report: Report) -> JointRow:
    return next(row for row in report.joints if row.lower == "die")


@pytest.mark.parametrize(
    ("amount", "volume"),
    [
        ({"type": "pea", "pea_mm": {"value": 3.0}}, np.pi / 6 * 27),
        ({"type": "pea", "pea_mm": {"value": 2.0}, "count": 5}, 5 * np.pi / 6 * 8),
        ({"type": "line", "bead_mm": {"value": 1.5}, "length_mm": {"value": 12.0}}, np.pi / 4 * 2.25 * 12),
        ({"type": "weight", "grams": {"value": 0.05}}, 0.05 / 2600 * 1e6),
    ],
)
def test_amounts_come_to_their_volume(amount: dict[str, Any], volume: float) -> None:
    """A pea, a line or a weight gives the very prediction that its volume gives."""
    one, other = (
        die_row(coarse(with_piece("die_joint", **how))) for how in ({"amount": amount}, {"volume_mm3": {"value": volume}})
    )
    assert one.paste_coverage == pytest.approx(other.paste_coverage, rel=1e-4)
    assert one.drop_k == pytest.approx(other.drop_k, rel=1e-4)


def test_too_small_a_pea_leaves_part_of_the_die_bare() -> None:
    small, usual = (
        die_row(coarse(with_piece("die_joint", amount=amount)))
        for amount in ({"type": "pea", "pea_mm": {"value": 1.5}}, {"type": "film"})
    )
    assert small.paste_coverage is not None
    assert small.paste_coverage < 0.5
    assert usual.paste_coverage == 1.0, "what people spread is enough"
    assert small.drop_k > 1.5 * usual.drop_k


def test_age_belongs_to_the_piece() -> None:
    """New paste under old pads: only the pads are worse."""
    old = with_piece("pad_0", age_days=1096.0)
    new, aged = coarse(BASE), coarse(old)
    for name, changes in (("pad_0", True), ("pad_1", False), ("die_joint", False)):
        before, after = (report.joint_rows(name)[0].layers[0].resistance_mm2k_w for report in (new, aged))
        assert (after > before * 1.3) is changes, name


@pytest.mark.parametrize(("material", "low", "high"), [("pad_soft", 0.2, 0.6), ("paste_filled", 0.2, 0.6)])
def test_three_years_cost_what_people_find(material: str, low: float, high: float) -> None:
    """Pads that ran hot, and pastes, lose 20 to 60 % of their conductance in three years (common practice, no source)."""
    growth = materials()[material].ageing_per_year
    for sign in (-1, 1):
        lost = 1 - 1 / (1 + 3 * (growth.value + sign * growth.uncertainty))
        assert low - 0.02 <= lost <= high + 0.02


def test_what_is_dried_conducts_as_after_three_years() -> None:
    dried, old, new = (coarse(with_piece("die_joint", **how)) for how in ({"state": "dried"}, {"age_days": 3 * 365.25}, {}))
    assert die_row(dried).resistance_mm2k_w == pytest.approx(die_row(old).resistance_mm2k_w)
    assert die_row(dried).drop_k > die_row(new).drop_k * 1.3


def test_a_part_left_bare_conducts_by_its_share() -> None:
    whole, part = (die_row(coarse(with_piece("die_joint", bare_share={"value": share}))) for share in (0.0, 0.4))
    assert whole.resistance_mm2k_w is not None
    assert part.resistance_mm2k_w is not None
    film, bond = 1 / whole.resistance_mm2k_w, whole.bond_line_um.harmonic * 1e-6
    expected = 0.6 * film + 0.4 * AIR_CONDUCTIVITY / bond * 1e-6
    assert 1 / part.resistance_mm2k_w == pytest.approx(expected, rel=0.01), "by hand: paste and air side by side"


def test_a_void_is_where_it_is() -> None:
    """A bubble under the hot half of a die costs more than one of the same size elsewhere; a shared void is bare there alone."""
    die = next(body for body in BASE.device.bodies if body.id == "die")
    x0, y0, x1, y1 = die.footprint.bounds
    data = BASE.model_dump(mode="json")
    made = next(body for body in data["device"]["bodies"] if body["id"] == "die")
    third = {"x_mm": 0.0, "y_mm": 0.0, "w_mm": (x1 - x0) / 3, "h_mm": y1 - y0}
    made["make_up"]["power_map"] = [{"id": "hot", "area": third, "share": 0.9}]
    joint = next(one for one in data["builds"][0]["joints"] if one["id"] == "die_joint")

    def hottest(at: float) -> float:
        void = {"x_mm": at, "y_mm": (y0 + y1) / 2 - 1.5, "w_mm": 3.0, "h_mm": 3.0}
        joint["pieces"][0]["voids"] = [{"id": "bubble", "area": void}]
        return ENGINE.predict(Project.parse(data)).report.component("die").t_max_c

    left, right = hottest(x0 + 1), hottest(x1 - 4)
    joint["pieces"][0]["voids"] = []
    none = ENGINE.predict(Project.parse(data)).report.component("die").t_max_c
    assert left > none + 3
    assert right < none + 0.3 * (left - none)


def test_a_label_left_in_a_joint_adds_its_own_resistance() -> None:
    data = BASE.model_dump(mode="json")
    joint = next(one for one in data["builds"][0]["joints"] if one["id"] == "pad_0")
    joint["pieces"].insert(0, {"id": "label", "material": "label_paper", "thickness_mm": {"value": 0.1}})
    row = coarse(Project.parse(data)).joint_rows("pad_0")[0]
    label = next(layer for layer in row.layers if layer.id == "label")
    assert label.thickness_um == pytest.approx(100)
    assert label.resistance_mm2k_w == pytest.approx(100 / 0.15 + 2 * 20.0, rel=1e-6), "t/k and both faces, by hand"


def test_a_joint_may_be_stated_as_a_whole() -> None:
    """It keeps its mm²·K/W whatever the gap; where no filler could give that, a finding says so."""
    data = BASE.model_dump(mode="json")
    joint = next(one for one in data["builds"][0]["joints"] if one["id"] == "pad_0")
    joint.update(pieces=[], stated_mm2k_w={"value": 120.0, "uncertainty": 20.0})
    made = Project.parse(data)
    for step in (0.0, 0.4):
        moved = paths.set_values(made, {"device.bodies.part_0.height_mm": 1.0 - step})
        assert coarse(moved).joint_rows("pad_0")[0].resistance_mm2k_w == pytest.approx(120.0)
    far = paths.set_values(made, {"builds.now.joints.pad_0.stated_mm2k_w": 10.0, "device.bodies.part_0.height_mm": 0.3})
    assert any(one.code == "stated_out_of_reach" and one.about == "pad_0" for one in assess(far).findings)
    assert not any(one.code == "stated_out_of_reach" for one in assess(made).findings)
    joint["pieces"] = [{"id": "pad", "material": "pad_medium", "thickness_mm": {"value": 1.0}}]
    with pytest.raises(ProjectError, match="stated as a whole"):
        Project.parse(data)
    joint.update(pieces=[], stated_mm2k_w={"value": 0.0})
    with pytest.raises(ProjectError, match="no joint has less"):
        Project.parse(data)


def test_still_air_as_a_layer_conducts_by_its_temperature() -> None:
    """By hand: k of air at the mean of both faces over the gap, and radiation beside it."""
    made = with_piece("pad_0", material="air_still", thickness_mm=None)
    report = ENGINE.predict(made).report
    row = report.joint_rows("pad_0")[0]
    assert row.force_n == 0.0
    step = next(s for one in report.descents if one.component == "part_0" for s in one.steps if s.kind != "hot spot")
    assert step.kind in ("attach", "body", "air"), "most heat goes another way"
    bare = BASE.model_dump(mode="json")
    next(one for one in bare["builds"][0]["joints"] if one["id"] == "pad_0")["pieces"] = []
    other = ENGINE.predict(Project.parse(bare)).report.joint_rows("pad_0")[0]
    assert row.heat_w == pytest.approx(other.heat_w, rel=0.01), "a gap without anything in it is air as well"
    assert row.drop_k == pytest.approx(other.drop_k, rel=0.01)


def test_airs_conductivity_follows_the_table() -> None:
    """Incropera & DeWitt, table A.4 (from memory): 0.0263, 0.0300 and 0.0338 W/m·K at 300, 350 and 400 K."""
    for kelvin, k in ((300, 0.0263), (350, 0.0300), (400, 0.0338)):
        assert AIR_CONDUCTIVITY * (kelvin / GAS_REFERENCE) ** AIR_EXPONENT == pytest.approx(k, rel=0.006)


def test_liquid_metal_may_have_a_thickness() -> None:
    thin, coat = (
        die_row(coarse(with_piece("die_joint", material="liquid_metal", **how)))
        for how in ({"volume_mm3": {"value": 20.0}}, {"thickness_mm": {"value": 0.05}})
    )
    assert coat.bond_line_um.mean == pytest.approx(50.0, rel=0.05)
    assert coat.resistance_mm2k_w is not None
    assert thin.resistance_mm2k_w is not None
    assert coat.resistance_mm2k_w > thin.resistance_mm2k_w + 1.0, "some 45 µm more at 25 W/m·K are 1.8 mm²·K/W"


def test_a_thinned_pad_remembers_its_sheet() -> None:
    made = with_piece("pad_0", thickness_mm={"value": 0.8}, worked={"from_mm": {"value": 1.0}, "how": "stretched"})
    plain = with_piece("pad_0", thickness_mm={"value": 0.8})
    one, other = (coarse(which).joint_rows("pad_0")[0] for which in (made, plain))
    assert one.compression == pytest.approx(other.compression, abs=1e-6)
    assert one.drop_k == pytest.approx(other.drop_k, rel=1e-3)
    with pytest.raises(ProjectError, match="thinner than the sheet"):
        with_piece("pad_0", thickness_mm={"value": 1.2}, worked={"from_mm": {"value": 1.0}})


def test_bonded_joints_touch_without_being_pressed() -> None:
    data = BASE.model_dump(mode="json")
    joint = next(one for one in data["builds"][0]["joints"] if one["id"] == "die_joint")
    joint["pieces"] = [{"id": "solder", "material": "solder_indium", "thickness_mm": {"value": 0.05}}]
    for pad in data["builds"][0]["joints"]:
        if pad["id"].startswith("pad"):
            pad["pieces"][0]["thickness_mm"]["value"] = 1.4  # holds the cooler off by a little
    row = die_row(coarse(Project.parse(data)))
    assert row.contact_fraction == pytest.approx(1.0)


def test_every_joint_and_its_layers_say_their_resistance() -> None:
    for row in coarse(BASE).joints:
        assert row.resistance_mm2k_w is not None
        series = sum(layer.resistance_mm2k_w for layer in row.layers)
        assert row.resistance_mm2k_w == pytest.approx(series, rel=0.05), "layers in series make the joint, up to the wedge"
    steps = [step for one in coarse(BASE).descents if one.component == "die" for step in one.steps if step.kind == "joint"]
    assert steps
    assert all(step.resistance_mm2k_w for step in steps)


def test_a_bead_of_paste_beside_a_shim_leads_heat_past_it() -> None:
    """A shim smaller than the die leaves a gap of its own thickness around it; paste in that gap is a way beside the shim."""
    data = BASE.model_dump(mode="json")
    shim = {
        "kind": "plate", "role": "shim", "id": "shim", "thickness_mm": {"value": 0.5}, "material": "copper", "bends": False,
        "footprint": {"rects": [{"x_mm": 34, "y_mm": 34, "w_mm": 12, "h_mm": 12}]},
    }  # fmt: skip
    data["device"]["bodies"].append(shim)
    data["groups"] = []
    for fastener in data["device"]["fasteners"]:
        fastener["reference_mm"]["value"] += 0.5
    joints = [one for one in data["builds"][0]["joints"] if one["id"] == "die_joint"]
    under = {**joints[0], "id": "under", "upper": "shim"}
    over = {**joints[0], "id": "over", "lower": ["shim"]}

    def hottest(bead: bool) -> Report:
        filled = {**joints[0], "id": "bead", "pieces": [{**joints[0]["pieces"][0], "volume_mm3": {"value": 200.0}}]}
        data["builds"][0]["joints"] = [under, over, *([filled] if bead else [])]
        return ENGINE.predict(Project.parse(data)).report

    bare, beaded = hottest(False), hottest(True)
    assert beaded.component("die").t_max_c < bare.component("die").t_max_c - 1.0
    row = beaded.joint_rows("bead")[0]
    assert row.gap_mm == pytest.approx(0.5 + 2 * 0.035, abs=0.06), "as wide as the shim with its two films"
    assert row.heat_w > 2.0


def test_what_is_too_thin_to_be_a_body_or_a_layer_is_refused() -> None:
    for path, value, words in (
        ("device.bodies.part_0.height_mm", 0.001, "nothing below 0.02 mm"),
        ("device.bodies.plate.thickness_mm", 0.005, "nothing below 0.02 mm"),
        ("device.bodies.part_0.footprint.rects.0.w_mm", 0.01, "nothing below 0.2 mm"),
        ("builds.now.joints.pad_0.pieces.pad.thickness_mm", 0.001, "no layer is below"),
    ):
        with pytest.raises(AssemblyError, match=words):
            coarse(paths.set_values(BASE, {path: value}))
