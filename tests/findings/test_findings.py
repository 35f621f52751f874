"""Each rule speaks when it should and is silent when it should not."""

from __future__ import annotations

import pytest

from ashen_bridge.assess.assessment import assess
from ashen_bridge.assess.result import Assessment
from ashen_bridge.assess.strip import thickness_strip
from ashen_bridge.changes.layers import stock_of
from ashen_bridge.files.demos import open_anything
from ashen_bridge.findings.finding import Finding
from ashen_bridge.model import paths
from ashen_bridge.model.footprint import rectangle
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from ashen_bridge.words.numbers import percent
from devices import FOUR, Card, Part, project

ENGINE = Engine()


def judged(card: Card, **values: float) -> Assessment:
    made = project(card)
    return assess(paths.set_values(made, {k.replace("__", "."): v for k, v in values.items()}), engine=ENGINE, fidelity="coarse")


def found(assessment: Assessment, code: str) -> Finding:
    return next(finding for finding in assessment.findings if finding.code == code)


def codes(assessment: Assessment) -> set[str]:
    return {finding.code for finding in assessment.findings}


def parts(pad: float | None = 1.0, material: str = "pad_medium", height: float = 1.2) -> tuple[Part, ...]:
    return tuple(Part(p.x, p.y, height, pad, p.size, material) for p in FOUR)


def test_a_good_card_has_nothing_to_report() -> None:
    assert codes(judged(Card(parts(material="pad_soft"), die_power=60))) == set()


def test_not_touching_and_barely_touching() -> None:
    apart = judged(Card(parts(0.5), die_power=60))
    finding = found(apart, "not_touching")
    assert finding.severity == "serious"
    assert "none of the 4 pads touches" in finding.text
    assert finding.numbers["air_um"] > 200
    luck = judged(Card(parts(height=1.07), die_power=60))
    assert found(luck, "barely_touching").numbers["compression"] < 0.05
    assert "not_touching" not in codes(luck)


def test_over_compressed() -> None:
    finding = found(judged(Card(parts(2.0, "pad_soft"), rate=40, travel=4)), "over_compressed")
    assert finding.numbers["compression"] > 0.4
    assert "more than 40 %" in finding.text


def test_pads_hold_the_die_off_with_share_bond_lines_and_kelvins() -> None:
    finding = found(judged(Card(parts(1.5, "pad_firm"))), "pads_hold_die_off")
    numbers = finding.numbers
    assert numbers["pad_force_share"] > 0.5
    assert numbers["bond_line_um"] > 1.5 * numbers["bond_line_without_um"]
    assert numbers["cost_k"] > 1
    assert percent(numbers["pad_force_share"]) in finding.text
    assert "Pads" in finding.remedy


def test_cliff_before_the_die_lets_go() -> None:
    finding = found(judged(Card(parts(1.0, "pad_firm", height=1.15), rate=8.0, travel=2.2)), "cliff")
    assert finding.numbers["force_after_n"] < 0.05 * finding.numbers["force_n"]
    assert "Another 0.1 mm of pad on Pads" in finding.text


def test_wedge_and_die_pressure() -> None:
    tilted = judged(Card((Part(8, 34, 1.2, 1.75, (12, 12)), *parts()[1:])))
    assert found(tilted, "wedge").numbers["max_um"] > found(tilted, "wedge").numbers["min_um"] + 20
    assert "die_pressure_low" in codes(judged(Card(parts(), rate=2.0)))
    high = found(judged(Card(parts(None), rate=60.0, travel=5)), "die_pressure_high")
    assert high.severity == "serious"


def test_an_uneven_bond_line_says_what_makes_it_so() -> None:
    crowned = found(judged(Card((), plate_crown_um=900.0, rate=20.0)), "curved_bond_line")
    assert "because its faces are not flat" in crowned.text
    assert crowned.numbers["crown_um"] == pytest.approx(900 * (20 / 70) ** 2)
    assert "wedge" not in codes(judged(Card((), plate_crown_um=900.0, rate=20.0)))
    bent = judged(Card((), rate=60.0, travel=4.0, bends=True))
    assert "board bends under it" in found(bent, "curved_bond_line").text
    assert "brace" in found(bent, "curved_bond_line").remedy
    assert not {"wedge", "curved_bond_line"} & codes(judged(Card((), rate=60.0, travel=4.0)))


def test_bare_part_limit_and_paste() -> None:
    half = judged(Card((Part(8, 34, 1.2, 1.0, outline=rectangle(8, 34, 6, 12)), *parts()[1:])))
    assert found(half, "bare_part").numbers["covered"] == pytest.approx(0.5)
    hot = judged(Card(parts(), die_power=400))
    assert found(hot, "limit_exceeded").about == "die"
    assert hot.findings[0].severity == "serious", "the gravest comes first"
    dry = found(judged(Card(parts(), paste_mm3=5)), "too_little_paste")
    assert dry.numbers["coverage"] < 0.7
    assert dry.severity == "serious"


def test_every_finding_has_sentence_remedy_numbers_and_a_place() -> None:
    everything = judged(Card((Part(8, 34, 1.2, 2.0, (12, 12), "pad_firm"), *parts(0.5)[1:]), paste_mm3=10, die_power=300))
    assert len(everything.findings) >= 5
    places = {body.id for body in project(Card(parts())).device.bodies} | {
        joint.id for joint in project(Card(parts())).builds[0].joints
    }
    for finding in everything.findings:
        assert finding.text.endswith(".")
        assert finding.remedy.endswith(".")
        assert finding.numbers
        assert finding.about in places


def test_strip_agrees_with_the_window_and_refuses_in_words() -> None:
    made = project(Card(parts()))
    base = assess(made, engine=ENGINE, fidelity="coarse").report
    joints = made.groups[0].joints
    cells = list(thickness_strip(made, base, joints, (0.5, 1.0, 1.5), engine=ENGINE))
    now = next(cell for cell in cells if cell.thickness_mm == 1.0)
    assert now.die_c == pytest.approx(base.component("die").t_max_c, abs=0.02)
    assert cells[0].contact == 0.0
    assert cells[2].die_c is not None
    assert cells[2].die_c > now.die_c  # type: ignore[operator]
    assert stock_of(made, "now", joints)[0] == 0.5


@pytest.mark.parametrize("how", ["no joint", "an empty joint"])
def test_a_die_without_paste_is_told_once_and_first(how: str) -> None:
    """The cause stands before what follows from it, and what follows is not told again and again."""
    data = open_anything("demo:correlator").project.model_dump(mode="json", exclude_none=True)
    build = next(one for one in data["builds"] if one["id"] == "plan_a")
    for joint in [one for one in build["joints"] if "die" in one["lower"]]:
        if how == "no joint":
            build["joints"].remove(joint)
        else:
            joint["pieces"] = []
    told = assess(Project.parse(data), "plan_a").findings
    assert [one.code for one in told[:2]] == ["nothing_between", "limit_exceeded"]
    assert "Nothing lies between Correlator die and what faces it" in told[0].text
    assert "fins to inlet air, 27 K" in told[1].remedy
    assert [one.about for one in told].count("die") == 2
    assert not {"hot_spot_above_average", "bare_part", "pads_hold_die_off"} & {one.code for one in told}
