"""The Measure workspace, driven as at the bench: readings typed, a slip asked about, one set aside, numbers taken over."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterator
from dataclasses import replace

import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.measure.page import MeasurePage
from ashen_bridge.desktop.measure.worked_dialog import WorkedDialog
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.editing import readings as edits
from ashen_bridge.files.archive import Opened
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model import paths
from windows import WAIT, Opener, look, press

LEFT = Qt.MouseButton.LeftButton
HEIGHT = "device.bodies.memory.height_mm"


@pytest.fixture
def window(qtbot: QtBot, opened: Opener) -> MainWindow:
    made = opened("demo:buoy", Opened(open_anything("demo:buoy").project, {}))
    look(made, build="as_found")
    return made


def at_measure(qtbot: QtBot, window: MainWindow) -> MeasurePage:
    press(qtbot, window, Qt.Key.Key_F8)
    page = window.workspaces["measure"].page()
    assert isinstance(page, MeasurePage)
    known(qtbot, page)
    return page


def known(qtbot: QtBot, page: MeasurePage) -> None:
    qtbot.waitUntil(lambda: page.desk.question.state in ("current", "refused"), timeout=WAIT)
    assert page.desk.question.state == "current", page.desk.question.problem


def typed(qtbot: QtBot, page: MeasurePage, text: str) -> None:
    page.entry.value.setFocus()
    qtbot.keyClicks(page.entry.value, text)
    press(qtbot, page.entry.value, Qt.Key.Key_Return)


def readings_are_typed_questioned_and_taken_back(qtbot: QtBot, window: MainWindow, page: MeasurePage) -> None:
    session = window.session
    mark = next(one for one in page.plan.picture.marks if one.lower == "memory")
    at = page.plan.placement(page.plan.picture).rect(mark.box).center()
    qtbot.mouseClick(page.plan, LEFT, pos=QPointF(at).toPoint())
    assert session.view.selected == "memory"
    assert page.desk.gap is not None
    assert page.desk.gap.lower == "memory"
    before = page.desk.gap.now[1]
    wanted = page.desk.wanted
    assert wanted is not None
    assert dict(wanted.of)["body"] == "memory", "what is read belongs to the gap that is looked at"
    expected = wanted.expected[0]
    count = len(session.project.readings)
    # A slip: ten times off. It is asked about once and not lost.
    typed(qtbot, page, f"{10 * expected:.2f}")
    assert len(session.project.readings) == count
    assert "ten times off" in page.entry.said.text()
    page.entry.value.clear()
    typed(qtbot, page, f"{expected:.2f}-0.01")
    typed(qtbot, page, f"{expected + 0.01:.2f} mm")
    assert len(session.project.readings) == count + 1, "repeats are one reading"
    assert len(session.project.readings[-1].values_mm) == 2  # type: ignore[union-attr]
    typed(qtbot, page, "nonsense")
    assert "nonsense" in page.entry.said.text()
    page.entry.value.clear()
    press(qtbot, window, Qt.Key.Key_Backspace, modifier=Qt.KeyboardModifier.ControlModifier)
    assert len(session.project.readings[-1].values_mm) == 1  # type: ignore[union-attr]
    known(qtbot, page)
    assert page.desk.gap.now[1] <= before + 1e-9


def the_slip_of_the_demo_is_named_and_set_aside(qtbot: QtBot, window: MainWindow, page: MeasurePage) -> None:
    found = page.desk.found
    assert found is not None
    assert [one.reading for one in found.odd] == ["height_radio"]
    row = next(n for n in range(page.readings.topLevelItemCount()) if page.readings.topLevelItem(n).text(1) == "height_radio")  # type: ignore[union-attr]
    item = page.readings.topLevelItem(row)
    assert item is not None
    assert "does not fit" in item.text(4)
    item.setCheckState(0, Qt.CheckState.Unchecked)
    qtbot.waitUntil(lambda: any(one.aside for one in window.session.project.readings), timeout=WAIT)
    known(qtbot, page)
    found = page.desk.found
    assert found is not None
    assert not found.odd
    assert next(one for one in window.session.project.readings if one.id == "height_radio").aside


def numbers_are_taken_over_in_one_step(qtbot: QtBot, window: MainWindow, page: MeasurePage) -> None:
    session = window.session
    gap = page.desk.gap
    assert gap is not None
    was = paths.node_at(session.project, HEIGHT)
    assert page.over.isVisible()
    assert "memory.height_mm: " in page.over.toolTip()
    assert "→" in page.over.toolTip()
    qtbot.mouseClick(page.over, LEFT)
    now = paths.node_at(session.project, HEIGHT)
    assert now.origin.value == "measured"
    assert now.uncertainty < was.uncertainty
    known(qtbot, page)
    again = page.desk.gap
    assert again is not None
    assert again.now == pytest.approx(gap.now, abs=1e-6), "no reading counts twice"
    press(qtbot, window, Qt.Key.Key_Z, modifier=Qt.KeyboardModifier.ControlModifier)
    assert paths.node_at(session.project, HEIGHT) == was


def test_an_evening_at_the_bench(qtbot: QtBot, window: MainWindow) -> None:
    page = at_measure(qtbot, window)
    the_slip_of_the_demo_is_named_and_set_aside(qtbot, window, page)
    readings_are_typed_questioned_and_taken_back(qtbot, window, page)
    numbers_are_taken_over_in_one_step(qtbot, window, page)


@pytest.mark.long
def test_arrow_keys_go_from_gap_to_gap_and_the_board_turns(qtbot: QtBot, window: MainWindow) -> None:
    page = at_measure(qtbot, window)
    page.plan.setFocus()
    seen = set()
    for _ in range(len(page.plan.picture.marks)):
        press(qtbot, page.plan, Qt.Key.Key_Right)
        seen.add(window.session.view.selected)
    assert seen == {one.lower for one in page.plan.picture.marks}
    qtbot.mouseClick(page.rear, LEFT)
    assert page.plan.picture.side.value == "rear"


def speak(qtbot: QtBot, ours: int, text: str) -> None:
    os.write(ours, text.encode())
    qtbot.wait(60)


@pytest.fixture
def caliper() -> Iterator[tuple[int, str]]:
    """A caliper on a pseudo-terminal: its own end, and the name of the port."""
    ours, theirs = os.openpty()
    yield ours, os.ttyname(theirs)
    for end in (ours, theirs):
        with contextlib.suppress(OSError):
            os.close(end)


@pytest.mark.long
def test_a_route_walked_with_a_caliper_and_one_slip(qtbot: QtBot, window: MainWindow, caliper: tuple[int, str]) -> None:
    """Its button takes readings; a slip is questioned, what is held or rubbish left out, and the verdict's ± shrinks."""
    page, session = at_measure(qtbot, window), window.session
    page.entry.loud = False
    session.apply(edits.set_aside("height_radio", True))
    known(qtbot, page)
    qtbot.waitUntil(lambda: page.desk.routing.state == "current", timeout=WAIT)
    route = page.desk.route
    assert route is not None
    assert route.stops
    assert page.route.buttons
    ours, port = caliper
    page.entry.listen(port)
    assert page.entry.port.listening
    before, count = route.now_k, len(session.project.readings)
    for n, stop in enumerate(route.stops[:2]):
        page.route.go_to(stop)
        known(qtbot, page)
        wanted = page.desk.wanted
        assert wanted is not None
        assert (wanted.form, wanted.of) == (stop.form, stop.of)
        value = wanted.expected[0] if wanted.expected is not None else 0.8
        if not n:
            speak(qtbot, ours, f"{value * 10:.2f} mm\r\n")
            assert len(session.project.readings) == count, "a slip is asked about first" if wanted.expected else ""
            page.entry.value.clear()
            page.entry._say("", False)
        speak(qtbot, ours, f"hold {value:.2f} mm\r\nnonsense\r\n# a remark\r\n")
        for _ in range(2):
            speak(qtbot, ours, f"{value:.2f} mm\r\n")
        known(qtbot, page)
    assert len(session.project.readings) > count
    last = session.project.readings[-1]
    assert len(last.values_mm) == 2  # type: ignore[union-attr]
    assert page.over.isVisible()
    qtbot.mouseClick(page.over, LEFT)
    known(qtbot, page)
    qtbot.waitUntil(lambda: page.desk.routing.state == "current", timeout=WAIT)
    after = page.desk.route
    assert after is not None
    assert after.now_k < before, "the verdict is known better"
    qtbot.waitUntil(lambda: "Taken over" in window.notice.words.text(), timeout=WAIT)


