"""The Baseline workspace driven as a user would: logs dropped, mapped, kept, compared; nothing lost, nothing frozen."""

from __future__ import annotations

import time
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QTimer, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QComboBox
from pytestqt.qtbot import QtBot

from ashen_bridge.bench.compare_words import verdict_words
from ashen_bridge.desktop.baseline.page import BaselinePage
from ashen_bridge.desktop.baseline.typed_dialog import TypedDialog
from ashen_bridge.desktop.charts.thinning import thinned
from ashen_bridge.desktop.charts.trace_view import TraceView
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.editing.runs import add_run
from here import DEMO_LOG
from windows import WAIT, Opener, _move, baseline, desk, look, press, settled, stack

LEFT = Qt.MouseButton.LeftButton


def at_baseline(qtbot: QtBot, window: MainWindow, run: str = "") -> BaselinePage:
    """Go to Baseline by its key and wait until the run that is looked at has been read."""
    if run:
        look(window, run=run)
    press(qtbot, window, Qt.Key.Key_F5)
    runs, device, seen = window.session.runs, window.session.project.device, window.session.run
    if seen is not None:
        qtbot.waitUntil(lambda: runs.figures(seen, device) is not None, timeout=WAIT)
    return baseline(window)


def at_rest(qtbot: QtBot, window: MainWindow) -> None:
    """Wait until nothing is being read or worked on."""

    def quiet() -> bool:
        device = window.session.project.device
        runs = [window.session.runs.figures(run, device) for run in window.session.project.runs]
        problems = [window.session.runs.problem(run, device) for run in window.session.project.runs]
        done = all(found is not None or problem for found, problem in zip(runs, problems, strict=True))
        return done and not window.session.runs.busy and not window.session.questions.running

    qtbot.waitUntil(quiet, timeout=WAIT)


def drop(window: MainWindow, *paths: Path) -> None:
    """Drop files on the window."""
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    window.dropEvent(QDropEvent(QPointF(300, 300), Qt.DropAction.CopyAction, data, LEFT, Qt.KeyboardModifier.NoModifier))


def drag_handle(qtbot: QtBot, view: TraceView, start: bool, second: float) -> None:
    """Drag a handle of the settled window to a time [s]."""
    place = view.placement()
    assert place is not None
    assert view.picture is not None
    assert view.picture.window_s is not None
    y = view.height() // 2
    a = QPoint(round(place.x(view.picture.window_s[0 if start else 1])), y)
    b = QPoint(round(place.x(second)), y)
    qtbot.mousePress(view, LEFT, Qt.KeyboardModifier.NoModifier, a)
    for n in range(1, 5):
        _move(view, QPoint(round(a.x() + (b.x() - a.x()) * n / 4), y), Qt.KeyboardModifier.NoModifier)
    qtbot.mouseRelease(view, LEFT, Qt.KeyboardModifier.NoModifier, b)


def choose(qtbot: QtBot, box: QComboBox, words: str) -> None:
    """Choose an entry by keys, as it is listed."""
    box.setFocus()
    wanted = box.findText(words)
    assert wanted >= 0, words
    while box.currentIndex() != wanted:
        press(qtbot, box, Qt.Key.Key_Down if box.currentIndex() < wanted else Qt.Key.Key_Up)


@pytest.fixture
def foreign(tmp_path: Path) -> Path:
    """A log in another dialect with one column under a name that says nothing."""
    text = DEMO_LOG.read_bytes().decode("cp1252").replace("Speicher T2", "Fühler 7").replace("Speicher R2", "Fühler 9")
    path = tmp_path / "Messung vom Freitag.csv"
    path.write_bytes(text.encode("cp1252"))
    return path


