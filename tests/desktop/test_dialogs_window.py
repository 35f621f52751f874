"""Guided start, materials, operating points and assumptions, driven as a user would."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QPushButton, QToolButton
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.guided.ask_row import AskRow
from ashen_bridge.desktop.guided.dialog import GuidedDialog
from ashen_bridge.desktop.guided.question_page import QuestionPage
from ashen_bridge.desktop.materials.dialog import MaterialsDialog
from ashen_bridge.desktop.parts.fields import NumberField
from ashen_bridge.desktop.points.dialog import PointsDialog
from ashen_bridge.desktop.shell.devices_dialog import DevicesDialog
from ashen_bridge.desktop.shell.general import EMPTY
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.desktop.shell.workbench import Workbench
from ashen_bridge.editing.edits import set_values
from ashen_bridge.files.archive import Opened, open_project, save_project
from ashen_bridge.guided.answers import DeviceKind, Wish
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced
from devices import FOUR, Card, project
from windows import WAIT, Opener, look, press, settled, stack, verdicts

CTRL = Qt.KeyboardModifier.ControlModifier
LEFT = Qt.MouseButton.LeftButton


def type_into(qtbot: QtBot, field: NumberField, text: str, enter: bool = True) -> None:
    field.edit.setFocus()
    field.edit.selectAll()
    qtbot.keyClicks(field.edit, text)
    if enter:
        qtbot.keyClick(field.edit, Qt.Key.Key_Return)


def guided(qtbot: QtBot, window: MainWindow) -> GuidedDialog:
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow, timeout=WAIT)
    press(qtbot, window, Qt.Key.Key_N, modifier=CTRL)
    qtbot.waitUntil(lambda: any(one.isVisible() for one in window.findChildren(GuidedDialog)), timeout=WAIT)
    dialog = next(one for one in window.findChildren(GuidedDialog) if one.isVisible())
    dialog.asker.choose = lambda *_: "Throw them away"  # type: ignore[method-assign]
    qtbot.waitUntil(dialog.isActiveWindow, timeout=WAIT)
    return dialog


def row(dialog: GuidedDialog, field: str) -> AskRow:
    """The row of a question on the page that is shown."""
    page = dialog.pages.currentWidget()
    assert isinstance(page, QuestionPage)
    found = page.row(field, dialog.interview.answers)
    assert found.isVisible(), field
    return found


def type_answer(qtbot: QtBot, dialog: GuidedDialog, field: str, text: str) -> None:
    number = row(dialog, field).number
    assert number is not None
    type_into(qtbot, number, text)


def choose(qtbot: QtBot, dialog: GuidedDialog, field: str, value: object) -> None:
    choices = row(dialog, field).choices
    assert choices is not None
    qtbot.mouseClick(choices.button(value), LEFT)


def step(qtbot: QtBot, dialog: GuidedDialog) -> None:
    qtbot.mouseClick(dialog.next, LEFT)


def test_a_device_from_questions_is_computable(qtbot: QtBot, opened: Opener, bench: Workbench, tmp_path: Path) -> None:
    """A modder's answers by mouse and keys; then the result, numbers, assumptions by weight, one replaced, saved, read again."""
    window = opened("", Opened(Project.parse(EMPTY)))
    dialog = guided(qtbot, window)
    assert row(dialog, "name").text is QApplication.focusWidget(), "the first thing to type has the keys"
    qtbot.keyClicks(row(dialog, "name").text, "Marsh harrier card")
    choose(qtbot, dialog, "wish", Wish.MEMORY)
    assert row(dialog, "goal_c").number.edit.placeholderText() == "usual: 90"  # type: ignore[union-attr]
    step(qtbot, dialog)
    type_answer(qtbot, dialog, "die_w_mm", "22.4")
    assert "22.4 mm" in dialog.list.item(1).text()  # type: ignore[union-attr]
    type_answer(qtbot, dialog, "watts", "170")
    assert dialog.at == 2, "Enter in the last field goes on"
    counters = row(dialog, "around").counters
    qtbot.mouseClick(counters[3].more, LEFT)
    for counter, less in zip(counters[:3], (2, 1, 2), strict=True):
        for _ in range(less):
            qtbot.mouseClick(counter.less, LEFT)
    step(qtbot, dialog)
    choose(qtbot, dialog, "rear_meets", "pads")
    for _ in range(2):
        qtbot.mouseClick(row(dialog, "rear").counters[0].more, LEFT)
    step(qtbot, dialog)
    choose(qtbot, dialog, "pad_now_mm", 1.25)
    assert row(dialog, "pad_now_mm").number.edit.text() == "1.25"  # type: ignore[union-attr]
    choose(qtbot, dialog, "pad_feel", "soft")
    choose(qtbot, dialog, "pad_wanted_mm", 1.5)
    step(qtbot, dialog)
    choose(qtbot, dialog, "screw_feel", "hard")
    step(qtbot, dialog)
    for field, seen in (("core_c", "84"), ("hot_c", "96"), ("memory_c", "104")):
        type_answer(qtbot, dialog, field, seen)
    assert not dialog.next.isVisible()
    qtbot.mouseClick(dialog.finish, LEFT)
    qtbot.waitUntil(lambda: dialog.finish.text() == "Open it" and dialog.finish.isEnabled(), timeout=WAIT)
    assert dialog.outcome.answer.text().endswith("wanted at most 90 °C")
    told = dialog.outcome.words.text()
    for words in ("Core", "fitted", "What to measure first", "Without opening it", "Taken as usual: "):
        assert words in told
    qtbot.mouseClick(dialog.finish, LEFT)
    qtbot.waitUntil(lambda: window.session.project.name == "Marsh harrier card", timeout=WAIT)
    settled(qtbot, window)
    assert window.session.results.state == "current", window.session.results.refusal
    assert float(verdicts(window)[0].split()[0]) == pytest.approx(96, abs=3), "as hot as it was seen"
    assert [build.label for build in window.session.project.builds] == ["As found", "Plan A, 1.5 mm"]
    assert window.session.document.modified, "new work is unsaved work"
    panel = stack(window).assumptions
    qtbot.waitUntil(lambda: any(row.effect_k is not None for row in panel.rows), timeout=WAIT)
    qtbot.waitUntil(lambda: not window.session.questions.running, timeout=WAIT)
    effects = [row.effect_k for row in panel.rows if row.effect_k is not None]
    assert effects == sorted(effects, reverse=True), "those that matter most come first"
    words = panel._words.text()
    assert "All together" in words
    assert words.count(" ± ") == 2, "the tightest sensors of two groups"
    count = len(panel.rows)
    line = next(n for n, one in enumerate(panel.rows) if one.field == "height_mm" and len(one.paths) == 4)
    panel.tree.setCurrentItem(panel.tree.topLevelItem(line))
    assert panel.field is not None
    type_into(qtbot, panel.field.value, "1.08")
    heights = [b.height_mm for b in window.session.project.device.bodies if b.id.startswith("mem_") and b.side == "front"]  # type: ignore[union-attr]
    assert {(h.value, h.origin.value, h.uncertainty) for h in heights} == {(1.08, "measured", 0.01)}  # type: ignore[union-attr]
    assert len(panel.rows) == count - 1, "measured, it is no assumption any more"
    path = tmp_path / "harrier.ashb"
    assert window.files.save_to(path)
    assert open_project(path).project == window.session.project


