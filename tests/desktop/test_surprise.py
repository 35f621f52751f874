"""What nobody foresaw ends in a sentence, a recovery copy and a report; nothing else goes down with it."""

from __future__ import annotations

import subprocess
import sys
import threading
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from ashen_bridge.cli import main as command_line
from ashen_bridge.desktop.shell.surprise import Net
from ashen_bridge.desktop.shell.workbench import Workbench
from ashen_bridge.editing.edits import set_values
from ashen_bridge.files.archive import Opened
from ashen_bridge.files.recovery import default_folder
from ashen_bridge.files.surprise import keep_report, reports_folder, sentence
from devices import FOUR, Card, project
from windows import Opener

SCRIPT = """
import sys
from PyQt6.QtCore import QTimer
from ashen_bridge.desktop.__main__ import make_application
from ashen_bridge.desktop.shell.surprise import Net
from ashen_bridge.desktop.shell.workbench import Workbench
from ashen_bridge.files.demos import open_anything

application = make_application(["x"])
bench = Workbench()
Net(bench).spread()
windows = [bench.open(name, open_anything(name)) for name in ("demo:buoy", "demo:beamformer")]

def fails():
    raise ZeroDivisionError("nobody foresaw this")

for delay in (50, 100, 150):
    QTimer.singleShot(delay, fails)

def look():
    print([window.isVisible() for window in windows])
    print([window.notice.words.text() for window in windows if window.notice.isVisible()])
    application.quit()

QTimer.singleShot(800, look)
sys.exit(application.exec())
"""


def fallen() -> ZeroDivisionError:
    try:
        1 / 0  # noqa: B018
    except ZeroDivisionError as error:
        return error
    raise AssertionError


def test_an_error_in_the_event_loop_leaves_all_windows_standing() -> None:
    ended = subprocess.run([sys.executable, "-c", SCRIPT], capture_output=True, text=True, timeout=60, check=False)
    assert ended.returncode == 0, ended.stderr[-500:]
    visible, said = ended.stdout.splitlines()[-2:]
    assert visible == "[True, True]"
    assert said.count("not foreseen (ZeroDivisionError)") == 1, "said once, in one window"
    assert "Traceback" not in ended.stderr
    (report,) = reports_folder().glob("*.txt")
    assert "nobody foresaw this" in report.read_text()


def test_open_work_is_kept(qtbot: QtBot, bench: Workbench, opened: Opener) -> None:
    window = opened("", Opened(project(Card(FOUR))))
    window.session.apply(set_values("Warmer", {f"points.{window.session.point.id}.ambient_c": 31.0}))
    net = Net(bench)
    error = fallen()
    thread = threading.Thread(target=lambda: net.caught(type(error), error, error.__traceback__))
    thread.start()
    thread.join()
    qtbot.waitUntil(lambda: "not foreseen" in window.notice.words.text(), timeout=5000)
    copies = list(default_folder().glob("*/project.json"))
    assert any("31.0" in copy.read_text() for copy in copies)


def test_the_command_line_says_it_in_one_sentence(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    def fails(*_: object, **__: object) -> None:
        raise fallen()

    monkeypatch.setattr(command_line, "opened", fails)
    with pytest.raises(SystemExit) as ended:
        command_line.main(["predict", "demo:buoy"])
    assert ended.value.code == 3
    told = capsys.readouterr().err
    assert told.startswith("Something went wrong that was not foreseen (ZeroDivisionError)")
    assert len(told.splitlines()) == 1


def test_reports_are_few_and_a_folder_that_refuses_them_is_no_new_error(tmp_path: Path) -> None:
    for _ in range(3):
        assert keep_report(fallen(), tmp_path) is not None
    for n in range(40):
        (tmp_path / f"2000{n:02d}.txt").write_text("old")
    assert keep_report(fallen(), tmp_path) is not None
    assert len(list(tmp_path.glob("*.txt"))) <= 20
    blocked = tmp_path / "file"
    blocked.write_text("")
    assert keep_report(fallen(), blocked) is None
    assert "report" not in sentence(fallen(), None)