def test_a_foreign_log_is_imported_mapped_windowed_and_compared(qtbot: QtBot, opened: Opener, foreign: Path) -> None:
    window = opened()
    page = at_baseline(qtbot, window)
    assert page.list.count() == 3
    drop(window, foreign)
    qtbot.waitUntil(lambda: page.is_importing, timeout=WAIT)
    mapping = page.importing
    rows = {mapping.table.item(n, 0).text(): n for n in range(mapping.table.rowCount())}  # type: ignore[union-attr]
    assert "Chip Hotspot" in rows
    box = mapping.table.cellWidget(rows["Fühler 7"], 2)
    assert isinstance(box, QComboBox)
    assert box.currentText() == "a temperature, no sensor of ours", "nothing is guessed from words that say nothing"
    choose(qtbot, box, "Memory T2")
    # Two columns of one sensor are refused in words until one is put right.
    other = mapping.table.cellWidget(rows["Fühler 9"], 2)
    assert isinstance(other, QComboBox)
    choose(qtbot, other, "Memory T2")
    assert "both taken for Memory T2" in mapping.problem.text()
    assert not mapping.keep.isEnabled()
    choose(qtbot, other, "Memory R2")
    assert mapping.problem.text() == ""
    mapping.name.setEditText("Repaired, by the other logger")
    mapping.build.setCurrentIndex(mapping.build.findData("plan_a"))
    qtbot.mouseClick(mapping.keep, LEFT)
    qtbot.waitUntil(lambda: len(window.session.project.runs) == 4, timeout=WAIT)
    at_rest(qtbot, window)
    run = window.session.run
    assert run is not None
    assert run.label == "Repaired, by the other logger"
    assert {one.column: one.sensor for one in run.channels}["Fühler 7"] == "s_mem_t2"
    assert not page.is_importing
    # The settled window is dragged, counts, and can be undone.
    found = window.session.runs.figures(run, window.session.project.device)
    assert found is not None
    assert found.passes[0].window_s is not None
    drag_handle(qtbot, page.curves, True, 660.0)
    run = window.session.run
    assert run is not None
    assert run.settled_s is not None
    assert run.settled_s[0] == pytest.approx(660.0, abs=6.0)
    at_rest(qtbot, window)
    shorter = window.session.runs.figures(run, window.session.project.device)
    assert shorter is not None
    column = next(one.column for one in run.channels if one.sensor == "die_hot")
    assert shorter.passes[0].channels[column].count < found.passes[0].channels[column].count
    press(qtbot, window, Qt.Key.Key_Z, modifier=Qt.KeyboardModifier.ControlModifier)
    assert window.session.run is not None
    assert window.session.run.settled_s is None
    # Compared with the run after the pad change it is better, and that is said.
    buttons = page.pages.buttons.buttons()
    qtbot.mouseClick(buttons[1], LEFT)
    page.compare.before.setCurrentIndex(page.compare.before.findText("After the pad change"))
    page.compare.before.activated.emit(page.compare.before.currentIndex())
    qtbot.waitUntil(lambda: page.compare.comparison() is not None, timeout=WAIT)
    words = page.compare.verdict.text()
    assert "became better: Regulator 5 most, by 5" in words
    assert page.curves.picture is not None
    assert [one.name for one in page.curves.picture.upper] == ["After the pad change", "Repaired, by the other logger"]


@pytest.mark.long
def test_the_mapping_is_remembered_for_the_next_log(qtbot: QtBot, opened: Opener, foreign: Path) -> None:
    window = opened()
    page = at_baseline(qtbot, window)
    for turn in range(2):
        drop(window, foreign)
        qtbot.waitUntil(lambda: page.is_importing, timeout=WAIT)
        rows = {page.importing.table.item(n, 0).text(): n for n in range(page.importing.table.rowCount())}  # type: ignore[union-attr]
        box = page.importing.table.cellWidget(rows["Fühler 7"], 2)
        assert isinstance(box, QComboBox)
        if turn == 0:
            choose(qtbot, box, "Memory T2")
            qtbot.mouseClick(page.importing.keep, LEFT)
            qtbot.waitUntil(lambda: not page.is_importing, timeout=WAIT)
        else:
            assert box.currentText() == "Memory T2"
            qtbot.mouseClick(page.importing.leave, LEFT)
    assert len(window.session.project.runs) == 4, "what was left was not kept"