def test_answers_are_refused_in_place_and_nothing_typed_is_lost(qtbot: QtBot, opened: Opener) -> None:
    window = opened("", Opened(Project.parse(EMPTY)))
    dialog = guided(qtbot, window)
    dialog.go(1)
    width = row(dialog, "die_w_mm").number
    assert width is not None
    type_into(qtbot, width, "500")
    assert "from 1 to 80 mm" in width.wrong
    assert width.edit.text() == "500"
    type_into(qtbot, width, "twenty", enter=False)
    assert "not" in width.wrong
    assert dialog.interview.answers.die_w_mm is None
    dialog.go(5)
    screws = row(dialog, "screws").counters[0]
    for _ in range(12):
        qtbot.mouseClick(screws.more, LEFT)
    assert dialog.interview.answers.screws == 12, "a counter stops at its end"
    dialog.go(6)
    type_answer(qtbot, dialog, "core_c", "185 °F")
    assert dialog.interview.answers.core_c == pytest.approx(85.0)
    type_answer(qtbot, dialog, "hot_c", "80")
    assert "cannot be cooler than the core's 85 °C" in dialog.wrong.text(), "what contradicts is said, and kept"
    assert dialog.interview.answers.hot_c == 80.0
    assert dialog.list.item(6).text().startswith("!")  # type: ignore[union-attr]
    dialog.go(0)
    qtbot.mouseClick(dialog.finish, LEFT)
    assert dialog.at == 6, "it leads to where it was answered"
    dialog.reject()


