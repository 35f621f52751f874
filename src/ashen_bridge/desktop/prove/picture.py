"""Draws a proof: per sensor the prediction, the calibrated prediction and the measurement, each with its uncertainty."""

from __future__ import annotations

import math
from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from ashen_bridge.bench.judgement import Proof, ProvedSensor
from ashen_bridge.desktop.charts.trace_picture import nice_step
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.words.numbers import measured, number

_ROW, _HEAD, _FOOT, _LEFT, _RIGHT = 46.0, 52.0, 6.0, 138.0, 168.0
_MARKS = {"met": ("✓", "good"), "missed": ("✕", "bad"), "open": ("≈", "warn"), "none": ("", "quiet")}


class ProofPicture(QWidget):
    """All sensors on one temperature axis, the least to spare first."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.proof: Proof | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Prediction against measurement, sensor by sensor")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_proof(self, proof: Proof | None) -> None:
        """Show a proof."""
        self.proof = proof
        rows = [
            f"{one.name}: predicted {number(one.predicted[0], 1)}, calibrated {number(one.calibrated[0], 1)}, "
            f"measured {number(one.measured[0], 1)} °C, {one.state}"
            for one in self.rows()
        ]
        self.setAccessibleDescription("; ".join(rows))
        self.updateGeometry()
        self.update()

    def rows(self) -> list[ProvedSensor]:
        """Return the sensors in the order they are drawn."""
        if self.proof is None:
            return []
        return sorted(self.proof.sensors, key=lambda one: (one.aim_c is None, (one.aim_c or 0.0) - one.measured[0]))

    def sizeHint(self) -> QSize:
        return QSize(720, round(self.theme.px(_ROW * len(self.rows()) + _HEAD + _FOOT)))

    def minimumSizeHint(self) -> QSize:
        return QSize(480, self.sizeHint().height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rows = self.rows()
        if not rows:
            return
        theme, px = self.theme, self.theme.px
        ends = [
            value + sign * 2 * u for one in rows for value, u in (one.predicted, one.calibrated, one.measured) for sign in (-1, 1)
        ]
        ends += [value for one in rows for value in (one.was_c, one.goal_c) if value is not None]
        ends += [one.limit_c for one in rows if one.limit_c is not None and one.limit_c < max(ends) + 12]
        step = nice_step(max(ends) - min(ends), 8)
        low, high = step * math.floor(min(ends) / step), step * math.ceil(max(ends) / step)
        left, right = px(_LEFT), self.width() - px(_RIGHT)

        def x(value: float) -> float:
            return left + (right - left) * (value - low) / (high - low)

        self._legend(painter)
        top, bottom = px(_HEAD), px(_HEAD) + px(_ROW) * len(rows)
        painter.setFont(theme.font(11))
        for k in range(round((high - low) / step) + 1):
            at = x(low + k * step)
            painter.setPen(QPen(theme.colour("line", 0.8), 0.8))
            painter.drawLine(QPointF(at, top), QPointF(at, bottom))
            painter.setPen(theme.colour("quiet"))
            words = number(low + k * step) + (" °C" if k == 0 else "")
            painter.drawText(QRectF(at - 40, top - px(18), 80, px(16)), Qt.AlignmentFlag.AlignHCenter, words)
        for n, one in enumerate(rows):
            self._row(painter, one, top + n * px(_ROW), x, left, right)
        painter.end()

    def _row(
        self, painter: QPainter, one: ProvedSensor, top: float, x: Callable[[float], float], left: float, right: float
    ) -> None:
        theme, px = self.theme, self.theme.px
        high = px(_ROW)
        if one.body == self.session.view.selected:
            painter.fillRect(QRectF(0, top, self.width(), high), theme.colour("ember_soft"))
        painter.setPen(QPen(theme.colour("line"), 0.8))
        painter.drawLine(QPointF(0, top + high), QPointF(self.width(), top + high))
        mark, role = _MARKS[one.state]
        painter.setFont(theme.font(13, bold=True))
        painter.setPen(theme.colour("ink"))
        flags = Qt.AlignmentFlag.AlignVCenter
        name = painter.fontMetrics().elidedText(one.name, Qt.TextElideMode.ElideRight, int(left - 12))
        painter.drawText(QRectF(6, top + px(4), left - 10, px(19)), flags | Qt.AlignmentFlag.AlignLeft, name)
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour(role))
        if one.aim_c is not None:
            spare = one.aim_c - one.measured[0]
            words = f"{mark} {number(abs(spare), 1)} K {'to spare' if spare >= 0 else 'over'}"
            painter.drawText(QRectF(6, top + px(22), left - 10, px(18)), flags | Qt.AlignmentFlag.AlignLeft, words)
        for value, colour, wide in ((one.limit_c, "bad", 2.0), (one.goal_c, "good", 2.4)):
            if value is not None and left <= x(value) <= right + 1:
                painter.setPen(
                    QPen(theme.colour(colour), wide, Qt.PenStyle.SolidLine if colour == "good" else Qt.PenStyle.DotLine)
                )
                painter.drawLine(QPointF(x(value), top + px(4)), QPointF(x(value), top + high - px(4)))
        if one.was_c is not None:
            painter.setPen(QPen(theme.colour("stale"), 1.6))
            painter.drawLine(QPointF(x(one.was_c), top + px(6)), QPointF(x(one.was_c), top + high - px(6)))
        for (value, u), kind, share in (
            (one.predicted, "plain", 0.24),
            (one.calibrated, "fitted", 0.5),
            (one.measured, "seen", 0.77),
        ):
            _value(painter, theme, kind, x(value), top + share * high, x(value - 2 * u), x(value + 2 * u))
        side = QRectF(right + px(14), top, px(_RIGHT) - px(18), high / 2)
        painter.setPen(theme.colour("ink"))
        painter.setFont(theme.font(13, bold=True))
        painter.drawText(side.adjusted(0, px(4), 0, 2), flags | Qt.AlignmentFlag.AlignRight, measured(*one.measured, "°C"))
        painter.setFont(theme.font(12))
        odd = abs(one.surprise) > 2.5
        painter.setPen(theme.colour("warn" if odd else "quiet"))
        away = one.measured[0] - one.calibrated[0]
        words = f"{'! ' if odd else ''}{number(away, 1, sign=True)} K to calibrated"
        painter.drawText(side.translated(0, high / 2 - px(4)), flags | Qt.AlignmentFlag.AlignRight, words)

    def _legend(self, painter: QPainter) -> None:
        theme, px = self.theme, self.theme.px
        painter.setFont(theme.font(12))
        at = px(_LEFT)
        y = px(15)
        strokes = {
            "before": QPen(theme.colour("stale"), 1.6),
            "goal": QPen(theme.colour("good"), 2.4),
            "limit": QPen(theme.colour("bad"), 2.0, Qt.PenStyle.DotLine),
        }
        listed = {"plain": "predicted", "fitted": "calibrated", "seen": "measured", **{name: name for name in strokes}}
        for kind, words in listed.items():
            room = 32.0
            if kind in strokes:
                room = 18.0
                painter.setPen(strokes[kind])
                painter.drawLine(QPointF(at + 8, y - 8), QPointF(at + 8, y + 8))
            else:
                _value(painter, theme, kind, at + 14, y, at + 2, at + 26)
            painter.setPen(theme.colour("ink"))
            painter.drawText(QPointF(at + room, y + px(4)), words)
            at += room + painter.fontMetrics().horizontalAdvance(words) + px(16)
        painter.setPen(theme.colour("quiet"))
        painter.drawText(QPointF(at, y + px(4)), "bars: twice the standard uncertainty")

    # ---- choosing

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        rows = self.rows()
        at = int((event.position().y() - self.theme.px(_HEAD)) // self.theme.px(_ROW)) if event is not None else -1
        if 0 <= at < len(rows):
            self.session.select(rows[at].body)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        ways = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        rows = self.rows()
        if event is None or not rows or Qt.Key(event.key()) not in ways:
            super().keyPressEvent(event)
            return
        bodies = [one.body for one in rows]
        now = bodies.index(self.session.view.selected) if self.session.view.selected in bodies else 0
        self.session.select(bodies[min(max(now + ways[Qt.Key(event.key())], 0), len(bodies) - 1)])


def _value(painter: QPainter, theme: Theme, kind: str, at: float, y: float, low: float, high: float) -> None:
    """One value with its bar: a ring for predicted, a disc for calibrated, a diamond for measured."""
    role = "ember" if kind == "seen" else "steel"
    colour = theme.colour(role)
    painter.setPen(QPen(theme.colour(role, 0.5 if kind == "plain" else 0.8), 1.6 if kind == "plain" else 3.0))
    painter.drawLine(QPointF(low, y), QPointF(high, y))
    painter.setPen(QPen(colour, 1.8))
    painter.setBrush(theme.colour("surface") if kind == "plain" else colour)
    if kind == "seen":
        size = 5.5
        painter.drawPolygon(
            QPolygonF([QPointF(at, y - size), QPointF(at + size, y), QPointF(at, y + size), QPointF(at - size, y)])
        )
    else:
        painter.drawEllipse(QPointF(at, y), 4.2, 4.2)
    painter.setBrush(Qt.BrushStyle.NoBrush)
