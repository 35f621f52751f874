"""Diagnosis, fit and proof in the window, and recording from live sources, driven as a user would."""

from __future__ import annotations

import os
import socket
import threading
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QPushButton
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.parts.belief import BeliefBar
from ashen_bridge.desktop.parts.question_panel import EARLIER
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.desktop.shell.workbench import Workbench
from ashen_bridge.desktop.state.live_source import LiveSource, SourceError
from ashen_bridge.editing.edits import set_values
from ashen_bridge.files.archive import Opened
from ashen_bridge.files.demos import open_anything
from devices import certain
from test_baseline_window import at_baseline, at_rest
from windows import WAIT, Opener, baseline, look, press, prove, settled, verdicts

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def window(qtbot: QtBot, opened: Opener) -> MainWindow:
    """The beamformer's window, at Baseline."""
    # Few uncertain numbers, those that are really off among them, so that fits and proofs take no time here.
    read = open_anything("demo:beamformer")
    project = certain(read.project, but=("convective_k_w", "die", "offset_k"))
    made = opened("demo:beamformer", Opened(project, read.extras))
    at_baseline(qtbot, made, "stock")
    return made


def done(qtbot: QtBot, window: MainWindow) -> None:
    """Wait for the task that was started."""
    qtbot.waitUntil(lambda: not window.session.questions.running, timeout=WAIT)


def faults_are_weighed_and_lead_to_where_they_are(qtbot: QtBot, window: MainWindow) -> None:
    page = baseline(window)
    look(window, workspace="baseline", run="repaired", run_page="diagnose")
    panel = page.diagnosis
    qtbot.waitUntil(lambda: panel.question.state == "current", timeout=WAIT)  # by itself, since it is looked at
    assert not panel.panel.go.isVisible()
    done(qtbot, window)
    found = panel.question.value
    assert found is not None
    shown = panel.findChildren(BeliefBar)
    assert any(bar.accessibleName().startswith("Nothing is wrong") for bar in shown), "bars are there as soon as it is known"
    qtbot.waitUntil(lambda: any(bar.isVisible() for bar in panel.findChildren(BeliefBar)))
    assert found.named is None, "nothing was left wrong in this repair"
    assert "no fault is needed" in panel.panel.said.text()
    assert found.judged == ("repaired",), "runs that throttled hide how hot it would have been, and do not speak"
    assert "Odds beforehand" in panel.panel.said.text()
    look(window, run="pad")
    assert panel.question.value is None, "another run has not been weighed"
    qtbot.mouseClick(panel.panel.stop, LEFT)
    assert panel.question.state == "stale"
    assert EARLIER in panel.panel.said.text(), "what is still shown is said to be of before"
    assert panel.panel.go.isVisible(), "what was called off can be asked for"
    look(window, run="stock")
    assert panel.question.state == "current", "it was weighed when it was looked at"
    panel._go("builds.as_found.joints.lid_paste")
    assert window.session.view.workspace == "stack"
    assert window.session.view.selected == "lid_paste"
    assert window.session.view.build == "as_found"


def a_fit_is_kept_used_switched_off_and_undone(qtbot: QtBot, window: MainWindow) -> None:
    page = baseline(window)
    look(window, workspace="baseline", run="repaired", run_page="fit", build="new_paste")
    settled(qtbot, window)
    at_rest(qtbot, window)
    before = verdicts(window)
    qtbot.waitUntil(lambda: page.fit.question.state == "current", timeout=WAIT)
    assert page.fit.question.value is not None
    assert page.fit.keep.isVisible(), "it can be kept as soon as it is there"
    assert "Misfit" in page.fit.panel.said.text()
    assert not window.session.document.modified, "nothing is kept until it is said"
    window.session.apply(set_values("Thicker", {"device.bodies.board.thickness_mm": 1.7}))
    assert not page.fit.keep.isVisible(), "a fit to the project as it was cannot be kept any more"
    window.session.document.undo_stack.undo()
    assert page.fit.question.state == "current", "undo shows it again"
    assert page.fit.keep.isVisible()
    qtbot.mouseClick(page.fit.keep, LEFT)
    assert window.session.project.calibration == "fit_1"
    settled(qtbot, window)
    assert verdicts(window) != before, "predictions are about this very device now"
    page.fit.used.setCurrentIndex(0)
    page.fit.used.activated.emit(0)
    assert window.session.project.calibration is None
    assert len(window.session.project.calibrations) == 1
    settled(qtbot, window)
    assert verdicts(window) == before
    press(qtbot, window, Qt.Key.Key_Z, 2, Qt.KeyboardModifier.ControlModifier)
    assert window.session.project.calibrations == ()


