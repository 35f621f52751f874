"""The Measure workspace, driven as at the bench: readings typed, a slip asked about, one set aside, numbers taken over."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPointF, Qt
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.measure.page import MeasurePage
from ashen_bridge.desktop.shell.window import MainWindow
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
