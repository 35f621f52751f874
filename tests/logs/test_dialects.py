"""Forty invented logger dialects: time, units, values and what each column is, against the truth they were written from."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest

from ashen_bridge.logs.log import Log
from ashen_bridge.logs.mapping import propose
from ashen_bridge.logs.reading import parse_log
from ashen_bridge.model.device import Device
from ashen_bridge.model.records import RunChannel
from ashen_bridge.simulated.dialects import WHAT, Dialect, dialects

ALL = list(dialects())
UNITS = {"core": "°C", "hot spot": "°C", "memory": "°C", "ambient": "°C", "power": "W", "fan": "rpm"}
SENSORS = {"core": "mean", "hot spot": "hot", "memory": "memory"}


@pytest.fixture(scope="module")
def device() -> Device:
    def part(name: str, role: str, x: float) -> dict[str, object]:
        return {
            "kind": "component", "role": role, "id": name, "on": "board", "height_mm": {"value": 1.0},
            "footprint": {"rects": [{"x_mm": x, "y_mm": 10, "w_mm": 12, "h_mm": 12}]},
            "make_up": {"type": "solid", "material": "copper"},
        }  # fmt: skip

    board = {
        "kind": "board", "id": "board", "footprint": {"rects": [{"x_mm": 0, "y_mm": 0, "w_mm": 80, "h_mm": 60}]},
        "thickness_mm": {"value": 1.6}, "material": "laminate_glass",
    }  # fmt: skip
    sensors = [
        {"id": "hot", "name": "Die hot spot", "body": "die", "reads": "max"},
        {"id": "mean", "name": "Die average", "body": "die", "reads": "mean"},
        {"id": "memory", "name": "Memory, hottest", "body": "m1", "also": ["m2"], "reads": "max", "group": "memory"},
    ]
    bodies = [board, part("die", "die", 10), part("m1", "memory", 30), part("m2", "memory", 50)]
    return Device.model_validate({"bodies": bodies, "sensors": sensors})


def found_for(what: str, log: Log, channels: tuple[RunChannel, ...]) -> list[str]:
    """The columns that are taken for something."""
    if what in SENSORS:
        return [one.column for one in channels if one.sensor == SENSORS[what]]
    return [one.column for one in channels if one.role == what and one.body is None]


def right(dialect: Dialect, what: str, log: Log, column: str) -> bool:
    values = log.column(column)
    return len(log.time_s) == len(dialect.time_s) and bool(
        values.unit == UNITS[what] and np.allclose(values.values, dialect.values[what], atol=0.051, equal_nan=True)
    )


@pytest.mark.parametrize("dialect", ALL, ids=[one.name for one in ALL])
def test_time_units_and_values_are_read_as_they_were_written(dialect: Dialect) -> None:
    log = parse_log(dialect.data, "invented.csv")
    assert len(log.time_s) == len(dialect.time_s)
    assert np.abs(log.time_s - dialect.time_s).max() < 0.25
    for what in dialect.values:
        assert any(right(dialect, what, log, one.name) for one in log.columns), what


@pytest.mark.parametrize(
    ("part", "said"),
    [
        ("summary", "sum up the others"), ("long", "put side by side"), ("set forward", "leaps ahead 1 time, by up to 30 min"),
        ("summer time", "as summer time does"), ("unnamed", "has no name"),
    ],
)  # fmt: skip
def test_what_was_put_right_is_said(part: str, said: str) -> None:
    odd = [one for one in ALL if part in one.name]
    assert odd
    for one in odd:
        assert any(said in note for note in parse_log(one.data, "invented.csv").notes), one.name


def test_what_is_not_read_is_named() -> None:
    log = parse_log(b"Time [s],A [W],Mode,B [W]\n0,1,idle,2\n1,2,load,3\n2,3,load,4,5,6\n3,3,load,4\n", "x.csv")
    assert [one.name for one in log.columns] == ["A", "B"]
    assert any("text: “Mode”" in note for note in log.notes)
    assert any("1 line with more cells" in note for note in log.notes)
    assert len(log.time_s) == 3


def test_a_memory_column_never_becomes_a_die_sensor(device: Device) -> None:
    alone = device.model_copy(update={"sensors": device.sensors[:2]})
    log = parse_log(b"Time [s],GPU Memory Hot Spot [C],GPU Memory Temperature [C]\n0,50,40\n1,51,41\n2,52,41\n", "x.csv")
    assert [one.sensor for one in propose(log, alone)] == [None, None]


def test_columns_are_taken_for_what_they_are(device: Device) -> None:
    hits, wrong = Counter[str](), []
    for dialect in ALL:
        log = parse_log(dialect.data, "invented.csv")
        channels = propose(log, device)
        for what in WHAT:
            for column in found_for(what, log, channels):
                if what in dialect.values and right(dialect, what, log, column):
                    hits[what] += 1
                else:
                    wrong.append((dialect.name, what, column))
    assert wrong == []
    assert all(hits[what] >= 36 for what in WHAT), hits
