"""Live readings: the line format in pieces of any size, what is refused, the simulated device behind pipe and socket."""

from __future__ import annotations

import os
import socket
import stat
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ashen_bridge.bench.simulated import FanRule, Habits, another_device, simulated_device
from ashen_bridge.cli.live import Waiting
from ashen_bridge.cli.main import main
from ashen_bridge.files.demos import open_anything
from ashen_bridge.geometry.checks import assembly_problems
from ashen_bridge.logs.ahead import look_ahead
from ashen_bridge.logs.live import END, LineReader, header_line, reading_line
from ashen_bridge.logs.log import Column, Log, LogError
from ashen_bridge.logs.reading import parse_log
from ashen_bridge.model.records import RunChannel
from ashen_bridge.model.resolve import resolve
from ashen_bridge.predict.engine import Engine
from ashen_bridge.uncertainty.assumptions import assumptions

TEXT = "\n".join(
    [
        header_line(["Die [°C]", "Power [W]", "Die [°C]"]),
        "# a remark",
        *(reading_line(n, {"a": 40 + n / 10, "b": float("nan") if n == 3 else 100.0, "c": 7.0}) for n in range(20)),
        "nonsense",
        "5;1;2",
        "1;2;3;4",
        END,
        "21;1;2;3",
    ]
).encode()


@given(st.lists(st.integers(1, 40), max_size=60))
def test_lines_are_read_whatever_pieces_they_come_in(sizes: list[int]) -> None:
    reader, at = LineReader(), 0
    for size in sizes:
        reader.feed(TEXT[at : at + size])
        at += size
    reader.feed(TEXT[at:] + b"\n")
    assert reader.columns == (("Die", "°C"), ("Power", "W"), ("Die′", "°C")), "equal names are told apart"
    assert reader.count == 20
    assert reader.wrong == 3, "no numbers, too few cells, and time going backwards"
    assert reader.ended, "nothing counts after the end"
    log = reader.log()
    assert np.isnan(log.columns[1].values[3])
    assert log.columns[0].values[-1] == pytest.approx(41.9)
    assert "3 lines could not be read" in log.notes[0]


def test_what_was_sent_is_itself_a_log() -> None:
    lines = TEXT.split(b"\n")
    log = parse_log(b"\n".join([lines[0], *lines[2:22]]), "captured.csv")
    assert [one.unit for one in log.columns] == ["°C", "W", "°C"]
    assert len(log.time_s) == 20


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"hello\n", "names no columns"),
        (b"time [s]\n", "names no columns"),
        (("time [s];" + ";".join(f"c{n}" for n in range(600)) + "\n").encode(), "up to 500"),
        (b"x" * (1 << 21), "no line ends"),
    ],
)
def test_what_is_not_the_format_is_said(data: bytes, words: str) -> None:
    with pytest.raises(LogError, match=words):
        LineReader().feed(data)


def test_fewer_than_two_readings_are_no_log() -> None:
    reader = LineReader()
    reader.feed(b"time [s];a\n0;1\n")
    with pytest.raises(LogError, match="two readings"):
        reader.log()


def test_time_left_is_told_from_the_curve_and_comes_true() -> None:
    """A first-order rise with τ = 200 s from 40 to 90 °C: within 1 K after 200·ln 50 = 782 s."""
    channels = (RunChannel(column="Die", unit="°C", role="temperature"), RunChannel(column="P", unit="W", role="power"))
    chance = np.random.default_rng(3)

    def until(end: float) -> Log:
        time_s = np.arange(0.0, end)
        rise = 50 * (1 - np.exp(-time_s / 200.0))
        return Log(
            time_s,
            (Column("Die", "°C", 40 + rise + chance.normal(0, 0.1, len(time_s))), Column("P", "W", np.full(len(time_s), 100.0))),
        )

    early = look_ahead(until(400.0), channels)
    assert not early.enough
    assert early.left_s is not None
    assert early.slowest == "Die"
    assert 400 + early.left_s == pytest.approx(782 + 60, abs=60), "and a minute to measure in"
    late = look_ahead(until(1500.0), channels)
    assert late.enough
    assert look_ahead(Log(np.arange(40.0), ()), ()).left_s is None


