"""When a log's load began, and how a device that began warm, or in a warm room, is held against what was planned."""

from __future__ import annotations

from dataclasses import replace as with_

import numpy as np
import pytest

from ashen_bridge.bench.first_power.beginning import from_start, power_on
from ashen_bridge.bench.first_power.expecting import at_time, expect
from ashen_bridge.bench.first_power.judging import judge
from ashen_bridge.bench.first_power.logged import columns_of, judge_course
from ashen_bridge.bench.first_power.result import Expected
from ashen_bridge.bench.simulated import Habits, simulated_device
from ashen_bridge.logs.log import Column, Log
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from devices import FOUR, Card
from devices import project as card_project


@pytest.fixture(scope="module")
def card() -> Project:
    return card_project(Card(parts=FOUR, die_power=120.0))


@pytest.fixture(scope="module")
def expected(card: Project) -> Expected:
    return expect(Engine(), card, None, None)


def watched(card: Project, power: list[float] | None, *temperatures: float, warm: float = 0.0) -> Log:
    label = next(one.label for one in card.device.sensors)
    columns = [Column(label, "°C", np.array(temperatures) + warm)]
    if power is not None:
        columns.append(Column("Board power", "W", np.array(power)))
    return Log(np.arange(len(temperatures), dtype=float) * 10.0, tuple(columns))


def test_load_begins_where_power_stays_above_half(card: Project) -> None:
    point = card.point().id
    whole = sum(one.value for one in card.point().powers_w.values())
    rising = [30.0, 30.0, 30.0, 45.0, 55.0]
    assert power_on(watched(card, [5.0, 5.0, whole, whole, whole], *rising), card, point) == 20.0
    assert power_on(watched(card, [5.0, whole, 5.0, whole, whole], *rising), card, point) == 30.0, "one reading is a slip"
    assert power_on(watched(card, [5.0] * 5, *rising), card, point) is None, "hot by something else"


def test_without_power_it_begins_where_a_sensor_leaves_its_rest(card: Project) -> None:
    point = card.point().id
    assert power_on(watched(card, None, 30.0, 30.1, 30.0, 45.0, 55.0), card, point) == 20.0
    assert power_on(watched(card, None, 30.0, 30.1, 30.0, 30.2), card, point) is None
    assert power_on(watched(card, None, 80.0, 80.5, 81.0, 81.2), card, point) == 0.0, "it began under load"


def test_what_was_warm_fades_and_a_warm_room_stays(card: Project, expected: Expected) -> None:
    """A simulated device that idled at 30 % in a room 6 K warmer is as planned once that is known, and too hot before."""
    habits = Habits(idle_s=60.0, idle_share=0.3, warmer_k=6.0, noise_k=0.0, remount_k=0.0, wander_k=0.0)
    log = simulated_device(Engine(), card, expected.build, expected.point, habits).record(361.0, 3)
    start = power_on(log, card, expected.point)
    assert start == 60.0
    known = from_start(expected, log, card, start)
    seconds, columns = columns_of(card, log, start)
    for at in (60.0, 180.0, 290.0):
        k = int(np.searchsorted(seconds, at))
        shown = np.array([columns[name][k] for name in expected.sensors])
        planned = at_time(known, known.healthy_c, at)
        plain = at_time(expected, expected.healthy_c, at)
        assert np.abs(shown - planned).max() < np.abs(shown - plain).max()
        assert np.abs(shown - planned).max() < 2.0
    told = judge_course(known, seconds, columns)
    assert not told.stop
    assert told.well > 0.5


def test_faults_are_moved_with_what_is_planned(card: Project, expected: Expected) -> None:
    log = watched(card, None, *(expected.ambient_c + 8.0 for _ in range(4)))
    moved = from_start(expected, log, card, 30.0)
    for was, now in zip(expected.cases, moved.cases, strict=True):
        shift = np.broadcast_to(moved.healthy_c - expected.healthy_c, was.shown_c.shape)
        np.testing.assert_allclose(now.shown_c - was.shown_c, shift, atol=1e-9)
    assert (moved.healthy_c - expected.healthy_c).max() <= 8.0
    readings = dict(zip(moved.sensors, at_time(moved, moved.healthy_c, 120.0), strict=True))
    assert judge(with_(moved), 120.0, {name: float(value) for name, value in readings.items()}).well > 0.5
