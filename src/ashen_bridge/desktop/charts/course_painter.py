"""Draws sensors over time: curves with their names at the end, limits, where each has soaked, and a reading line."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from ashen_bridge.desktop.charts.tints import TINTS, tints
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.predict.course import Course
from ashen_bridge.words.numbers import number, short
from ashen_bridge.words.times import time_words

_LEFT, _RIGHT, _TOP, _BOTTOM = 36.0, 196.0, 12.0, 22.0  # [px] around the curves at the usual text size
_DASHES = (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DashDotLine)


@dataclass(frozen=True)
class Curve:
    """One sensor: name, temperatures [°C], limit [°C], time after which it has soaked [s], whether it is about what is chosen."""

    name: str
    values: np.ndarray
    limit: float | None
    soak: float | None
    chosen: bool
    tint: int = 0


@dataclass(frozen=True)
class CoursePicture:
    """What is drawn: times [s], curves, and the longest soak time [s] (None where the load is not constant)."""

    times: np.ndarray
    curves: tuple[Curve, ...]
    soak: float | None


def course_picture(
    course: Course, limits: dict[str, float | None], groups: dict[str, str], chosen: set[str], most: int = 6
) -> CoursePicture:
    """Return the picture of a course: of many sensors those that are chosen and the hottest of each group."""
    peaks = course.values_c.max(axis=0)
    order = sorted(range(len(course.sensors)), key=lambda k: (course.sensors[k] not in chosen, -float(peaks[k])))
    first: dict[str, int] = {}
    for k in order:
        first.setdefault(groups.get(course.sensors[k], ""), k)
    wanted = [k for k in order if course.sensors[k] in chosen or k in first.values() or len(course.sensors) <= most]
    kept = sorted(wanted[:most], key=lambda k: -float(course.values_c[-1, k]))
    soak = course.soak_s
    shades = tints(tuple(dict.fromkeys(groups.values())), [groups.get(course.sensors[k], "") for k in kept])
    curves = tuple(
        Curve(
            course.sensors[k],
            course.values_c[:, k],
            limits.get(course.sensors[k]),
            None if soak is None else soak[k],
            course.sensors[k] in chosen,
            shade,
        )
        for k, shade in zip(kept, shades, strict=True)
    )
    return CoursePicture(course.time_s, curves, max(soak) if soak else None)


class CoursePlacement:
    """How times and temperatures map to pixels."""

    def __init__(self, picture: CoursePicture, width: float, height: float, theme: Theme) -> None:
        self.left, self.top = theme.px(_LEFT), theme.px(_TOP)
        self.right, self.bottom = width - theme.px(_RIGHT), height - theme.px(_BOTTOM)
        self.end = max(float(picture.times[-1]), 1e-9)
        lows = [float(curve.values.min()) for curve in picture.curves]
        highs = [float(curve.values.max()) for curve in picture.curves]
        limits = [curve.limit for curve in picture.curves if curve.limit is not None]
        near = [limit for limit in limits if limit < max(highs) + 15]
        self.low = 10 * math.floor(min(lows) / 10)
        self.high = 10 * math.ceil((max([*highs, *near]) + 1) / 10)

    def x(self, seconds: float) -> float:
        return self.left + (self.right - self.left) * seconds / self.end

    def y(self, celsius: float) -> float:
        return self.bottom - (self.bottom - self.top) * (celsius - self.low) / (self.high - self.low)

    def seconds(self, x: float) -> float:
        """Return the time at a place, kept inside the curves."""
        return min(max((x - self.left) / max(self.right - self.left, 1.0), 0.0), 1.0) * self.end


@dataclass(frozen=True)
class CoursePainting:
    """A course on a painter; `at` is the time [s] of the reading line, if there is one."""

    painter: QPainter
    picture: CoursePicture
    place: CoursePlacement
    theme: Theme
    at: float | None

    def paint(self, stale: bool) -> None:
        """Draw it all."""
        self.painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._axes()
        colours = _colours(self.picture, self.theme)
        for curve, (colour, dash) in zip(self.picture.curves, colours, strict=True):
            pen = QPen(self.theme.colour("stale") if stale else colour, 2.6 if curve.chosen else 1.6, dash)
            self.painter.setPen(pen)
            self.painter.drawPolyline(
                QPolygonF(
                    [QPointF(self.place.x(t), self.place.y(v)) for t, v in zip(self.picture.times, curve.values, strict=True)]
                )
            )
            if curve.soak is not None and 0 < curve.soak < self.place.end:
                here = QPointF(
                    self.place.x(curve.soak), self.place.y(float(np.interp(curve.soak, self.picture.times, curve.values)))
                )
                self.painter.setBrush(self.theme.colour("surface"))
                self.painter.setPen(QPen(pen.color(), 1.6))
                self.painter.drawEllipse(here, 4.0, 4.0)
        self._limits()
        self._soaked()
        self._names(colours)
        if self.at is not None:
            self.painter.setPen(QPen(self.theme.colour("ink", 0.5), 1.0))
            self.painter.drawLine(
                QPointF(self.place.x(self.at), self.place.top), QPointF(self.place.x(self.at), self.place.bottom)
            )

    def _axes(self) -> None:
        self.painter.setFont(self.theme.font(11))
        high = self.painter.fontMetrics().height()
        span = self.place.high - self.place.low
        step = next(
            s for s in (5, 10, 20, 50, 100, 200) if span / s <= max(2.0, (self.place.bottom - self.place.top) / (1.7 * high))
        )
        value = self.place.low
        while value <= self.place.high + 1e-9:
            y = self.place.y(value)
            self.painter.setPen(QPen(self.theme.colour("line"), 0.8))
            self.painter.drawLine(QPointF(self.place.left, y), QPointF(self.place.right, y))
            self.painter.setPen(self.theme.colour("quiet"))
            box = QRectF(0, y - high / 2, self.place.left - 6, high)
            self.painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, number(value))
            value += step
        self.painter.drawText(QRectF(self.place.left + 6, self.place.top - 2, 40, high), Qt.AlignmentFlag.AlignLeft, "°C")
        unit, words = (3600.0, "h") if self.place.end > 7200 else (60.0, "min") if self.place.end > 180 else (1.0, "s")
        whole = self.place.end / unit
        step_t = next((s for s in (0.5, 1, 2, 5, 10, 15, 20, 30, 60, 120, 300, 600) if whole / s <= 8), 1000)
        mark = 0.0
        while mark <= whole + 1e-9:
            x = self.place.x(mark * unit)
            self.painter.setPen(QPen(self.theme.colour("line"), 0.8))
            self.painter.drawLine(QPointF(x, self.place.bottom), QPointF(x, self.place.bottom + 4))
            self.painter.setPen(self.theme.colour("quiet"))
            text = f"{short(mark)} {words}" if mark == 0 or mark + step_t > whole + 1e-9 else short(mark)
            left = min(x - 40, self.place.right + 6 - 80) if mark else x - 40
            side = Qt.AlignmentFlag.AlignRight if left < x - 40 else Qt.AlignmentFlag.AlignHCenter
            self.painter.drawText(QRectF(left, self.place.bottom + 4, 80, high), side, text)
            mark += step_t

    def _limits(self) -> None:
        self.painter.setFont(self.theme.font(11))
        limits = {curve.limit for curve in self.picture.curves if curve.limit is not None}
        shown = [limit for limit in sorted(limits) if self.place.low < limit < self.place.high]
        self.painter.setPen(QPen(self.theme.colour("bad"), 1.0, Qt.PenStyle.DotLine))
        for limit in shown:
            self.painter.drawLine(QPointF(self.place.left, self.place.y(limit)), QPointF(self.place.right, self.place.y(limit)))
        if shown:
            words = f"limit{'s' if len(shown) > 1 else ''} {', '.join(number(limit) for limit in shown)} °C"
            self.painter.drawText(
                QRectF(self.place.left, self.place.y(shown[-1]) - 15, self.place.right - self.place.left - 6, 14),
                Qt.AlignmentFlag.AlignRight,
                words,
            )

    def _soaked(self) -> None:
        if self.picture.soak is None or not math.isfinite(self.picture.soak) or self.picture.soak >= self.place.end:
            return
        x = self.place.x(self.picture.soak)
        self.painter.setPen(QPen(self.theme.colour("steel"), 1.2, Qt.PenStyle.DashLine))
        self.painter.drawLine(QPointF(x, self.place.top), QPointF(x, self.place.bottom))
        self.painter.setFont(self.theme.font(11, bold=True))
        words = f"all within 1 K after {time_words(self.picture.soak)}"
        wide = self.painter.fontMetrics().horizontalAdvance(words)
        left = x + 6 if x + 6 + wide < self.place.right else x - 6 - wide
        self.painter.drawText(QPointF(left, self.place.bottom - 6), words)

    def _names(self, colours: list[tuple[QColor, Qt.PenStyle]]) -> None:
        """Names and figures beside the curves' ends, moved apart where they would lie on each other."""
        self.painter.setFont(self.theme.font(12))
        high = self.painter.fontMetrics().height()
        values = [
            float(c.values[-1] if self.at is None else np.interp(self.at, self.picture.times, c.values))
            for c in self.picture.curves
        ]
        order = sorted(range(len(values)), key=lambda k: -values[k])
        tops: dict[int, float] = {}
        top = self.place.top - high / 2
        for k in order:
            top = max(top, self.place.y(values[k]) - high / 2)
            tops[k] = top
            top += high
        over = max(0.0, top - self.place.bottom - high / 2)
        for k in order:
            colour, dash = colours[k]
            y = tops[k] - over
            self.painter.setPen(QPen(colour, 2.0, dash))
            self.painter.drawLine(QPointF(self.place.right + 4, y + high / 2), QPointF(self.place.right + 18, y + high / 2))
            self.painter.setPen(self.theme.colour("ink"))
            figure = f"{number(values[k], 1)}"
            name = self.painter.fontMetrics().elidedText(
                self.picture.curves[k].name, Qt.TextElideMode.ElideRight, int(self.theme.px(116))
            )
            self.painter.drawText(QRectF(self.place.right + 22, y, self.theme.px(118), high), Qt.AlignmentFlag.AlignLeft, name)
            self.painter.drawText(
                QRectF(self.place.right + 22, y, self.theme.px(_RIGHT) - 28, high), Qt.AlignmentFlag.AlignRight, figure
            )


def _colours(picture: CoursePicture, theme: Theme) -> list[tuple[QColor, Qt.PenStyle]]:
    return [(theme.colour(TINTS[curve.tint]), _DASHES[n % len(_DASHES)]) for n, curve in enumerate(picture.curves)]
