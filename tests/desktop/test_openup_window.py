"""The Open up workspace, driven as at the bench: steps ticked, a screw missing, marks said, a film read and taken."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.measure.kept_dialog import KeptDialog
from ashen_bridge.desktop.openup.page import OpenPage
from ashen_bridge.desktop.openup.seen_page import PAD
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.desktop.steps.found_dialog import FoundDialog
from ashen_bridge.editing import procedures as page_edits
from ashen_bridge.files.archive import Opened
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model.sharing import replaced
from ashen_bridge.planning.recipe import write_recipe
from ashen_bridge.simulated.film import Scanner, scan
from windows import WAIT, Opener, look, press, settled

LEFT = Qt.MouseButton.LeftButton
CTRL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier


@pytest.fixture
def window(qtbot: QtBot, opened: Opener) -> MainWindow:
    project = open_anything("demo:correlator").project
    bare = replaced(project, evidence=(), pictures=(), signs=(), procedures=(), tray=())
    made = opened("demo:correlator", Opened(bare, {}))
    look(made, build="as_found")
    return made


def at_open_up(qtbot: QtBot, window: MainWindow) -> OpenPage:
    press(qtbot, window, Qt.Key.Key_F9)
    page = window.workspaces["openup"].page()
    assert isinstance(page, OpenPage)
    return page


def go_on(qtbot: QtBot, window: MainWindow) -> None:
    press(qtbot, window, Qt.Key.Key_Return, modifier=CTRL)


def test_a_procedure_is_ticked_and_finds_the_missing_screw(qtbot: QtBot, window: MainWindow, tmp_path: Path) -> None:
    page, session = at_open_up(qtbot, window), window.session
    card = page.steps.card
    assert card.done.text() == "Begin"
    qtbot.mouseClick(card.done, LEFT)
    (begun,) = session.project.procedures
    # A step behind a hold point that is open is refused in words.
    far = next(n for n, one in enumerate(begun.steps) if one.kind == "lift")
    item = page.steps.steps.item(far)
    assert item is not None
    page.steps.steps.setCurrentItem(item)
    qtbot.mouseClick(card.done, LEFT)
    assert "First confirm" in card.wrong.text()
    assert not any(one.done for one in session.project.procedures[0].steps)
    page.desk.choose_step(begun.steps[0])
    while page.desk.begun is not None and page.desk.begun.next is not None:
        count = sum(one.done for one in page.desk.begun.steps)
        if page.desk.step is not None and page.desk.step.about[:1] == ("spring_sw",):
            turns = [one.turn for one in page.steps.board.picture.screws if one.turn]
            assert sorted(turns) == [1, 2, 3, 4], "in which order they are turned stands on the board"
        go_on(qtbot, window)
        assert page.desk.begun is not None
        assert sum(one.done for one in page.desk.begun.steps) == count + 1
    assert all(one.done_at for one in page.desk.begun.steps)
    total = len(page.desk.tray.slots)
    assert page.desk.tray.told == f"{total} of {total} screws lie in the tray."
    # One is not where it should be.
    box, slot = next(pair for pair in page.steps.tray.cells.values() if pair[1] is not None and pair[1].id == "spring_ne")
    assert slot is not None
    qtbot.mouseClick(page.steps.tray, LEFT, pos=box.center().toPoint())
    qtbot.mouseClick(page.steps.lost, LEFT)
    assert f"Missing: screw {slot.number} “Spring screw NE”" in page.steps.told.text()
    press(qtbot, window, Qt.Key.Key_Z, modifier=CTRL)
    assert "Missing" not in page.steps.told.text()
    for left in range(total, 0, -1):
        assert len(page.desk.tray.lying) == left
        qtbot.mouseClick(page.steps.back_in, LEFT)
    assert page.desk.tray.told == "The tray is empty: every screw is back."


def test_notes_photos_recipes_and_the_printed_sheet(qtbot: QtBot, window: MainWindow, tmp_path: Path) -> None:
    page, session = at_open_up(qtbot, window), window.session
    card = page.steps.card
    qtbot.mouseClick(card.done, LEFT)
    card.note.setFocus()
    qtbot.keyClicks(card.note, "the blue seal is broken")
    page.steps.board.setFocus()
    step = session.project.procedures[0].steps[0]
    assert step.note == "the blue seal is broken"
    shot = tmp_path / "before <b>.png"
    window.grab().save(str(shot))
    card.keep_photo(shot, step)
    assert len(session.project.procedures[0].steps[0].images) == 1
    assert "before <b>.png" in card.photos.text()
    card.keep_photo(Path(__file__), step)
    assert "no picture" in card.wrong.text()
    sheet = tmp_path / "sheet.pdf"
    page.steps.printing.print_to(sheet, "A4")
    qtbot.waitUntil(sheet.exists, timeout=WAIT)
    assert sheet.read_bytes()[:5] == b"%PDF-"
    recipe = tmp_path / "card.recipe.json"
    recipe.write_bytes(write_recipe(session.project.procedures[0]))
    page.steps.take_recipe(recipe)
    assert len(session.project.procedures) == 2
    assert not any(one.note for one in session.project.procedures[1].steps)
    recipe.write_text("{}")
    page.steps.take_recipe(recipe)
    assert "no recipe" in window.notice.words.text()


def test_what_is_dangerous_stops_before_step_one(qtbot: QtBot, window: MainWindow) -> None:
    page = at_open_up(qtbot, window)
    field = page.steps.hazards["battery_state"]
    field.setCurrentIndex(2)
    field.activated.emit(2)
    assert "licensed people" in page.steps.card.caution.text()
    assert page.steps.card.done.isHidden()
    go_on(qtbot, window)
    assert not window.session.project.procedures


def known(qtbot: QtBot, page: OpenPage) -> None:
    qtbot.waitUntil(lambda: page.desk.seen.state in ("current", "refused"), timeout=WAIT)
    assert page.desk.seen.state == "current", page.desk.seen.problem


def centre(page: OpenPage, lower: str) -> QPoint:
    board = page.seen.board
    mark = next(one for one in board.picture.contacts if one.lower == lower)
    return QPointF(board.placement(board.picture).rect(mark.box).center()).toPoint()


@pytest.mark.long
def test_marks_are_said_on_the_board_and_disagreement_is_a_finding(qtbot: QtBot, window: MainWindow, tmp_path: Path) -> None:
    page, session = at_open_up(qtbot, window), window.session
    qtbot.mouseClick(page.turns["seen"], LEFT)
    known(qtbot, page)
    qtbot.mouseClick(page.seen.board, LEFT, pos=centre(page, "mem_l1"))
    assert page.seen.name.text() == "Memory L1"
    assert "The model expects" in page.seen.expected.text()
    qtbot.mouseClick(page.seen.marks["untouched"], LEFT)
    known(qtbot, page)
    assert "shows no contact" in page.seen.said.text()
    assert "would have to be off" in page.seen.said.text()
    assert next(one for one in page.seen.board.picture.contacts if one.lower == "mem_l1").odd
    # By keys: the next contact, its third mark; said again it is taken back.
    page.seen.board.setFocus()
    press(qtbot, page.seen.board, Qt.Key.Key_Right)
    assert page.desk.view.lower == "mem_l2"
    press(qtbot, window, Qt.Key.Key_3, modifier=ALT)
    assert [one.says for one in session.project.evidence] == ["untouched", PAD[2]]
    press(qtbot, window, Qt.Key.Key_3, modifier=ALT)
    assert len(session.project.evidence) == 1
    # A drag says towards which side a wedge is thinnest.
    begin = centre(page, "mem_l2")
    qtbot.mousePress(page.seen.board, LEFT, pos=begin)
    qtbot.mouseMove(page.seen.board, begin + QPoint(40, 0))
    qtbot.mouseRelease(page.seen.board, LEFT, pos=begin + QPoint(40, 0))
    wedge = session.project.evidence[-1]
    assert (wedge.says, wedge.lower) == ("wedge", "mem_l2")
    assert wedge.toward_deg == pytest.approx(0.0, abs=2)
    shot = tmp_path / "pad.png"
    window.grab().save(str(shot))
    page.seen.keep_photo(shot)
    assert session.project.evidence[-1].image is not None
    press(qtbot, window, Qt.Key.Key_Z, modifier=CTRL)
    assert session.project.evidence[-1].image is None
    qtbot.mouseClick(page.seen.signs["rattles"], LEFT)
    assert [one.says for one in session.project.signs] == ["rattles"]
    qtbot.mouseClick(page.seen.signs["rattles"], LEFT)
    assert not session.project.signs


def test_a_film_is_read_and_taken_as_evidence(qtbot: QtBot, window: MainWindow, tmp_path: Path) -> None:
    page, session = at_open_up(qtbot, window), window.session
    settled(qtbot, window)
    qtbot.mouseClick(page.turns["film"], LEFT)
    page.film._choose(("pad_r1", "mem_r1"))
    there = page.film.film.there
    assert there is not None
    box = there.box
    made = scan(there.pressure_kpa.astype(float), box[2] - box[0], box[3] - box[1], Scanner(seed=3))
    film = tmp_path / "film.png"
    film.write_bytes(made.content)
    page.film.film.open(film)
    view = page.film.view
    for n, corner in enumerate(made.corners):
        begin = view.shown(page.film.film.film.corners[n]).toPoint()  # type: ignore[union-attr]
        end = view.shown(corner).toPoint()
        qtbot.mousePress(view, LEFT, pos=begin)
        qtbot.mouseMove(view, end)
        qtbot.mouseRelease(view, LEFT, pos=end)
    qtbot.waitUntil(lambda: page.film.film.reading.state == "current", timeout=WAIT)
    found = page.film.film.reading.value
    assert found is not None
    assert found.reading.covered == pytest.approx(made.covered, abs=0.06)
    assert found.difference is not None
    assert found.difference < 0.25
    assert "covered" in page.film.figures.text()
    qtbot.mouseClick(page.film.take, LEFT)
    (picture,) = session.project.pictures
    assert (picture.joint, picture.lower) == ("pad_r1", "mem_r1")
    assert session.project.images[-1].id == picture.image
    truth = json.loads(made.truth)
    assert picture.centre_x_mm.value == pytest.approx(truth["centre_x_mm"], abs=3 * picture.centre_x_mm.uncertainty)
    page.film.film.show_taken(picture)
    assert page.film.film.film is not None
    # The strip of known pressures beside it tells what colours mean, and what was typed stands there.
    page.film.film.with_strip(True)
    for n, corner in enumerate(made.strip):
        page.film.film.move_corner(4 + n, corner)
    page.film.film.say_pressures("not a number")
    assert "no list of pressures" in page.film.wrong.text()
    page.film.film.say_pressures(", ".join(f"{one:g}" for one in made.strip_pressures))
    assert page.film.pressures.text().count(",") == len(made.strip_pressures) - 1
    qtbot.waitUntil(lambda: page.film.film.reading.state == "current", timeout=WAIT)
    sharper = page.film.film.reading.value
    assert sharper is not None
    assert sharper.reading.centre_sd_mm < found.reading.centre_sd_mm
    # Wrong pictures are one sentence and lose nothing.
    for content, says in ((b"nothing", "only PNG and JPEG"), (b"\x89PNG\r\n\x1a\n" + bytes(40), "no picture")):
        film.write_bytes(content)
        page.film.film.open(film)
        assert says in page.film.wrong.text()
    page.film.film.open(tmp_path / "gone.png")
    assert "cannot be read" in page.film.wrong.text()
    assert session.project.pictures == (picture,)


@pytest.mark.long
def test_a_build_that_nobody_closed_is_closed_with_one_click(qtbot: QtBot, opened: Opener) -> None:
    """With a device of one's own there are no closings yet: what is seen can be said all the same."""
    project = replaced(
        open_anything("demo:correlator").project, closings=(), evidence=(), pictures=(), readings=(), taken_over=()
    )
    window = opened("demo:correlator", Opened(project, {}))
    look(window, build="as_found")
    page = at_open_up(qtbot, window)
    qtbot.mouseClick(page.turns["seen"], LEFT)
    assert "was closed" in page.seen.expected.text()
    assert page.seen.closed.isVisible()
    qtbot.mouseClick(page.seen.closed, LEFT)
    assert [one.builds for one in window.session.project.closings] == [("as_found",)]
    known(qtbot, page)
    qtbot.mouseClick(page.seen.board, LEFT, pos=centre(page, "mem_l1"))
    qtbot.mouseClick(page.seen.marks["even"], LEFT)
    assert [one.says for one in window.session.project.evidence] == ["even"]
    dialog = KeptDialog(window.session, window)
    dialog.show()
    qtbot.mouseClick(dialog.new_instrument, LEFT)
    assert dialog.path.startswith("instruments.")
    qtbot.mouseClick(dialog.remove, LEFT)
    assert dialog.path.startswith(("instruments.", "closings."))
    dialog.choose(f"closings.{window.session.project.closings[0].id}")
    dialog.boxes["plan_a"].click()
    assert window.session.project.closings[0].builds == ("as_found", "plan_a")
    dialog.close()


