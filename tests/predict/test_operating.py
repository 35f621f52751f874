"""What comes about at an operating point: throttling, limits, load losses, leakage, and the air inside a case."""

from __future__ import annotations

from typing import Any

import pytest

from ashen_bridge.assess.assessment import assess
from ashen_bridge.model.errors import AssemblyError, ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.predict import operating
from ashen_bridge.predict.engine import Engine, predict
from ashen_bridge.predict.patterns import read_pattern
from ashen_bridge.predict.report import Report
from ashen_bridge.thermal.heating import LeakageError
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


# ---- operating points as people know them


def cooler(**sink: Any) -> dict[str, Plain]:
    plate = next(body for body in at().model_dump(mode="json")["device"]["bodies"] if body["id"] == "plate")
    return {"plate": {"sink": {**plate["sink"], **sink}}}


FAN = {"id": "fan", "noise_db": {"value": 40.0}, "rated_rpm": {"value": 2000.0}}


def test_a_boards_power_is_split_and_the_board_makes_the_rest() -> None:
    found = coarse(at(powers_w={"part_0": {"value": 5.0}}, board_w={"value": 105.0}, split={"die": {"value": 0.7}}))
    assert found.power_w == pytest.approx(105.0)
    assert found.component("part_0").power_w == pytest.approx(5.0)
    assert found.component("die").power_w == pytest.approx(70.0), "seven tenths of the hundred watts that are left"
    whole = coarse(at(powers_w={"die": {"value": 70.0}, "part_0": {"value": 5.0}, "board": {"value": 30.0}}))
    assert found.component("die").t_max_c == pytest.approx(whole.component("die").t_max_c, abs=1e-6)


def test_what_a_regulator_loses_is_in_the_boards_power() -> None:
    """By hand: 110 W are the die's power and a tenth of it."""
    loss = {"part_0": {"loss": {"of": ["die"], "share": 0.1}}}
    found = coarse(at(loss, powers_w={}, board_w={"value": 110.0}, split={"die": {"value": 1.0}}))
    assert found.component("die").power_w == pytest.approx(100.0)
    assert found.component("part_0").power_w == pytest.approx(10.0)


def test_a_split_that_cannot_be_is_refused() -> None:
    for wrong, words in (
        ({"split": {"die": {"value": 0.5}}}, "needs board_w"),
        (
            {"board_w": {"value": 50}, "powers_w": {}, "split": {"die": {"value": 0.7}, "part_0": {"value": 0.4}}},
            "adds up to 1.1",
        ),
        (
            {"board_w": {"value": 50}, "powers_w": {"die": {"value": 1}}, "split": {"die": {"value": 0.5}}},
            "both a power and a share",
        ),
        ({"board_w": {"value": 50}, "powers_w": {}, "split": {"nobody": {"value": 0.5}}}, "does not exist"),
        ({"fans_percent": {"plate": {"value": 50}}, "fans_rpm": {"plate": {"value": 900}}}, "both in per cent and in rpm"),
    ):
        with pytest.raises(ProjectError, match=words):
            at(**wrong)
    with pytest.raises(AssemblyError, match="more than the board's 50 W"):
        coarse(at(powers_w={"die": {"value": 80.0}}, board_w={"value": 50.0}))


def test_a_cycle_is_predicted_at_its_mean() -> None:
    cycle = [{"share": 1.0, "seconds": 30.0}, {"share": 0.25, "seconds": 60.0}]
    assert coarse(at(cycle=cycle)).power_w == pytest.approx(coarse(at()).power_w * 0.5)


def test_a_fan_in_rpm_and_a_fan_in_per_cent_are_one_fan() -> None:
    percent = coarse(at(cooler(fans=[FAN]), fans_percent={"plate": {"value": 60.0}}))
    rpm = coarse(at(cooler(fans=[FAN]), fans_percent={}, fans_rpm={"plate": {"value": 1200.0}}))
    assert rpm.component("die").t_max_c == pytest.approx(percent.component("die").t_max_c)
    assert rpm.fans[0].rpm == pytest.approx(1200.0)
    with pytest.raises(AssemblyError, match="does not say its rated rpm"):
        coarse(at(cooler(fans=[{**FAN, "rated_rpm": None}]), fans_percent={}, fans_rpm={"plate": {"value": 1200.0}}))


