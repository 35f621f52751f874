"""The first minutes: the healthy course is the model's own, faults grow as whole courses do, readings are judged as they come."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from ashen_bridge.bench.diagnosis.hypotheses import hypotheses
from ashen_bridge.bench.first_power.expecting import at_time, expect
from ashen_bridge.bench.first_power.judging import judge
from ashen_bridge.bench.first_power.logged import judge_course, judge_log
from ashen_bridge.bench.first_power.result import Expected
from ashen_bridge.bench.first_power.shapes import course_of
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced
from ashen_bridge.predict.engine import Engine
from devices import FOUR, Card
from devices import project as card_project


@pytest.fixture(scope="module")
def card() -> Project:
    plain = card_project(Card(parts=FOUR, die_power=120.0))
    limits = tuple(replaced(one, max_c=q(140.0)) for one in plain.device.limits)
    return replaced(plain, device=replaced(plain.device, limits=limits))


@pytest.fixture(scope="module")
def expected(card: Project) -> Expected:
    return expect(Engine(), card)


def shown(expected: Expected, at_s: float, add: float = 0.0, only: str = "") -> dict[str, float]:
    values = at_time(expected, expected.healthy_c, at_s)
    return {name: float(v) + (add if only in ("", name) else 0.0) for name, v in zip(expected.sensors, values, strict=True)}


def test_the_healthy_course_is_the_one_that_the_window_shows(card: Project, expected: Expected) -> None:
    from ashen_bridge.predict.patterns import read_pattern

    course = Engine().transient(card, None, None, read_pattern("step 60min"))
    labels = {one.id: one.label for one in card.device.sensors}
    for n, name in enumerate(expected.sensors):
        column = course.sensors.index(labels[name])
        there = np.interp(expected.times_s, course.time_s, course.values_c[:, column])
        assert np.abs(there - expected.healthy_c[:, n]).max() < 0.7


def test_what_a_fault_adds_grows_as_its_own_whole_course_does(card: Project, expected: Expected) -> None:
    """One course stands for its like: every pad's own whole course is within a tenth of its end, and a kelvin."""
    listed = {one.id: one for one in hypotheses(card, "now", "load")}
    healthy = course_of(Engine(), card, "now", "load", bring=False)
    labels = {one.id: one.label for one in card.device.sensors}
    columns = [healthy.sensors.index(labels[name]) for name in expected.sensors]
    tried = 0
    for case in expected.cases:
        if case.id.partition("-")[0] not in ("touch", "worn", "loose"):
            continue
        fault = listed[case.id]
        moved = course_of(Engine(), fault.applied(card, fault.worst), "now", "load", bring=False)
        exact = (moved.values_c - healthy.values_c)[:, columns]
        mine = case.shown_c[-1] - expected.healthy_c
        assert np.abs(mine - exact).max() < max(0.12 * np.abs(exact).max(), 1.0), case.id
        tried += 1
    assert tried >= 3


def test_as_planned_is_left_alone_and_a_pad_that_misses_is_named(expected: Expected) -> None:
    for at in (60.0, 180.0, 300.0):
        told = judge(expected, at, shown(expected, at))
        assert not told.stop
        assert told.says.startswith("As planned")
        assert told.well > 0.5
    misses = next(one for one in expected.cases if one.id.startswith("touch"))
    values = at_time(expected, misses.shown_c[-1], 180.0)
    told = judge(expected, 180.0, dict(zip(expected.sensors, map(float, values), strict=True)))
    assert told.stop
    assert misses.id in [one.id for one in told.suspects[:2]]
    assert sum(one.belief for one in told.suspects) + told.well <= 1 + 1e-9


def test_a_warmer_room_is_no_fault(expected: Expected) -> None:
    told = judge(expected, 180.0, shown(expected, 180.0, 6.0), expected.ambient_c + 6.0)
    assert told.says.startswith("As planned")


def test_too_early_nothing_is_said_but_a_limit_stops_at_once(card: Project, expected: Expected) -> None:
    assert not judge(expected, 8.0, shown(expected, 8.0, 4.0)).stop
    name = next(n for n, limit in zip(expected.sensors, expected.limits_c, strict=True) if np.isfinite(limit))
    hot = {name: 138.0}
    told = judge(expected, 8.0, hot)
    assert told.stop
    assert "below its limit" in told.says
    del card


def test_sensors_in_another_order_or_fewer_say_the_same(expected: Expected) -> None:
    misses = next(one for one in expected.cases if one.id.startswith("touch"))
    values = at_time(expected, misses.shown_c[-1], 240.0)
    readings = dict(zip(expected.sensors, map(float, values), strict=True))
    told = judge(expected, 240.0, readings)
    turned = judge(expected, 240.0, dict(reversed(list(readings.items()))))
    assert told.says == turned.says
    with pytest.raises(ProjectError, match="None of the sensors"):
        judge(expected, 240.0, {"another": 50.0})


def test_a_course_is_judged_as_it_goes_and_a_log_is_read(card: Project, expected: Expected, tmp_path: Path) -> None:
    seconds = np.arange(0.0, 300.0, 1.0)
    healthy = {
        n: np.array([at_time(expected, expected.healthy_c, t)[k] for t in seconds]) for k, n in enumerate(expected.sensors)
    }
    assert not judge_course(expected, seconds, healthy).stop
    misses = next(one for one in expected.cases if one.id.startswith("touch"))
    course = [at_time(expected, misses.shown_c[-1], t) for t in seconds]
    bad = {name: np.array([row[k] for row in course]) for k, name in enumerate(expected.sensors)}
    told = judge_course(expected, seconds, bad)
    assert told.stop
    assert told.at_s < 300
    labels = {one.id: one.label for one in card.device.sensors}
    head = ",".join(["time_s", *(f"{labels[n]} [C]" for n in bad)])
    lines = [",".join([f"{t:g}", *(f"{values[k]:.2f}" for values in bad.values())]) for k, t in enumerate(seconds)]
    (tmp_path / "log.csv").write_text("\n".join([head, *lines]))
    assert judge_log(expected, card, tmp_path / "log.csv").stop
    with pytest.raises(ProjectError, match="too short"):
        judge_course(expected, seconds[:3], {n: v[:3] for n, v in healthy.items()})