def test_plugs_and_cover_screws_are_put_where_they_are(qtbot: QtBot, window: MainWindow) -> None:
    """Found on the board while it lies there: a click, its fields, and the procedure knows of it."""
    page, session = at_open_up(qtbot, window), window.session
    board = page.steps.board
    count = len(session.project.device.plugs)
    page.steps._place(page_edits.add_plug)
    at = board.placement(board.picture).point(30.0, 40.0).toPoint()
    qtbot.mouseClick(board, LEFT, pos=at)
    assert len(session.project.device.plugs) == count + 1
    plug = session.project.device.plugs[-1]
    assert (plug.x_mm, plug.y_mm) == pytest.approx((30.0, 40.0), abs=0.6)
    (dialog,) = [one for one in page.steps.findChildren(FoundDialog) if one.isVisible()]
    dialog._belongs("cooler")
    assert session.project.device.plugs[-1].of == "cooler"
    order = [one.about for one in (page.desk.procedure.steps if page.desk.procedure else ()) if one.kind == "unplug"]
    assert (plug.id,) in order
    qtbot.mouseClick(dialog.remove, LEFT)
    assert len(session.project.device.plugs) == count
    qtbot.waitUntil(lambda: not dialog.isVisible(), timeout=WAIT)
    page.steps._place(page_edits.add_screw)
    press(qtbot, board, Qt.Key.Key_Escape)
    assert not board.placing
    page.steps._place(page_edits.add_screw)
    qtbot.mouseClick(board, LEFT, pos=at)
    screw = session.project.device.screws[-1]
    assert screw.id in [one.id for one in page.desk.tray.slots]
    page.steps.show_found("device.fasteners.spring_sw.hardware")
    (looks,) = [one for one in page.steps.findChildren(FoundDialog) if one.isVisible() and "spring_sw" in one.path]
    assert looks.remove.isHidden()
    looks.close()
    press(qtbot, window, Qt.Key.Key_Z, modifier=CTRL)
    assert screw not in session.project.device.screws
