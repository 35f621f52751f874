"""The window as a window manager shows it: framed, on a screen of 1280 × 800, by keys and mouse."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import pytest
from PyQt6.QtCore import QPoint, QRect, Qt
from PyQt6.QtWidgets import QAbstractButton, QAbstractSpinBox, QApplication, QComboBox, QLineEdit, QWidget
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.guided.dialog import GuidedDialog
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.desktop.shell.workbench import Workbench
from ashen_bridge.files.archive import Opened
from devices import FOUR, Card, project
from spy import ShowSpy
from windows import WAIT, Opener, click, desk, drag, look, press, settled, stack

CTRL = Qt.KeyboardModifier.ControlModifier


def framed(qtbot: QtBot, window: MainWindow) -> QRect:
    """Wait for the frame; returns where the window with it lies."""
    qtbot.waitUntil(lambda: window.frameGeometry() != window.geometry(), timeout=WAIT)
    qtbot.wait(1800)  # the last look at where it lies is taken then
    return window.frameGeometry()


@pytest.mark.parametrize("bigger", [-2, 0, 4])
def test_all_of_the_window_is_on_the_screen_at_every_text_size(
    qtbot: QtBot, bench: Workbench, opened: Opener, bigger: int
) -> None:
    for _ in range(abs(bigger)):
        bench.change_text(1 if bigger > 0 else -1)
    window = opened()
    frame = framed(qtbot, window)
    screen = window.screen()
    assert screen is not None
    assert (screen.size().width(), screen.size().height()) == (1280, 800)
    assert screen.availableGeometry().contains(frame), f"{frame} does not lie on the screen"
    for part in (window.status, window.header, window.rail, window.findings):
        box = QRect(part.mapTo(window, QPoint(0, 0)), part.size())
        assert window.rect().contains(box), f"{type(part).__name__} at {box} is cut off"
    assert window.status.words.visibleRegion().boundingRect().height() >= window.status.words.fontMetrics().height() - 2


def test_a_whole_editing_story_shows_no_window_but_the_expected_ones(qtbot: QtBot, opened: Opener) -> None:
    window = opened("", Opened(project(Card(FOUR))))
    framed(qtbot, window)
    settled(qtbot, window)
    spy = ShowSpy(QApplication.instance())  # type: ignore[arg-type]
    window.commands["edit_mode"].trigger()
    plan = stack(window).plan
    click(qtbot, plan, 40, 40)
    for kind in ("memory", "regulator"):
        desk(window).look(replace(desk(window).view, tool=kind))
        drag(qtbot, plan, (2, 70), (12, 78))
        qtbot.wait(60)
        press(qtbot, window, Qt.Key.Key_Z, modifier=CTRL)
        qtbot.wait(60)
    press(qtbot, window, Qt.Key.Key_Z, modifier=CTRL | Qt.KeyboardModifier.ShiftModifier)
    for page in ("joint", "part", "assumptions", "chance"):
        look(window, page=page)
        qtbot.wait(60)
    for workspace in ("baseline", "openup", "measure", "prove", "stack"):
        look(window, workspace=workspace)
        qtbot.wait(60)
    window.program.toggle_theme()
    qtbot.wait(60)
    settled(qtbot, window)
    assert spy.rest() == []


@pytest.mark.parametrize("bigger", [0, 4])
def test_dialogs_are_the_windows_that_were_asked_for(qtbot: QtBot, bench: Workbench, opened: Opener, bigger: int) -> None:
    for _ in range(bigger):
        bench.change_text(1)
    window = opened("", Opened(project(Card(FOUR))))
    framed(qtbot, window)
    spy = ShowSpy(QApplication.instance())  # type: ignore[arg-type]
    press(qtbot, window, Qt.Key.Key_N, modifier=CTRL)
    qtbot.waitUntil(lambda: any(one.isVisible() for one in window.findChildren(GuidedDialog)), timeout=WAIT)
    dialog = next(one for one in window.findChildren(GuidedDialog) if one.isVisible())
    dialog.asker.choose = lambda *_: "Throw them away"  # type: ignore[method-assign]
    dialog.answer("name", "Marsh harrier " * 14)
    for at in range(len(dialog.interview.pages)):
        dialog.go(at)
        qtbot.wait(60)
    screen = window.screen()
    assert screen is not None
    room = screen.availableGeometry()
    qtbot.waitUntil(lambda: room.contains(dialog.frameGeometry()), timeout=5000)
    dialog.reject()
    assert spy.rest() == ["GuidedDialog New device from questions"]


def stops(window: MainWindow, qtbot: QtBot, most: int) -> dict[QWidget, QRect]:
    """The widgets that Tab leads to, from the window's start, until it comes round; and where each was then."""
    window.workspace.page().setFocus()
    seen: dict[QWidget, QRect] = {}
    for _ in range(most):
        at = QApplication.focusWidget()
        if at is None or at in seen:
            break
        seen[at] = QRect(at.mapTo(window, QPoint(0, 0)), at.size())
        press(qtbot, at, Qt.Key.Key_Tab)
    return seen


def _alone(one: QWidget) -> bool:
    """Whether a field or button should be a stop: seen, able, no part of another field, not beside the one that is on."""
    if not (one.isVisible() and one.isEnabled() and one.focusPolicy() & Qt.FocusPolicy.TabFocus) or one.focusProxy() is not None:
        return False
    group = one.group() if isinstance(one, QAbstractButton) else None
    beside = group is not None and group.exclusive() and group.checkedButton() is not one
    return not beside and not isinstance(one.parent(), QComboBox | QAbstractSpinBox)


@pytest.mark.parametrize("bigger", [-2, 0, 4])
def test_everything_can_be_reached_by_keys_and_is_seen_to_be(qtbot: QtBot, bench: Workbench, opened: Opener, bigger: int) -> None:
    """Tab goes round; where it stops lies in the window, looks otherwise than before, and follows the way one reads."""
    for _ in range(abs(bigger)):
        bench.change_text(1 if bigger > 0 else -1)
    window = opened()
    framed(qtbot, window)
    settled(qtbot, window)
    boxes = stops(window, qtbot, 120)
    found = list(boxes)
    wanted = {
        one for one in window.findChildren(QWidget) if isinstance(one, QAbstractButton | QComboBox | QLineEdit) and _alone(one)
    }
    missed = [f"{type(one).__name__} {one.accessibleName() or one.toolTip()}" for one in wanted - set(found)]
    assert not missed, missed
    for one, box in boxes.items():
        assert window.rect().contains(box.center()), f"{type(one).__name__} {one.accessibleName()} is out of sight at {box}"


def test_the_answer_is_at_most_twenty_stops_away(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    framed(qtbot, window)
    settled(qtbot, window)
    found = list(stops(window, qtbot, 60))
    page = stack(window)
    strip = page.panel.strip
    assert strip in found[:20], [type(one).__name__ for one in found[:20]]
    for one, following in pairwise(found[:3]):
        assert one is not following
