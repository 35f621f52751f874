"""Nothing a file says is markup: names, notes and log columns that look like it are shown as they stand, everywhere."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest
from PyQt6.QtCore import QEvent, QPoint, Qt
from PyQt6.QtGui import QHelpEvent
from PyQt6.QtWidgets import QApplication, QLabel, QPushButton, QToolTip, QWidget
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.parts.plain import PlainTips, Words
from ashen_bridge.desktop.points.dialog import PointsDialog
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.files.archive import Opened
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model.project import Project
from here import ROOT
from windows import Opener, desk, look, settled

EVIL = '<img src="file:///nowhere.png"><i>evil</i>'
FREE = ("name", "note", "title", "text", "author", "mark")


def renamed(node: Any) -> Any:
    """Every free text of a project says what would be markup."""
    if isinstance(node, dict):
        return {key: EVIL if key in FREE and isinstance(value, str) else renamed(value) for key, value in node.items()}
    return [renamed(one) for one in node] if isinstance(node, list) else node


def hostile() -> Opened:
    opened = open_anything("demo:correlator")
    return Opened(Project.parse(renamed(opened.project.model_dump(mode="json"))))


def believed(over: QWidget) -> Iterator[str]:
    """Yield texts that a label would take for markup."""
    for label in over.findChildren(QLabel):
        rich = label.textFormat() is not Qt.TextFormat.PlainText
        if rich and ("<i>" in label.text() or "<img" in label.text()):
            yield label.text()


def walked(qtbot: QtBot, window: MainWindow) -> Iterator[str]:
    """Go through all views and yield their names."""
    session = window.session
    settled(qtbot, window)
    for page in ("joint", "part", "assumptions", "chance"):
        look(window, workspace="stack", page=page)
        yield page
    window.commands["edit_mode"].trigger()
    desk(window).choose(*(target.path for target in desk(window).targets()[:2]))
    yield "editing"
    runs = session.project.runs
    look(window, workspace="baseline", run=runs[0].id)
    qtbot.waitUntil(lambda: session.runs.figures(runs[0], session.project.device) is not None, timeout=60_000)
    for page in ("run", "compare", "diagnose", "fit", "aims"):
        look(window, run_page=page, against=runs[-1].id)
        qtbot.waitUntil(lambda: not session.runs.busy, timeout=60_000)
        yield page
    look(window, workspace="prove")
    yield "prove"


def test_no_label_of_any_view_takes_a_name_for_markup(qtbot: QtBot, opened: Opener) -> None:
    window = opened("", hostile())
    seen = []
    for view in walked(qtbot, window):
        QApplication.processEvents()
        assert not list(believed(window)), view
        seen.append(any("evil" in label.text() for label in window.findChildren(QLabel)))
    assert any(seen), "the names are there to be seen"
    dialog = PointsDialog(window.session, window.asker, window)
    qtbot.addWidget(dialog)
    assert not list(believed(dialog))


def test_a_tool_tip_shows_a_name_as_it_stands(qtbot: QtBot, qapp: QApplication) -> None:
    button = QPushButton("x")
    button.setToolTip(EVIL)
    qtbot.addWidget(button)
    button.show()
    tips = PlainTips()
    event = QHelpEvent(QEvent.Type.ToolTip, QPoint(3, 3), button.mapToGlobal(QPoint(3, 3)))
    assert tips.eventFilter(button, event), "taken in hand"
    assert "&lt;img" in QToolTip.text()
    assert "<img" not in QToolTip.text()


def test_questions_show_names_as_they_stand(qtbot: QtBot, opened: Opener, monkeypatch: pytest.MonkeyPatch) -> None:
    from PyQt6.QtWidgets import QInputDialog, QMessageBox

    from ashen_bridge.desktop.parts.asking import Asker

    shown: list[Qt.TextFormat] = []

    def look(box: QMessageBox | QInputDialog) -> int:
        shown.extend(label.textFormat() for label in box.findChildren(QLabel) if "evil" in label.text())
        return 0

    monkeypatch.setattr(QMessageBox, "exec", look)
    monkeypatch.setattr(QInputDialog, "exec", look)
    over = QWidget()
    qtbot.addWidget(over)
    asker = Asker(over)
    asker.tell("Title", EVIL)
    asker.choose("Title", EVIL, ["Keep", "Drop"], "Keep", "Drop")
    asker.text("Title", EVIL, EVIL)
    assert shown
    assert set(shown) == {Qt.TextFormat.PlainText}


def test_a_label_is_plain_unless_it_says_otherwise(qtbot: QtBot) -> None:
    label = Words(EVIL)
    qtbot.addWidget(label)
    assert label.textFormat() is Qt.TextFormat.PlainText
    assert label.text() == EVIL


def test_names_are_escaped_in_one_place() -> None:
    source = ROOT / "src/ashen_bridge"
    found = {
        path.name
        for path in source.rglob("*.py")
        if "html import escape" in path.read_text() or "html.escape" in path.read_text()
    }
    assert found == {"rich.py", "plain.py"}, "rich text is built by parts.rich, tool tips by parts.plain"
