"""Time, chances, ways of heat and asking, driven in the real window by clicks and keys."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QLabel

from ashen_bridge.desktop.parts.fields import ChoiceField
from ashen_bridge.desktop.points.dialog import PointsDialog
from ashen_bridge.desktop.stack.inspector import Inspector
from ashen_bridge.desktop.stack.plan_model import probe
from ashen_bridge.editing.edits import set_values
from ashen_bridge.files.archive import Opened
from ashen_bridge.words.times import time_words
from devices import FOUR, Card, project
from windows import Opener, desk, look, settled, stack

if TYPE_CHECKING:
    from pytestqt.qtbot import QtBot

LEFT = Qt.MouseButton.LeftButton


def idle(qtbot: QtBot, window: object) -> None:
    qtbot.waitUntil(lambda: not window.session.questions.running, timeout=60_000)  # type: ignore[attr-defined]


def test_t_shows_temperatures_over_time_and_a_test_length(qtbot: QtBot, opened: Opener) -> None:
    window = opened("demo:buoy")
    settled(qtbot, window)
    view = stack(window).time
    qtbot.keyClick(stack(window).plan, Qt.Key.Key_T)
    assert desk(window).view.lower == "time"
    qtbot.waitUntil(lambda: view.course.value is not None, timeout=60_000)
    assert "must run" in view.said.text()
    assert "Skin of Case wall" in view.course.value.sensors
    assert view.curves.picture is not None
    names = [curve.name for curve in view.curves.picture.curves]
    assert names[0] == "Processor", "hottest first"
    # The pointer and the keys read the curves.
    qtbot.mouseMove(view.curves, QPoint(view.curves.width() // 2, 60))
    view.curves.setFocus()
    view.curves.at = None
    qtbot.keyClick(view.curves, Qt.Key.Key_Left)
    assert view.curves.at is not None
    assert 0 < view.curves.at < float(view.curves.picture.times[-1])
    qtbot.keyClick(stack(window).plan, Qt.Key.Key_T)
    assert desk(window).view.lower == "cut"


def test_a_pattern_may_be_written_and_a_wrong_one_is_explained(qtbot: QtBot, opened: Opener) -> None:
    window = opened("", Opened(project(Card(FOUR))))
    settled(qtbot, window)
    view = stack(window).time
    line = view.pattern.lineEdit()
    line.setText("burst 20s in 3min")
    look(window, lower="time")
    qtbot.waitUntil(lambda: "peaks at" in view.said.text(), timeout=60_000)
    line.setText("hop 3 times")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: "is not a load pattern" in view.curves.words, timeout=30_000)


@pytest.mark.long
def test_chances_are_drawn_shown_and_forgotten_with_the_next_edit(qtbot: QtBot, opened: Opener) -> None:
    window = opened("demo:buoy")
    settled(qtbot, window)
    panel = stack(window).chance
    card = window.verdict.cards[0]
    assert "chance" not in card.margin.text(), "no invented percentage before samples are drawn"
    window.commands["chance"].trigger()
    assert not panel.panel.go.isVisible(), "samples are drawn because somebody looks"
    qtbot.waitUntil(
        lambda: window.session.chances.value is not None and window.session.chances.value.count == 2000, timeout=90_000
    )
    idle(qtbot, window)
    assert "2000 samples" in panel.panel.said.text()
    assert "What to measure better" in panel.better.text()
    assert "chance to hold" in card.margin.text()
    assert "±" in card.value.text()
    first = panel.spread.rows()[0]
    assert first.within == min(row.within for row in panel.spread.rows())
    qtbot.mouseClick(panel.spread, LEFT, pos=QPoint(20, round(window.theme.px(38.0) * 1.5)))
    assert window.session.view.selected == "memory"
    assert "for Memory" in panel.better.text()
    window.session.apply(set_values("Warmer", {"points.summer.ambient_c": 31.0}))
    assert window.session.chances.value is None
    qtbot.waitUntil(lambda: "chance" not in card.margin.text(), timeout=30_000)


@pytest.mark.long
def test_where_the_watts_go_and_what_a_perfect_layer_would_gain(qtbot: QtBot, opened: Opener) -> None:
    window = opened("demo:beamformer")
    settled(qtbot, window)
    look(window, selected="die")
    ways = stack(window).ways
    assert "into Lid" in ways.ways.text()
    qtbot.mouseClick(ways.panel.go, LEFT)
    qtbot.waitUntil(lambda: "Tower cooler base to air" in ways.panel.said.text(), timeout=60_000)
    idle(qtbot, window)
    look(window, selected="stage_1")
    assert not ways.panel.isVisible(), "no sensor reads it, so there is nothing to rank for"


@pytest.mark.long
def test_asking_for_a_fan_speed_in_the_window(qtbot: QtBot, opened: Opener) -> None:
    window = opened("demo:correlator")
    settled(qtbot, window)
    dialog = PointsDialog(window.session, window.asker, window)
    qtbot.addWidget(dialog)
    dialog.show()
    dialog.margin.edit.selectAll()
    qtbot.keyClicks(dialog.margin.edit, "2")
    qtbot.keyClick(dialog.margin.edit, Qt.Key.Key_Return)
    qtbot.mouseClick(dialog.asks["fan"], LEFT)
    qtbot.waitUntil(lambda: "of rated fan speed" in dialog.answer.text(), timeout=180_000)
    assert "keeps 2 K below its limit" in dialog.answer.text()
    buoy = opened("demo:buoy")
    settled(qtbot, buoy)
    other = PointsDialog(buoy.session, buoy.asker, buoy)
    qtbot.addWidget(other)
    other.show()
    qtbot.mouseClick(other.asks["fan"], LEFT)
    qtbot.waitUntil(lambda: "depends on a fan" in other.answer.text(), timeout=30_000)


def test_a_sink_becomes_one_of_another_kind_and_back_by_undo(qtbot: QtBot, opened: Opener) -> None:
    window = opened("demo:correlator")
    settled(qtbot, window)
    window.commands["edit_mode"].trigger()
    desk(window).choose("device.bodies.cooler")
    inspector: Inspector = stack(window).inspector
    form = inspector.findChildren(ChoiceField)
    kind = next(field for field in form if field.accessibleName() == "Heatsink: Kind")
    kind.setCurrentIndex(kind.findData("fins"))
    kind.activated.emit(kind.currentIndex())
    sink = next(body for body in window.session.project.device.bodies if body.id == "cooler").sink
    assert sink.type == "fins"
    assert sink.heat_capacity_j_k.value == 420.0
    words = " ".join(label.text() for label in inspector.findChildren(QLabel))
    assert "Number of fins" in words
    settled(qtbot, window)
    window.session.document.undo_stack.undo()
    assert next(body for body in window.session.project.device.bodies if body.id == "cooler").sink.type == "rated"


@pytest.mark.long
@pytest.mark.parametrize("name", ["beamformer", "buoy"])
def test_the_other_demos_open_from_the_menu(qtbot: QtBot, opened: Opener, name: str) -> None:
    window = opened("demo:correlator")
    count = len(window.program.windows)
    window.commands[f"open_{name}"].trigger()
    assert len(window.program.windows) == count + 1
    other = window.program.windows[-1]
    settled(qtbot, other)
    assert other.session.results.assessment is not None
    other.asker.choose = lambda *_: "Do not save"
    other.close()


def test_times_as_people_say_them() -> None:
    assert time_words(12.0) == "12 s"
    assert time_words(3601.0) == "1 h 0 min"


def test_the_overlay_is_read_under_the_pointer(qtbot: QtBot, opened: Opener) -> None:
    window = opened("demo:correlator")
    settled(qtbot, window)
    look(window, overlay="temperature")
    picture = stack(window).plan.picture
    assert picture is not None
    over_die = probe(picture, 109.0, 52.0)
    assert over_die.endswith("°C here")
    report = window.session.results.assessment.report
    assert report.component("die").t_mean_c - 8 < float(over_die.split()[0]) <= report.component("die").t_max_c + 0.1
    assert probe(picture, -50.0, 5.0) == ""
    look(window, selected="cooler")
    assert "chosen plate" in stack(window).plan.picture.legend.title
    look(window, overlay="flux", selected="die")
    assert "W/mm² here" in probe(stack(window).plan.picture, 103.0, 52.0)


def test_all_sensors_also_names_parts_that_none_reads(qtbot: QtBot, opened: Opener) -> None:
    window = opened("demo:correlator")
    settled(qtbot, window)
    qtbot.mouseClick(window.verdict.all, LEFT)
    words = " ".join(label.text() for label in window.verdict.findChildren(QLabel))
    assert "Parts that no sensor reads" in words
    assert "Inductor" in words