def test_a_caliper_that_floods_goes_or_is_not_there_is_one_sentence(
    qtbot: QtBot, window: MainWindow, caliper: tuple[int, str]
) -> None:
    page, session = at_measure(qtbot, window), window.session
    before = session.project.readings
    page.entry.listen("/dev/no-such-port")
    assert "cannot be opened" in page.entry.said.text()
    ours, port = caliper
    page.entry.listen(port)
    os.write(ours, b"1.00 mm\r\n" * 60)
    qtbot.waitUntil(lambda: not page.entry.port.listening, timeout=WAIT)
    assert "more than a hand can press" in page.entry.said.text()
    assert session.project.readings == before
    page.entry.listen(port)
    os.close(ours)
    qtbot.waitUntil(lambda: not page.entry.port.listening, timeout=WAIT)
    assert "gone" in page.entry.said.text()


def test_intervals_depths_and_numbers_have_their_forms(qtbot: QtBot, window: MainWindow) -> None:
    page, session = at_measure(qtbot, window), window.session
    for form, text, field in (
        ("feeler", "0.80 to 0.90", "goes_mm"),
        ("beside", "1.0 .. 1.25", "least_mm"),
        ("depth", "12.4-11.2", "values_mm"),
    ):
        page.desk.look(replace(page.desk.view, form=form, of=()))
        assert page.desk.wanted is not None, form
        count = len(session.project.readings)
        typed(qtbot, page, text)
        if len(session.project.readings) == count:
            typed(qtbot, page, "")  # asked about once: Enter again takes it
        reading = session.project.readings[-1]
        assert reading.form == form, page.entry.said.text()
        assert getattr(reading, field)
    page.desk.look(replace(page.desk.view, form="feeler", of=()))
    typed(qtbot, page, "0.8")
    assert "no interval" in page.entry.said.text()
    page.entry.value.clear()
    page.desk.look(replace(page.desk.view, form="number", of=()))
    wanted = page.desk.wanted
    assert wanted is not None
    assert wanted.expected is not None
    typed(qtbot, page, f"{wanted.expected[0]:.3f}")
    reading = session.project.readings[-1]
    assert reading.form == "number"
    assert reading.path == dict(wanted.of)["path"]