def test_equal_noise_turns_the_fans() -> None:
    """By the fan laws: 10 dB less than rated is a speed of 10^(−10/50) = 63 %, room noise taken off by energy."""
    room = {"value": 10.0}
    found = coarse(at(cooler(fans=[FAN]), fans_percent={}, noise_db={"value": 30.0}, room_noise_db=room))
    assert found.noise_db == pytest.approx(30.0)
    assert found.fans[0].speed_percent == pytest.approx(63.1, abs=0.2)
    assert found.component("die").t_max_c > coarse(at(cooler(fans=[FAN]), fans_percent={})).component("die").t_max_c
    for level, words in ((5.0, "the room alone has 10 dB"), (90.0, "do not get so loud")):
        with pytest.raises(AssemblyError, match=words):
            coarse(at(cooler(fans=[FAN]), fans_percent={}, noise_db={"value": level}, room_noise_db=room))
    with pytest.raises(AssemblyError, match="no fan says how loud"):
        coarse(at(noise_db={"value": 30.0}))


def test_air_that_leaks_beside_the_fins_is_missing_from_the_flow() -> None:
    lost, slower = coarse(at(cooler(air_lost={"value": 0.3}))), coarse(at(fans_percent={"plate": {"value": 70.0}}))
    assert lost.component("die").t_max_c == pytest.approx(slower.component("die").t_max_c)
    with pytest.raises(ProjectError, match="more than 90 %"):
        at(cooler(air_lost={"value": 0.95}))


# ---- leakage by its slope


def straight(share: float, per_k: float, at_c: float = 25.0) -> Project:
    leak = {"form": "straight", "share": share, "at_c": {"value": at_c}, "per_k": {"value": per_k}}
    return at({"die": {"leakage": leak}})


def test_straight_leakage_by_hand() -> None:
    """P = P₀·(1 + s·(T − T₀)/w), T the die's own mean to within its spread."""
    found = coarse(straight(0.1, 50.0)).component("die")
    assert found.power_w == pytest.approx(100 * (1 + 0.1 * (found.t_mean_c - 25) / 50), rel=1e-3)


def test_runaway_is_found_by_its_slope() -> None:
    """Along a rising share the gain nears 1, and past it there is no state; no cap of temperature is asked."""
    assert coarse(at()).leakage_gain is None
    gains = []
    for share in (0.02, 0.04, 0.08, 0.16, 0.32, 0.64):
        try:
            gains.append(coarse(straight(share, 10.0)).leakage_gain or 0.0)
        except RunawayError:
            break
    assert 2 <= len(gains) < 6
    assert gains[1] / gains[0] == pytest.approx(2.0, rel=0.1), "the feedback goes with the share"
    assert 0.4 < gains[-1] < 1.0
    near = next(one for one in assess(straight(0.02 * 0.7 / gains[0], 10.0)).findings if one.code == "near_runaway")
    assert 0.5 < near.numbers["gain"] < 1.0


def test_a_steady_state_hotter_than_any_device_is_one() -> None:
    plain = straight(1e-4, 50.0).model_dump(mode="json")
    plain["points"][0]["powers_w"] = {"die": {"value": 1800.0}}
    found = coarse(Project.parse(plain))
    assert found.component("die").t_max_c > 650
    assert found.leakage_gain is not None
    assert found.leakage_gain < 0.1


def test_leakage_below_nothing_is_refused() -> None:
    with pytest.raises(LeakageError, match="comes out at"):
        coarse(straight(1.0, 100.0, at_c=200.0))


def test_without_convection_all_heat_goes_by_the_sink() -> None:
    """What bare faces lose is nothing, by radiation neither: the sink's films carry all of it."""
    card = project(Card(FOUR, bends=False))
    plain = card.model_dump(mode="json")
    plain["points"][0]["convection"] = "none"
    report = Engine().predict(Project.parse(plain), fidelity="coarse").report
    ways = {row.id: row.watts for row in report.ways}
    assert sum(watts for name, watts in ways.items() if name.startswith("sink:")) == pytest.approx(report.power_w, rel=1e-6)
    assert max(abs(watts) for name, watts in ways.items() if not name.startswith("sink:")) == 0.0
    plain["points"][0]["inside"] = "sealed"
    with pytest.raises(ProjectError, match="can only be given"):
        Project.parse(plain)