def test_kinds_ask_what_decides_for_them(qtbot: QtBot, opened: Opener) -> None:
    """Changing the kind changes the pages, and keeps every answer."""
    window = opened("", Opened(Project.parse(EMPTY)))
    dialog = guided(qtbot, window)
    dialog.answer("name", "Otter slate")
    titles = {}
    for kind in DeviceKind:
        choose(qtbot, dialog, "kind", kind)
        titles[kind] = [dialog.list.item(n).text().split("\n")[0] for n in range(dialog.list.count())]  # type: ignore[union-attr]
        assert len(titles[kind]) <= 8
        assert "Otter slate" in dialog.list.item(0).text()  # type: ignore[union-attr]
    assert titles[DeviceKind.LIDDED] == ["1  Device", "2  Chip", "3  Lid", "4  Cooler", "5  Seen", "6  Result"]
    assert "4  Case" in titles[DeviceKind.BOX]
    dialog.reject()


def test_leaving_asks_once_and_what_was_typed_comes_back(qtbot: QtBot, opened: Opener, bench: Workbench) -> None:
    window = opened("", Opened(Project.parse(EMPTY)))
    dialog = guided(qtbot, window)
    dialog.go(1)
    type_answer(qtbot, dialog, "die_w_mm", "17")
    asked: list[str] = []
    dialog.asker.choose = lambda title, *_: asked.append(title) or "Go on answering"  # type: ignore[method-assign, func-returns-value]
    qtbot.keyClick(dialog, Qt.Key.Key_Escape)
    assert dialog.isVisible()
    dialog.asker.choose = lambda title, *_: asked.append(title) or "Keep the answers"  # type: ignore[method-assign, func-returns-value]
    qtbot.keyClick(dialog, Qt.Key.Key_Escape)
    assert not dialog.isVisible()
    assert len(asked) == 2
    again = guided(qtbot, window)
    assert again.interview.answers.die_w_mm == 17.0
    qtbot.mouseClick(again.afresh, LEFT)
    assert not again.interview.begun
    again.answer("name", "Otter slate")
    assert "Otter slate" in bench.preferences.interview, "kept at once, whatever ends the program"
    qtbot.mouseClick(again.afresh, LEFT)
    again.asker.choose = lambda *_: pytest.fail("nothing was answered, so nothing is asked")  # type: ignore[method-assign]
    again.reject()
    assert not again.isVisible()


@pytest.mark.long
def test_guided_start_beside_unsaved_work_opens_another_window(qtbot: QtBot, opened: Opener, bench: Workbench) -> None:
    window = opened("", Opened(project(Card(FOUR))))
    assert window.session.apply(set_values("Rename", {"name": "Precious"}))
    dialog = guided(qtbot, window)
    dialog.answer("around", (0, 0, 0, 0))
    dialog.build()
    qtbot.waitUntil(lambda: dialog.finish.isEnabled(), timeout=WAIT)
    dialog.build()
    qtbot.waitUntil(lambda: len(bench.windows) == 2, timeout=WAIT)
    assert window.session.project.name == "Precious"
    settled(qtbot, bench.windows[-1])
    assert bench.windows[-1].session.results.state == "current"


def test_enter_walks_through_the_questions_and_builds(qtbot: QtBot, opened: Opener) -> None:
    window = opened("", Opened(Project.parse(EMPTY)))
    dialog = guided(qtbot, window)
    dialog.answer("kind", DeviceKind.LIDDED)
    for page in range(1, 6):
        assert dialog.at == page - 1
        while dialog.at == page - 1:
            qtbot.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: dialog.finish.hasFocus(), timeout=WAIT)
    qtbot.keyClick(dialog, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: bool(window.session.project.device.bodies), timeout=WAIT)


