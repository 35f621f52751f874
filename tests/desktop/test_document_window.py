"""The file behaves as a grown-up document: recovery, two windows, changes by others, read-only files, drops, looks."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
from PyQt6.QtCore import QMimeData, QPointF, Qt, QTimer, QUrl
from PyQt6.QtGui import QDropEvent, QImage
from PyQt6.QtWidgets import QApplication, QMessageBox, QPushButton
from pytestqt.qtbot import QtBot

from ashen_bridge.assess.assessment import assess
from ashen_bridge.assess.stored import REPORT, pack
from ashen_bridge.desktop.look.preferences import Preferences
from ashen_bridge.desktop.look.theme import THEMES
from ashen_bridge.desktop.shell.files import OVERWRITE
from ashen_bridge.desktop.shell.guide import GuideSheet, KeysSheet
from ashen_bridge.desktop.shell.palette import Palette
from ashen_bridge.desktop.shell.undo_list import UndoList
from ashen_bridge.desktop.shell.workbench import LATER, RESTORE, Workbench
from ashen_bridge.editing.edits import set_values
from ashen_bridge.files import recent
from ashen_bridge.files.archive import Opened, open_project, save_project
from ashen_bridge.files.recovery import leftovers
from ashen_bridge.model.project import Project
from devices import FOUR, Card, project
from windows import WAIT, Opener, desk, press, settled, stack, verdicts

CTRL = Qt.KeyboardModifier.ControlModifier
BASE = project(Card(FOUR))

EDITOR = """
import sys, time
from pathlib import Path
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from ashen_bridge.desktop.__main__ import make_application
from ashen_bridge.desktop.shell.workbench import Workbench
from ashen_bridge.files.demos import open_anything
application = make_application(["editor"])
bench = Workbench()
window = bench.open(sys.argv[1], open_anything(sys.argv[1]))
application.processEvents()
window.commands["edit_mode"].trigger()
stack = window.workspaces["stack"]
stack.desk.choose("device.bodies.part_0")
stack.page().plan.setFocus()
for n in range(3):
    QTest.keyClick(stack.page().plan, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    application.processEvents()
print("edited", flush=True)
while True:
    application.processEvents()
    time.sleep(0.01)
"""


def rename(window: object, name: str) -> None:
    assert window.session.apply(set_values("Rename", {"name": name}))  # type: ignore[attr-defined]


def test_work_is_offered_again_after_a_kill(qtbot: QtBot, opened: Opener, bench: Workbench, tmp_path: Path) -> None:
    """A real process edits by keys and is killed; the next start offers its work, restored it is computable and unsaved."""
    path = tmp_path / "card.ashb"
    save_project(path, BASE)
    editor = subprocess.Popen([sys.executable, "-c", EDITOR, str(path)], stdout=subprocess.PIPE, text=True)
    assert editor.stdout is not None
    assert editor.stdout.readline() == "edited\n"
    editor.send_signal(signal.SIGKILL)
    editor.wait()
    editor.stdout.close()
    window = opened()
    asked: list[str] = []

    def choose(title: str, text: str, *_: object) -> str:
        asked.append(text)
        return RESTORE

    window.asker.choose = choose  # type: ignore[method-assign]
    bench.offer_recovery(window)
    assert "card.ashb" in asked[0]
    restored = bench.windows[-1]
    assert restored is not window
    y = next(body for body in restored.session.project.device.bodies if body.id == "part_0").footprint.bounds[1]
    assert y == pytest.approx(37.0), "three nudges of a millimetre"
    assert restored.session.document.modified
    assert restored.session.document.path == path
    settled(qtbot, restored)
    assert restored.session.results.state == "current"
    assert open_project(path).project == BASE, "the file on disk waits for a save"
    assert leftovers() == [], "the old copy is gone; the window keeps its own"
    assert restored.files.save()
    assert open_project(path).project == restored.session.project


def test_deciding_later_keeps_the_work_and_throwing_away_does_not(opened: Opener, bench: Workbench) -> None:
    window = opened("", Opened(BASE))
    rename(window, "Half done")
    window.session.document.keep_recovery_copy()
    copy = window.session.document._recovery
    window.files._keep.stop()
    os.close(copy._lock)  # type: ignore[arg-type]  # as if its process had ended
    copy._lock = None
    other = opened()
    other.asker.choose = lambda *_: LATER  # type: ignore[method-assign]
    bench.offer_recovery(other)
    assert leftovers()[0].project().name == "Half done"
    other.asker.choose = lambda *_: "Throw away"  # type: ignore[method-assign]
    bench.offer_recovery(other)
    assert leftovers() == []


def test_a_recovery_copy_follows_every_edit_and_goes_with_the_save(qtbot: QtBot, opened: Opener, tmp_path: Path) -> None:
    window = opened("", Opened(BASE))
    folder = window.session.document._recovery._folder
    assert not folder.exists(), "nothing to keep yet"
    for n in range(3):
        rename(window, f"Name {n}")
        qtbot.wait(5)
        assert f'"Name {n}"'.encode() in (folder / "project.json").read_bytes()
    assert window.files.save_to(tmp_path / "card.ashb")
    assert not folder.exists()
    rename(window, "Again")
    qtbot.wait(5)
    assert folder.exists()
    press(qtbot, window, Qt.Key.Key_Z, modifier=CTRL)
    qtbot.wait(5)
    assert not folder.exists(), "undone to what is saved"


def test_two_windows_on_two_files_and_one_file_only_once(qtbot: QtBot, opened: Opener, bench: Workbench, tmp_path: Path) -> None:
    paths = [tmp_path / f"{name}.ashb" for name in ("one", "two")]
    for path in paths:
        save_project(path, BASE)
    first, second = (opened(str(path)) for path in paths)
    rename(first, "Changed here")
    settled(qtbot, first)
    settled(qtbot, second)
    assert second.session.project.name == "Test card"
    assert first.runner is not second.runner
    first.general.open_beside(str(paths[1]))
    assert len(bench.windows) == 2, "the second is open already and only comes to the front"
    second.close()
    assert bench.windows == [first]
    assert first.session.document.modified


def test_a_file_that_something_else_changed(qtbot: QtBot, opened: Opener, tmp_path: Path) -> None:
    path = tmp_path / "card.ashb"
    save_project(path, BASE)
    window = opened(str(path))
    theirs = Project.parse({**BASE.model_dump(mode="json"), "name": "Theirs"})
    save_project(path, theirs)
    qtbot.waitUntil(lambda: window.notice.isVisible(), timeout=WAIT)
    assert "changed by something else" in window.notice.words.text()
    load = next(b for b in window.notice.findChildren(QPushButton) if b.text() == "Load it")
    qtbot.mouseClick(load, Qt.MouseButton.LeftButton)
    assert window.session.project.name == "Theirs"
    assert not window.session.document.modified
    rename(window, "Mine")
    save_project(path, BASE)
    qtbot.waitUntil(lambda: "unsaved changes would be lost" in window.notice.words.text(), timeout=WAIT)
    keep = next(b for b in window.notice.findChildren(QPushButton) if b.text() == "Keep mine")
    qtbot.mouseClick(keep, Qt.MouseButton.LeftButton)
    asked: list[str] = []

    def choose(title: str, text: str, *_: object) -> str:
        asked.append(title)
        return "Cancel"

    window.asker.choose = choose  # type: ignore[method-assign]
    assert not window.files.save()
    assert asked == ["Changed on disk"]
    assert open_project(path).project == BASE
    window.asker.choose = lambda *_: OVERWRITE  # type: ignore[method-assign]
    assert window.files.save()
    assert open_project(path).project.name == "Mine"
    path.unlink()
    qtbot.waitUntil(lambda: "is gone from its folder" in window.notice.words.text(), timeout=WAIT)
    assert window.files.save(), "saving puts it back"
    assert path.exists()


def test_a_read_only_file_is_said_and_saved_elsewhere(
    qtbot: QtBot, opened: Opener, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "card.ashb"
    save_project(path, BASE)
    path.chmod(0o444)
    # For root nothing is read-only, so the answer of the system is put in.
    monkeypatch.setattr("ashen_bridge.files.stamp.os.access", lambda p, mode: Path(p) != path)
    window = opened(str(path))
    assert "read-only" in window.windowTitle()
    assert "read-only" in window.notice.words.text()
    rename(window, "Mine")
    elsewhere = tmp_path / "mine"
    window.asker.save_file = lambda *_: str(elsewhere)  # type: ignore[method-assign]
    assert window.files.save()
    assert window.session.document.path == tmp_path / "mine.ashb"
    assert open_project(path).project == BASE
    assert "read-only" not in window.windowTitle()


def test_real_dialogs_ask_about_unsaved_work(qtbot: QtBot, opened: Opener) -> None:
    window = opened("", Opened(BASE))
    rename(window, "Mine")

    def answer(words: str) -> None:
        box = QApplication.activeModalWidget()
        assert isinstance(box, QMessageBox)
        assert "unsaved changes" in box.text()
        qtbot.mouseClick(next(b for b in box.buttons() if b.text() == words), Qt.MouseButton.LeftButton)

    QTimer.singleShot(100, lambda: answer("Cancel"))
    window.close()
    assert window.isVisible()
    QTimer.singleShot(100, lambda: answer("Do not save"))
    window.close()
    assert not window.isVisible()


def test_dropped_files_do_the_expected_thing(qtbot: QtBot, opened: Opener, bench: Workbench, tmp_path: Path) -> None:
    paths = [tmp_path / f"{name}.ashb" for name in ("one", "two")]
    for path in paths:
        save_project(path, BASE)
    picture = tmp_path / "board.png"
    image = QImage(400, 200, QImage.Format.Format_RGB32)
    image.fill(0x336655)
    image.save(str(picture))
    words = tmp_path / "notes.txt"
    words.write_text("hello")
    window = opened("", Opened(BASE))

    def drop(*names: Path) -> None:
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(name)) for name in names])
        event = QDropEvent(
            QPointF(300, 300), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        )
        window.dropEvent(event)

    drop(*paths)
    assert window.session.document.path == paths[0]
    assert [w.session.document.path for w in bench.windows] == paths
    drop(words)
    qtbot.waitUntil(lambda: "“notes.txt” is not a table" in window.notice.words.text(), timeout=60_000)
    drop(picture)
    assert window.session.project.tracings[0].side == "front"
    assert stack(window).plan.placing is not None, "its two known points are asked for at once"
    broken = tmp_path / "broken.png"
    broken.write_bytes(b"\x89PNG no")
    drop(broken)
    assert "not a picture" in window.notice.words.text()


def test_a_photo_is_placed_by_two_points_and_travels_with_the_file(qtbot: QtBot, opened: Opener, tmp_path: Path) -> None:
    picture = tmp_path / "board.png"
    image = QImage(400, 400, QImage.Format.Format_RGB32)
    image.fill(0x336655)
    image.save(str(picture))
    window = opened("", Opened(BASE))
    settled(qtbot, window)
    window.asker.open_file = lambda *_: str(picture)  # type: ignore[method-assign]
    window.commands["photo"].trigger()
    plan = stack(window).plan
    from windows import click

    # The photo spans the board (80 mm over 400 pixels); its point seen at 20, 20 belongs to the die's corner 30, 30.
    for place in ((20, 20), (30.4, 29.7), (60, 60), (50.2, 50.3)):
        click(qtbot, plan, *place)
    assert plan.placing is None
    tracing = window.session.project.tracings[0]
    assert tracing.board_a_mm == (30, 30), "the click caught the die's corner"
    assert tracing.board_b_mm == (50, 50)
    assert tracing.pixel_a == pytest.approx((100, 300), abs=2)
    path = tmp_path / "photo.ashb"
    assert window.files.save_to(path)
    window.close()
    again = opened(str(path))
    again.commands["edit_mode"].trigger()
    assert stack(again).plan.photo.shown() is not None
    assert not again.grab().isNull()


def test_the_palette_finds_commands_parts_and_files(qtbot: QtBot, opened: Opener, bench: Workbench, tmp_path: Path) -> None:
    path = tmp_path / "heron_card.ashb"
    save_project(path, BASE)
    recent.remember(path)
    window = opened()
    settled(qtbot, window)

    def find(words: str) -> None:
        press(qtbot, window, Qt.Key.Key_K, modifier=CTRL)
        palette = window.findChildren(Palette)[-1]
        qtbot.keyClicks(palette.line, words)
        qtbot.keyClick(palette.line, Qt.Key.Key_Return)

    find("bond line")
    assert desk(window).view.overlay == "bond line"
    find("Memory R2")
    assert window.session.view.selected == "mem_r2"
    find("As found")
    assert window.session.view.build == "as_found"
    find("heron")
    assert bench.windows[-1].session.document.path == path
    bench.windows[-1].close()
    window.header._list_recent()
    menu = window.header.recent
    assert [action.text() for action in menu.actions()] == ["heron_card.ashb"]
    menu.actions()[0].trigger()
    assert bench.windows[-1].session.document.path == path
    press(qtbot, window, Qt.Key.Key_K, modifier=CTRL)
    palette = window.findChildren(Palette)[-1]
    qtbot.keyClicks(palette.line, "xyzzyx")
    assert palette.found.topLevelItemCount() == 0
    qtbot.keyClick(palette.line, Qt.Key.Key_Return)


def test_undo_list_guide_and_keys(qtbot: QtBot, opened: Opener) -> None:
    window = opened("", Opened(BASE))
    for n in range(3):
        rename(window, f"Name {n}")
    press(qtbot, window, Qt.Key.Key_Z, modifier=CTRL | Qt.KeyboardModifier.AltModifier)
    sheet = window.findChildren(UndoList)[-1]
    model = sheet.view.model()
    assert model is not None
    assert model.rowCount() == 4
    sheet.view.setCurrentIndex(model.index(1, 0))
    assert window.session.project.name == "Name 0"
    sheet.close()
    press(qtbot, window, Qt.Key.Key_F1)
    guide = window.findChildren(GuideSheet)[-1]
    assert "Stack" in guide.text.toPlainText()
    assert "licensed people" in guide.text.toPlainText(), "the cautions are on the page"
    guide.close()
    press(qtbot, window, Qt.Key.Key_F2)
    keys = window.findChildren(KeysSheet)[-1]
    assert keys.isVisible()
    keys.close()


def test_looks_and_text_size_are_remembered(qtbot: QtBot, bench: Workbench, opened: Opener, tmp_path: Path) -> None:
    window = opened("", Opened(BASE))
    usual = window.header.builds.height()
    window.commands["text_bigger"].trigger()
    window.commands["text_bigger"].trigger()
    assert bench.theme.scale == 1.25
    qtbot.wait(50)
    assert window.header.builds.height() > usual
    window.commands["look_dark"].trigger()
    assert window.theme.name == "dark"
    bench.preferences.save()
    again = Preferences(tmp_path / "settings.ini")
    assert (again.look, again.text_percent) == ("dark", 125)
    window.commands["text_usual"].trigger()
    window.commands["look_system"].trigger()
    assert bench.theme.scale == 1.0
    stack(window).split.setSizes([200, 300])
    layout = stack(window).split.saveState()
    window.close()
    assert bench.preferences.layout("window") is not None
    other = bench.open("", Opened(BASE))
    assert stack(other).split.saveState() == layout, "the window comes back as it was"


def test_spoilt_settings_count_as_not_set(tmp_path: Path) -> None:
    path = tmp_path / "settings.ini"
    path.write_text("[General]\nlook=purple\ntext_percent=enormous\n[layout]\nwindow=17\n", encoding="utf-8")
    found = Preferences(path)
    assert (found.look, found.text_percent, found.layout("window")) == ("system", 100, None)


def test_running_work_shows_progress_and_can_be_called_off(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    settled(qtbot, window)
    window.commands["assumptions"].trigger()
    qtbot.waitUntil(lambda: window.session.questions.running and window.session.questions.running[0].progress > 0, timeout=WAIT)
    assert window.status.bar.isVisible()
    numbers = verdicts(window)
    begin = time.perf_counter()
    press(qtbot, window, Qt.Key.Key_Period, modifier=CTRL)
    assert not window.session.questions.running
    assert not window.status.bar.isVisible()
    stack(window).panel.choose_thickness(1.25)
    settled(qtbot, window)
    assert verdicts(window) != numbers
    assert time.perf_counter() - begin < 40.0, "nobody waits for what was called off"


@pytest.mark.parametrize("factor", ["1", "1.5", "2"])
def test_high_dpi_factors_paint(factor: str, tmp_path: Path) -> None:
    code = (
        "import sys\n"
        "from ashen_bridge.desktop.__main__ import make_application\n"
        "from ashen_bridge.desktop.shell.workbench import Workbench\n"
        "from ashen_bridge.files.demos import open_anything\n"
        "application = make_application(['x']); bench = Workbench()\n"
        "window = bench.open('demo:correlator', open_anything('demo:correlator'))\n"
        "application.processEvents(); picture = window.grab()\n"
        "print(picture.width(), picture.height(), picture.devicePixelRatio())\n"
        "import os; window.runner.stop(); os._exit(0)\n"
    )
    environment = {**os.environ, "QT_SCALE_FACTOR": factor}
    done = subprocess.run([sys.executable, "-c", code], env=environment, capture_output=True, text=True, check=True)
    width, height, ratio = (float(word) for word in done.stdout.split())
    assert ratio == float(factor)
    assert (width / ratio, height / ratio) == pytest.approx((1280, 800), abs=60)


def test_every_custom_view_has_a_screen_reader_name(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    settled(qtbot, window)
    work = stack(window)
    for view in (work.plan, work.elevation, work.panel.strip, work.descent, window.findings, work.assumptions.tree):
        assert view.accessibleName(), view
    assert window.theme == THEMES["light"]


@pytest.mark.usefixtures("real_worker")
def test_what_a_file_stores_is_shown_but_never_believed(qtbot: QtBot, opened: Opener, tmp_path: Path) -> None:
    """A file whose stored sensors say 42 °C: that is shown as not yet computed, and the true numbers come."""
    made = project(Card(FOUR))
    files = pack(assess(made))
    text = json.loads(files[REPORT])
    for row in text["report"]["sensors"]:
        row["value_c"] = 42.0
    path = tmp_path / "forged.ashb"
    save_project(path, made, files | {REPORT: json.dumps(text).encode()})
    window = opened(str(path), open_project(path))
    session = window.session
    assert session.results.state == "stale"
    assert session.results.assessment is not None
    assert session.results.assessment.report.sensors[0].value_c == 42.0
    assert "stored" in window.status.words.text()
    settled(qtbot, window)
    assert session.results.state == "current"
    assert all(row.value_c > 43 for row in session.results.assessment.report.sensors)
    # One of another device is not even shown.
    save_project(path, made.model_copy(update={"device": made.device.model_copy(update={"limits": ()})}), files)
    other = opened(str(path), open_project(path))
    assert other.session.results.assessment is None or other.session.results.state != "stale"


def test_undo_keeps_as_many_steps_as_fit_and_says_so(qtbot: QtBot, opened: Opener, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("ashen_bridge.desktop.state.document.UNDO_STEPS", 50)
    window = opened("small.json", Opened(project(Card(FOUR)), {}))
    document = window.session.document
    assert document.undo_stack.undoLimit() == 50
    for n in range(50):
        document.apply(set_values(f"Name {n}", {"name": f"card {n}"}))
    assert not window.notice.isVisible()
    document.apply(set_values("One more", {"name": "one more"}))
    assert "The last 50 steps can be undone" in window.notice.words.text()
    for _ in range(60):
        document.undo_stack.undo()
    assert document.project.name == "card 0"
