"""Why is it so, in the demo's window: three clicks to the pad that is at fault, odds that can be changed, and when runs were."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QPushButton, QWidget
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.baseline.priors_dialog import PriorsDialog
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.files.archive import Opened
from ashen_bridge.files.demos import open_anything
from devices import certain
from windows import WAIT, Opener, baseline, look, press, settled

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def window(qtbot: QtBot, opened: Opener) -> MainWindow:
    """The first demo's window; few of its numbers are uncertain, so that weighing takes no time here."""
    read = open_anything("demo:correlator")
    made = opened("demo:correlator", Opened(certain(read.project, but=("convective_k_w", "die", "offset_k")), read.extras))
    settled(qtbot, made)
    return made


def weighed(qtbot: QtBot, window: MainWindow) -> None:
    panel = baseline(window).diagnosis
    qtbot.waitUntil(lambda: panel.question.state == "current", timeout=WAIT)
    qtbot.waitUntil(lambda: panel.rows.count() > 0, timeout=WAIT)


def button(qtbot: QtBot, inside: QWidget, words: str) -> QPushButton:
    def found() -> list[QPushButton]:
        return [one for one in inside.findChildren(QPushButton) if one.isVisible() and words in one.text()]

    qtbot.waitUntil(lambda: bool(found()), timeout=WAIT)
    return found()[0]


@pytest.mark.long
def test_from_why_to_the_pad_in_three_clicks(qtbot: QtBot, window: MainWindow) -> None:
    """The rear pad that covers a third since the repair (the demo's script says so)."""
    look(window, workspace="stack", run="repaired", build="as_found")
    clicks = 0

    def click(widget: QWidget) -> None:
        nonlocal clicks
        clicks += 1
        qtbot.mouseClick(widget, LEFT)

    click(window.rail._steps["baseline"])
    page = baseline(window)
    click(next(one for one in page.pages.buttons.buttons() if one.text() == "Why"))
    weighed(qtbot, window)
    said = page.diagnosis.panel.said.text()
    assert "Pad B2" in said
    assert "does not touch, or covers only a part" in said
    assert "since it was closed" in said
    click(button(qtbot, page.diagnosis, "→ Open and look at the imprints on this"))
    assert clicks == 3
    view = window.session.view
    assert (view.workspace, view.selected, view.build) == ("stack", "pad_b2", "plan_a")


@pytest.mark.long
def test_odds_are_changed_kept_in_the_file_and_undone(qtbot: QtBot, window: MainWindow) -> None:
    look(window, workspace="baseline", run="repaired", run_page="diagnose")
    page = baseline(window)
    weighed(qtbot, window)
    first = page.diagnosis.question.value
    assert first is not None
    before = {one.id: one.weight for one in first.suspects}
    qtbot.mouseClick(page.diagnosis.odds, LEFT)
    dialog = next(one for one in window.findChildren(PriorsDialog) if one.isVisible())
    edit = dialog.fields["touch"].edit
    edit.selectAll()
    qtbot.keyClicks(edit, "0.001")
    press(qtbot, edit, Qt.Key.Key_Return)
    assert window.session.project.priors == {"touch": pytest.approx(1e-5)}
    qtbot.waitUntil(lambda: page.diagnosis.question.value not in (None, first), timeout=WAIT)
    second = page.diagnosis.question.value
    assert second is not None
    after = {one.id: one.weight for one in second.suspects}
    assert after["touch-pad_b2"] < before["touch-pad_b2"]
    qtbot.waitUntil(lambda: "some changed here" in page.diagnosis.panel.said.text(), timeout=WAIT)
    assert "some changed here" in page.diagnosis.panel.said.text()
    qtbot.mouseClick(dialog.usual, LEFT)
    assert not window.session.project.priors
    window.session.document.undo_stack.undo()
    assert window.session.project.priors
    dialog.close()


def test_when_a_run_was_is_said_once_and_what_is_no_day_is_refused(qtbot: QtBot, window: MainWindow) -> None:
    look(window, workspace="baseline", run="repaired", run_page="run")
    page = baseline(window)
    assert page.run.taken.text() == "2031-03-14"
    for typed, kept in (("2031-03-15T09:30", "2031-03-15T09:30"), ("yesterday", "2031-03-15T09:30")):
        page.run.taken.selectAll()
        qtbot.keyClicks(page.run.taken, typed)
        press(qtbot, page.run.taken, Qt.Key.Key_Return)
        assert window.session.project.run("repaired").taken == kept
    assert "is no day" in window.notice.words.text()