def test_a_springs_rate_is_worked_out_of_two_weights(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    page, session = at_measure(qtbot, window), window.session
    page.desk.look(replace(page.desk.view, form="number", of=()))
    offered = [one for one in page.desk.offered if one.form == "number" and dict(one.of)["path"].endswith("rate_n_mm")]
    assert offered, "the demo's springs are read"
    page.desk.look(replace(page.desk.view, of=offered[0].of))
    assert page.entry.work_out.isVisible()
    qtbot.mouseClick(page.entry.work_out, LEFT)
    dialog = next(one for one in QApplication.topLevelWidgets() if isinstance(one, WorkedDialog) and one.isVisible())
    assert not dialog.go.isEnabled()
    for field, text in zip(dialog.fields[0], ("500", "200", "9.0", "8.2"), strict=False):
        field.edit.setFocus()
        qtbot.keyClicks(field.edit, text)
        press(qtbot, field.edit, Qt.Key.Key_Return)
    assert "heavier" in dialog.said.text()
    for field, text in zip(dialog.fields[0], ("200", "500"), strict=False):
        field.edit.setFocus()
        field.edit.selectAll()
        qtbot.keyClicks(field.edit, text)
        press(qtbot, field.edit, Qt.Key.Key_Return)
    assert "3.68" in dialog.said.text()
    qtbot.mouseClick(dialog.go, LEFT)
    reading = session.project.readings[-1]
    assert reading.form == "number"
    assert reading.path == dict(offered[0].of)["path"]
    assert reading.values == pytest.approx((0.3 * 9.80665 / 0.8,))
    assert reading.uncertainty is not None
    assert "200 and 500 g" in reading.note
    known(qtbot, page)
    window.commands["undo"].trigger()
    assert reading not in session.project.readings
