"""First minutes and burn-in in the window: readings typed, timed, followed live, and what they say; papers of the end."""

from __future__ import annotations

import socket
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from ashen_bridge.bench.first_power.expecting import at_time
from ashen_bridge.bench.first_power.result import Expected
from ashen_bridge.changes.edit import edit
from ashen_bridge.changes.procedures import add_step
from ashen_bridge.desktop.closeup.page import ClosePage
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.editing.edits import as_built
from ashen_bridge.files.archive import Opened
from ashen_bridge.logs.live import END, header_line, reading_line
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced
from devices import FOUR, Card
from devices import project as card_project
from windows import WAIT, Opener, look, press, prove, settled

LEFT = Qt.MouseButton.LeftButton
CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def window(opened: Opener) -> MainWindow:
    plain = card_project(Card(parts=FOUR, die_power=120.0))
    limits = tuple(replaced(one, max_c=q(140.0)) for one in plain.device.limits)
    return opened("card", Opened(replaced(plain, device=replaced(plain.device, limits=limits)), {}))


def at_first(qtbot: QtBot, window: MainWindow) -> tuple[ClosePage, Expected]:
    settled(qtbot, window)
    press(qtbot, window, Qt.Key.Key_F12)
    page = window.workspaces["closeup"].page()
    assert isinstance(page, ClosePage)
    qtbot.mouseClick(page.turned.turns["first"], LEFT)
    qtbot.waitUntil(lambda: page.first_desk.expected.value is not None and not page.first_desk.expected.running, timeout=WAIT)
    expected = page.first_desk.expected.value
    assert expected is not None
    return page, expected


def type_in(qtbot: QtBot, page: ClosePage, readings: dict[str, float]) -> None:
    """Type readings as a user does, and wait for what they say."""
    for sensor, value in readings.items():
        edit = page.first.fields[sensor].edit
        edit.setFocus()
        edit.selectAll()
        QTest.keyClicks(edit, f"{value:.1f}")
        press(qtbot, edit, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: page.first_desk.judged.state == "current", timeout=WAIT)


def missing(expected: Expected, at_s: float) -> tuple[str, dict[str, float]]:
    case = next(one for one in expected.cases if one.id.startswith("touch-pad"))
    return case.title, dict(zip(expected.sensors, map(float, at_time(expected, case.shown_c[-1], at_s)), strict=True))


def healthy(expected: Expected, at_s: float) -> dict[str, float]:
    return dict(zip(expected.sensors, map(float, at_time(expected, expected.healthy_c, at_s)), strict=True))


def test_typed_readings_say_stop_and_what_it_looks_like_and_may_be_typed_better(qtbot: QtBot, window: MainWindow) -> None:
    page, expected = at_first(qtbot, window)
    before = window.session.project
    title, readings = missing(expected, 180.0)
    type_in(qtbot, page, readings)
    assert page.first.says.text().startswith("Stop: ")
    assert title in page.first.says.text()
    assert page.first.view.picture is not None
    assert page.first.view.picture.others[0][0] == title
    type_in(qtbot, page, healthy(expected, 180.0))
    assert page.first.says.text().startswith("As planned.")
    assert window.session.project is before, "nothing here changes the file"
    the_clock_gives_readings_their_time(qtbot, page, expected)


def the_clock_gives_readings_their_time(qtbot: QtBot, page: ClosePage, expected: Expected) -> None:
    """By the clock a reading is of the moment it is typed, and old ones are not mixed in."""
    now = [100.0]
    page.first_desk._clock = lambda: now[0]
    qtbot.mouseClick(page.first.on, LEFT)
    now[0] += 60.0
    page.first._tick()
    assert page.first.clock.text() == "1:00 at full power"
    type_in(qtbot, page, healthy(expected, 60.0))
    assert page.first.says.text().startswith("As planned.")
    now[0] += 180.0
    sensor = expected.sensors[0]
    type_in(qtbot, page, {sensor: healthy(expected, 240.0)[sensor]})
    assert [(one.sensor, one.at_s) for one in page.first_desk.latest()] == [(sensor, 240.0)]
    qtbot.mouseClick(page.first.anew, LEFT)
    assert not page.first_desk.read
    assert not page.first_desk.running


def test_a_live_source_is_judged_as_it_comes_and_its_stop_holds(qtbot: QtBot, window: MainWindow, tmp_path: Path) -> None:
    page, expected = at_first(qtbot, window)
    labels = {one.id: one.label for one in window.session.project.device.sensors}
    heads = [f"{labels[name]} [°C]" for name in expected.sensors]
    with socket.socket(socket.AF_UNIX) as server:
        server.bind(str(tmp_path / "feed"))
        server.listen(1)
        page.first_desk.follow(str(tmp_path / "feed"))
        peer, _ = server.accept()
        with peer:
            peer.sendall((header_line(heads) + "\n").encode())
            title, _ = missing(expected, 60.0)
            for second in range(91):
                row = missing(expected, float(second))[1]
                told = reading_line(second, dict(zip(heads, row.values(), strict=True)))
                peer.sendall((told + "\n").encode())
            qtbot.waitUntil(lambda: page.first_desk.stopped is not None, timeout=WAIT)
            assert title in page.first.says.text()
            another_build_does_not_take_its_readings(window, page)
            for second in range(91, 120):
                row = healthy(expected, float(second))
                peer.sendall((reading_line(second, dict(zip(heads, row.values(), strict=True))) + "\n").encode())
            peer.sendall((END + "\n").encode())
        qtbot.waitUntil(lambda: not page.first_desk.following, timeout=WAIT)
    assert page.first.says.text().startswith("Stop: "), "what has been told to stop is not taken back"
    page.first_desk.follow(str(tmp_path / "nowhere"))
    assert "Nothing can be heard" in page.first.state.text()
    a_log_is_judged(qtbot, window, page, expected, tmp_path)