def test_another_device_keeps_within_what_is_stated() -> None:
    project = open_anything("demo:beamformer").project
    other = another_device(project, "as_found", "listen", 7)
    moved = {one.paths[0]: one for one in assumptions(other, "as_found", "listen")}
    away = [
        abs(moved[one.paths[0]].value - one.value) / one.uncertainty
        for one in assumptions(project, "as_found", "listen")
        if one.uncertainty > 0
    ]
    assert max(away) <= 2.0 + 1e-9
    assert sum(one > 0.1 for one in away) > len(away) / 2
    assert another_device(project, "as_found", "listen", 7) == other, "the same seed is the same device"


def test_another_device_can_always_be_built() -> None:
    """Numbers that cannot be together when each is drawn alone stay nearer to what is said."""
    project = open_anything("demo:correlator").project
    body = next(one for one in project.device.bodies if one.id == "die")
    wide = body.height_mm.model_copy(update={"uncertainty": 5.0})  # type: ignore[union-attr]
    bodies = tuple(one.model_copy(update={"height_mm": wide}) if one.id == "die" else one for one in project.device.bodies)
    doubtful = project.model_copy(update={"device": project.device.model_copy(update={"bodies": bodies})})
    for seed in range(12):
        other = another_device(doubtful, "plan_a", "correlate", seed)
        assert next(assembly_problems(resolve(other, "plan_a")), None) is None


def command(*arguments: str) -> list[str]:
    return [sys.executable, "-m", "ashen_bridge", "simulate", "demo:beamformer", "--minutes", "2", *arguments]


def test_what_is_at_a_sockets_place_stays_and_is_said_first(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    there = tmp_path / "notes.txt"
    there.write_text("mine")
    for address in (there, tmp_path / ("long" * 60)):
        with pytest.raises(SystemExit) as ended:
            main(["simulate", "demo:nothing", "--socket", str(address)])
        assert ended.value.code == 2
        assert "Cannot wait on" in capsys.readouterr().err, "before the project is even looked for"
    assert there.read_text() == "mine"
    made = tmp_path / "made.sock"
    waiting = Waiting(made)
    made.unlink()
    made.write_text("somebody else's")
    waiting.close()
    assert made.read_text() == "somebody else's"


@pytest.mark.long
def test_the_simulated_device_sends_over_a_socket_in_its_own_time(tmp_path: Path) -> None:
    address = tmp_path / "device.sock"
    listening = subprocess.Popen(command("--speed", "60", "--socket", str(address)))
    end = time.monotonic() + 60
    while not address.exists() and time.monotonic() < end:
        time.sleep(0.05)
    assert stat.S_ISSOCK(os.stat(address).st_mode)
    assert stat.S_IMODE(os.stat(address).st_mode) & 0o077 == 0, "for this user alone"
    heard = LineReader()
    with socket.socket(socket.AF_UNIX) as connection:
        connection.settimeout(30)
        time.sleep(0.05)
        connection.connect(str(address))
        begin = 0.0
        while not heard.ended:
            data = connection.recv(4096)
            begin = begin or time.monotonic()  # what comes first is when its own time begins
            if not data:
                break
            heard.feed(data)
    assert 1.5 < time.monotonic() - begin < 8.0, "two minutes sixty times faster take two seconds"
    assert listening.wait(20) == 0
    assert not address.exists(), "the socket is taken away again"
    assert heard.count == 121
    assert heard.ended


@pytest.mark.long
def test_fans_that_follow_a_rule_speed_up_and_hold_the_temperature() -> None:
    project = open_anything("demo:beamformer").project
    rule = FanRule(slowest=0.5, from_c=50.0, full_c=110.0)
    habits = Habits(noise_k=0.01, remount_k=0.0, wander_k=0.0, fan=rule)
    device = simulated_device(Engine(), project, "new_paste", "listen", habits, minutes=25)
    log = device.record(1500, 1)
    fan = log.column("Fan").values
    assert fan[0] == pytest.approx(0.5 * 80.0, abs=1.0), "slowest while it idles"
    assert np.all(fan <= 80.0 + 1e-9)
    assert fan[-1] > fan[60]
    hottest = max(one.values[-1] for one in log.columns if one.unit == "°C" and one.name != "Room")
    assert fan[-1] == pytest.approx(80 * (0.5 + 0.5 * rule.share(hottest)), abs=1.0), "they end where the rule says"
    assert device.slow is not None
    here = device.sensors.index("die_hot")
    assert device.course.steady_c[here] < log.column("Die hot spot").values[-1] < device.slow.steady_c[here]
