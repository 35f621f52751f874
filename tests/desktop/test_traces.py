"""Curves of logs: how times and values map to pixels, what a reading line reads, that pictures show what they should."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QImage, QPainter
from pytestqt.qtbot import QtBot

from ashen_bridge.bench.judgement import ComparedSensor, Comparison, Difference
from ashen_bridge.desktop.baseline.differences import DifferenceList
from ashen_bridge.desktop.charts.trace_painter import TracePainting, tint
from ashen_bridge.desktop.charts.trace_picture import Trace, TracePicture, TracePlacement, nice_step
from ashen_bridge.desktop.charts.trace_view import TraceView
from ashen_bridge.desktop.look.theme import THEMES
from ashen_bridge.desktop.parts.belief import BeliefBar
from windows import press

LIGHT = THEMES["light"]
T = np.arange(0.0, 600.0)


def rising(name: str = "Die", tint_of: int | None = 0) -> Trace:
    return Trace(name, "°C", T, 40 + 50 * (1 - np.exp(-T / 100)), tint_of)


@given(st.floats(1e-6, 1e6), st.integers(1, 12))
def test_steps_are_one_two_or_five_and_few_enough(span: float, most: int) -> None:
    step = nice_step(span, most)
    assert round(step / 10 ** np.floor(np.log10(step * (1 + 1e-9))), 6) in (1, 2, 5)
    assert span / step <= most * (1 + 1e-6)
    assert span / step > most / 5.1


@given(st.floats(0, 599), st.floats(0, 500), st.floats(5, 99))
def test_pixels_and_times_are_each_others_inverse(second: float, start: float, length: float) -> None:
    place = TracePlacement(TracePicture((rising(),)), 800, 300, LIGHT, (start, start + length))
    inside = min(max(second, start), start + length)
    assert place.seconds(place.x(inside)) == pytest.approx(inside, abs=1e-6 * 600)
    assert place.seconds(-100.0) == start
    assert place.seconds(5000.0) == pytest.approx(start + length)


def test_frames_hold_curves_and_limits_that_are_near() -> None:
    near = TracePlacement(TracePicture((rising(),), limits=(95.0,)), 800, 300, LIGHT, (0.0, 600.0))
    assert near.upper is not None
    assert near.upper.low <= 40
    assert near.upper.high >= 95
    far = TracePlacement(TracePicture((rising(),), limits=(300.0,)), 800, 300, LIGHT, (0.0, 600.0))
    assert far.upper is not None
    assert far.upper.high < 150, "a limit far away does not press the curves flat"
    both = TracePlacement(TracePicture((rising(),), (Trace("P", "W", T, np.full(600, 90.0), 4),)), 800, 300, LIGHT, (0.0, 600.0))
    assert both.upper is not None
    assert both.lower is not None
    assert both.upper.bottom < both.lower.top
    assert both.lower.low < 90 < both.lower.high, "a constant has room too"
    empty = TracePlacement(TracePicture((Trace("x", "°C", T, np.full(600, np.nan), 0),)), 800, 300, LIGHT, (0.0, 600.0))
    assert empty.upper is not None
    assert empty.upper.high > empty.upper.low


def test_the_nearest_sample_is_read() -> None:
    one = Trace("x", "°C", np.array([0.0, 10.0, 20.0]), np.array([1.0, np.nan, 3.0]))
    assert one.at(4.0) == 1.0
    assert one.at(11.0) is None, "a gap is no number"
    assert one.at(16.0) == 3.0
    assert one.at(-5.0) == 1.0
    assert one.at(500.0) == 3.0
    assert Trace("x", "°C", np.array([]), np.array([])).at(1.0) is None
    assert TracePicture(()).whole == (0.0, 1.0)


def painted(picture: TracePicture, span: tuple[float, float] = (0.0, 600.0)) -> QImage:
    image = QImage(800, 300, QImage.Format.Format_RGB32)
    image.fill(LIGHT.colour("surface"))
    painter = QPainter(image)
    TracePainting(painter, TracePlacement(picture, 800, 300, LIGHT, span), LIGHT, 300.0).paint(picture)
    painter.end()
    return image


def pixels_like(image: QImage, number: int) -> int:
    wanted = tint(LIGHT, number).rgb() & 0xFFFFFF
    return sum((image.pixel(x, y) & 0xFFFFFF) == wanted for x in range(0, 620) for y in range(0, 300, 2))


def test_curves_and_their_window_are_drawn(qtbot: QtBot) -> None:
    plain = painted(TracePicture((rising(),)))
    assert pixels_like(plain, 0) > 60
    assert pixels_like(plain, 1) == 0
    quiet = painted(TracePicture((rising(tint_of=None),)))
    assert pixels_like(quiet, 0) == 0, "a background curve has no colour of its own"
    held = painted(TracePicture((rising(),), window_s=(400.0, 590.0), movable=True))
    assert pixels_like(held, 1) > 50, "the handles stand in steel"
    away = painted(TracePicture((rising(),), window_s=(400.0, 590.0)), (0.0, 300.0))
    assert pixels_like(away, 0) > 60


def test_the_window_moves_by_keys_and_never_turns_over(qtbot: QtBot) -> None:
    view = TraceView(LIGHT)
    qtbot.addWidget(view)
    view.resize(800, 300)
    view.show_picture(TracePicture((rising(),), window_s=(400.0, 599.0), movable=True))
    moved: list[tuple[float, float]] = []
    view.window_moved.connect(lambda a, b: moved.append((a, b)))
    press(qtbot, view, Qt.Key.Key_Right, modifier=Qt.KeyboardModifier.ShiftModifier)
    assert moved[-1] == pytest.approx((409.98, 599.0), abs=0.1)
    press(qtbot, view, Qt.Key.Key_Left, modifier=Qt.KeyboardModifier.ControlModifier)
    assert moved[-1] == pytest.approx((400.0, 589.0), abs=0.1)
    view.show_picture(TracePicture((rising(),), window_s=(590.0, 599.0), movable=True))
    press(qtbot, view, Qt.Key.Key_Right, modifier=Qt.KeyboardModifier.ShiftModifier)
    assert moved[-1][1] - moved[-1][0] >= 5.0 - 1e-9
    view.show_picture(TracePicture((rising(),), window_s=(400.0, 599.0)))
    count = len(moved)
    press(qtbot, view, Qt.Key.Key_Right, modifier=Qt.KeyboardModifier.ShiftModifier)
    assert len(moved) == count, "a window that is not movable stays"


def compared(name: str, low: float, high: float) -> ComparedSensor:
    middle = (low + high) / 2
    verdict = "worse" if low > 0 else "better" if high < 0 else "no difference that this test can show"
    return ComparedSensor(name, name.capitalize(), Difference(50.0, 50.0 + middle, middle, low, high, verdict))  # type: ignore[arg-type]


def test_differences_are_listed_walked_and_said(qtbot: QtBot) -> None:
    rows = (compared("die", 2.0, 4.0), compared("memory", -0.5, 0.5), compared("board", -3.0, -1.0))
    shown = DifferenceList(LIGHT)
    qtbot.addWidget(shown)
    shown.resize(400, 200)
    shown.show_comparison(Comparison("a", "b", False, rows, None, ()), "die")
    assert shown.accessibleDescription().startswith("Die +3.0 K, worse; Memory 0.0 K, no difference")
    chosen: list[str] = []
    shown.chosen.connect(chosen.append)
    press(qtbot, shown, Qt.Key.Key_Down)
    qtbot.mouseClick(shown, Qt.MouseButton.LeftButton, pos=QPoint(20, 5))
    assert chosen == ["memory", "die"]
    image = shown.grab().toImage()
    assert image.width() == 400
    shown.show_comparison(None, "")
    assert shown.sizeHint().height() < 40
    press(qtbot, shown, Qt.Key.Key_Down)
    assert len(chosen) == 2, "an empty list cannot be walked"


def test_a_belief_needs_room_for_its_words(qtbot: QtBot) -> None:
    short = BeliefBar(LIGHT, "Nothing is wrong", 0.4, "misfit 1.0 K", calm=True)
    long = BeliefBar(LIGHT, "The layer of the die joint has dried, cracked or been pumped out over the years", 0.6, "it " * 60)
    for bar in (short, long):
        qtbot.addWidget(bar)
    assert long.heightForWidth(300) > short.heightForWidth(300)
    assert long.heightForWidth(300) > long.heightForWidth(900)
    assert "60 %" in long.accessibleName()
    long.resize(300, long.heightForWidth(300))
    assert not long.grab().isNull()