def another_build_does_not_take_its_readings(window: MainWindow, page: ClosePage) -> None:
    """What is switched on is what is judged, whatever is looked at meanwhile."""
    session, said = window.session, page.first.says.text()
    before = session.view.build
    made, new = as_built(session.project, before)
    session.apply(made)
    look(window, build=new)
    assert page.first.says.text() == said
    assert "These readings are of" in page.first.state.text()
    look(window, build=before)
    assert "These readings are of" not in page.first.state.text()


def a_log_is_judged(qtbot: QtBot, window: MainWindow, page: ClosePage, expected: Expected, tmp_path: Path) -> None:
    """A log is judged as it was written; one that is none is said."""
    labels = {one.id: one.label for one in window.session.project.device.sensors}
    lines = [";".join(["time [s]", *(f"{labels[name]} [°C]" for name in expected.sensors)])]
    lines += [";".join([str(s), *(f"{v:.1f}" for v in healthy(expected, float(s)).values())]) for s in range(200)]
    (tmp_path / "first.csv").write_text("\n".join(lines), encoding="utf-8")
    page.first_desk.take_log(str(tmp_path / "first.csv"))
    qtbot.waitUntil(lambda: page.first_desk.judged.state == "current", timeout=WAIT)
    assert page.first.says.text().startswith("As planned.")
    (tmp_path / "none.csv").write_text("a;b\n", encoding="utf-8")
    page.first_desk.take_log(str(tmp_path / "none.csv"))
    qtbot.waitUntil(lambda: page.first_desk.judged.state == "refused", timeout=WAIT)
    assert page.first.state.text()


def test_burn_in_is_begun_and_ticked_as_a_procedure_of_its_own(qtbot: QtBot, window: MainWindow, tmp_path: Path) -> None:
    settled(qtbot, window)
    press(qtbot, window, Qt.Key.Key_F12)
    page = window.workspaces["closeup"].page()
    assert isinstance(page, ClosePage)
    qtbot.mouseClick(page.turned.turns["burn"], LEFT)
    qtbot.waitUntil(lambda: page.burn_desk.planned.state == "current", timeout=WAIT)
    press(qtbot, window, Qt.Key.Key_Return, modifier=CTRL)
    begun = page.burn_desk.begun
    assert begun is not None
    assert begun.kind == "burn in"
    assert any(one.timer_s for one in begun.steps)
    assert page.desk.begun is None, "closing up was not begun by it"
    press(qtbot, window, Qt.Key.Key_Return, modifier=CTRL)
    assert page.burn_desk.begun is not None
    assert page.burn_desk.begun.steps[0].done
    a_live_source_says_when_a_cycle_is_done(qtbot, window, page, tmp_path)


def a_live_source_says_when_a_cycle_is_done(qtbot: QtBot, window: MainWindow, page: ClosePage, tmp_path: Path) -> None:
    """Two hot stretches are heard; the user ticks when it says so; what they gained stands beside and is kept."""
    desk, session = page.burn_desk, window.session
    begun = desk.begun
    assert begun is not None
    hot = begun.next
    assert hot is not None
    again = hot.model_copy(update={"id": "again"})
    assert session.apply(edit("One more", add_step, begun.id, again, hot.id))
    sensor = next(one for one in session.project.device.sensors if one.body in hot.about)
    heads = [f"{sensor.label} [°C]", "Board power [W]", "Room [°C]"]
    minutes = round(hot.timer_s / 60) + 1
    with socket.socket(socket.AF_UNIX) as server:
        server.bind(str(tmp_path / "burn"))
        server.listen(1)
        desk.follow(str(tmp_path / "burn"))
        peer, _ = server.accept()

        def send(start: int, watts: float, celsius: float) -> None:
            row = dict(zip(heads, (celsius, watts, 25.0), strict=True))
            lines = [reading_line(second, row) for second in range(start, start + 60 * minutes, 20)]
            peer.sendall(("\n".join(lines) + "\n").encode())  # at once: nobody reads while this thread sends

        with peer:
            peer.sendall((header_line(heads) + "\n").encode())
            send(0, 60.0, 55.0)
            qtbot.waitUntil(lambda: desk.stands is not None and desk.stands.done, timeout=WAIT)
            assert page.burn.live.text() == desk.stands.says  # type: ignore[union-attr]
            press(qtbot, window, Qt.Key.Key_Return, modifier=CTRL)
            assert len(desk.stretches) == 1
            assert not page.burn.keep.isVisible()
            send(60 * minutes, 120.0, 79.0)
            qtbot.waitUntil(lambda: desk.stands is not None and desk.stands.done, timeout=WAIT)
            press(qtbot, window, Qt.Key.Key_Return, modifier=CTRL)
    assert [(one.sensor, round(one.share, 3)) for one in desk.gains] == [(sensor.id, -0.1)]
    assert "−10.0 %" in page.burn.gains.text()
    qtbot.mouseClick(page.burn.keep, LEFT)
    assert session.project.conclusions[-1].kind == "burn in"
    qtbot.waitUntil(lambda: not desk.feed.following, timeout=WAIT)
    desk.follow(str(tmp_path / "nowhere"))
    assert "Nothing can be heard" in page.burn.stands.text()


def test_record_and_bench_card_are_printed_from_prove(qtbot: QtBot, window: MainWindow, tmp_path: Path) -> None:
    settled(qtbot, window)
    press(qtbot, window, Qt.Key.Key_F7)
    for paper in prove(window).papers:
        to = tmp_path / f"{paper.name}.pdf"
        paper.print_to(to, "A4")
        qtbot.waitUntil(to.exists, timeout=WAIT)
        assert to.read_bytes().startswith(b"%PDF")
