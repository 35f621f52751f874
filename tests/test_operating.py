"""What comes about at an operating point: throttling, limits, load losses, leakage, and the air inside a case."""

from __future__ import annotations

from typing import Any

import pytest

from ashen_bridge.assess.assessment import assess
from ashen_bridge.model.errors import AssemblyError, ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.predict import operating
from ashen_bridge.predict.engine import Engine, predict
from ashen_bridge.predict.report import Report
from ashen_bridge.predict.transient import read_pattern
from ashen_bridge.thermal.steady import RunawayError
from devices import FOUR, Card, project

Plain = dict[str, Any]


def at(bodies: dict[str, Plain] | None = None, card: Card | None = None, **point: Any) -> Project:
    """Return the test card with fields of its operating point, and of some bodies, changed."""
    plain = project(card or Card(FOUR)).model_dump(mode="json")
    plain["points"][0].update(point)
    for body in plain["device"]["bodies"]:
        body.update((bodies or {}).get(body["id"], {}))
    return Project.parse(plain)


def coarse(made: Project) -> Report:
    return predict(made, fidelity="coarse").report


def test_a_throttled_die_sits_at_its_limit_and_says_what_is_held_back() -> None:
    free = coarse(at()).component("die")
    limit = free.t_max_c - 15
    found = predict(at(throttle_at_c={"die": {"value": limit}})).report
    assert found.component("die").t_max_c == pytest.approx(limit, abs=0.02)
    (row,) = found.held_back
    assert (row.component, row.wanted_w, row.reason) == ("die", 100.0, "throttled")
    assert 50 < row.power_w < 95
    assert found.component("die").power_w == pytest.approx(row.power_w)
    assert found.balance.energy_rel < 1e-6
    assert "throttled" in {finding.code for finding in assess(at(throttle_at_c={"die": {"value": limit}})).findings}


def test_a_die_below_its_throttle_temperature_is_left_alone() -> None:
    assert coarse(at(throttle_at_c={"die": {"value": 200.0}})).held_back == ()
    hopeless = coarse(at(throttle_at_c={"die": {"value": 10.0}})).held_back[0]
    assert hopeless.power_w == 0.0, "even without power it is warmer than that"


def test_a_power_limit_caps_and_a_regulator_loses_for_what_it_feeds() -> None:
    part = "part_0"
    plain = at()
    assert coarse(plain).component(part).power_w == pytest.approx(3.0)
    powers = {"die": {"value": 100.0}}
    loss = {part: {"loss": {"of": ["die"], "share": 0.08, "fixed_w": 1.0}}}
    assert coarse(at(loss, powers_w=powers)).component(part).power_w == pytest.approx(9.0)
    limited = coarse(at(loss, powers_w=powers, power_limits_w={"die": {"value": 50.0}}))
    assert limited.component("die").power_w == pytest.approx(50.0)
    assert limited.component(part).power_w == pytest.approx(5.0), "it feeds less"
    assert {(row.component, row.reason) for row in limited.held_back} == {("die", "limited")}
    with pytest.raises(ProjectError, match="for feeding 'nobody', which does not exist"):
        at({part: {"loss": {"of": ["nobody"], "share": 0.1}}})


def test_leakage_adds_power_until_it_runs_away() -> None:
    def leaking(share: float) -> Project:
        return at({"die": {"leakage": {"share": share, "at_c": {"value": 40.0}, "per_k": {"value": 30.0}}}})

    plain, leaky = coarse(at()).component("die"), coarse(leaking(0.1)).component("die")
    assert leaky.power_w > plain.power_w
    assert leaky.t_max_c > plain.t_max_c
    with pytest.raises(RunawayError, match="runs away"):
        coarse(leaking(0.9))


def test_a_hot_start_does_not_pass_for_a_runaway() -> None:
    """Going from a state near the edge to a tame one must not end in the wrong branch."""
    engine = Engine()
    hot = at(
        {"die": {"leakage": {"share": 0.3, "at_c": {"value": 70.0}, "per_k": {"value": 40.0}}}}, Card(FOUR, fan_percent=40.0)
    )
    tame = at({"die": {"leakage": {"share": 0.3, "at_c": {"value": 70.0}, "per_k": {"value": 40.0}}}})
    alone = coarse(tame).component("die").t_max_c
    engine.predict(hot, fidelity="coarse")
    assert engine.predict(tame, fidelity="coarse").report.component("die").t_max_c == pytest.approx(alone, abs=0.3)


def test_vented_air_rises_by_the_heat_it_takes() -> None:
    found = predict(at(inside="vented", vent_k_w={"value": 0.1})).report
    assert found.inside_air_c == pytest.approx(found.ambient_c + 0.1 * found.power_w, rel=0.01)
    assert found.balance.energy_rel < 1e-6
    with pytest.raises(ProjectError, match="is vented, so it needs vent_k_w"):
        at(inside="vented")


def sealed(**point: Any) -> Project:
    plain = at(inside="sealed", convection="natural", orientation="upright", **point).model_dump(mode="json")
    board = next(body for body in plain["device"]["bodies"] if body["id"] == "board")
    plain["device"]["bodies"].append(
        {
            "kind": "plate", "id": "wall", "role": "case wall", "on": "case", "side": "front", "height_mm": 25.0,
            "footprint": board["footprint"], "thickness_mm": 2.0, "material": "copper",
        }
    )  # fmt: skip
    plain["points"][0]["powers_w"] = {"die": {"value": 4.0}}
    return Project.parse(plain)


def test_a_sealed_case_loses_all_through_its_wall() -> None:
    found = predict(sealed()).report
    assert found.inside_air_c is not None
    assert found.inside_air_c > found.ambient_c
    outside = next(row.watts for row in found.ways if row.id == "bare:wall:front")
    assert outside == pytest.approx(4.0, rel=1e-3)
    inside = sum(row.watts for row in found.ways if row.id != "bare:wall:front")
    assert inside == pytest.approx(0.0, abs=4e-3)
    with pytest.raises(AssemblyError, match="no way out of the sealed case"):
        coarse(at(inside="sealed"))


def test_a_sealed_case_soaks_towards_its_steady_state() -> None:
    course = Engine().transient(sealed(), None, None, read_pattern("step 6h"))
    assert course.soak_s is not None
    assert 600 < max(course.soak_s) < 6 * 3600
    assert course.values_c[-1] == pytest.approx(course.steady_c, abs=1.0)
    assert (course.values_c[-1] > course.values_c[0]).all()


def test_what_does_not_settle_says_so(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(operating, "MOST_PASSES", 1)
    with pytest.raises(operating.OperatingError, match="did not settle within 1 passes"):
        coarse(at(throttle_at_c={"die": {"value": 50.0}}))


def test_throttling_is_left_out_over_time() -> None:
    limit = {"die": {"value": 45.0}}
    free, told = (
        Engine().transient(at(**point), None, None, read_pattern("step 2min")) for point in ({}, {"throttle_at_c": limit})
    )
    assert told.values_c[-1] == pytest.approx(free.values_c[-1], abs=0.1)