def test_further_passes_and_what_is_no_pass(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    page = at_baseline(qtbot, window, "repaired")
    drop(window, DEMO_LOG)
    qtbot.waitUntil(lambda: page.is_importing, timeout=WAIT)
    page.importing.where.setCurrentIndex(page.importing.where.findData("repaired"))
    page.importing.where.activated.emit(page.importing.where.currentIndex())
    assert not page.importing.name.isEnabled()
    qtbot.mouseClick(page.importing.keep, LEFT)
    qtbot.waitUntil(lambda: bool(page.importing.problem.text()), timeout=WAIT)
    assert "holds these logs already" in page.importing.problem.text()
    assert page.is_importing, "nothing typed or mapped is lost"
    page.importing.where.setCurrentIndex(page.importing.where.findData("stock"))
    page.importing.where.activated.emit(page.importing.where.currentIndex())
    qtbot.mouseClick(page.importing.keep, LEFT)
    qtbot.waitUntil(lambda: not page.is_importing, timeout=WAIT)
    stock = next(run for run in window.session.project.runs if run.id == "stock")
    assert len(stock.passes) == 4
    at_rest(qtbot, window)
    found = window.session.runs.figures(stock, window.session.project.device)
    assert found is not None
    assert len(found.values("Die hot spot")) == 4, "the other logger's columns are called as the run calls them"


RUBBISH = {
    "empty.csv": b"",
    "picture.dat": b"\x89PNG\r\n\x1a\n" + bytes(range(256)) * 40,
    "one-row.csv": b"time,a\n1,2\n",
    "words.txt": b"It was a dark night.\nNobody came.\n" * 30,
    "text-only.csv": b"name,colour\nash,grey\nember,red\n" * 10,
    "wide.csv": (",".join(f"c{n}" for n in range(1_000_000)) + "\n" + ",".join("1" for _ in range(1_000_000)) + "\n").encode(),
    "cut": b"\xff\xfe\x00",
}


def test_anything_dropped_is_one_sentence_and_no_freeze(qtbot: QtBot, opened: Opener, tmp_path: Path) -> None:
    window = opened()
    settled(qtbot, window)
    before = window.session.project
    # Work of the window's own thread between two beats: what a busy machine takes from it is none of its own.
    gaps, last = [], [time.thread_time()]

    def beat() -> None:
        now = time.thread_time()
        gaps.append(now - last[0])
        last[0] = now

    timer = QTimer()
    timer.timeout.connect(beat)
    timer.start(5)
    huge = tmp_path / "huge.csv"
    with huge.open("wb") as file:
        file.truncate(2_000_000_000)
    for name in (*RUBBISH, huge.name):
        if name in RUBBISH:
            (tmp_path / name).write_bytes(RUBBISH[name])
        window.notice.hide()
        last[0] = time.thread_time()
        drop(window, tmp_path / name)
        qtbot.waitUntil(lambda: window.notice.isVisible(), timeout=WAIT)
        words = window.notice.words.text()
        assert name in words
        assert words.endswith("."), words
        assert "\n" not in words
    timer.stop()
    assert "2.0 GB" in window.notice.words.text()
    assert window.session.project is before
    assert not window.session.document.modified
    assert max(gaps) < 0.5, "the window goes on while a file is looked at"


@pytest.mark.long
def test_several_files_come_one_after_the_other(qtbot: QtBot, opened: Opener, tmp_path: Path) -> None:
    window = opened()
    page = at_baseline(qtbot, window)
    good = tmp_path / "second.csv"
    good.write_bytes(b"time [s],Die [C]\n" + b"".join(b"%d,%.1f\n" % (n, 60 + n / 50) for n in range(60)))
    bad = tmp_path / "first.csv"
    bad.write_bytes(b"")
    drop(window, bad, good)
    qtbot.waitUntil(lambda: page.is_importing, timeout=WAIT)
    assert page.importing.title.text() == "second.csv"
    assert "first.csv" in window.notice.words.text()


def test_conditions_goals_and_refusals(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    page = at_baseline(qtbot, window, "pads")
    page.run.workload.setText("All lanes, ten minutes")
    page.run.workload.setModified(True)
    page.run.workload.editingFinished.emit()
    page.run.noise.edit.setFocus()
    qtbot.keyClicks(page.run.noise.edit, "41.5")
    press(qtbot, page.run.noise.edit, Qt.Key.Key_Return)
    run = window.session.run
    assert run is not None
    assert run.workload == "All lanes, ten minutes"
    assert run.noise_db is not None
    assert run.noise_db.value == 41.5
    look(window, run_page="aims")
    field = page.aims._rows["die_hot"][1]
    field.edit.setFocus()
    field.edit.selectAll()
    qtbot.keyClicks(field.edit, "900")
    press(qtbot, field.edit, Qt.Key.Key_Return)
    assert "too much" in field.wrong
    assert {goal.sensor: goal.at_most_c.value for goal in window.session.project.goals}["die_hot"] == 96.0
    field.edit.selectAll()
    qtbot.keyClicks(field.edit, "203 °F")
    press(qtbot, field.edit, Qt.Key.Key_Return)
    assert {goal.sensor: goal.at_most_c.value for goal in window.session.project.goals}["die_hot"] == pytest.approx(95.0)
    qtbot.mouseClick(page.aims._rows["die_hot"][0], LEFT, pos=QPoint(8, page.aims._rows["die_hot"][0].height() // 2))
    assert window.session.project.aims.sensors == ("die_hot",)


def test_readings_typed_by_hand(qtbot: QtBot, opened: Opener) -> None:
    window = opened("demo:buoy")
    page = at_baseline(qtbot, window)
    window.commands["type_readings"].trigger()
    dialog = window.findChildren(TypedDialog)[-1]
    dialog.where.setCurrentIndex(0)
    dialog.where.activated.emit(0)
    qtbot.mouseClick(dialog.keep, LEFT)
    assert "at least one sensor" in dialog.problem.text()
    dialog.fields["cpu"].edit.setFocus()
    qtbot.keyClicks(dialog.fields["cpu"].edit, "61.5")
    qtbot.mouseClick(dialog.keep, LEFT)
    run = window.session.run
    assert run is not None
    assert run.label == "Read by hand"
    at_rest(qtbot, window)
    found = window.session.runs.figures(run, window.session.project.device)
    assert found is not None
    column = found.column_of("cpu")
    assert column is not None
    assert found.values(column) == [61.5]
    assert found.passes[0].channels[column].standard_error == 1.0
    assert "no curve" in page.curves.words


def test_runs_are_removed_after_asking_come_back_and_are_exported(qtbot: QtBot, opened: Opener, tmp_path: Path) -> None:
    window = opened()
    at_baseline(qtbot, window, "pads")
    window.asker.choose = lambda *_: "Keep"  # type: ignore[method-assign]
    window.commands["remove_run"].trigger()
    assert len(window.session.project.runs) == 3
    window.asker.choose = lambda *_: "Remove"  # type: ignore[method-assign]
    window.commands["remove_run"].trigger()
    assert [run.id for run in window.session.project.runs] == ["stock", "repaired"]
    press(qtbot, window, Qt.Key.Key_Z, modifier=Qt.KeyboardModifier.ControlModifier)
    assert [run.id for run in window.session.project.runs] == ["stock", "pads", "repaired"]
    look(window, run="stock")
    path = tmp_path / "stock.csv"
    window.asker.save_file = lambda *_: str(path)  # type: ignore[method-assign]
    window.commands["export_run"].trigger()
    qtbot.waitUntil(lambda: "rows were written" in window.notice.words.text(), timeout=WAIT)
    head = path.read_text().splitlines()[0]
    assert head.startswith("pass,time [s],Die hot spot [°C]")
    window.asker.save_file = lambda *_: str(tmp_path / "nowhere" / "stock.csv")  # type: ignore[method-assign]
    window.commands["export_run"].trigger()
    qtbot.waitUntil(lambda: "annot" in window.notice.words.text(), timeout=WAIT)


@pytest.mark.long
def test_curves_zoom_push_and_read_by_mouse_and_keys(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    settled(qtbot, window)
    before = window.session.project
    page = at_baseline(qtbot, window, "stock")
    press(qtbot, window, Qt.Key.Key_Plus)
    press(qtbot, window, Qt.Key.Key_E)
    assert window.session.project is before, "keys of the Stack do nothing where it is not seen"
    assert not desk(window).view.editing
    view = page.curves
    whole = view.placement()
    assert whole is not None
    view.zoom(0.5, 600.0)
    closer = view.placement()
    assert closer is not None
    assert closer.end - closer.start == pytest.approx((whole.end - whole.start) / 2)
    assert closer.start <= 600.0 <= closer.end
    view.setFocus()
    press(qtbot, view, Qt.Key.Key_Home)
    assert view.placement() is not None
    assert view.placement().start == whole.start  # type: ignore[union-attr]
    press(qtbot, view, Qt.Key.Key_Left, 3)
    assert view.at is not None
    assert view.at < whole.end
    press(qtbot, view, Qt.Key.Key_Right, modifier=Qt.KeyboardModifier.ShiftModifier)
    run = window.session.run
    assert run is not None
    assert run.settled_s is not None, "the window's start goes by keys too"
    qtbot.mouseDClick(view, LEFT, pos=view.rect().center())
    assert view.placement().end == whole.end  # type: ignore[union-attr]
    a_comparison_is_said_in_words(qtbot, window, page)
    press(qtbot, window, Qt.Key.Key_F6)
    assert window.pages.currentWidget() is stack(window)


def a_comparison_is_said_in_words(qtbot: QtBot, window: MainWindow, page: BaselinePage) -> None:
    look(window, run="pads", run_page="compare", against="stock")
    qtbot.waitUntil(lambda: page.compare.comparison() is not None, timeout=WAIT)
    found = page.compare.comparison()
    assert found is not None
    words = verdict_words(found)
    assert words.startswith("10 of 14 sensors became worse: Regulator 5 most")
    assert "Hot spot minus average went from" in words
    assert "K/W" in page.compare.resistance.text()
    # A repeat of the first build after the second: twice the passes, and a drift would be said.
    assert not page.compare.again.isVisible()
    stock = next(run for run in window.session.project.runs if run.id == "stock")
    edit, again = add_run(window.session.project, "Stock again", stock.passes, stock.channels, stock.build, stock.point)
    assert window.session.apply(edit)
    at_rest(qtbot, window)
    choose(qtbot, page.compare.again, "and again: Stock again")
    assert baseline(window).desk.view.again == again
    qtbot.waitUntil(lambda: page.compare.comparison() not in (None, found), timeout=WAIT)
    repeated = page.compare.comparison()
    assert repeated is not None
    assert not any("drifted" in one for one in repeated.cautions)
    widths = [one.rise.high - one.rise.low for both in (found, repeated) for one in both.sensors if one.sensor == "die_hot"]
    assert widths[1] < widths[0], "more passes tell more"
    look(window, against="pads")
    assert "stands on both sides" in page.compare.verdict.text()


def test_predicted_and_measured_stand_beside_each_other(qtbot: QtBot, opened: Opener) -> None:
    """What the run measured, in the room of the prediction; in Stack only what is predicted."""
    window = opened("demo:correlator")
    settled(qtbot, window)
    card = window.verdict.cards[0]
    assert card.kind.text() == "predicted"
    look(window, build="plan_a")
    settled(qtbot, window)
    at_baseline(qtbot, window, "repaired")
    assert card.kind.text().startswith("predicted · measured 94")  # 98.3 °C in a room 4 K warmer
    look(window, run="stock")
    assert card.kind.text() == "predicted", "another build was tested there"


def test_thinned_curves_keep_every_peak() -> None:
    chance = np.random.default_rng(4)
    values = chance.normal(50, 1, 86_400)
    values[40_000], values[70_000] = 99.0, 3.0
    values[1_000:2_000] = np.nan
    t, v = thinned(np.arange(86_400.0), values, 0.0, 86_400.0, 800)
    assert len(t) <= 2 * 810
    assert v.max() == 99.0
    assert v.min() == 3.0
    assert not ((t > 1_100) & (t < 1_900)).any(), "a gap stays a gap"
