"""The pointer and the keys over the plan and the thickness strip: hovering, panning, cutting, choosing what is covered."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QContextMenuEvent, QHelpEvent, QMouseEvent
from PyQt6.QtWidgets import QApplication, QMenu, QToolTip, QWidget
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.parts.fields import TextField
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.files.archive import Opened
from ashen_bridge.geometry.section import Cut
from ashen_bridge.model.bodies import Side
from devices import FOUR, Card, project
from windows import Opener, click, desk, look, pixel, press, settled, stack

LEFT, MIDDLE = Qt.MouseButton.LeftButton, Qt.MouseButton.MiddleButton
NONE, SHIFT, CTRL = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier
Shape = Qt.CursorShape


def move(widget: QWidget, at: QPoint, button: Qt.MouseButton = Qt.MouseButton.NoButton) -> None:
    place = QPointF(at)
    event = QMouseEvent(QEvent.Type.MouseMove, place, QPointF(widget.mapToGlobal(at)), button, button, NONE)
    QApplication.sendEvent(widget, event)


def card(opened: Opener) -> MainWindow:
    return opened("", Opened(project(Card(FOUR))))


@pytest.fixture
def tips(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """Collect what tool tips say."""
    found: list[str] = []
    monkeypatch.setattr(QToolTip, "showText", lambda _at, text, *_: found.append(text))
    return found


def test_hovering_tells_what_is_there_and_shapes_the_cursor(qtbot: QtBot, opened: Opener, tips: list[str]) -> None:
    window = card(opened)
    settled(qtbot, window)
    plan = stack(window).plan
    look(window, cut=Cut("x", 0.04))
    move(plan, pixel(plan, 14, 37))
    assert plan._hovered == "part_0"
    assert plan.cursor().shape() == Shape.PointingHandCursor
    assert "Part 0" in tips[-1]
    assert "°C" in tips[-1]
    move(plan, pixel(plan, 76, 40))  # beside the parts, on the cut line
    assert plan.cursor().shape() == Shape.SizeVerCursor
    look(window, cut=Cut("y", 0.07))
    move(plan, pixel(plan, 70, 76))
    assert plan.cursor().shape() == Shape.SizeHorCursor
    move(plan, pixel(plan, 4, 4))
    assert plan.cursor().shape() == Shape.ArrowCursor
    QApplication.sendEvent(plan, QEvent(QEvent.Type.Leave))
    assert plan._hovered == ""


def test_in_editing_the_cursor_says_what_a_drag_would_do(qtbot: QtBot, opened: Opener) -> None:
    window = card(opened)
    settled(qtbot, window)
    window.commands["edit_mode"].trigger()
    plan = stack(window).plan
    desk(window).choose("device.bodies.part_0")
    box = (8.0, 34.0, 20.0, 46.0)
    expected = {
        (box[0], box[1]): Shape.SizeBDiagCursor,  # lower left: rising to the right
        (box[2], box[3]): Shape.SizeBDiagCursor,
        (box[0], box[3]): Shape.SizeFDiagCursor,
        ((box[0] + box[2]) / 2, box[3]): Shape.SizeVerCursor,
        (box[0], (box[1] + box[3]) / 2): Shape.SizeHorCursor,
        ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2): Shape.SizeAllCursor,
    }
    for place, shape in expected.items():
        move(plan, pixel(plan, *place))
        assert plan.cursor().shape() == shape, place
    look(window, tool="component")
    move(plan, pixel(plan, 4, 4))
    assert plan.cursor().shape() == Shape.CrossCursor


def test_the_middle_button_moves_the_view_and_home_brings_it_back(qtbot: QtBot, opened: Opener) -> None:
    window = card(opened)
    plan = stack(window).plan
    before = pixel(plan, 40, 40)
    qtbot.mousePress(plan, MIDDLE, NONE, QPoint(200, 150))
    move(plan, QPoint(230, 170), MIDDLE)
    qtbot.mouseRelease(plan, MIDDLE, NONE, QPoint(230, 170))
    after = pixel(plan, 40, 40)
    assert (after.x() - before.x(), after.y() - before.y()) == (30, 20)
    qtbot.mouseClick(plan, Qt.MouseButton.RightButton, NONE, QPoint(3, 3))
    plan.setFocus()
    press(qtbot, window, Qt.Key.Key_Home)
    assert pixel(plan, 40, 40) == before


def test_the_cut_line_moves_by_keys_and_stays_on_the_board(qtbot: QtBot, opened: Opener) -> None:
    window = card(opened)
    settled(qtbot, window)
    plan = stack(window).plan
    plan.setFocus()
    look(window, cut=Cut("x", 0.04))
    press(qtbot, plan, Qt.Key.Key_Up, 3, SHIFT)
    assert desk(window).view.cut.at == pytest.approx(0.043)
    press(qtbot, plan, Qt.Key.Key_Left, 2, SHIFT)
    assert desk(window).view.cut.at == pytest.approx(0.043), "a cut along x moves up and down only"
    press(qtbot, plan, Qt.Key.Key_Up, 60, SHIFT)
    assert desk(window).view.cut.at == pytest.approx(0.08), "it stops at the board's edge"
    press(qtbot, window, Qt.Key.Key_X)
    assert desk(window).view.cut.along == "y"
    at = desk(window).view.cut.at
    press(qtbot, plan, Qt.Key.Key_Right, 2, SHIFT)
    assert desk(window).view.cut.at == pytest.approx(at + 0.002)
    look(window, side=Side.REAR)
    press(qtbot, plan, Qt.Key.Key_Right, 1, SHIFT)
    assert desk(window).view.cut.at == pytest.approx(at + 0.001), "seen from the rear, right is the other way"
    look(window, side=Side.FRONT, selected="part_1")
    press(qtbot, window, Qt.Key.Key_X)
    press(qtbot, window, Qt.Key.Key_X)
    assert desk(window).view.cut == Cut("y", pytest.approx(0.066)), "it goes through the middle of what is selected"


def test_arrows_walk_to_the_nearest_part_and_stop_at_the_last(qtbot: QtBot, opened: Opener) -> None:
    window = card(opened)
    settled(qtbot, window)
    plan = stack(window).plan
    plan.setFocus()
    look(window, selected="die")
    for key, there in (
        (Qt.Key.Key_Left, "part_0"),
        (Qt.Key.Key_Left, "part_0"),
        (Qt.Key.Key_Right, "die"),
        (Qt.Key.Key_Right, "part_1"),
        (Qt.Key.Key_Left, "die"),
        (Qt.Key.Key_Up, "part_3"),
        (Qt.Key.Key_Down, "die"),
        (Qt.Key.Key_Down, "part_2"),
    ):
        press(qtbot, plan, key)
        assert window.session.view.selected == there, (key, there)
    look(window, selected="")
    press(qtbot, plan, Qt.Key.Key_Right)
    assert window.session.view.selected, "from nowhere it starts somewhere"


def test_the_context_menu_lists_what_is_covered_too(qtbot: QtBot, opened: Opener, monkeypatch: pytest.MonkeyPatch) -> None:
    window = card(opened)
    settled(qtbot, window)
    plan = stack(window).plan
    seen: list[str] = []

    def choose_board(menu: QMenu, *_: object) -> None:
        seen.extend(action.text() for action in menu.actions())
        next(action for action in menu.actions() if action.text().endswith("board")).trigger()

    monkeypatch.setattr(QMenu, "exec", choose_board)
    at = pixel(plan, 40, 40)
    QApplication.sendEvent(plan, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, plan.mapToGlobal(at)))
    assert any(text.startswith("Die") for text in seen)
    assert any(text.startswith("Cooler") for text in seen)
    assert desk(window).view.editing
    assert desk(window).view.chosen == ("device.bodies.board",)


def test_the_strip_is_chosen_by_mouse_and_keys_and_explains_itself(qtbot: QtBot, opened: Opener, tips: list[str]) -> None:
    window = card(opened)
    click(qtbot, stack(window).plan, 14, 40)
    settled(qtbot, window)
    strip = stack(window).panel.strip
    options = window.session.results.thicknesses
    qtbot.waitUntil(lambda: len(window.session.results.strip) >= len(options), timeout=30_000)

    def middle(value: float) -> QPoint:
        return QPoint(round((options.index(value) + 0.5) * strip.width() / len(options)), 20)

    at = middle(1.5)
    QApplication.sendEvent(strip, QHelpEvent(QEvent.Type.ToolTip, at, strip.mapToGlobal(at)))
    assert tips[-1].startswith("1.5 mm: hottest of this group ")
    assert "die" in tips[-1]
    qtbot.mouseClick(strip, LEFT, NONE, at)
    assert strip.present() == {1.5}
    strip.setFocus()
    press(qtbot, strip, Qt.Key.Key_Left, 40)
    assert strip.present() == {min(options)}, "it stops at the thinnest"
    press(qtbot, strip, Qt.Key.Key_Right, 40)
    assert strip.present() == {max(options)}, "and at the thickest"
    assert window.session.document.undo_stack.count() <= 3, "a run of keys is one undo"


def test_copy_in_a_text_field_copies_text_not_parts(qtbot: QtBot, opened: Opener) -> None:
    window = card(opened)
    settled(qtbot, window)
    window.commands["edit_mode"].trigger()
    desk(window).choose("device.bodies.part_0")
    look(window, page="part")
    line = stack(window).inspector.form.editors["device.bodies.part_0.name"]
    assert isinstance(line, TextField)
    line.setFocus()
    qtbot.waitUntil(line.hasFocus, timeout=5000)
    line.selectAll()
    window.workspaces["stack"].editing.copy()
    clipboard = QApplication.clipboard()
    assert clipboard is not None
    assert clipboard.text() == "Part 0"
    window.workspaces["stack"].editing.choose_all()
    assert line.selectedText() == "Part 0"
    assert desk(window).view.chosen == ("device.bodies.part_0",), "all text, not all parts"
    window.workspaces["stack"].editing.cut()
    assert line.text() == ""
    window.workspaces["stack"].editing.paste()
    assert line.text() == "Part 0"
    assert len(window.session.project.device.bodies) == 7


@pytest.mark.parametrize(
    ("what", "typed", "words"),
    [
        ("row", "4, 15", "3 numbers are needed"),
        ("row", "4, x, 0", "x"),
        ("row", "90, 1, 0", "from 2 to 40"),
        ("row", "1, 1, 0", "from 2 to 40"),
        ("ring", "1, 2, 3, 40, 7", "from 0 to 12"),
        ("ring", "1, 2, 3", "5 numbers are needed"),
    ],
)
def test_rows_and_rings_refuse_what_cannot_be(qtbot: QtBot, opened: Opener, what: str, typed: str, words: str) -> None:
    window = card(opened)
    window.commands["edit_mode"].trigger()
    desk(window).choose("device.bodies.part_0")
    window.asker.text = lambda *_: typed  # type: ignore[method-assign]
    before = window.session.project
    with qtbot.waitSignal(window.session.refused) as told:
        getattr(window.workspaces["stack"].editing, what)()
    assert words in str(told.args)
    assert window.session.project is before
    window.asker.text = lambda *_: ""  # type: ignore[method-assign]
    getattr(window.workspaces["stack"].editing, what)()
    assert window.session.project is before, "called off"
