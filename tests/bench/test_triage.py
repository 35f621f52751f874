"""What a log says by itself: sentences against invented runs whose truth is known, on the command line and in a window."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from click.testing import CliRunner
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from ashen_bridge.cli.main import cli
from ashen_bridge.desktop.baseline.triage_sheet import TriageSheet
from ashen_bridge.desktop.guided.dialog import GuidedDialog
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.shell.general import EMPTY
from ashen_bridge.files.archive import Opened
from ashen_bridge.logs.log import Column, Log
from ashen_bridge.logs.triage import triage
from ashen_bridge.model.project import Project
from ashen_bridge.simulated.dialects import Spec, written
from windows import WAIT, Opener


def made(
    seconds: float = 1800, tau: float = 90.0, hot: float = 88.0, core: float = 74.0, memory: float = 72.0,
    throttles: bool = False, room: bool = True, seed: int = 1,
) -> Log:  # fmt: skip
    chance = np.random.default_rng(seed)
    t = np.arange(0.0, seconds)
    warm = np.where(t >= 30, 1 - np.exp(-(t - 30) / tau), 0.0)
    power = np.where(t >= 30, 220.0, 25.0) + chance.normal(0, 1, len(t))

    def climbing(end: float) -> np.ndarray:
        return 24 + (end - 24) * warm + chance.normal(0, 0.1, len(t))

    top = climbing(hot)
    if throttles:
        top = np.minimum(top, 95.0 + chance.normal(0, 0.1, len(t)))
        power = np.where(t > 400, power - 30, power)
    columns = [
        Column("GPU Hot Spot", "°C", top), Column("GPU Core", "°C", climbing(core)), Column("Memory", "°C", climbing(memory)),
        Column("Board Power", "W", power), Column("Fan", "rpm", np.full(len(t), 1500.0)),
    ]  # fmt: skip
    return Log(t, tuple([*columns, Column("Room", "°C", np.full(len(t), 24.0))] if room else columns))


def said(*logs: Log) -> dict[str, str]:
    found = triage(logs)
    assert len(found.remarks) <= 5
    assert all(one.text.endswith(".") for one in found.remarks)
    assert all(any(sign.isdigit() for sign in one.text) for one in found.remarks if one.state not in ("unknown", "next"))
    return {one.about: one.text for one in found.remarks}


def test_a_sound_device_is_left_closed() -> None:
    words = said(*(made(seed=n) for n in range(3)))
    assert words["settled"].startswith("Settled after 29 min of load: hot spot 87.9 °C")
    assert "220 W, room 24.0 °C" in words["settled"]
    assert words["throttled"] == "It did not throttle: power held 220 W while it was hot."
    assert "14 K above the average, which is usual" in words["spot"]
    assert "opening can hardly pay" in words["suspect"]
    assert "baseline" in words["next"]


def test_a_bad_mount_is_suspected_with_what_it_may_bring() -> None:
    words = said(*(made(hot=104.0, core=70.0, seed=n) for n in range(3)))
    assert "34 K above the average" in words["spot"]
    assert "nearly always the mount" in words["spot"]
    assert "opening can pay: about 19 ± 5 K" in words["suspect"]
    assert "a few answers" in words["next"]


def test_bad_memory_pads_show_against_the_die() -> None:
    assert "memory rises 1.3 times as far" in said(made(memory=90.0))["suspect"]


def test_what_throttles_or_climbs_is_tested_again_first() -> None:
    held = said(made(hot=112.0, core=88.0, throttles=True))
    assert "power fell from 220 to 190 W at 95 °C" in held["throttled"]
    assert "lower power limit" in held["next"]
    climbs = said(made(seconds=900, tau=500.0))
    assert "Still climbing after 14 min" in climbs["settled"]
    assert "heading for" in climbs["settled"]
    assert "run it longer" in climbs["next"]


def test_what_cannot_be_told_is_said() -> None:
    t = np.arange(0.0, 600.0)
    words = said(Log(t, (Column("GPU Core", "°C", 30 + 62 * (1 - np.exp(-t / 60))),)))
    assert "cannot be told" in words["spot"]
    assert "cannot be told: the log shows neither power nor clock" in words["throttled"]
    assert "cannot be told" in words["suspect"]
    nothing = triage([Log(t, (Column("Volts", "V", np.ones(600)),))])
    assert "nothing can be told" in nothing.remarks[0].text


def test_the_command_line_needs_no_device(tmp_path: Path) -> None:
    path = tmp_path / "some.csv"
    path.write_bytes(written(Spec(words="german", numbers="comma", layout="semicolon"), 5).data)
    shown = CliRunner().invoke(cli, ["triage", str(path)])
    assert shown.exit_code == 0
    assert shown.output.startswith("1. ")
    data = json.loads(CliRunner().invoke(cli, ["triage", str(path), "--json"]).output)
    assert data["columns"]["hot"] == "Heißester Punkt"
    assert data["readings"]["power"] == pytest.approx(225, abs=2)


def test_a_log_dropped_on_an_empty_window_leads_to_the_guided_start(qtbot: QtBot, opened: Opener, tmp_path: Path) -> None:
    window = opened("", Opened(Project.parse(EMPTY), {}))
    path = tmp_path / "dropped <b>log.csv"
    path.write_bytes(written(Spec(), 3).data)
    window.take_files([str(path)])
    qtbot.waitUntil(lambda: bool(window.findChildren(TriageSheet)), timeout=WAIT)
    sheet = window.findChildren(TriageSheet)[0]
    assert any("hot spot" in words.text() for words in sheet.findChildren(Words))
    qtbot.mouseClick(sheet.on, Qt.MouseButton.LeftButton)
    dialog = window.findChildren(GuidedDialog)[0]
    answers, read = dialog.interview.answers, sheet.found.readings
    for field, name in (("hot_c", "hot"), ("memory_c", "memory"), ("room_c", "ambient"), ("watts", "power")):
        assert getattr(answers, field) == pytest.approx(read[name], abs=0.06), field
    dialog.asker.choose = lambda *_: "Throw them away"  # type: ignore[method-assign]
    dialog.close()


def test_what_is_no_log_is_said_on_an_empty_window_too(qtbot: QtBot, opened: Opener, tmp_path: Path) -> None:
    window = opened("", Opened(Project.parse(EMPTY), {}))
    path = tmp_path / "prose.txt"
    path.write_text("nothing but words")
    window.take_files([str(path)])
    qtbot.waitUntil(lambda: "not a table" in window.notice.words.text(), timeout=WAIT)


def test_what_is_being_built_is_not_scolded(qtbot: QtBot, opened: Opener) -> None:
    window = opened("", Opened(Project.parse(EMPTY), {}))
    qtbot.waitUntil(lambda: window.session.results.state == "refused", timeout=WAIT)
    assert window.verdict.refusal.text().startswith("Nothing here yet: start from questions")
    assert window.verdict.refusal.objectName() == "hint"
