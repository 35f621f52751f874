"""Helpers to drive the real window."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import fields, replace
from typing import Any

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QWidget
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.baseline.page import BaselinePage
from ashen_bridge.desktop.prove.page import ProvePage
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.desktop.stack.desk import StackDesk, StackView
from ashen_bridge.desktop.stack.page import StackPage
from ashen_bridge.desktop.stack.plan import PlanView
from ashen_bridge.desktop.state.view import View

WAIT = 90_000
Opener = Callable[..., MainWindow]
NO = Qt.KeyboardModifier.NoModifier


def settled(qtbot: QtBot, window: MainWindow) -> None:
    """Wait until the numbers are final or refused."""
    qtbot.waitUntil(lambda: window.session.results.state in ("current", "refused"), timeout=WAIT)


def verdicts(window: MainWindow) -> list[str]:
    """Return what the verdict cards say."""
    return [card.value.text() for card in window.verdict.cards if card.isVisible()]


def press(qtbot: QtBot, widget: QWidget, key: Qt.Key, times: int = 1, modifier: Qt.KeyboardModifier = NO) -> None:
    """Press a key some times."""
    for _ in range(times):
        qtbot.keyClick(widget, key, modifier)


def pixel(plan: PlanView, x: float, y: float) -> QPoint:
    """Return the pixel of a place on the board [mm]."""
    return plan.placement().point(x, y).toPoint()


def drag(
    qtbot: QtBot,
    plan: PlanView,
    start: tuple[float, float],
    end: tuple[float, float],
    modifier: Qt.KeyboardModifier = NO,
    steps: int = 4,
) -> None:
    """Drag on the plan from one place to another [mm], in a few moves as a hand does."""
    left = Qt.MouseButton.LeftButton
    a, b = pixel(plan, *start), pixel(plan, *end)
    qtbot.mousePress(plan, left, modifier, a)
    for n in range(1, steps + 1):
        at = QPoint(round(a.x() + (b.x() - a.x()) * n / steps), round(a.y() + (b.y() - a.y()) * n / steps))
        _move(plan, at, modifier)
    qtbot.mouseRelease(plan, left, modifier, b)


def _move(widget: QWidget, at: QPoint, modifier: Qt.KeyboardModifier) -> None:
    from PyQt6.QtCore import QEvent, QPointF
    from PyQt6.QtGui import QMouseEvent
    from PyQt6.QtWidgets import QApplication

    place = QPointF(at)
    button = Qt.MouseButton.LeftButton
    event = QMouseEvent(QEvent.Type.MouseMove, place, QPointF(widget.mapToGlobal(at)), button, button, modifier)
    QApplication.sendEvent(widget, event)


def click(qtbot: QtBot, plan: PlanView, x: float, y: float, modifier: Qt.KeyboardModifier = NO) -> None:
    """Click a place on the board [mm]."""
    qtbot.mouseClick(plan, Qt.MouseButton.LeftButton, modifier, pixel(plan, x, y))


# ---- workspaces


def stack(window: MainWindow) -> StackPage:
    """Return the page of the Stack."""
    page = window.workspaces["stack"].page()
    assert isinstance(page, StackPage)
    return page


def desk(window: MainWindow) -> StackDesk:
    """Return what the Stack looks at."""
    return stack(window).desk


def baseline(window: MainWindow) -> BaselinePage:
    """Return the page of Baseline."""
    page = window.workspaces["baseline"].page()
    assert isinstance(page, BaselinePage)
    return page


def prove(window: MainWindow) -> ProvePage:
    """Return the page of Prove."""
    page = window.workspaces["prove"].page()
    assert isinstance(page, ProvePage)
    return page


def look(window: MainWindow, **wanted: Any) -> None:
    """Look at something, as clicks would: what all workspaces share first, then what is the Stack's and Baseline's own."""
    shared = {name: value for name, value in wanted.items() if name in {one.name for one in fields(View)}}
    window.session.look(replace(window.session.view, **shared))
    ours = {name: value for name, value in wanted.items() if name in {one.name for one in fields(StackView)}}
    if ours:
        desk(window).look(replace(desk(window).view, **ours))
    theirs = {name.replace("run_page", "page"): value for name, value in wanted.items() if name not in {*shared, *ours}}
    if theirs:
        runs = baseline(window).desk
        runs.look(replace(runs.view, **theirs))
