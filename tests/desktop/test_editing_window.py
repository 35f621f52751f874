"""The device edited in the real window: drawn, moved, sized, nudged, copied, aligned, measured, all by mouse and keys."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QApplication, QPushButton, QToolButton
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.parts.fields import ChoiceField, NumberField, QuantityField
from ashen_bridge.desktop.shell.general import EMPTY
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.files.archive import Opened
from ashen_bridge.model.bodies import Board, Component, Plate
from ashen_bridge.model.project import Project
from devices import FOUR, Card, project
from windows import Opener, click, desk, drag, look, press, settled, stack

CTRL, SHIFT, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.AltModifier


def empty(opened: Opener) -> MainWindow:
    window = opened("", Opened(Project.parse(EMPTY)))
    window.commands["edit_mode"].trigger()
    return window


def card(opened: Opener, *, editing: bool = True) -> MainWindow:
    window = opened("", Opened(project(Card(FOUR))))
    window.resize(1280, 1000)  # two millimetres are more than an edge catches by
    if editing:
        window.commands["edit_mode"].trigger()
    return window


def tool(qtbot: QtBot, window: MainWindow, name: str) -> None:
    """Take a tool as a user does: by its button, or from the menu of its kind."""
    button = stack(window).bar.buttons[name]
    menu = button.menu()
    if menu is None:
        qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    else:
        from ashen_bridge.desktop.stack.drawing_tools import WORDS

        next(action for action in menu.actions() if action.text() == WORDS[name]).trigger()
    assert desk(window).view.tool == name


def part_button(window: MainWindow, words: str) -> QToolButton:
    """The button a user sees, once the event that chose the part is over."""
    QApplication.processEvents()
    buttons = stack(window).inspector.findChildren(QToolButton)
    return next(button for button in buttons if button.text() == words and button.isVisible())


def body(window: MainWindow, body_id: str) -> Component | Plate:
    return next(body for body in window.session.project.device.bodies if body.id == body_id)  # type: ignore[return-value]


def field(window: MainWindow, ending: str) -> QuantityField | NumberField | ChoiceField:
    editors = stack(window).inspector.form.editors
    return editors[next(path for path in editors if path.endswith(ending))]  # type: ignore[return-value]


def type_into(qtbot: QtBot, number: NumberField, text: str) -> None:
    number.edit.setFocus()
    number.edit.selectAll()
    qtbot.keyClicks(number.edit, text)
    qtbot.keyClick(number.edit, Qt.Key.Key_Return)


def test_a_device_drawn_by_hand_from_nothing_is_computable(qtbot: QtBot, opened: Opener) -> None:
    """Board, substrate, die, memory, cooler, landing, screws, paste and pads: every step with the mouse, then numbers."""
    window = empty(opened)
    plan = stack(window).plan
    tool(qtbot, window, "board")
    drag(qtbot, plan, (-50, -35), (50, 35))
    assert window.session.project.device.bodies[0].footprint.bounds == (-50, -35, 50, 35)
    tool(qtbot, window, "substrate")
    drag(qtbot, plan, (-15, -15), (15, 15))
    tool(qtbot, window, "die")
    drag(qtbot, plan, (-8, -8), (8, 8))
    die = body(window, "die")
    assert isinstance(die, Component)
    assert die.on == "substrate", "a die drawn inside a substrate stands on it"
    tool(qtbot, window, "memory")
    drag(qtbot, plan, (-34, -7), (-22, 7))
    tool(qtbot, window, "cooler")
    drag(qtbot, plan, (-42, -28), (42, 28))
    tool(qtbot, window, "landing")
    drag(qtbot, plan, (-36, -9), (-20, 9))
    for x, y in ((-20, -20), (20, -20), (-20, 20), (20, 20)):
        tool(qtbot, window, "screw")
        click(qtbot, plan, x, y)
    click(qtbot, plan, 0, 0)
    assert desk(window).view.chosen == ("device.bodies.die",)
    qtbot.mouseClick(part_button(window, "Paste on it"), Qt.MouseButton.LeftButton)
    click(qtbot, plan, -28, 0)
    qtbot.mouseClick(part_button(window, "Pad on it"), Qt.MouseButton.LeftButton)
    settled(qtbot, window)
    assert window.session.results.state == "current", window.session.results.refusal
    report = window.session.results.assessment.report  # type: ignore[union-attr]
    assert 60 < report.component("die").t_max_c < 200
    assert report.balance.energy_rel < 1e-6
    assert {row.id for row in report.sensors} == {"s_die", "s_memory"}
    assert window.session.project.groups[0].name == "Memory, front"
    names = [window.session.document.undo_stack.text(n) for n in range(window.session.document.undo_stack.count())]
    assert names[:3] == ["Add the board", "Add Substrate", "Add Die"]


def test_vias_lands_pockets_and_voids_come_and_go_by_a_button(qtbot: QtBot, opened: Opener) -> None:
    window = card(opened)
    session = window.session
    device = lambda: session.project.device  # noqa: E731
    board = lambda: next(body for body in device().bodies if isinstance(body, Board))  # noqa: E731
    part = next(body for body in device().bodies if isinstance(body, Component) and body.on == board().id)
    desk(window).choose(f"device.bodies.{part.id}")
    for words, count in (("Vias under it", 1), ("Copper land", 2), ("No vias under it", 1)):
        qtbot.mouseClick(part_button(window, words), Qt.MouseButton.LeftButton)
        assert len(board().regions) == count
    assert board().regions[0].land_cover is not None
    x0, _, x1, _ = part.footprint.bounds
    assert board().regions[0].area.w_mm > x1 - x0, "a land is larger than its part"
    desk(window).choose("device.bodies.plate")
    qtbot.mouseClick(part_button(window, "Pocket in it"), Qt.MouseButton.LeftButton)
    assert len(body(window, "plate").recesses) == 1  # type: ignore[union-attr]
    joint = next(one for one in session.build.joints if one.lower == (part.id,))
    desk(window).choose(f"device.bodies.{part.id}")
    qtbot.mouseClick(part_button(window, "Void in its layer"), Qt.MouseButton.LeftButton)
    settled(qtbot, window)
    assert session.results.state == "current", session.results.refusal
    assert session.build.joint(joint.id).pieces[0].voids
    qtbot.mouseClick(part_button(window, "No voids"), Qt.MouseButton.LeftButton)
    assert not session.build.joint(joint.id).pieces[0].voids


def test_dragging_moves_with_snapping_and_is_one_step_of_undo(qtbot: QtBot, opened: Opener) -> None:
    window = card(opened)
    plan = stack(window).plan
    before = body(window, "part_0").footprint.bounds
    drag(qtbot, plan, (14, 40), (18.2, 44.1))
    x0, y0, _, _ = body(window, "part_0").footprint.bounds
    assert (x0 * 2) % 1 == pytest.approx(0), "on the half-millimetre grid, or at another part's edge"
    assert (x0, y0) != before[:2]
    assert window.session.document.undo_stack.count() == 1
    press(qtbot, window, Qt.Key.Key_Z, modifier=CTRL)
    assert body(window, "part_0").footprint.bounds == before
    drag(qtbot, plan, (14, 40), (14 + 3.33, 40), ALT, steps=1)
    moved = body(window, "part_0").footprint.bounds[0] - before[0]
    assert moved == pytest.approx(3.33, abs=1.2 / plan.placement().scale), "Alt lets go of the grid"


def test_guides_show_what_caught(qtbot: QtBot, opened: Opener) -> None:
    window = card(opened)
    plan = stack(window).plan
    a, b = plan.placement().point(14, 40).toPoint(), plan.placement().point(14.1, 37).toPoint()
    qtbot.mousePress(plan, Qt.MouseButton.LeftButton, pos=a)
    from windows import _move

    for at in (QPoint(a.x(), a.y() + 6), b):
        _move(plan, at, Qt.KeyboardModifier.NoModifier)
    assert plan.hand.guides, "its edge is level with another part's"
    assert plan.hand.picture().words.startswith("moved ")
    qtbot.keyClick(plan, Qt.Key.Key_Escape)
    assert body(window, "part_0").footprint.bounds == (8, 34, 20, 46), "Escape gives the drag up"
    qtbot.mouseRelease(plan, Qt.MouseButton.LeftButton, pos=b)


def test_a_corner_sizes_and_the_size_is_shown(qtbot: QtBot, opened: Opener) -> None:
    window = card(opened)
    plan = stack(window).plan
    click(qtbot, plan, 14, 40)
    drag(qtbot, plan, (20, 46), (23, 48))
    assert body(window, "part_0").footprint.bounds == (8, 34, 23, 48)
    assert window.session.document.undo_stack.count() == 1
    drag(qtbot, plan, (8, 41), (30, 41))
    x0, _, x1, _ = body(window, "part_0").footprint.bounds
    assert x0 < x1, "an edge never passes the one opposite"


def test_rubber_band_shift_click_and_nudge(qtbot: QtBot, opened: Opener) -> None:
    window = card(opened)
    plan = stack(window).plan
    drag(qtbot, plan, (2, 2), (6.5, 78))
    assert desk(window).view.chosen == ()
    drag(qtbot, plan, (2, 28), (24, 50))
    assert desk(window).view.chosen == ("device.bodies.part_0",)
    click(qtbot, plan, 66, 40, SHIFT)
    assert desk(window).view.chosen == ("device.bodies.part_0", "device.bodies.part_1")
    press(qtbot, plan, Qt.Key.Key_Up, 3)
    press(qtbot, plan, Qt.Key.Key_Up, modifier=SHIFT)
    assert body(window, "part_0").footprint.bounds[1] == pytest.approx(35.3)
    assert body(window, "part_1").footprint.bounds[1] == pytest.approx(35.3)
    assert window.session.document.undo_stack.count() == 1, "nudges in a row are one step"
    click(qtbot, plan, 66, 40, SHIFT)
    assert desk(window).view.chosen == ("device.bodies.part_0",)


def test_copy_paste_duplicate_mirror_align_and_remove(qtbot: QtBot, opened: Opener) -> None:
    window = card(opened)
    plan = stack(window).plan
    click(qtbot, plan, 14, 40)
    press(qtbot, window, Qt.Key.Key_C, modifier=CTRL)
    press(qtbot, window, Qt.Key.Key_V, modifier=CTRL)
    assert desk(window).view.chosen == ("device.bodies.part_4",)
    pasted = body(window, "part_4")
    assert pasted.name == "Part 4"
    assert any(joint.lower == ("part_4",) for joint in window.session.build.joints), "with its pad"
    assert "part_4" in window.session.point.powers_w, "and its power"
    assert any(sensor.body == "part_4" for sensor in window.session.project.device.sensors), "and its sensor"
    press(qtbot, window, Qt.Key.Key_Delete)
    assert all(b.id != "part_4" for b in window.session.project.device.bodies)
    assert all("part_4" not in joint.lower for joint in window.session.build.joints)
    click(qtbot, plan, 14, 40)
    window.commands["mirror_x"].trigger()
    assert body(window, "part_4").footprint.bounds == pytest.approx((60, 34, 72, 46)), "mirrored about the die's middle"
    press(qtbot, window, Qt.Key.Key_Z, modifier=CTRL)
    click(qtbot, plan, 14, 40)
    click(qtbot, plan, 40, 14, SHIFT)
    window.commands["align_bottom"].trigger()
    assert body(window, "part_0").footprint.bounds[1] == body(window, "part_2").footprint.bounds[1] == 8


def test_rows_and_rings_ask_for_numbers_and_refuse_nonsense(qtbot: QtBot, opened: Opener) -> None:
    window = card(opened)
    click(qtbot, stack(window).plan, 14, 40)
    for said, words in (("3, x, 0", "not"), ("3, 4", "3 numbers"), ("99, 4, 0", "2 to 40")):
        window.asker.text = lambda *_, said=said: said  # type: ignore[method-assign]
        window.commands["row"].trigger()
        assert words in window.notice.words.text()
    count = len(window.session.project.device.bodies)
    window.asker.text = lambda *_: "3, 0, 14"  # type: ignore[method-assign]
    window.commands["row"].trigger()
    assert len(window.session.project.device.bodies) == count + 2
    assert body(window, "part_5").footprint.bounds == (8, 62, 20, 74)
    press(qtbot, window, Qt.Key.Key_Z, modifier=CTRL)
    click(qtbot, stack(window).plan, 14, 40)
    window.asker.text = lambda *_: "2, 1, 2, 0, 5"  # type: ignore[method-assign]
    window.commands["ring"].trigger()
    assert len(window.session.project.device.bodies) == count + 5
    top = next(b for b in window.session.project.device.bodies[count:] if b.footprint.bounds[1] > 50)
    assert top.footprint.bounds == (34, 55, 46, 67), "5 mm above the die"


def test_typed_values_with_sums_units_and_refusals(qtbot: QtBot, opened: Opener) -> None:
    window = card(opened)
    click(qtbot, stack(window).plan, 14, 40)
    assert desk(window).view.page == "part"
    height = field(window, "height_mm")
    assert isinstance(height, QuantityField)
    type_into(qtbot, height.value, "0.5/2 + 0.8")
    assert body(window, "part_0").height_mm.value == pytest.approx(1.05)  # type: ignore[union-attr]
    type_into(qtbot, height.value, "40 mil")
    assert body(window, "part_0").height_mm.value == pytest.approx(1.016)  # type: ignore[union-attr]
    for typed, words in (("1,2,3", "separators"), ("fish", "not"), ("3 kg", "unit"), ("1/0", "zero"), ("-2", "at least")):
        height.value.edit.setFocus()
        height.value.edit.selectAll()
        qtbot.keyClicks(height.value.edit, typed)
        assert words in height.value.wrong, "said at once, while typing"
        qtbot.keyClick(height.value.edit, Qt.Key.Key_Return)
        assert height.value.edit.text() == typed, "and nothing typed is lost"
        assert body(window, "part_0").height_mm.value == pytest.approx(1.016)  # type: ignore[union-attr]
    qtbot.keyClick(height.value.edit, Qt.Key.Key_Escape)
    assert (height.value.edit.text(), height.value.wrong) == ("1.016", "")
    width = field(window, "rects.0.w_mm")
    assert isinstance(width, NumberField)
    type_into(qtbot, width, "0")
    assert width.wrong, "what the model refuses is said in place too"


def test_fasteners_by_feel_kind_and_spring(qtbot: QtBot, opened: Opener) -> None:
    window = card(opened)
    click(qtbot, stack(window).plan, 15, 15)
    assert desk(window).view.chosen == ("device.fasteners.spring_0",)
    qtbot.mouseClick(part_button(window, "Feels hard"), Qt.MouseButton.LeftButton)

    def fastener() -> object:
        return window.session.project.device.fasteners[0]

    assert fastener().rate_n_mm.value == 20.0  # type: ignore[attr-defined]
    add = next(b for b in stack(window).inspector.findChildren(QPushButton) if "spring" in b.text())
    qtbot.mouseClick(add, Qt.MouseButton.LeftButton)
    assert fastener().spring.wire_mm.value == 1.0  # type: ignore[attr-defined]
    assert "11.9 N/mm" in stack(window).inspector._kind.text()
    settled(qtbot, window)
    assert window.session.results.state == "current", "and it is computed with"
    kind = field(window, "spring_0.kind")
    assert isinstance(kind, ChoiceField)
    kind.setCurrentIndex(kind.findData("fixed"))
    kind.activated.emit(kind.currentIndex())
    assert fastener().kind == "fixed"  # type: ignore[attr-defined]
    assert fastener().preload_n.value == 60.0, "what the new kind needs is there, marked assumed"  # type: ignore[attr-defined]


def test_one_pad_over_two_parts_half_cover_and_a_hole(qtbot: QtBot, opened: Opener) -> None:
    window = card(opened)
    plan = stack(window).plan
    click(qtbot, plan, 40, 14)
    click(qtbot, plan, 40, 66, SHIFT)
    qtbot.mouseClick(part_button(window, "One pad over all"), Qt.MouseButton.LeftButton)
    joint = window.session.build.joint("pad_2")
    assert set(joint.lower) == {"part_2", "part_3"}
    assert joint.pieces[0].footprint.bounds == (34, 8, 46, 72)  # type: ignore[union-attr]
    click(qtbot, plan, 14, 40)
    tool(qtbot, window, "outline")
    drag(qtbot, plan, (8, 34), (14, 46))
    half = window.session.build.joint("pad_0").pieces[0].footprint
    assert half is not None
    assert half.bounds == (8, 34, 14, 46)
    desk(window).choose("device.bodies.plate")
    tool(qtbot, window, "hole")
    drag(qtbot, plan, (24, 52), (28, 56))
    assert body(window, "plate").footprint.holes[0].bounds == (24, 52, 28, 56)
    settled(qtbot, window)
    covered = next(row.covered for row in window.session.results.assessment.report.components if row.id == "part_0")  # type: ignore[union-attr]
    assert covered == pytest.approx(0.5)


def test_the_rear_is_turned_over_like_the_board_in_the_hand(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    settled(qtbot, window)
    plan = stack(window).plan
    front = plan.placement().point(10, 50).x()
    press(qtbot, window, Qt.Key.Key_F)
    assert plan.placement().mirrored
    assert plan.placement().point(10, 50).x() > plan.width() / 2 > front
    x, y = plan.placement().place(plan.placement().point(12.5, 30.0))
    assert (x, y) == pytest.approx((12.5, 30.0))
    window.commands["edit_mode"].trigger()
    click(qtbot, plan, 95, 87)
    assert desk(window).view.chosen == ("device.bodies.mem_b1",)
    press(qtbot, plan, Qt.Key.Key_Right, modifier=SHIFT)
    assert body(window, "mem_b1").footprint.bounds[0] == pytest.approx(87.0), "right on the screen is left on the board"


def test_heights_and_steps_are_dragged_in_the_elevation(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    settled(qtbot, window)
    window.commands["edit_mode"].trigger()
    answers = iter((1, 0, 2))  # this build only, the device, leave it
    window.asker.choose = lambda title, text, options, *_: options[next(answers)]  # type: ignore[method-assign, assignment]
    view = stack(window).elevation
    cut = view.section
    assert cut is not None
    memory = next(b for b in cut.bodies if b.id == "mem_l2")
    frame = view.frame()
    assert frame is not None

    def at(s: float, height: float) -> QPoint:
        return QPoint(round(frame.x(s)), round(frame.y(height)))

    middle = float(memory.s.mean())
    from windows import _move

    before = body(window, "mem_l2").height_mm.value  # type: ignore[union-attr]
    qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=at(middle, float(memory.high.max())))
    _move(view, at(middle, float(memory.high.max()) + 0.3e-3), Qt.KeyboardModifier.NoModifier)
    assert view.hand.words.startswith("Memory L2: height 1.")
    qtbot.mouseRelease(view, Qt.MouseButton.LeftButton, pos=QPoint(0, 0))
    assert body(window, "mem_l2").height_mm.value == before  # type: ignore[union-attr]
    after = window.session.build.overrides["device.bodies.mem_l2.height_mm"]
    assert after > before + 0.1
    assert after * 20 == pytest.approx(round(after * 20)), "in steps of 0.05 mm"
    assert desk(window).view.chosen == ("device.bodies.mem_l2",)
    assert window.session.document.undo_stack.count() == 1
    press(qtbot, window, Qt.Key.Key_Z, modifier=CTRL)
    settled(qtbot, window)
    cut = view.section
    assert cut is not None
    frame = view.frame()
    assert frame is not None
    piece = next(b for b in cut.bodies if b.id == "cooler" and b.s[0] <= middle <= b.s[-1])
    qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=at(middle, float(piece.low.mean())))
    _move(view, at(middle, float(piece.low.mean()) - 0.2e-3), Qt.KeyboardModifier.NoModifier)
    qtbot.mouseRelease(view, Qt.MouseButton.LeftButton, pos=QPoint(0, 0))
    cooler = body(window, "cooler")
    assert isinstance(cooler, Plate)
    step = cooler.landings[0].step_mm.value
    assert step < -0.5, "a landing pulled down stands out further: its step goes down"
    edits = window.session.document.undo_stack.index()
    window.commands["undo"].trigger()
    look(window, build=window.session.project.builds[-1].id)
    settled(qtbot, window)
    view.grab()
    frame, cut = view.frame(), view.section
    assert frame is not None
    assert cut is not None
    piece = next(b for b in cut.bodies if b.id == "cooler" and b.s[0] <= middle <= b.s[-1])
    qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=at(middle, float(piece.low.mean())))
    _move(view, at(middle, float(piece.low.mean()) - 0.2e-3), Qt.KeyboardModifier.NoModifier)
    qtbot.mouseRelease(view, Qt.MouseButton.LeftButton, pos=QPoint(0, 0))
    assert window.session.document.undo_stack.index() == edits - 1, "called off: as it was"
    assert next(answers, None) is None


def test_an_impossible_state_can_be_edited_through_and_saved(qtbot: QtBot, opened: Opener, tmp_path: object) -> None:
    from pathlib import Path

    window = card(opened)
    plan = stack(window).plan
    drag(qtbot, plan, (14, 40), (38, 40))
    settled(qtbot, window)
    assert window.session.results.state == "refused"
    assert "overlap" in window.verdict.refusal.text()
    path = Path(str(tmp_path)) / "half.ashb"
    assert window.files.save_to(path)
    assert path.exists()
    drag(qtbot, plan, (38, 40), (14, 40))
    settled(qtbot, window)
    assert window.session.results.state == "current"


def test_wheel_zooms_about_the_pointer_and_home_shows_all(qtbot: QtBot, opened: Opener) -> None:
    from PyQt6.QtCore import QPointF
    from PyQt6.QtGui import QWheelEvent

    window = card(opened)
    plan = stack(window).plan
    at = QPointF(plan.placement().point(14, 40))
    scale = plan.placement().scale
    none = Qt.MouseButton.NoButton
    event = QWheelEvent(
        at, QPointF(), QPoint(), QPoint(0, 360), none, Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False
    )
    QApplication.sendEvent(plan, event)
    assert plan.placement().scale > 1.5 * scale
    assert plan.placement().place(at) == pytest.approx((14, 40), abs=0.05)
    press(qtbot, window, Qt.Key.Key_Home)
    assert plan.placement().scale == pytest.approx(scale)


def test_walking_with_brackets_reaches_everything(qtbot: QtBot, opened: Opener) -> None:
    window = card(opened)
    plan = stack(window).plan
    plan.setFocus()
    seen = set()
    for _ in range(len(desk(window).targets())):
        press(qtbot, plan, Qt.Key.Key_BracketRight)
        seen |= set(desk(window).view.chosen)
    assert seen == {target.path for target in desk(window).targets()}
