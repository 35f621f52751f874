"""Fans, fins, rising air, liquid loops, heat pipes and connectors in whole predictions."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from ashen_bridge.assess.assessment import assess
from ashen_bridge.model.errors import AssemblyError, ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import predict
from ashen_bridge.predict.report import Report
from ashen_bridge.thermal.sink_films import loop_resistance
from devices import FOUR, Card, project

Plain = dict[str, Any]
FAN: Plain = {
    "id": "fan",
    "count": 2,
    "noise_db": {"value": 34.0},
    "curve": [{"flow_m3_h": 0, "pressure_pa": 80}, {"flow_m3_h": 40, "pressure_pa": 50}, {"flow_m3_h": 70, "pressure_pa": 0}],
}
FINS: Plain = {"type": "fins", "count": 24, "fin_thickness_mm": 0.4, "fin_height_mm": 25.0, "fans": [FAN]}
LOOP: Plain = {
    **{"type": "liquid", "base_reference": "mean_base", "block_k_w": 0.05, "radiator_k_w": 0.1},
    **{"flow_l_min": 1.0, "rated_flow_l_min": 1.0, "fans": [FAN]},
}


def outline(x: float, y: float, w: float, h: float) -> Plain:
    return {"rects": [{"x_mm": x, "y_mm": y, "w_mm": w, "h_mm": h}]}


def cooled(sink: Plain | None, plate: Plain | None = None, card: Card | None = None, **point: Any) -> Project:
    plain = project(card or Card(FOUR)).model_dump(mode="json")
    plain["points"][0].update(point)
    for body in plain["device"]["bodies"]:
        if body["id"] == "plate":
            body.update({"sink": sink, **(plate or {})})
    return Project.parse(plain)


def coarse(made: Project) -> Report:
    return predict(made, fidelity="coarse").report


def codes(made: Project) -> set[str]:
    return {finding.code for finding in assess(made).findings}


def test_fins_take_from_their_fans_what_their_resistance_lets_through() -> None:
    full, slow = (coarse(cooled(FINS, card=Card(FOUR, fan_percent=percent))) for percent in (100.0, 50.0))
    (fan,), (half,) = full.fans, slow.fans
    assert 0 < (fan.pressure_pa or 0) < 80
    assert 0 < (half.flow_m3_h or 0) < (fan.flow_m3_h or 0)
    assert slow.component("die").t_max_c > full.component("die").t_max_c
    assert fan.noise_db == pytest.approx(34.0 + 10 * np.log10(2))
    assert half.noise_db == pytest.approx((fan.noise_db or 0) - 15.05, abs=0.01)
    assert full.noise_db == pytest.approx(10 * np.log10(10 ** ((fan.noise_db or 0) / 10) + 10**2.5))


def test_what_is_not_ducted_does_not_cool() -> None:
    half = {**FINS, "fans": [{**FAN, "ducted": {"value": 0.5}}]}
    assert coarse(cooled(half)).component("die").t_max_c > coarse(cooled(FINS)).component("die").t_max_c
    assert (coarse(cooled(half)).fans[0].flow_m3_h or 0) < (coarse(cooled(FINS)).fans[0].flow_m3_h or 0)


@pytest.mark.parametrize(
    ("sink", "words"),
    [
        ({**FINS, "count": 200}, "leave no room for air"),
        ({**FINS, "fans": []}, "needs a fan with a curve"),
        ({**FINS, "fans": [{**FAN, "curve": FAN["curve"][:1]}]}, "at least two points"),
        ({**FINS, "fans": [{**FAN, "curve": FAN["curve"][::-1]}]}, "must fall"),
        ({**FINS, "fans": [{**FAN, "ducted": {"value": 0.0}}]}, "cool anything"),
        ({**LOOP, "radiator_k_w": 0.001}, "less than the coolant's own rise"),
        ({"type": "geyser"}, "sink"),
    ],
)
def test_sinks_that_cannot_be(sink: Plain, words: str) -> None:
    with pytest.raises((AssemblyError, ProjectError), match=words):
        coarse(cooled(sink))


def test_fans_that_stand_are_refused() -> None:
    with pytest.raises(AssemblyError, match="stands at 0 % of its speed"):
        coarse(cooled(FINS, card=Card(FOUR, fan_percent=0.0)))


@pytest.mark.long
def test_rising_air_wants_upright_fins() -> None:
    natural: Plain = {"type": "natural", "count": 10, "fin_thickness_mm": 1.5, "fin_height_mm": 30.0}
    card = Card(FOUR, die_power=8.0)
    plate = {"finish": {"emissivity": {"value": 0.85}}}
    upright, flat = (cooled(natural, plate, card, orientation=lie) for lie in ("upright", "flat"))
    assert coarse(upright).component("die").t_max_c < coarse(flat).component("die").t_max_c - 5
    assert "fins_across" in codes(flat)
    assert "fins_across" not in codes(upright)
    warm = predict(upright).report
    assert warm.balance.energy_rel < 1e-6


def test_a_liquid_loop_adds_up() -> None:
    """Block 0.05 + radiator 0.10 − coolant rise 60/4100 K/W over the whole plate."""
    made = cooled(LOOP)
    sink = next(body for body in made.device.bodies if body.id == "plate").sink  # type: ignore[union-attr]
    assert loop_resistance(sink, 1.0) == pytest.approx(0.15 - 60 / 4100)  # type: ignore[arg-type]
    report = coarse(made)
    base = next(row.t_mean_c for row in report.plates if row.id == "plate")
    through = next(row.watts for row in report.ways if row.id == "sink:plate")
    assert (base - 25.0) / through == pytest.approx(0.15 - 60 / 4100, rel=0.02)
    slower = {**LOOP, "flow_l_min": 0.3}
    assert coarse(cooled(slower)).component("die").t_max_c != report.component("die").t_max_c


PIPES: Plain = {
    **{"id": "pipes", "area": {"x_mm": 8, "y_mm": 32, "w_mm": 64, "h_mm": 14}},
    **{"count": 2, "diameter_mm": 6.0, "max_w": 30.0},
}
REMOTE: Plain = {
    "base_reference": "mean_base",
    "convective_k_w": 0.3,
    "fixed_k_w": 0.0,
    "exponent": 0.0,
    "footprint": outline(60, 10, 15, 60),
}


def test_heat_pipes_carry_heat_to_a_remote_sink_up_to_their_limit() -> None:
    thin = {"thickness_mm": {"value": 2.0}}
    card = Card(FOUR, die_power=50.0)
    without, with_pipes = (cooled(REMOTE, {**thin, "heat_pipes": pipes}, card) for pipes in ([], [PIPES]))
    bare, piped = coarse(without), coarse(with_pipes)
    assert piped.component("die").t_max_c < bare.component("die").t_max_c - 3
    (row,) = piped.pipes
    assert 10 < row.carried_w < 62
    assert row.limit_w == pytest.approx(60.0)
    lifted = {**PIPES, "lift_mm": {"value": 200.0}}
    over = cooled(REMOTE, {**thin, "heat_pipes": [lifted]}, card)
    assert coarse(over).pipes[0].limit_w == pytest.approx(60.0 * 0.2)
    assert "heat_pipe_limit" in codes(over)
    assert "heat_pipe_limit" not in codes(with_pipes)


def test_a_strip_with_a_pipe_is_two_conductors_side_by_side() -> None:
    """End to end through a plate and a pipe: G = (k·A + k_p·A_p)/L, by hand, on the plate's own links."""
    from ashen_bridge.geometry.region import Region
    from ashen_bridge.thermal.lines import Lines
    from ashen_bridge.thermal.parts import Film, HeatModel, Layer, Link, Slab
    from ashen_bridge.thermal.steady import SteadySolver

    length, width, thick, k, strength = 0.1, 0.02, 2e-3, 100.0, 0.05
    region = Region(((0, 0, length, width),))
    lines = Lines(np.linspace(0, length, 51), np.linspace(0, width, 3))
    ends = (Region(((0, 0, length / 50, width),)), Region(((length * 49 / 50, 0, length, width),)))
    films = tuple(Film("s", 1, end, 1e9, air) for end, air in zip(ends, (350.0, 300.0), strict=True))
    slab = Slab("s", region, (Layer(thick, k, 1e5, 1e6),))
    model = HeatModel(lines, (slab,), (), films, (), 300.0, (Link("s", region, 0, strength, "pipes:s:p"),))
    field = SteadySolver().solve(model)
    expected = 50 * (k * width * thick + strength) / (length * 49 / 50)
    assert field.film_power[1] == pytest.approx(expected, rel=1e-3)


