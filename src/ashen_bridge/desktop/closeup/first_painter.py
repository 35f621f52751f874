"""Draws one sensor in the first minutes: as it should go with its band, as it would go if something were wrong, what was read."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from ashen_bridge.arrays import Floats
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.words.numbers import number

_LEFT, _RIGHT, _TOP, _BOTTOM = 40.0, 210.0, 14.0, 24.0  # [px] around the curves at the usual text size
_DASHES = (Qt.PenStyle.DashLine, Qt.PenStyle.DashDotLine, Qt.PenStyle.DotLine)


@dataclass(frozen=True)
class FirstPicture:
    """One sensor. times_s, healthy_c, pm_k : (n,), from idle air; others : titles with (n,) each; read : times and values."""

    times_s: Floats
    healthy_c: Floats
    pm_k: Floats
    others: tuple[tuple[str, Floats], ...]
    read: tuple[tuple[float, float], ...]
    limit_c: float
    now_s: float | None

    @property
    def span(self) -> tuple[float, float]:
        """From which to which temperature it reaches [°C], in tens."""
        values = [self.healthy_c + 2 * self.pm_k, self.healthy_c - 2 * self.pm_k, *(values for _, values in self.others)]
        every = [*(float(one.max()) for one in values), *(float(one.min()) for one in values), *(value for _, value in self.read)]
        top = max(every)
        if self.limit_c < top + 15:
            top = max(top, self.limit_c)
        return 10 * math.floor(min(every) / 10), 10 * math.ceil((top + 1) / 10)


@dataclass(frozen=True)
class FirstPainting:
    """A picture on a painter of some width and height [px]."""

    painter: QPainter
    picture: FirstPicture
    theme: Theme
    width: float
    height: float

    def x(self, seconds: float) -> float:
        left, right = self.theme.px(_LEFT), self.width - self.theme.px(_RIGHT)
        return left + (right - left) * seconds / float(self.picture.times_s[-1])

    def y(self, celsius: float) -> float:
        low, high = self.picture.span
        top, bottom = self.theme.px(_TOP), self.height - self.theme.px(_BOTTOM)
        return bottom - (bottom - top) * (celsius - low) / (high - low)

    def paint(self) -> None:
        """Draw it all."""
        self.painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._axes()
        self._band()
        self._curves()
        self._readings()
        self._names()

    def _axes(self) -> None:
        painter, theme = self.painter, self.theme
        painter.setFont(theme.font(11))
        high = painter.fontMetrics().height()
        low, top = self.picture.span
        step = next(s for s in (5, 10, 20, 50, 100, 1000) if (top - low) / s <= max(2.0, self.height / (3.4 * high)))
        left, right, bottom = self.x(0.0), self.x(float(self.picture.times_s[-1])), self.y(low)
        for value in np.arange(low, top + 1e-9, step):
            painter.setPen(QPen(theme.colour("line"), 0.8))
            painter.drawLine(QPointF(left, self.y(value)), QPointF(right, self.y(value)))
            painter.setPen(theme.colour("quiet"))
            box = QRectF(0, self.y(value) - high / 2, left - 6, high)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, number(float(value)))
        painter.drawText(QRectF(left + 6, theme.px(_TOP) - 2, 40, high), Qt.AlignmentFlag.AlignLeft, "°C")
        for minute in range(int(self.picture.times_s[-1] / 60) + 1):
            x = self.x(60.0 * minute)
            painter.setPen(QPen(theme.colour("line"), 0.8))
            painter.drawLine(QPointF(x, bottom), QPointF(x, bottom + 4))
            painter.setPen(theme.colour("quiet"))
            words = f"{minute} min" if minute in (0, int(self.picture.times_s[-1] / 60)) else f"{minute}"
            painter.drawText(QRectF(x - 40, bottom + 4, 80, high), Qt.AlignmentFlag.AlignHCenter, words)
        if low < self.picture.limit_c < top:
            painter.setPen(QPen(theme.colour("bad"), 1.0, Qt.PenStyle.DotLine))
            y = self.y(self.picture.limit_c)
            painter.drawLine(QPointF(left, y), QPointF(right, y))
            words = f"limit {number(self.picture.limit_c)} °C"
            painter.drawText(QRectF(left, y - high - 1, right - left - 6, high), Qt.AlignmentFlag.AlignRight, words)

    def _band(self) -> None:
        picture = self.picture
        up = [QPointF(self.x(t), self.y(v)) for t, v in zip(picture.times_s, picture.healthy_c + 2 * picture.pm_k, strict=True)]
        down = [QPointF(self.x(t), self.y(v)) for t, v in zip(picture.times_s, picture.healthy_c - 2 * picture.pm_k, strict=True)]
        self.painter.setPen(Qt.PenStyle.NoPen)
        self.painter.setBrush(self.theme.colour("good", 0.18))
        self.painter.drawPolygon(QPolygonF([*up, *reversed(down)]))

    def _curves(self) -> None:
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
        for n, (_, values) in enumerate(self.picture.others):
            self._curve(values, QPen(self.theme.colour("ember"), 1.7, _DASHES[n % len(_DASHES)]))
        self._curve(self.picture.healthy_c, QPen(self.theme.colour("good"), 2.4))
        if self.picture.now_s is not None and self.picture.now_s <= self.picture.times_s[-1]:
            x = self.x(self.picture.now_s)
            self.painter.setPen(QPen(self.theme.colour("ink", 0.5), 1.0))
            self.painter.drawLine(QPointF(x, self.theme.px(_TOP)), QPointF(x, self.height - self.theme.px(_BOTTOM)))

    def _curve(self, values: Floats, pen: QPen) -> None:
        self.painter.setPen(pen)
        points = [QPointF(self.x(t), self.y(v)) for t, v in zip(self.picture.times_s, values, strict=True)]
        self.painter.drawPolyline(QPolygonF(points))

    def _readings(self) -> None:
        self.painter.setPen(QPen(self.theme.colour("surface"), 1.2))
        self.painter.setBrush(self.theme.colour("ink"))
        for seconds, value in self.picture.read:
            if seconds <= self.picture.times_s[-1]:
                self.painter.drawEllipse(QPointF(self.x(seconds), self.y(value)), self.theme.px(4.5), self.theme.px(4.5))

    def _names(self) -> None:
        """Names at the curves' ends, moved apart where they would lie on each other."""
        painter, theme = self.painter, self.theme
        painter.setFont(theme.font(12))
        high = painter.fontMetrics().height()
        rows = [("as planned, 95 % within", self.picture.healthy_c, "good"), *((t, v, "ember") for t, v in self.picture.others)]
        right = self.x(float(self.picture.times_s[-1]))
        floor = -1e9
        for words, values, role in sorted(rows, key=lambda row: -float(row[1][-1])):
            room = QRectF(right + 8, 0.0, self.width - right - 12, 3 * high)
            flags = Qt.AlignmentFlag.AlignLeft.value | Qt.TextFlag.TextWordWrap.value
            tall = painter.boundingRect(room, flags, words).height()
            top = max(floor, self.y(float(values[-1])) - tall / 2)
            painter.setPen(theme.colour(role))
            painter.drawText(QRectF(room.x(), top, room.width(), tall), flags, words)
            floor = top + tall
