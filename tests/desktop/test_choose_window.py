"""The Choose workspace, driven: ask, read a refusal, take a plan, compare it with As found, undo; a remedy by one click."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.choose.page import ChoosePage
from ashen_bridge.desktop.materials.dialog import MaterialsDialog
from ashen_bridge.desktop.shell.finding_dialog import FindingDialog
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.editing.materials import new_material
from ashen_bridge.files.archive import Opened
from ashen_bridge.findings.finding import Finding
from ashen_bridge.model.material import MaterialKind
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced
from devices import FOUR, Card
from devices import project as card_project
from windows import WAIT, Opener, look, press, settled

LEFT = Qt.MouseButton.LeftButton
CTRL_SHIFT = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def window(qtbot: QtBot, opened: Opener) -> MainWindow:
    """A card whose pads are too thick, so that there is something to better."""
    plain = card_project(Card(parts=FOUR, die_power=220.0))
    device = replaced(plain.device, limits=tuple(replaced(one, max_c=q(120.0)) for one in plain.device.limits))
    joints = tuple(
        replaced(one, pieces=tuple(replaced(p, thickness_mm=q(2.0)) if p.thickness_mm else p for p in one.pieces))
        for one in plain.builds[0].joints
    )
    return opened("card", Opened(replaced(plain, device=device, builds=(replaced(plain.builds[0], joints=joints),)), {}))


def at_choose(qtbot: QtBot, window: MainWindow) -> ChoosePage:
    press(qtbot, window, Qt.Key.Key_F10)
    page = window.workspaces["choose"].page()
    assert isinstance(page, ChoosePage)
    qtbot.waitUntil(lambda: page.desk.advice.state in ("current", "refused"), timeout=WAIT)
    return page


def test_ask_read_a_refusal_take_a_plan_compare_undo(qtbot: QtBot, window: MainWindow) -> None:
    page, session = at_choose(qtbot, window), window.session
    assert page.desk.advice.state == "current", page.desk.advice.problem
    plans = page.plans
    columns = plans.table.picture.columns
    assert columns[0].present
    assert len(columns) >= 2
    # A click on the pads' row shows what else could lie there, each with its reason.
    box = plans.table.layout_now.row(1)
    qtbot.mouseClick(plans.table, LEFT, pos=QPoint(20, round(box.center().y())))
    rows = plans.candidates.candidates.rows
    assert rows[0].chosen
    thick = next(row for row in rows if row.candidate == "pad_medium 2" or row.candidate == "keep")
    assert thick.refusal
    # A plan becomes a build by one key, and is looked at.
    before = session.project
    press(qtbot, window, Qt.Key.Key_1, modifier=CTRL_SHIFT)
    assert len(session.project.builds) == 2
    taken = session.view.build
    assert taken != "now"
    settled(qtbot, window)
    # Beside As found it is cooler.
    page.turn_to("compare")
    qtbot.waitUntil(lambda: page.desk.compared.state == "current", timeout=WAIT)
    found = {row.build: row for row in page.compare.model.rows}
    assert found[taken].die_c is not None
    assert found["now"].die_c is not None
    assert found[taken].die_c < found["now"].die_c - 1
    page.compare.copy_table()
    board = QApplication.clipboard()
    assert board is not None
    assert "\t" in board.text()
    session.document.undo_stack.undo()
    assert session.project == before


@pytest.mark.long
def test_wishes_are_edits_and_ask_anew(qtbot: QtBot, window: MainWindow) -> None:
    page, session = at_choose(qtbot, window), window.session
    card = page.plans.wishes
    qtbot.mouseClick(card.boxes["putty"], LEFT, pos=QPoint(8, card.boxes["putty"].height() // 2))
    assert session.project.aims.wishes.putty is False
    assert page.desk.advice.state in ("running", "stale")
    qtbot.waitUntil(lambda: page.desk.advice.state == "current", timeout=WAIT)
    found = page.desk.found
    assert found is not None
    putty = [row for place in found.why_not for row in place.rows if row.candidate == "putty_soft"]
    assert putty
    assert all("not wanted" in row.refusal for row in putty)
    # What cannot be leaves one sentence, and nothing is lost.
    page.desk.look(replace(page.desk.view, page="plans"))
    card.source.setCurrentIndex(1)
    card.source.activated.emit(1)
    card.boxes["everything"].click()
    qtbot.waitUntil(lambda: page.desk.advice.state == "refused", timeout=WAIT)
    assert "Nothing may lie in" in page.plans.state.text()


def test_the_shelf_takes_stock_and_prices_and_refuses_in_words(qtbot: QtBot, window: MainWindow) -> None:
    press(qtbot, window, Qt.Key.Key_F10)
    page = window.workspaces["choose"].page()
    assert isinstance(page, ChoosePage)
    page.turn_to("shelf")
    form, session = page.shelf.form, window.session
    form._chosen("pad_soft")
    form.thickness.setText("1.0")
    form.wide.setText("100")
    form.high.setText("5 cm")
    form.number.setText("2")
    qtbot.mouseClick(form.here, LEFT)
    (item,) = session.project.stock
    assert (item.w_mm, item.h_mm, item.count) == (100.0, 50.0, 2)
    form.thickness.setText("1.0")
    form.number.setText("a lot")
    qtbot.mouseClick(form.priced, LEFT)
    assert page.shelf.wrong.text()
    form.number.setText("9.50")
    form.currency.setText("crowns")
    qtbot.mouseClick(form.priced, LEFT)
    assert session.project.shop[0].price == 9.5
    assert session.project.currency == "crowns"
    assert not page.shelf.wrong.text()
    qtbot.waitUntil(lambda: "paste_filled" in page.shelf.boxes, timeout=WAIT)
    page.shelf.boxes["paste_filled"].click()
    assert page.shelf.charts.shown
    # A data sheet typed in stands beside its family, and an odd claim stands out.
    new, made = new_material(session.project, MaterialKind.PAD, "Wonder pad")
    session.apply(new)
    dialog = MaterialsDialog(session, window.theme, window.asker, window)
    dialog.choose(made)
    dialog.show()
    edit = dialog.form.editors[f"materials.{made}.conductivity_w_mk"].value.edit  # type: ignore[attr-defined]
    edit.setFocus()
    edit.selectAll()
    qtbot.keyClicks(edit, "25")
    qtbot.keyClick(edit, Qt.Key.Key_Return)
    assert session.project.material(made).conductivity_w_mk.value == 25.0
    dialog.close()
    qtbot.waitUntil(lambda: made in page.shelf.boxes and "!" in page.shelf.boxes[made].text(), timeout=WAIT)
    assert "others of its kind reach 12" in page.shelf.boxes[made].toolTip()


def test_a_finding_is_put_right_by_one_click_or_switched_off_with_a_reason(qtbot: QtBot, window: MainWindow) -> None:
    settled(qtbot, window)
    look(window, workspace="stack")
    session, listed = window.session, window.findings
    qtbot.waitUntil(
        lambda: listed.count() > 0 and isinstance(listed.item(0).data(Qt.ItemDataRole.UserRole), Finding), timeout=WAIT
    )
    every = [listed.item(n).data(Qt.ItemDataRole.UserRole) for n in range(listed.count())]
    held = next(n for n, one in enumerate(every) if isinstance(one, Finding) and one.code == "pads_hold_die_off")
    listed.act_on(listed.item(held))
    (dialog,) = window.findChildren(FindingDialog)
    qtbot.waitUntil(lambda: dialog.question.state == "current", timeout=WAIT)
    thinner = next(n for n, button in enumerate(dialog.buttons) if button.text().startswith("1.5 mm"))
    assert "°C" in dialog._effects[thinner].text()
    before = session.project
    qtbot.mouseClick(dialog.buttons[thinner], LEFT)
    sheets = [p.thickness_mm.value for j in session.build.joints for p in j.pieces if p.thickness_mm]
    assert sheets == [1.5] * 4
    session.document.undo_stack.undo()
    assert session.project == before
    settled(qtbot, window)
    # Switched off needs a reason, and can be switched on again.
    qtbot.waitUntil(
        lambda: any(isinstance(listed.item(n).data(Qt.ItemDataRole.UserRole), Finding) for n in range(listed.count())),
        timeout=WAIT,
    )
    finding = next(
        listed.item(n) for n in range(listed.count()) if isinstance(listed.item(n).data(Qt.ItemDataRole.UserRole), Finding)
    )
    code = finding.data(Qt.ItemDataRole.UserRole).code
    listed.act_on(finding)
    dialog = window.findChildren(FindingDialog)[-1]
    dialog.switch_off()
    assert "Say why" in dialog.wrong.text()
    dialog.reason.setText("measured: it is so by design")
    dialog.switch_off()
    assert session.project.silenced[0].code == code
    last = listed.item(listed.count() - 1)
    assert last is not None
    assert "switched off" in last.text()
    listed.act_on(last)
    off = window.findChildren(FindingDialog)[-1]
    qtbot.mouseClick(off.buttons[0], LEFT)
    assert session.project.silenced == ()


def test_sliders_answer_and_tolerances_are_told(qtbot: QtBot, window: MainWindow) -> None:
    settled(qtbot, window)
    press(qtbot, window, Qt.Key.Key_F10)
    page = window.workspaces["choose"].page()
    assert isinstance(page, ChoosePage)
    page.turn_to("slide")
    qtbot.waitUntil(lambda: page.desk.slide.state == "current", timeout=WAIT)
    air = next(path for path in page.slide.sliders if path.endswith("ambient_c"))
    now = page.desk.slide.value
    assert now is not None
    before = window.session.project
    page.slide.sliders[air].setValue(page.slide.sliders[air].value() + 40)
    qtbot.waitUntil(lambda: page.desk.slide.state == "current" and page.desk.slide.value != now, timeout=WAIT)
    then = page.desk.slide.value
    assert then is not None
    warmer = 60.0 * 40 / 200
    assert then.sensors[0].then_c - then.sensors[0].now_c == pytest.approx(warmer, abs=1.0)
    assert window.session.project == before, "nothing is changed by sliding"
    page.slide.back.click()
    qtbot.waitUntil(lambda: page.desk.slide.value == now, timeout=WAIT)
    page.turn_to("tight")
    qtbot.waitUntil(lambda: page.desk.tight.state in ("current", "refused"), timeout=WAIT)
    assert page.tight.says.text() or page.desk.tight.problem