def test_pipes_beside_their_plate_are_refused() -> None:
    away = {**PIPES, "area": {"x_mm": 300, "y_mm": 32, "w_mm": 64, "h_mm": 14}}
    with pytest.raises(AssemblyError, match="lie beside their plate"):
        coarse(cooled(REMOTE, {"heat_pipes": [away]}))


def test_a_connector_leads_heat_out_of_the_board() -> None:
    plain = project(Card(FOUR)).model_dump(mode="json")
    cold = coarse(Project.parse(plain))
    board = next(body for body in plain["device"]["bodies"] if body["id"] == "board")
    place = {"x_mm": 70, "y_mm": 20, "w_mm": 8, "h_mm": 40}
    board["connectors"] = [{"id": "edge", "area": place, "conductance_w_k": {"value": 0.2}}]
    found = coarse(Project.parse(plain))
    watts = next(row.watts for row in found.ways if row.id == "connector:edge")
    assert watts > 0.5
    assert found.component("part_1").t_max_c < cold.component("part_1").t_max_c


def test_a_plate_that_leads_nowhere_only_stores() -> None:
    plain = project(Card(FOUR)).model_dump(mode="json")
    block = {"kind": "plate", "id": "block", "role": "spreader", "on": "case", "side": "rear", "height_mm": 0.8}
    block |= {"footprint": outline(20, 20, 10, 10), "thickness_mm": 5.0, "material": "copper"}
    block |= {"finish": {"emissivity": {"value": 0.05}}}
    behind = {"kind": "component", "id": "behind", "role": "regulator", "on": "board", "side": "rear", "height_mm": 0.5}
    behind |= {"footprint": outline(21, 21, 8, 8), "make_up": {"type": "solid", "material": "power_stage"}}
    plain["device"]["bodies"] += [block, behind]
    plain["points"][0]["powers_w"]["behind"] = {"value": 2.0}
    pad = {"id": "pad", "material": "pad_soft", "thickness_mm": 0.5}
    plain["builds"][0]["joints"].append({"id": "stuck", "upper": "block", "lower": ["behind"], "pieces": [pad]})
    found = assess(Project.parse(plain)).findings
    assert "capacity_without_sink" in {finding.code for finding in found}
    assert "behind" in {row.id for row in coarse(Project.parse(plain)).components if not row.sensed}
