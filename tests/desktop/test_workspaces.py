"""Workspaces as things: a fourth one comes with one class and one registration, and everything reads the list."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import pytest
from PyQt6.QtCore import QByteArray, QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QApplication, QLabel, QTextBrowser, QWidget
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.look.preferences import Preferences
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.workspace import Spec, Workspace
from ashen_bridge.desktop.shell.guide import GuideSheet
from ashen_bridge.desktop.shell.palette import entries
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.desktop.shell.workbench import Workbench
from ashen_bridge.desktop.shell.workspaces import WORKSPACES
from ashen_bridge.desktop.state.commands import Command, Commands
from ashen_bridge.files.demos import open_anything
from windows import press


class Weigh(Workspace):
    """A throw-away step of the job."""

    spec = Spec("weigh", "Weigh", "Weigh: what the whole device weighs", "Shift+F12", "find")

    def __init__(self, room: object) -> None:
        super().__init__(room)  # type: ignore[arg-type]
        self.made = 0
        self.done: list[str] = []
        self.leaves = True
        self.themes: list[str] = []
        self.kept = b""

    def page(self) -> QWidget:
        if not self.made:
            self.made += 1
            self._label = QLabel("1.2 kg")
        return self._label

    def commands(self) -> tuple[Command, ...]:
        return (
            Command(
                "tare", "Set the scale to nothing", "Ctrl+F12", "Device", lambda: self.done.append("tare"), lambda: self.shown
            ),
        )

    def guide(self) -> str:
        return "# Weigh\n\nPut it on the scale."

    def take(self, paths: Sequence[str]) -> Sequence[str]:
        self.done += [Path(path).name for path in paths if path.endswith(".scale")]
        return [path for path in paths if not path.endswith(".scale")]

    def refresh(self) -> None:
        self.done.append("refreshed")

    def set_theme(self, theme: Theme) -> None:
        self.themes.append(theme.name)

    def may_leave(self) -> bool:
        return self.leaves

    def leave(self) -> None:
        self.done.append("left")

    def layout_state(self) -> QByteArray | None:
        return QByteArray(b"as it was")

    def restore_layout(self, state: QByteArray) -> None:
        self.kept = state.data()


@pytest.fixture
def four(qapp: QApplication, tmp_path: Path) -> Workbench:
    made = Workbench(Preferences(tmp_path / "settings.ini"), (*WORKSPACES, Weigh))
    made.set_look("light")
    return made


def opened(bench: Workbench, qtbot: QtBot) -> tuple[MainWindow, Weigh]:
    window = bench.open("demo:buoy", open_anything("demo:buoy"))
    window.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose, False)
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow, timeout=30_000)
    weigh = window.workspaces["weigh"]
    assert isinstance(weigh, Weigh)
    return window, weigh


def test_a_fourth_workspace_is_one_class_and_one_registration(qtbot: QtBot, four: Workbench) -> None:
    window, weigh = opened(four, qtbot)
    assert not weigh.made, "its page is made when it is first wanted"
    assert not window.commands["tare"].isEnabled(), "its keys do nothing where it is not seen"
    found = {entry.words: entry for entry in entries(window.session, window.commands, lambda *_: None, lambda _: None)}
    assert Weigh.spec.purpose in found, "the palette reads the list"
    step = window.rail._steps["weigh"]
    assert step.text() == "Weigh"
    assert "Shift+F12" in step.toolTip()
    press(qtbot, window, Qt.Key.Key_F12, modifier=Qt.KeyboardModifier.ShiftModifier)
    assert weigh.shown
    assert window.pages.currentWidget() is weigh.page()
    assert weigh.made == 1
    assert "refreshed" in weigh.done
    assert window.commands["tare"].isEnabled()
    press(qtbot, window, Qt.Key.Key_F12, modifier=Qt.KeyboardModifier.ControlModifier)
    assert "tare" in weigh.done
    press(qtbot, window, Qt.Key.Key_F1)
    sheet = window.findChildren(GuideSheet)[-1]
    text = sheet.findChild(QTextBrowser)
    assert text is not None
    assert "on the scale" in text.toPlainText()
    sheet.close()
    four.set_look("dark")
    assert weigh.themes[-1] == "dark"
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile("/tmp/cooler.scale")])
    left = Qt.MouseButton.LeftButton
    window.dropEvent(QDropEvent(QPointF(9, 9), Qt.DropAction.CopyAction, data, left, Qt.KeyboardModifier.NoModifier))
    assert "cooler.scale" in weigh.done
    assert not window.notice.isVisible(), "nobody else was asked about it"
    weigh.leaves = False
    assert not window.close()
    weigh.leaves = True
    assert window.close()
    assert weigh.done[-1] == "left"
    again, other = opened(four, qtbot)
    assert other.kept == b"as it was"
    again.close()


def test_two_commands_of_one_name_or_key_are_a_mistake_of_ours(qtbot: QtBot) -> None:
    owner = QWidget()
    qtbot.addWidget(owner)
    commands = Commands(owner)
    commands.add(Command("save", "Save", "Ctrl+S", "File", lambda: None))
    for name, keys in (("save", ""), ("store", "Ctrl+S")):
        with pytest.raises(ValueError, match="name or keys"):
            commands.add(Command(name, "Again", keys, "File", lambda: None))
