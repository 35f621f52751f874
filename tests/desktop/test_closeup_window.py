"""The Close up workspace, driven by one key from the hold points to the first start."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.closeup.page import ClosePage
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.files.archive import Opened
from devices import FOUR, Card
from devices import project as card_project
from windows import WAIT, Opener, press, settled

LEFT = Qt.MouseButton.LeftButton
CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def window(opened: Opener) -> MainWindow:
    return opened("card", Opened(card_project(Card(parts=FOUR)), {}))


def at_close(qtbot: QtBot, window: MainWindow) -> ClosePage:
    settled(qtbot, window)
    press(qtbot, window, Qt.Key.Key_F12)
    page = window.workspaces["closeup"].page()
    assert isinstance(page, ClosePage)
    qtbot.waitUntil(lambda: page.desk.planned.state == "current", timeout=WAIT)
    return page


def test_one_key_goes_from_the_hold_points_to_the_first_start(qtbot: QtBot, window: MainWindow) -> None:
    page, session = at_close(qtbot, window), window.session
    before = session.project
    assert page.steps.card.done.text() == "Begin"
    press(qtbot, window, Qt.Key.Key_Return, modifier=CTRL)
    begun = page.desk.begun
    assert begun is not None
    assert begun.kind == "close up"
    assert page.steps.card.done.text() == "Confirm"
    for _ in begun.steps:
        press(qtbot, window, Qt.Key.Key_Return, modifier=CTRL)
    assert page.desk.begun is not None
    assert all(one.done for one in page.desk.begun.steps)
    assert (session.project.device, session.project.builds) == (before.device, before.builds), "nothing changed the device"
    while session.document.undo_stack.canUndo():
        session.document.undo_stack.undo()
    assert session.project == before


def test_what_was_built_otherwise_is_a_build_of_its_own(qtbot: QtBot, window: MainWindow) -> None:
    page, session = at_close(qtbot, window), window.session
    press(qtbot, window, Qt.Key.Key_Return, modifier=CTRL)
    before = session.build
    qtbot.mouseClick(page.steps.otherwise, LEFT)
    assert session.view.workspace == "stack"
    assert session.build.label == f"{before.label}, as built"
    assert session.build.joints == before.joints
    assert before in session.project.builds, "the plan stays"


def test_a_step_past_an_open_hold_point_is_refused(qtbot: QtBot, window: MainWindow) -> None:
    page = at_close(qtbot, window)
    page.steps.card.go_on()
    begun = page.desk.begun
    assert begun is not None
    page.desk.choose_step(begun.steps[-1])
    page.steps.card.go_on()
    assert "First confirm" in page.steps.card.wrong.text()


def test_the_school_is_chosen_before_it_begins_and_the_sheet_is_printed(qtbot: QtBot, window: MainWindow, tmp_path: Path) -> None:
    page = at_close(qtbot, window)
    page.steps.agent.setCurrentIndex(1)
    page.steps.agent.activated.emit(1)
    qtbot.waitUntil(lambda: page.desk.planned.state == "current", timeout=WAIT)
    procedure = page.desk.procedure
    assert procedure is not None
    assert any("70 %" in one.text for one in procedure.steps)
    page.steps.printing.print_to(tmp_path / "close.pdf", "Letter")
    qtbot.waitUntil(lambda: (tmp_path / "close.pdf").exists(), timeout=WAIT)
    assert (tmp_path / "close.pdf").read_bytes().startswith(b"%PDF")
    page.steps.card.go_on()
    assert not page.steps.agent.isEnabled()


@pytest.mark.parametrize("size", [(1024, 768), (800, 1280)])
def test_it_works_on_small_and_upright_screens(qtbot: QtBot, window: MainWindow, size: tuple[int, int]) -> None:
    page = at_close(qtbot, window)
    for name in ("first", "burn", "steps"):
        page.turn_to(name)
        window.resize(*size)
        qtbot.wait(50)
        assert window.width() <= size[0], name
    assert window.height() <= size[1]
    button = page.steps.card.done
    assert window.rect().contains(button.mapTo(window, button.rect().center()))
    assert button.height() >= 30