def advice_beside_the_run(qtbot: QtBot, window: MainWindow) -> None:
    page = baseline(window)
    page.run.elsewhere.go.click()
    done(qtbot, window)
    assert "it will throttle" in page.run.elsewhere.said.text()
    look(window, run_page="diagnose")
    page.diagnosis.worth.go.click()
    done(qtbot, window)
    assert "Worth opening" in page.diagnosis.worth.said.text()
    look(window, run="repaired", run_page="compare", against="stock")
    qtbot.waitUntil(lambda: page.compare.comparison() is not None, timeout=WAIT)
    page.compare.shares.go.click()
    done(qtbot, window)
    assert "K measured" in page.compare.shares.said.text()


def a_repair_is_proved(qtbot: QtBot, window: MainWindow) -> None:
    press(qtbot, window, Qt.Key.Key_F7)
    page = prove(window)
    assert page.before.currentText() == "Three years old"
    assert page.after.currentText() == "New paste"
    qtbot.waitUntil(lambda: page.picture.proof is not None, timeout=WAIT)
    assert not page.go.isVisible(), "it came by itself"
    assert "Too close to tell for 1 of 6 limits" in page.headline.text()
    assert "Leave it closed" in page.words.text()
    rows = page.picture.rows()
    assert all(abs(one.surprise) < 2.5 for one in rows), "nothing astonishes where nothing was left wrong"
    assert rows[0].sensor == "die_hot", "the least to spare stands first"
    page.picture.setFocus()
    press(qtbot, page.picture, Qt.Key.Key_Down)
    assert window.session.view.selected
    the_answer_is_kept_once_and_undo_takes_it_out(qtbot, window)
    page.after.setCurrentIndex(page.after.findText("With a pad on the lid"))
    page.after.activated.emit(page.after.currentIndex())
    assert page.picture.proof is None, "another pair has not been worked out"


def the_answer_is_kept_once_and_undo_takes_it_out(qtbot: QtBot, window: MainWindow) -> None:
    page, kept = prove(window), len(window.session.project.conclusions)
    assert page.keep.isEnabled()
    qtbot.mouseClick(page.keep, LEFT)
    assert len(window.session.project.conclusions) == kept + 1
    one = window.session.project.conclusions[-1]
    assert one.kind == "proof"
    assert one.title == page.headline.text().lstrip("✓✕≈ ")
    assert not page.keep.isEnabled()
    assert "Kept" in page.keep.text()
    window.commands["undo"].trigger()
    assert len(window.session.project.conclusions) == kept
    assert page.keep.isEnabled()


def test_from_a_run_to_the_proof(qtbot: QtBot, window: MainWindow) -> None:
    """One window through the whole of it, as one works: ask, weigh, fit, prove."""
    advice_beside_the_run(qtbot, window)
    faults_are_weighed_and_lead_to_where_they_are(qtbot, window)
    a_fit_is_kept_used_switched_off_and_undone(qtbot, window)
    a_repair_is_proved(qtbot, window)


def test_an_empty_project_says_what_to_do(qtbot: QtBot, bench: Workbench, opened: Opener) -> None:
    window = opened("demo:beamformer")
    window.asker.choose = lambda *_: "Do not save"  # type: ignore[method-assign]
    window.general.new_empty()
    empty = bench.windows[-1]
    press(qtbot, empty, Qt.Key.Key_F5)
    assert baseline(empty).run.title.text() == "No run yet"
    for button in baseline(empty).pages.buttons.buttons():
        button.click()
    press(qtbot, empty, Qt.Key.Key_F7)
    assert prove(empty).headline.text() == "Nothing to prove yet"
    assert all(not one.isEnabled() for one in prove(empty).findChildren(QPushButton) if one.text() == "Work it out")


# ---- recording