def test_materials_are_chosen_edited_pasted_added_and_removed(qtbot: QtBot, opened: Opener) -> None:
    window = opened("", Opened(project(Card(FOUR))))
    settled(qtbot, window)
    press(qtbot, window, Qt.Key.Key_M, modifier=CTRL)
    dialog = window.findChildren(MaterialsDialog)[-1]
    dialog.choose("pad_medium")
    editor = dialog.form.editors["materials.pad_medium.conductivity_w_mk"]
    type_into(qtbot, editor.value, "7.5")  # type: ignore[attr-defined]
    assert window.session.project.material("pad_medium").conductivity_w_mk.value == 7.5
    dialog.points.setPlainText("0 0\n10 20\n20 15")
    assert "must rise" in dialog.wrong.text()
    assert not dialog.take.isEnabled()
    dialog.points.setPlainText("0 0\n10 20\nmany")
    assert "Line 3" in dialog.wrong.text()
    assert "many" in dialog.points.toPlainText(), "nothing typed is lost"
    dialog.points.setPlainText("deflection\tkPa\n0\t0\n10\t20\n20\t55")
    qtbot.mouseClick(dialog.take, LEFT)
    points = window.session.project.material("pad_medium").compression.points  # type: ignore[union-attr]
    assert [(p.strain, p.pressure_kpa) for p in points] == [(0, 0), (0.1, 20), (0.2, 55)]
    dialog.claimed.click()
    dialog.method.setFocus()
    dialog.method.selectAll()
    qtbot.keyClicks(dialog.method, "guarded hot plate")
    qtbot.keyClick(dialog.method, Qt.Key.Key_Return)
    source = window.session.project.material("pad_medium").sources[0]
    assert (source.claimed, source.method) == (True, "guarded hot plate")
    told: list[str] = []
    dialog.asker.tell = lambda _, text: told.append(text)  # type: ignore[method-assign]
    remove = next(button for button in dialog.findChildren(QPushButton) if button.text() == "Remove")
    qtbot.mouseClick(remove, LEFT)
    assert "in use" in told[0]
    dialog.asker.text = lambda *_: "Grey putty pad"  # type: ignore[method-assign]
    dialog._new(window.session.project.material("pad_medium").kind)
    assert dialog.current().name == "Grey putty pad"  # type: ignore[union-attr]
    assert dialog.current().conductivity_w_mk.origin == "assumed"  # type: ignore[union-attr]
    qtbot.mouseClick(remove, LEFT)
    assert all(material.name != "Grey putty pad" for material in window.session.project.materials)
    stock = dialog.form
    dialog.choose("pad_medium")
    field = stock.editors["materials.pad_medium.stock_thicknesses_mm"]
    field.setFocus()
    field.selectAll()  # type: ignore[attr-defined]
    qtbot.keyClicks(field, "0.5, 1, 40 mil, 2")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert window.session.project.material("pad_medium").stock_thicknesses_mm == (0.5, 1.0, 1.016, 2.0)
    settled(qtbot, window)
    assert window.session.results.state == "current"


def test_a_board_by_its_power_a_fan_in_rpm_and_a_load_that_comes_and_goes(qtbot: QtBot, opened: Opener) -> None:
    window = opened("", Opened(project(Card(FOUR))))
    press(qtbot, window, Qt.Key.Key_L, modifier=CTRL)
    dialog = window.findChildren(PointsDialog)[-1]
    point = lambda: window.session.point  # noqa: E731
    die, fan = dialog.rows.powers["die"], dialog.rows.fans["plate"]
    assert not die.unit.isVisible(), "no share of what is not stated"
    window.session.apply(set_values("Board", {f"points.{point().id}.board_w": {"value": 90.0, "uncertainty": 2.0}}))
    assert die.unit.isVisible()
    before = point().powers_w["die"].value
    qtbot.keyClick(die.unit, Qt.Key.Key_Down)
    assert point().powers_w["die"].value == before, "another unit alone changes nothing"
    type_into(qtbot, die.value, "60")
    assert point().split["die"].value == pytest.approx(0.6)
    assert "die" not in point().powers_w
    type_into(qtbot, die.value, "160")
    assert "at most 100" in die.value.wrong
    assert point().split["die"].value == pytest.approx(0.6)
    qtbot.keyClick(fan.unit, Qt.Key.Key_Down)
    type_into(qtbot, fan.value, "900")
    assert point().fans_rpm["plate"].value == 900
    assert "plate" not in point().fans_percent
    dialog.cycle.setFocus()
    qtbot.keyClicks(dialog.cycle, "1 10s, 0.5 10s")
    qtbot.keyClick(dialog.cycle, Qt.Key.Key_Return)
    assert point().mean_share == pytest.approx(0.75)
    assert dialog.total.text() == "90.0 W in all, 67.5 W on average"
    dialog.cycle.selectAll()
    qtbot.keyClicks(dialog.cycle, "often")
    qtbot.keyClick(dialog.cycle, Qt.Key.Key_Return)
    assert "“often” is no cycle" in dialog.wrong_cycle.text()
    assert point().mean_share == pytest.approx(0.75)


