"""The Cut workspace, driven: a piece lit everywhere, the stock after cutting, drawings and the sheet saved."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.cut.page import CutPage
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.files.archive import Opened
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced
from ashen_bridge.model.wishes import StockItem
from devices import FOUR, Card
from devices import project as card_project
from windows import WAIT, Opener, press, settled

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def window(opened: Opener) -> MainWindow:
    card = card_project(Card(parts=FOUR))
    sheet = StockItem(id="sheet", material="pad_medium", thickness_mm=q(1.0), w_mm=60, h_mm=60, count=2)
    return opened("card", Opened(replaced(card, stock=(sheet,)), {}))


def at_cut(qtbot: QtBot, window: MainWindow) -> CutPage:
    settled(qtbot, window)
    press(qtbot, window, Qt.Key.Key_F11)
    page = window.workspaces["cut"].page()
    assert isinstance(page, CutPage)
    qtbot.waitUntil(lambda: page.desk.question.state == "current", timeout=WAIT)
    return page


def test_a_piece_is_lit_on_its_sheet_in_the_list_and_on_the_board(qtbot: QtBot, window: MainWindow) -> None:
    page = at_cut(qtbot, window)
    assert page.says.text().startswith("4 pieces from 1 sheet")
    (laid,) = page.sheets.laid
    placed = laid.placed[2]
    box = next(box for _, box in page.sheets._places(page.sheets.width()))
    scale = box.width() / laid.sheet.w_mm
    at = box.bottomLeft().toPoint()
    at.setX(at.x() + round(scale * (placed.x_mm + placed.w_mm / 2)))
    at.setY(at.y() - round(scale * (placed.y_mm + placed.h_mm / 2)))
    qtbot.mouseClick(page.sheets, LEFT, pos=at)
    assert page.desk.view.piece == placed.cut.number
    assert page.desk.view.piece == page.list.currentItem().data(Qt.ItemDataRole.UserRole)  # type: ignore[union-attr]
    assert window.session.view.selected == placed.cut.lower
    # The other way round: from the board to the sheet.
    board = page.boards[Side.FRONT]
    other = next(one for one in board.cuts if one.number != placed.cut.number)
    place = board._placement()
    middle = place.point(other.place[0] + other.size_mm[0] / 2, other.place[1] + other.size_mm[1] / 2).toPoint()
    qtbot.mouseClick(board, LEFT, pos=middle)
    assert page.sheets.piece == other.number


def test_what_was_cut_leaves_the_stock_and_undo_brings_it_back(qtbot: QtBot, window: MainWindow) -> None:
    page, session = at_cut(qtbot, window), window.session
    before = session.project
    qtbot.mouseClick(page.done, LEFT)
    counts = {item.id: item.count for item in session.project.stock}
    assert counts["sheet"] == 1
    assert len(counts) > 1, "offcuts were kept"
    session.document.undo_stack.undo()
    assert session.project == before


def test_drawings_and_the_sheet_are_saved_and_a_folder_that_cannot_be_written_is_said(
    qtbot: QtBot, window: MainWindow, tmp_path: Path
) -> None:
    page = at_cut(qtbot, window)
    page.save_drawing(tmp_path / "cut.svg", "svg")
    page.save_drawing(tmp_path / "cut.dxf", "dxf")
    assert (tmp_path / "cut.svg").read_text().startswith("<?xml")
    assert "LWPOLYLINE" in (tmp_path / "cut.dxf").read_text()
    page.papers.print_to(tmp_path / "cut.pdf", "A4")
    qtbot.waitUntil(lambda: (tmp_path / "cut.pdf").exists(), timeout=WAIT)
    assert (tmp_path / "cut.pdf").read_bytes().startswith(b"%PDF")
    page.save_drawing(tmp_path / "nowhere/at/all/cut.svg", "svg")
    assert not (tmp_path / "nowhere").exists()


def test_a_build_without_pads_has_nothing_to_cut(qtbot: QtBot, opened: Opener) -> None:
    window = opened("bare", Opened(card_project(Card()), {}))
    page = at_cut(qtbot, window)
    assert page.says.text() == "Nothing is cut for this build."
    assert not page.done.isEnabled()
