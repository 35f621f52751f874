"""One curve through runs at different powers, and numbers that share a cause, in the real window."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from ashen_bridge.bench.logbook import record_run
from ashen_bridge.desktop.stack.shared_dialog import SharedDialog
from ashen_bridge.files.archive import Opened
from ashen_bridge.files.demos import open_anything
from ashen_bridge.logs.log import Column, Log
from ashen_bridge.model.project import Project
from devices import FOUR, Card, without_runs
from devices import project as card_project
from windows import WAIT, Opener, baseline, look, press, settled, stack

LEFT = Qt.MouseButton.LeftButton
ROOM = 22.0


def recorded() -> Project:
    """Five minutes-long runs of 0.8 K/W, one of them 9 K too hot."""
    project = without_runs(open_anything("demo:beamformer").project)
    sensor = project.device.sensors[0].label
    for n, watts in enumerate((60.0, 75.0, 90.0, 105.0, 120.0)):
        noise = np.random.default_rng(n).normal(0, 0.05, 60)
        columns = (
            Column(sensor, "°C", ROOM + 0.8 * watts + (9.0 if n == 2 else 0.0) + noise),
            Column("Board power", "W", np.full(60, watts)),
            Column("Room", "°C", np.full(60, ROOM)),
        )
        log = Log(np.arange(60.0), columns)
        project = record_run(project, f"p{n}", [log], build=project.build().id, point=project.point().id, name=f"At {watts:g} W")
    return project


def test_a_curve_through_runs_names_the_one_that_is_off(qtbot: QtBot, opened: Opener) -> None:
    window = opened("runs", Opened(recorded(), {}))
    settled(qtbot, window)
    press(qtbot, window, Qt.Key.Key_F5)
    page = baseline(window)
    assert page.power.view.isHidden()
    look(window, run_page="power")
    qtbot.waitUntil(lambda: page.power.question.state == "current", timeout=WAIT)
    curve = page.power.curve()
    assert curve is not None
    assert curve.k_per_w == pytest.approx(0.8, abs=0.02)
    assert page.power.view.isVisible()
    assert "At 90 W" in page.power.panel.said.text()
    assert "hotter than the curve through the others" in page.power.panel.said.text()
    grabbed = page.power.view.grab().toImage()
    bad = window.theme.colour("bad")
    seen = {grabbed.pixelColor(x, y).name() for x in range(grabbed.width()) for y in range(grabbed.height())}
    assert bad.name() in seen, "what is off is drawn as that"


def test_runs_at_one_power_say_what_is_missing(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    settled(qtbot, window)
    press(qtbot, window, Qt.Key.Key_F5)
    look(window, run_page="power")
    page = baseline(window)
    qtbot.waitUntil(lambda: page.power.question.state == "refused", timeout=WAIT)
    assert "two runs at different powers" in page.power.panel.said.text()
    assert page.power.view.isHidden()


def test_numbers_are_ticked_tied_changed_and_let_go(qtbot: QtBot, opened: Opener) -> None:
    window = opened("card", Opened(card_project(Card(parts=FOUR)), {}))
    settled(qtbot, window)
    look(window, page="assumptions")
    panel = stack(window).assumptions
    qtbot.mouseClick(panel.shared, LEFT)
    dialog = next(one for one in QApplication.topLevelWidgets() if isinstance(one, SharedDialog) and one.isVisible())
    assert not dialog.take.isEnabled()
    wanted: list[str] = []
    for item in (dialog.tree.topLevelItem(n) for n in range(2)):
        assert item is not None
        item.setCheckState(0, Qt.CheckState.Checked)
        wanted += item.data(0, Qt.ItemDataRole.UserRole)
    qtbot.keyClicks(dialog.name, "One <b>batch</b>")
    dialog.share.edit.setFocus()
    dialog.share.edit.selectAll()
    qtbot.keyClicks(dialog.share.edit, "60")
    qtbot.keyClick(dialog.share.edit, Qt.Key.Key_Return)
    qtbot.mouseClick(dialog.take, LEFT)
    (tie,) = window.session.project.ties
    assert (tie.name, tie.share, list(tie.paths)) == ("One <b>batch</b>", 0.6, wanted)
    assert dialog.list.count() == 1
    dialog.share.edit.setFocus()
    dialog.share.edit.selectAll()
    qtbot.keyClicks(dialog.share.edit, "40")
    qtbot.keyClick(dialog.share.edit, Qt.Key.Key_Return)
    assert [one.share for one in window.session.project.ties] == [0.4]
    window.commands["undo"].trigger()
    assert [one.share for one in window.session.project.ties] == [0.6]
    qtbot.mouseClick(dialog.forget, LEFT)
    assert not window.session.project.ties
    assert dialog.list.count() == 0
    dialog.close()
