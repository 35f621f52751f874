"""Draws one sensor over power: what runs read, the curve through them, and the air that it implies without any."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from ashen_bridge.bench.power_curve_result import SensorCurve
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.words.numbers import number

_LEFT, _RIGHT, _TOP, _BOTTOM = 36.0, 14.0, 18.0, 30.0  # [px] around the curve at the usual text size


@dataclass(frozen=True)
class PowerPainting:
    """A curve on a painter of some width and height [px]; runs by their names."""

    painter: QPainter
    curve: SensorCurve
    labels: dict[str, str]
    theme: Theme
    width: float
    height: float

    @property
    def most_w(self) -> float:
        """How far the power axis reaches [W]."""
        return 1.08 * max(watts for _, watts, _, _ in self.curve.readings)

    @property
    def span_c(self) -> tuple[float, float]:
        """How far the temperature axis reaches [°C], in tens."""
        values = [self.curve.air_low, self.curve.air_high, *(value for _, _, *both in self.curve.readings for value in both)]
        return 10 * math.floor((min(values) - 1) / 10), 10 * math.ceil((max(values) + 1) / 10)

    def at(self, watts: float, celsius: float) -> QPointF:
        """Return where a power and a temperature lie."""
        low, high = self.span_c
        left, right = self.theme.px(_LEFT), self.width - self.theme.px(_RIGHT)
        top, bottom = self.theme.px(_TOP), self.height - self.theme.px(_BOTTOM)
        return QPointF(left + (right - left) * watts / self.most_w, bottom - (bottom - top) * (celsius - low) / (high - low))

    def paint(self) -> None:
        """Draw it all."""
        self.painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._axes()
        self._line()
        self._air()
        self._readings()

    def _axes(self) -> None:
        painter, theme = self.painter, self.theme
        painter.setFont(theme.font(11))
        high = painter.fontMetrics().height()
        low, top = self.span_c
        step = next(s for s in (5, 10, 20, 50, 100, 1000) if (top - low) / s <= max(2.0, self.height / (3.0 * high)))
        for value in np.arange(low, top + 1e-9, step):
            y = self.at(0, value).y()
            painter.setPen(QPen(theme.colour("line"), 0.8))
            painter.drawLine(self.at(0, value), self.at(self.most_w, value))
            painter.setPen(theme.colour("quiet"))
            box = QRectF(0, y - high / 2, theme.px(_LEFT) - 5, high)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, number(float(value)))
        painter.drawText(QRectF(theme.px(_LEFT) + 4, 0, 40, high), Qt.AlignmentFlag.AlignLeft, "°C")
        every = next(s for s in (1, 2, 5, 10, 20, 50, 100, 200, 500, 1e4) if self.most_w / s <= 5)
        for watts in np.arange(0.0, self.most_w, every):
            place = self.at(float(watts), low)
            painter.drawText(QRectF(place.x() - 40, place.y() + 4, 80, high), Qt.AlignmentFlag.AlignHCenter, f"{watts:g}")
        end = self.at(self.most_w, low)
        painter.drawText(QRectF(end.x() - 30, end.y() + 4, 30 + theme.px(_RIGHT), high), Qt.AlignmentFlag.AlignRight, "W")

    def _line(self) -> None:
        told = sorted((watts, value) for _, watts, _, value in self.curve.readings)
        points = [self.at(0.0, self.curve.air_c), *(self.at(watts, value) for watts, value in told)]
        self.painter.setPen(QPen(self.theme.colour("ember"), 2.0))
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
        self.painter.drawPolyline(QPolygonF(points))

    def _air(self) -> None:
        self.painter.setPen(QPen(self.theme.colour("steel"), 2.4))
        self.painter.drawLine(self.at(0.0, self.curve.air_low), self.at(0.0, self.curve.air_high))
        self.painter.setBrush(self.theme.colour("surface"))
        self.painter.drawEllipse(self.at(0.0, self.curve.air_c), self.theme.px(3.5), self.theme.px(3.5))

    def _readings(self) -> None:
        odd = {one.run for one in self.curve.misfits}
        for run, watts, read, _ in self.curve.readings:
            place = self.at(watts, read)
            self.painter.setPen(QPen(self.theme.colour("surface"), 1.2))
            self.painter.setBrush(self.theme.colour("bad" if run in odd else "ink"))
            self.painter.drawEllipse(place, self.theme.px(4.5), self.theme.px(4.5))
            if run in odd:
                self.painter.setPen(self.theme.colour("bad"))
                box = QRectF(place.x() - 130, place.y() - self.theme.px(22), 124, self.theme.px(18))
                self.painter.drawText(box, Qt.AlignmentFlag.AlignRight, self.labels.get(run, run))
