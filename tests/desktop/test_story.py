"""The demo's whole story by keys and clicks, through all eight workspaces: from the first run to the record."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import QPointF, Qt
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.choose.page import ChoosePage
from ashen_bridge.desktop.closeup.page import ClosePage
from ashen_bridge.desktop.cut.page import CutPage
from ashen_bridge.desktop.measure.page import MeasurePage
from ashen_bridge.desktop.openup.page import OpenPage
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.files.archive import open_project
from ashen_bridge.files.demos import open_anything
from windows import WAIT, Opener, baseline, look, press, prove, settled, stack, verdicts

LEFT = Qt.MouseButton.LeftButton
CTRL = Qt.KeyboardModifier.ControlModifier
LONG = 3 * WAIT


@pytest.fixture
def window(opened: Opener) -> MainWindow:
    return opened("demo:correlator", open_anything("demo:correlator"))


@pytest.mark.long
def test_log_why_open_evidence_measure_choose_cut_close_burn_in_prove_record(
    qtbot: QtBot, window: MainWindow, tmp_path: Path
) -> None:
    settled(qtbot, window)
    the_log_says_why(qtbot, window)
    it_is_opened_and_looked_at(qtbot, window)
    a_gap_is_read(qtbot, window)
    thicker_pads_heat_the_die(qtbot, window)
    made = a_plan_becomes_a_build(qtbot, window)
    its_pieces_are_laid(qtbot, window)
    it_is_closed_watched_and_burnt_in(qtbot, window)
    assert window.session.view.build == made
    it_is_proved_and_recorded(qtbot, window, tmp_path)
    while window.session.document.undo_stack.canUndo():
        window.session.document.undo_stack.undo()
    start = open_anything("demo:correlator").project
    now = window.session.project
    assert now.model_copy(update={"history": start.history}) == start, "every step can be taken back, but not that it was done"
    assert len(now.history) > len(start.history)


def the_log_says_why(qtbot: QtBot, window: MainWindow) -> None:
    press(qtbot, window, Qt.Key.Key_F5)
    look(window, run="stock", run_page="diagnose")
    panel = baseline(window).diagnosis
    qtbot.waitUntil(lambda: panel.question.state == "current", timeout=LONG)
    assert panel.question.value is not None
    assert panel.question.value.suspects


def it_is_opened_and_looked_at(qtbot: QtBot, window: MainWindow) -> None:
    look(window, build="as_found")
    press(qtbot, window, Qt.Key.Key_F9)
    page = window.workspaces["openup"].page()
    assert isinstance(page, OpenPage)
    begun = page.desk.begun
    assert begun is not None, "the demo's is half done"
    done = sum(bool(one.done) for one in begun.steps)
    press(qtbot, window, Qt.Key.Key_Return, modifier=CTRL)
    assert page.desk.begun is not None
    assert sum(bool(one.done) for one in page.desk.begun.steps) == done + 1
    count = len(window.session.project.evidence)
    qtbot.mouseClick(page.turns["seen"], LEFT)
    page.seen.say("untouched")
    assert len(window.session.project.evidence) >= count


def a_gap_is_read(qtbot: QtBot, window: MainWindow) -> None:
    press(qtbot, window, Qt.Key.Key_F8)
    page = window.workspaces["measure"].page()
    assert isinstance(page, MeasurePage)
    qtbot.waitUntil(lambda: page.desk.question.state == "current", timeout=LONG)
    mark = next(one for one in page.plan.picture.marks if one.lower == "mem_r1")
    at = page.plan.placement(page.plan.picture).rect(mark.box).center()
    qtbot.mouseClick(page.plan, LEFT, pos=QPointF(at).toPoint())
    wanted = page.desk.wanted
    assert wanted is not None
    count = len(window.session.project.readings)
    page.entry.value.setFocus()
    qtbot.keyClicks(page.entry.value, f"{wanted.expected[0]:.2f}")
    press(qtbot, page.entry.value, Qt.Key.Key_Return)
    assert len(window.session.project.readings) == count + 1
    qtbot.waitUntil(lambda: page.desk.question.state == "current", timeout=LONG)


def thicker_pads_heat_the_die(qtbot: QtBot, window: MainWindow) -> None:
    press(qtbot, window, Qt.Key.Key_F6)
    look(window, build="plan_a", selected="mem_l1")
    settled(qtbot, window)
    before = verdicts(window)
    stack(window).panel.choose_thickness(1.5)
    settled(qtbot, window)
    assert verdicts(window) != before
    window.commands["undo"].trigger()
    settled(qtbot, window)
    assert verdicts(window) == before


def a_plan_becomes_a_build(qtbot: QtBot, window: MainWindow) -> str:
    look(window, build="as_found")
    press(qtbot, window, Qt.Key.Key_F10)
    page = window.workspaces["choose"].page()
    assert isinstance(page, ChoosePage)
    qtbot.waitUntil(lambda: page.desk.advice.state == "current", timeout=LONG)
    builds = len(window.session.project.builds)
    qtbot.mouseClick(page.plans.go, LEFT)
    assert len(window.session.project.builds) == builds + 1
    made = window.session.project.builds[-1].id
    look(window, build=made)
    return made


def its_pieces_are_laid(qtbot: QtBot, window: MainWindow) -> None:
    press(qtbot, window, Qt.Key.Key_F11)
    page = window.workspaces["cut"].page()
    assert isinstance(page, CutPage)
    qtbot.waitUntil(lambda: page.desk.question.state == "current", timeout=LONG)
    assert page.desk.found is not None


def it_is_closed_watched_and_burnt_in(qtbot: QtBot, window: MainWindow) -> None:
    press(qtbot, window, Qt.Key.Key_F12)
    page = window.workspaces["closeup"].page()
    assert isinstance(page, ClosePage)
    qtbot.waitUntil(lambda: page.desk.planned.state == "current", timeout=LONG)
    press(qtbot, window, Qt.Key.Key_Return, modifier=CTRL)
    begun = page.desk.begun
    assert begun is not None
    press(qtbot, window, Qt.Key.Key_Return, times=len(begun.steps), modifier=CTRL)
    assert page.desk.begun is not None
    assert all(one.done for one in page.desk.begun.steps)
    qtbot.mouseClick(page.turned.turns["first"], LEFT)
    qtbot.waitUntil(lambda: page.first_desk.expected.state == "current", timeout=LONG)
    expected = page.first_desk.expected.value
    assert expected is not None
    for n, sensor in enumerate(expected.sensors):
        edit = page.first.fields[sensor].edit
        edit.setFocus()
        qtbot.keyClicks(edit, f"{expected.healthy_c[7, n]:.1f}")  # after three minutes
        press(qtbot, edit, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: page.first_desk.judged.state == "current", timeout=LONG)
    assert page.first.says.text().startswith("As planned.")
    qtbot.mouseClick(page.turned.turns["burn"], LEFT)
    qtbot.waitUntil(lambda: page.burn_desk.planned.state == "current", timeout=LONG)
    press(qtbot, window, Qt.Key.Key_Return, modifier=CTRL)
    assert page.burn_desk.begun is not None


def it_is_proved_and_recorded(qtbot: QtBot, window: MainWindow, tmp_path: Path) -> None:
    press(qtbot, window, Qt.Key.Key_F7)
    look(window, run="repaired", against="stock")
    page = prove(window)
    qtbot.waitUntil(lambda: page.proof.state == "current", timeout=LONG)
    assert page.headline.text()
    window.session.document.save(tmp_path / "story.ashb", {})
    told = [one.what for one in open_project(tmp_path / "story.ashb").project.history]
    assert any(one.startswith("Build: ") for one in told[-20:]), "the plan that became a build"
    assert any(one.endswith(": steps done") for one in told), "closing up, step by step"
    record = page.papers[0]
    record.print_to(tmp_path / "record.pdf", "A4")
    qtbot.waitUntil((tmp_path / "record.pdf").exists, timeout=LONG)
    assert (tmp_path / "record.pdf").read_bytes().startswith(b"%PDF")