def a_simulated_device_is_recorded_and_kept_as_one_step(qtbot: QtBot, window: MainWindow) -> None:
    before = window.session.project
    press(qtbot, window, Qt.Key.Key_R, modifier=Qt.KeyboardModifier.ControlModifier)
    page = baseline(window).recording
    page.speed.setCurrentIndex(page.speed.count() - 1)
    qtbot.mouseClick(page.start, LEFT)
    assert page.state == "running"
    qtbot.waitUntil(lambda: page.ahead is not None and page.ahead.enough, timeout=WAIT)
    page._say()
    assert "can be stopped" in page.words.text()
    assert window.session.project is before, "nothing is in the project while it runs"
    qtbot.mouseClick(page.stop, LEFT)
    mapping = baseline(window).importing
    assert baseline(window).is_importing
    assert mapping.build.currentData() == window.session.view.build
    qtbot.mouseClick(mapping.keep, LEFT)
    qtbot.waitUntil(lambda: len(window.session.project.runs) == 4, timeout=WAIT)
    at_rest(qtbot, window)
    press(qtbot, window, Qt.Key.Key_Z, modifier=Qt.KeyboardModifier.ControlModifier)
    assert len(window.session.project.runs) == 3
    assert not window.session.document.undo_stack.canUndo(), "the whole recording was one step"


def discarding_is_asked_about(qtbot: QtBot, window: MainWindow) -> None:
    page = baseline(window).recording
    window.workspaces["baseline"].actions.record()
    page.speed.setCurrentIndex(page.speed.count() - 1)
    page.begin()
    qtbot.waitUntil(lambda: page.reader.count > 100, timeout=WAIT)
    window.asker.choose = lambda *_: "Go on"  # type: ignore[method-assign]
    qtbot.mouseClick(page.discard, LEFT)
    assert page.state != "choose"
    window.asker.choose = lambda *_: "Discard"  # type: ignore[method-assign]
    qtbot.mouseClick(page.discard, LEFT)
    assert page.state == "choose"
    assert page.reader.count == 0
    assert page.source._process is None


def another_program_is_heard_over_a_socket_and_a_pipe(qtbot: QtBot, window: MainWindow, tmp_path: Path) -> None:
    page = baseline(window).recording
    window.workspaces["baseline"].actions.record()
    page.other.setChecked(True)
    lines = "time [s];CPU hot spot [°C];Power [W]\n" + "".join(f"{n};{50 + n / 10:.1f};90\n" for n in range(40))
    server = socket.create_server(("localhost", 0))

    def serve() -> None:
        connection, _ = server.accept()
        connection.sendall(lines.encode())
        connection.close()

    thread = threading.Thread(target=serve)
    thread.start()
    page.address.setText(f"localhost:{server.getsockname()[1]}")
    page.begin()
    qtbot.waitUntil(lambda: page.state == "over", timeout=WAIT)
    thread.join()
    server.close()
    assert page.reader.count == 40
    assert {one.column: one.role for one in page.channels} == {"CPU hot spot": "temperature", "Power": "power"}
    page.throw_away()
    pipe = tmp_path / "readings"
    os.mkfifo(pipe)
    page.address.setText(str(pipe))
    page.begin()
    with pipe.open("w", encoding="utf-8") as out:
        out.write("this is no header\n")
    qtbot.waitUntil(lambda: "names no columns" in page.problem.text(), timeout=WAIT)
    assert page.state == "choose"


@pytest.mark.long
def test_recording_from_every_source(qtbot: QtBot, window: MainWindow, tmp_path: Path) -> None:
    """One window, one source after the other."""
    a_simulated_device_is_recorded_and_kept_as_one_step(qtbot, window)
    discarding_is_asked_about(qtbot, window)
    another_program_is_heard_over_a_socket_and_a_pipe(qtbot, window, tmp_path)


@pytest.mark.parametrize(
    ("address", "words"),
    [
        ("example.org:80", "is not this machine"),
        ("localhost:1", "Nothing can be heard"),
        ("/nowhere/at/all", "Nothing can be heard"),
        ("", "Nothing can be heard"),
        (str(Path(__file__)), "neither a socket nor a pipe"),
    ],
)
def test_sources_that_cannot_be_heard_are_said(qtbot: QtBot, address: str, words: str) -> None:
    with pytest.raises(SourceError, match=words):
        LiveSource().connect_to(address)


def test_a_device_that_cannot_run_says_why(qtbot: QtBot) -> None:
    source = LiveSource()
    project = open_anything("demo:beamformer").project
    said: list[str] = []
    source.ended.connect(said.append)
    source.simulate(project, "no_such_build", "listen", speed=1000, minutes=1)
    qtbot.waitUntil(lambda: bool(said), timeout=WAIT)
    assert "There is no build 'no_such_build'" in said[0]
