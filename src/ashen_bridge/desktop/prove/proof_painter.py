"""Draws a proof: per sensor the prediction, the calibrated prediction and the measurement, each with its uncertainty."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from ashen_bridge.bench.judgement import ProvedSensor
from ashen_bridge.desktop.charts.trace_picture import nice_step
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.words.numbers import measured, number

_ROW, _HEAD, _FOOT, _LEFT, _RIGHT = 46.0, 52.0, 6.0, 138.0, 168.0
_MARKS = {"met": ("✓", "good"), "missed": ("✕", "bad"), "open": ("≈", "warn"), "none": ("", "quiet")}


@dataclass(frozen=True)
class Place:
    """Where a row is [px]: its top, its axis from left to right with what maps a temperature to it, the whole width."""

    top: float
    x: Callable[[float], float]
    left: float
    right: float
    width: float


def height_of(rows: int, theme: Theme) -> float:
    """Return how high a picture of some rows is [px]."""
    return theme.px(_ROW * rows + _HEAD + _FOOT)


def row_at(y: float, theme: Theme) -> int:
    """Return the row at a pixel; it may be none of those there are."""
    return int((y - theme.px(_HEAD)) // theme.px(_ROW))


@dataclass(frozen=True)
class ProofPainting:
    """A proof on a painter."""

    painter: QPainter
    theme: Theme

    def paint(self, rows: list[ProvedSensor], selected: str, width: float) -> None:
        """Draw some sensors on one axis; the one of the body that is `selected` stands out."""
        self.painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not rows:
            return
        px = self.theme.px
        ends = [
            value + sign * 2 * u for one in rows for value, u in (one.predicted, one.calibrated, one.measured) for sign in (-1, 1)
        ]
        ends += [value for one in rows for value in (one.was_c, one.goal_c) if value is not None]
        ends += [one.limit_c for one in rows if one.limit_c is not None and one.limit_c < max(ends) + 12]
        step = nice_step(max(ends) - min(ends), 8)
        low, high = step * math.floor(min(ends) / step), step * math.ceil(max(ends) / step)
        left, right = px(_LEFT), width - px(_RIGHT)

        def x(value: float) -> float:
            return left + (right - left) * (value - low) / (high - low)

        self._legend()
        top, bottom = px(_HEAD), px(_HEAD) + px(_ROW) * len(rows)
        self.painter.setFont(self.theme.font(11))
        for k in range(round((high - low) / step) + 1):
            at = x(low + k * step)
            self.painter.setPen(QPen(self.theme.colour("line", 0.8), 0.8))
            self.painter.drawLine(QPointF(at, top), QPointF(at, bottom))
            self.painter.setPen(self.theme.colour("quiet"))
            words = number(low + k * step) + (" °C" if k == 0 else "")
            self.painter.drawText(QRectF(at - 40, top - px(18), 80, px(16)), Qt.AlignmentFlag.AlignHCenter, words)
        for n, one in enumerate(rows):
            self._row(one, Place(top + n * px(_ROW), x, left, right, width), one.body == selected)

    def _row(self, one: ProvedSensor, place: Place, selected: bool) -> None:
        px, x, top, left, right = self.theme.px, place.x, place.top, place.left, place.right
        high = px(_ROW)
        if selected:
            self.painter.fillRect(QRectF(0, top, place.width, high), self.theme.colour("ember_soft"))
        self.painter.setPen(QPen(self.theme.colour("line"), 0.8))
        self.painter.drawLine(QPointF(0, top + high), QPointF(place.width, top + high))
        mark, role = _MARKS[one.state]
        self.painter.setFont(self.theme.font(13, bold=True))
        self.painter.setPen(self.theme.colour("ink"))
        flags = Qt.AlignmentFlag.AlignVCenter
        name = self.painter.fontMetrics().elidedText(one.name, Qt.TextElideMode.ElideRight, int(left - 12))
        self.painter.drawText(QRectF(6, top + px(4), left - 10, px(19)), flags | Qt.AlignmentFlag.AlignLeft, name)
        self.painter.setFont(self.theme.font(12))
        self.painter.setPen(self.theme.colour(role))
        if one.aim_c is not None:
            spare = one.aim_c - one.measured[0]
            words = f"{mark} {number(abs(spare), 1)} K {'to spare' if spare >= 0 else 'over'}"
            self.painter.drawText(QRectF(6, top + px(22), left - 10, px(18)), flags | Qt.AlignmentFlag.AlignLeft, words)
        for value, colour, wide in ((one.limit_c, "bad", 2.0), (one.goal_c, "good", 2.4)):
            if value is not None and left <= x(value) <= right + 1:
                self.painter.setPen(
                    QPen(self.theme.colour(colour), wide, Qt.PenStyle.SolidLine if colour == "good" else Qt.PenStyle.DotLine)
                )
                self.painter.drawLine(QPointF(x(value), top + px(4)), QPointF(x(value), top + high - px(4)))
        if one.was_c is not None:
            self.painter.setPen(QPen(self.theme.colour("stale"), 1.6))
            self.painter.drawLine(QPointF(x(one.was_c), top + px(6)), QPointF(x(one.was_c), top + high - px(6)))
        for (value, u), kind, share in (
            (one.predicted, "plain", 0.24),
            (one.calibrated, "fitted", 0.5),
            (one.measured, "seen", 0.77),
        ):
            self._value(kind, x(value), top + share * high, x(value - 2 * u), x(value + 2 * u))
        side = QRectF(right + px(14), top, px(_RIGHT) - px(18), high / 2)
        self.painter.setPen(self.theme.colour("ink"))
        self.painter.setFont(self.theme.font(13, bold=True))
        self.painter.drawText(side.adjusted(0, px(4), 0, 2), flags | Qt.AlignmentFlag.AlignRight, measured(*one.measured, "°C"))
        self.painter.setFont(self.theme.font(12))
        odd = abs(one.surprise) > 2.5
        self.painter.setPen(self.theme.colour("warn" if odd else "quiet"))
        away = one.measured[0] - one.calibrated[0]
        words = f"{'! ' if odd else ''}{number(away, 1, sign=True)} K to calibrated"
        self.painter.drawText(side.translated(0, high / 2 - px(4)), flags | Qt.AlignmentFlag.AlignRight, words)

    def _legend(self) -> None:
        px = self.theme.px
        self.painter.setFont(self.theme.font(12))
        at = px(_LEFT)
        y = px(15)
        strokes = {
            "before": QPen(self.theme.colour("stale"), 1.6),
            "goal": QPen(self.theme.colour("good"), 2.4),
            "limit": QPen(self.theme.colour("bad"), 2.0, Qt.PenStyle.DotLine),
        }
        listed = {"plain": "predicted", "fitted": "calibrated", "seen": "measured", **{name: name for name in strokes}}
        for kind, words in listed.items():
            room = 32.0
            if kind in strokes:
                room = 18.0
                self.painter.setPen(strokes[kind])
                self.painter.drawLine(QPointF(at + 8, y - 8), QPointF(at + 8, y + 8))
            else:
                self._value(kind, at + 14, y, at + 2, at + 26)
            self.painter.setPen(self.theme.colour("ink"))
            self.painter.drawText(QPointF(at + room, y + px(4)), words)
            at += room + self.painter.fontMetrics().horizontalAdvance(words) + px(16)
        self.painter.setPen(self.theme.colour("quiet"))
        self.painter.drawText(QPointF(at, y + px(4)), "bars: twice the standard uncertainty")

    def _value(self, kind: str, at: float, y: float, low: float, high: float) -> None:
        """One value with its bar: a ring for predicted, a disc for calibrated, a diamond for measured."""
        role = "ember" if kind == "seen" else "steel"
        colour = self.theme.colour(role)
        self.painter.setPen(QPen(self.theme.colour(role, 0.5 if kind == "plain" else 0.8), 1.6 if kind == "plain" else 3.0))
        self.painter.drawLine(QPointF(low, y), QPointF(high, y))
        self.painter.setPen(QPen(colour, 1.8))
        self.painter.setBrush(self.theme.colour("surface") if kind == "plain" else colour)
        if kind == "seen":
            size = 5.5
            self.painter.drawPolygon(
                QPolygonF([QPointF(at, y - size), QPointF(at + size, y), QPointF(at, y + size), QPointF(at - size, y)])
            )
        else:
            self.painter.drawEllipse(QPointF(at, y), 4.2, 4.2)
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