def test_parts_said_alike_share_a_row_and_can_be_taken_apart(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    press(qtbot, window, Qt.Key.Key_L, modifier=CTRL)
    dialog = window.findChildren(PointsDialog)[-1]
    rows, point = dialog.rows, lambda: window.session.point
    assert rows.powers["mem_l1"] is rows.powers["mem_r3"]
    assert rows.powers["mem_l1"] is not rows.powers["mem_b1"], "the rear ones take less"
    assert len(set(rows.powers.values())) == 5, "die, front and rear memory, regulators, inductors"
    type_into(qtbot, rows.powers["mem_l1"].value, "3")
    assert {point().powers_w[f"mem_{one}"].value for one in ("l1", "l2", "r3", "t1")} == {3.0}
    assert "Memory ×8: power" in window.session.document.undo_stack.undoText()
    assert len(set(rows.powers.values())) == 5, "rows stay where they are while one works on them"
    each = next(one for one in rows.findChildren(QToolButton) if one.accessibleName().startswith("Memory ×8"))
    qtbot.mouseClick(each, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: rows.powers["mem_l1"].isAncestorOf(dialog.focusWidget()))
    type_into(qtbot, rows.powers["mem_l2"].value, "2.5")
    assert (point().powers_w["mem_l1"].value, point().powers_w["mem_l2"].value) == (3.0, 2.5)
    window.commands["undo"].trigger()
    assert rows.powers["mem_l2"].value.edit.text() == "3"
    window.session.apply(set_values("One", {f"points.{point().id}.powers_w.reg_1": {"value": 2.0, "uncertainty": 0.3}}))
    assert rows.powers["reg_1"] is not rows.powers["reg_2"], "a row never speaks for a part that is said otherwise"


def test_operating_points_scale_copy_and_tell_the_total(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    settled(qtbot, window)
    hot = float(verdicts(window)[0].split()[0])
    press(qtbot, window, Qt.Key.Key_L, modifier=CTRL)
    dialog = window.findChildren(PointsDialog)[-1]
    assert dialog.total.text() == "230.0 W in all"
    half = next(button for button in dialog.findChildren(QPushButton) if button.text() == "50 %")
    qtbot.mouseClick(half, LEFT)
    assert dialog.total.text() == "115.0 W in all"
    settled(qtbot, window)
    assert float(verdicts(window)[0].split()[0]) < hot - 15
    full = next(button for button in dialog.findChildren(QPushButton) if button.text() == "100 %")
    qtbot.mouseClick(full, LEFT)
    assert dialog.total.text() == "230.0 W in all", "from half back to the whole"
    type_into(qtbot, dialog.scale, "-5")
    assert "at least" in dialog.scale.wrong
    type_into(qtbot, dialog.rows.powers["die"].value, "200")
    assert window.session.point.powers_w["die"].value == 200.0
    dialog.asker.text = lambda *_: "Summer"  # type: ignore[method-assign]
    dialog._new()
    assert window.session.view.point == "summer"
    type_into(qtbot, dialog.air.editors["points.summer.ambient_c"].value, "95 °F")  # type: ignore[attr-defined]
    assert window.session.point.ambient_c.value == pytest.approx(35.0)
    dialog._remove()
    assert window.session.view.point == "correlate", "the one that is left is shown"
    look(window, point="standby")
    assert dialog.which.currentText() == "Standby"


def test_a_folder_of_devices_is_listed_worst_first_and_opens_any(qtbot: QtBot, opened: Opener, tmp_path: Path) -> None:
    plain = project(Card(parts=FOUR))
    hot = replaced(plain, name="Hot <b>one</b>", points=tuple(replaced(p, ambient_c=q(60.0)) for p in plain.points))
    save_project(tmp_path / "a.ashb", replaced(plain, name="Cool one"))
    save_project(tmp_path / "b.ashb", hot)
    (tmp_path / "c.ashb").write_bytes(b"nothing of the kind")
    window = opened("card", Opened(plain, {}))
    settled(qtbot, window)
    taken: list[str] = []
    dialog = DevicesDialog(window.general.room, str(tmp_path), taken.append)
    dialog.show()
    qtbot.waitUntil(lambda: dialog.rows.state == "current", timeout=WAIT)
    items = [dialog.list.topLevelItem(n) for n in range(dialog.list.topLevelItemCount())]
    assert [one.text(0) for one in items if one is not None] == ["c", "Hot <b>one</b>", "Cool one"]
    assert items[0] is not None
    assert items[0].text(1), "what cannot be read says why"
    dialog.list.setCurrentItem(items[2])
    qtbot.mouseClick(dialog.show_it, Qt.MouseButton.LeftButton)
    assert taken == [str(tmp_path / "a.ashb")]
    dialog.room.asker.save_file = lambda *_: str(tmp_path / "due.ics")  # type: ignore[method-assign]
    qtbot.mouseClick(dialog.dates, Qt.MouseButton.LeftButton)
    assert (tmp_path / "due.ics").read_bytes().startswith(b"BEGIN:VCALENDAR")
    dialog.folder = str(tmp_path / "nowhere")
    dialog.refresh()
    assert dialog.said.text() == "This folder cannot be read."
