"""History, kept answers and the quick check in the real window, by keys and clicks as a user would."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.prove.check_dialog import CheckDialog
from ashen_bridge.desktop.shell.history_sheet import HistorySheet
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.editing.edits import set_values
from ashen_bridge.files.archive import open_project, save_project
from ashen_bridge.files.recovery import leftovers
from devices import FOUR, Card, project
from windows import WAIT, Opener, look, prove, settled


def sheet(window: MainWindow) -> HistorySheet:
    window.commands["history"].trigger()
    return next(one for one in window.findChildren(HistorySheet) if one.isVisible())


def lines(shown: HistorySheet) -> list[str]:
    top = [shown.tree.topLevelItem(n) for n in range(shown.tree.topLevelItemCount())]
    return [day.child(n).text(1) for day in top if day is not None for n in range(day.childCount())]  # type: ignore[union-attr]


def rename(window: MainWindow, name: str) -> None:
    assert window.session.apply(set_values(f"Call it {name}", {"name": name}))


@pytest.fixture
def window(opened: Opener, tmp_path: Path) -> MainWindow:
    path = tmp_path / "card.ashb"
    save_project(path, project(Card(FOUR)))
    return opened(str(path))


def test_what_is_done_is_in_the_history_with_the_name_typed_once(qtbot: QtBot, window: MainWindow, tmp_path: Path) -> None:
    rename(window, "A")
    rename(window, "B")
    window.commands["undo"].trigger()
    shown = sheet(window)
    assert lines(shown) == ["Call it A"], "what was taken back before it was saved is not history"
    assert shown.name.text() == ""
    shown.name.setFocus()
    qtbot.keyClicks(shown.name, "Ada")
    qtbot.keyClick(shown.name, Qt.Key.Key_Return)
    shown.close()
    window.commands["save"].trigger()
    first = open_project(tmp_path / "card.ashb").project.history
    assert [(one.what, one.who, one.day) for one in first] == [("Call it A", "Ada", datetime.now().date().isoformat())]
    window.commands["undo"].trigger()
    assert window.session.project.name != "A"
    window.commands["save"].trigger()
    then = open_project(tmp_path / "card.ashb").project
    assert [one.what for one in then.history] == ["Call it A", "Taken back: Call it A"]
    assert then.name == project(Card(FOUR)).name
    shown = sheet(window)
    assert shown.name.text() == "Ada"
    out = tmp_path / "history.csv"
    window.asker.save_file = lambda *_: str(out)  # type: ignore[method-assign]
    qtbot.mouseClick(shown.export, Qt.MouseButton.LeftButton)
    assert out.read_text().splitlines()[1].startswith(datetime.now().date().isoformat())


def test_undoing_all_leaves_nothing_unsaved_and_no_history(qtbot: QtBot, window: MainWindow) -> None:
    rename(window, "A")
    window.commands["undo"].trigger()
    assert not window.session.document.modified
    assert window.session.document.history() == ()
    shown = sheet(window)
    assert "Nothing was done" in shown.said.text()
    shown.close()


def test_a_recovered_file_keeps_what_was_done_before_it_fell(qtbot: QtBot, window: MainWindow) -> None:
    rename(window, "Before the fall")
    window.session.document.keep_recovery_copy()
    QApplication.processEvents()
    copies = list((Path(leftovers.__globals__["default_folder"]())).glob("*/project.json"))
    from ashen_bridge.files.archive import parse_project

    found = parse_project(copies[0].read_bytes(), "copy")[0]
    assert [one.what for one in found.history] == ["Call it Before the fall"]


def test_a_quick_check_is_typed_judged_and_kept(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    settled(qtbot, window)
    look(window, workspace="prove", build="plan_a")
    qtbot.mouseClick(prove(window).check, Qt.MouseButton.LeftButton)
    dialog = next(one for one in QApplication.topLevelWidgets() if isinstance(one, CheckDialog) and one.isVisible())
    qtbot.waitUntil(lambda: dialog.check.state == "current", timeout=WAIT)
    check = dialog.check.value
    assert check is not None
    first = check.rows[0]

    def type_in(value: str) -> None:
        field = dialog.fields[first.sensor].edit
        field.setFocus()
        field.selectAll()
        qtbot.keyClicks(field, value)
        qtbot.keyClick(field, Qt.Key.Key_Return)

    type_in(f"{first.expected_c + 0.3:.1f}")
    assert dialog.said.text().startswith("✓ Leave it shut")
    type_in(f"{first.expected_c + first.more_k + 1:.1f}")
    assert dialog.said.text().startswith("✕")
    air = dialog.air.edit
    air.setFocus()
    qtbot.keyClicks(air, f"{check.air_c + 6:.0f}")
    qtbot.keyClick(air, Qt.Key.Key_Return)
    told = dialog.judged()
    assert told is not None
    assert told.seen[0].over_k == pytest.approx(first.more_k + 1 - 6, abs=0.06)
    qtbot.mouseClick(dialog.keep, Qt.MouseButton.LeftButton)
    assert window.session.project.conclusions[-1].kind == "check"
    assert not dialog.keep.isEnabled()
    minutes = dialog.minutes.edit
    minutes.setFocus()
    minutes.selectAll()
    qtbot.keyClicks(minutes, "5")
    qtbot.keyClick(minutes, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: dialog.check.value is not None and dialog.check.value.minutes == 5.0, timeout=WAIT)
    assert dialog.check.value is not None
    assert dialog.check.value.rows[0].expected_c < first.expected_c
    dialog.close()
