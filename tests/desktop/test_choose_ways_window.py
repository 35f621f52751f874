"""Choose, driven: other ways made builds and points, a plan in stages, another file beside this one; own materials."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter, QPen
from PyQt6.QtWidgets import QPlainTextEdit
from pytestqt.qtbot import QtBot

from ashen_bridge.changes.plans import Filling
from ashen_bridge.desktop.choose.desk import ChooseDesk
from ashen_bridge.desktop.choose.page import ChoosePage
from ashen_bridge.desktop.materials.dialog import MaterialsDialog
from ashen_bridge.desktop.materials.tests_dialog import TestsDialog
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.files.archive import Opened, save_project
from ashen_bridge.model.joints import Piece
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced
from ashen_bridge.planning.choosing.result import Advice, Chosen, Plan
from devices import FOUR, Card
from devices import project as card_project
from windows import WAIT, Opener, press, settled

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def window(opened: Opener) -> MainWindow:
    return opened("card", Opened(card_project(Card(parts=FOUR, die_power=120.0, bends=True)), {}))


def at_choose(qtbot: QtBot, window: MainWindow) -> ChoosePage:
    settled(qtbot, window)
    press(qtbot, window, Qt.Key.Key_F10)
    page = window.workspaces["choose"].page()
    assert isinstance(page, ChoosePage)
    return page


def test_another_way_becomes_a_point_and_undo_takes_it_back(qtbot: QtBot, window: MainWindow) -> None:
    page, session = at_choose(qtbot, window), window.session
    page.turn_to("ways")
    qtbot.waitUntil(lambda: page.desk.ways.state == "current", timeout=WAIT)
    before = session.project
    found = {one.id: one for one in page.desk.ways.value or ()}
    assert found["power limit"].effect is not None
    qtbot.mouseClick(page.ways.buttons["power limit"], LEFT)
    assert len(session.project.points) == 2
    assert session.view.point == found["power limit"].point
    settled(qtbot, window)
    session.document.undo_stack.undo()
    assert session.project == before
    settled(qtbot, window)


def test_a_plan_is_split_into_stages_that_become_builds(
    qtbot: QtBot, window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    page, session = at_choose(qtbot, window), window.session
    page.desk.advice.cancel()
    pads = tuple(one.id for one in session.build.joints if one.id != "die_joint")
    soft = Piece(id="pad", material="pad_soft", thickness_mm=q(1.0, 0.05))
    chosen = (Chosen(pads[0], "Pads", "pad_soft 1", "1 mm soft gap pad", "pad", True),)
    plan = Plan(
        "x", "Coolest", "", chosen, 0.5, (Filling(joints=pads, pieces=(soft,)),), (), 0.9, 80.0, None, None, (), 4, 60.0, 4.0
    )
    found = Advice(session.view.build, session.view.point, 0.9, (plan,))
    monkeypatch.setattr(ChooseDesk, "found", property(lambda _: found))
    page.turn_to("plans")
    page.plans.staged.click()
    qtbot.waitUntil(lambda: page.desk.stages.state == "current", timeout=WAIT)
    assert "washers" in page.plans.stages.rows.text()
    before = session.project
    qtbot.mouseClick(page.plans.stages.go, LEFT)
    assert [one.name for one in session.project.builds[1:]] == ["Coolest, stage 1", "Coolest, stage 2"]
    session.document.undo_stack.undo()
    assert session.project == before


def test_another_file_stands_beside_at_equal_power(qtbot: QtBot, window: MainWindow, tmp_path: Path) -> None:
    """The same card at half the power: half the rise; at equal power it stands where this one does."""
    page = at_choose(qtbot, window)
    half = card_project(Card(parts=FOUR, die_power=60.0, bends=True))
    point = half.points[0]
    powers = {name: replaced(w, value=w.value / 2) if name != "die" else w for name, w in point.powers_w.items()}
    half = replaced(half, name="Half", points=(replaced(point, powers_w=powers),))
    save_project(tmp_path / "half.ashb", half)
    page.turn_to("compare")
    page.compare.set_beside(str(tmp_path / "half.ashb"))
    qtbot.waitUntil(lambda: page.desk.beside.state == "current", timeout=WAIT)
    page.compare.refresh()
    rows = page.compare.model.rows
    assert rows[-1].file == "Half"
    qtbot.waitUntil(lambda: page.desk.compared.state == "current", timeout=WAIT)
    alone = rows[-1].die_c
    page.compare.equal.click()
    page.compare.refresh()
    brought = page.compare.model.rows[-1]
    assert alone is not None
    assert brought.die_c is not None
    ambient = half.point().ambient_c.value
    assert brought.die_c - ambient == pytest.approx(2 * (alone - ambient), rel=0.02)
    page.compare.other.click()
    assert page.desk.other is None


def test_a_file_that_is_none_is_told(qtbot: QtBot, window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    page = at_choose(qtbot, window)
    page.turn_to("compare")
    told: list[str] = []
    monkeypatch.setattr(window.asker, "tell", lambda title, words: told.append(words))
    (tmp_path / "x.ashb").write_bytes(b"nothing")
    page.compare.set_beside(str(tmp_path / "x.ashb"))
    assert len(told) == 1
    assert page.desk.other is None


# ---- own materials


def chart(path: Path) -> None:
    """Draw a chart as data sheets have them: axes from 0 to 40 % and 0 to 400 kPa, a curve through known points."""
    image = QImage(600, 500, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    painter = QPainter(image)
    painter.setPen(QPen(Qt.GlobalColor.black, 2))
    painter.drawRect(QRectF(80, 50, 480, 400))
    painter.end()
    image.save(str(path))


def test_a_curve_is_traced_off_a_picture(qtbot: QtBot, window: MainWindow, tmp_path: Path) -> None:
    dialog = MaterialsDialog(window.session, window.theme, window.asker, window)
    dialog.show()
    dialog.choose("pad_medium")
    chart(tmp_path / "chart.png")
    traced = dialog.trace_picture(str(tmp_path / "chart.png"))
    assert traced is not None

    def click(x: float, y: float) -> None:
        qtbot.mouseClick(traced.chart, LEFT, pos=traced.chart.at((x, y)).toPoint())

    for at in ((80, 450), (560, 450), (80, 450), (80, 50)):
        click(*at)
    wanted = ((0.1, 40.0), (0.2, 120.0), (0.4, 390.0))
    for strain, pressure in wanted:
        click(80 + 480 * strain / 0.4, 450 - 400 * pressure / 400)
    click(300, 449)  # a slip: the curve would fall
    assert "rise everywhere" in traced.wrong.text()
    assert not traced.go.isEnabled()
    qtbot.keyClick(traced.chart, Qt.Key.Key_Backspace)
    assert traced.go.isEnabled()
    qtbot.mouseClick(traced.go, LEFT)
    compression = window.session.project.material("pad_medium").compression
    assert compression is not None
    found = [(point.strain, point.pressure_kpa) for point in compression.points[1:]]
    assert [x for x, _ in found] == pytest.approx([x for x, _ in wanted], abs=0.004)
    assert [y for _, y in found] == pytest.approx([y for _, y in wanted], abs=3.0)
    assert dialog.trace_picture(str(tmp_path / "none.png")) is None
    assert "cannot be read" in dialog.wrong.text()


def test_readings_of_a_test_are_fitted_and_taken_over(qtbot: QtBot, window: MainWindow) -> None:
    dialog = MaterialsDialog(window.session, window.theme, window.asker, window)
    dialog.show()
    dialog.choose("pad_medium")
    qtbot.mouseClick(dialog.tests, LEFT, pos=QPoint(8, 8))
    tests = window.findChildren(TestsDialog)[-1]
    assert not tests.go.isEnabled()
    typed(tests.readings, "thickness_mm,resistance_mm2k_w\n0.5,140\nx,240\n2.0,440\n")
    assert "line 3" in tests.wrong.text()
    typed(tests.readings, "thickness_mm;resistance_mm2k_w\n0,5;140\n1,0;240\n2,0;440,2\n3,0;640\n")
    assert "5 ±" in tests.says.text() or "5.0" in tests.says.text() or "W/m·K" in tests.says.text()
    qtbot.mouseClick(tests.go, LEFT)
    made = window.session.project.material("pad_medium")
    assert made.conductivity_w_mk.value == pytest.approx(5.0, rel=0.01)
    assert made.contact_mm2k_w.value == pytest.approx(20.0, abs=1.0)
    assert made.conductivity_w_mk.origin == "measured"


def typed(field: QPlainTextEdit, words: str) -> None:
    field.setPlainText(words)


@pytest.mark.long
def test_how_a_material_is_handled_is_told_on_the_shelf(qtbot: QtBot, window: MainWindow) -> None:
    page = at_choose(qtbot, window)
    page.turn_to("shelf")
    qtbot.waitUntil(lambda: page.desk.shelf.state == "current", timeout=WAIT)
    page.desk.look(replace(page.desk.view, page="shelf"))
    page.shelf.refresh()
    assert "bleeds" in page.shelf.facts.text()
