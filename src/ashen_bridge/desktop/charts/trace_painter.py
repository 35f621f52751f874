"""Draws curves of a log with their names and figures, the settled window, limits, and a reading line."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from ashen_bridge.desktop.charts.thinning import polygon, thinned
from ashen_bridge.desktop.charts.tints import TINTS
from ashen_bridge.desktop.charts.trace_picture import Frame, Trace, TracePicture, TracePlacement, nice_step
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.words.numbers import number
from ashen_bridge.words.times import time_words

HANDLE = 7.0  # [px] half width of what can be grasped


def tint(theme: Theme, number_of: int) -> QColor:
    """Return the colour a curve of that number has."""
    return theme.colour(TINTS[number_of % len(TINTS)])


@dataclass(frozen=True)
class TracePainting:
    """Curves of a log on a painter; `at` is the time [s] of the reading line, if there is one."""

    painter: QPainter
    place: TracePlacement
    theme: Theme
    at: float | None

    def paint(self, picture: TracePicture) -> None:
        """Draw everything."""
        for ground in (self.place.upper, self.place.lower):
            if ground is not None:
                box = QRectF(self.place.left, ground.top, self.place.right - self.place.left, ground.bottom - ground.top)
                self.painter.fillRect(box, self.theme.colour("air"))
        if picture.window_s is not None:
            self._window(picture)
        for frame, traces in ((self.place.upper, picture.upper), (self.place.lower, picture.lower)):
            if frame is None:
                continue
            self._scale(frame, traces, picture.title if frame is self.place.upper else "")
            self.painter.save()
            self.painter.setClipRect(
                QRectF(self.place.left, frame.top - 2, self.place.right - self.place.left, frame.bottom - frame.top + 4)
            )
            for one in sorted(traces, key=lambda trace: trace.tint is not None):
                self._curve(one, frame)
            self.painter.restore()
            self._names(traces, frame)
        if self.place.upper is not None:
            self._limits(picture, self.place.upper)
        self._times()
        if self.at is not None and self.place.start <= self.at <= self.place.end:
            self.painter.setPen(QPen(self.theme.colour("ink", 0.5), 1.0))
            for frame in (self.place.upper, self.place.lower):
                if frame is not None:
                    self.painter.drawLine(QPointF(self.place.x(self.at), frame.top), QPointF(self.place.x(self.at), frame.bottom))

    def _curve(self, one: Trace, frame: Frame) -> None:
        pixels = int(self.place.right - self.place.left)
        # A wide or smooth pen costs most of a frame on many points: background curves get the plainest one and half the points.
        plain = one.tint is None
        t, v = thinned(one.time_s, one.values, self.place.start, self.place.end, pixels // 2 if plain else pixels)
        first, last = np.searchsorted(one.time_s, [self.place.start, self.place.end])
        dense = last - first > 1.5 * pixels
        self.painter.setRenderHint(QPainter.RenderHint.Antialiasing, not (dense or plain))
        colour = self.theme.colour("line") if one.tint is None else tint(self.theme, one.tint)
        style = Qt.PenStyle.DashLine if one.dashed and not dense else Qt.PenStyle.SolidLine
        self.painter.setPen(QPen(colour, 0.0 if dense or plain else 1.6, style))
        scale = (self.place.right - self.place.left) / (self.place.end - self.place.start)
        x = self.place.left + (t - self.place.start) * scale
        y = frame.bottom - (v - frame.low) * ((frame.bottom - frame.top) / (frame.high - frame.low))
        self.painter.drawPolyline(polygon(x, y))
        self.painter.setRenderHint(QPainter.RenderHint.Antialiasing)

    def _window(self, picture: TracePicture) -> None:
        assert picture.window_s is not None
        first, last = (min(max(self.place.x(one), self.place.left), self.place.right) for one in picture.window_s)
        frames = [frame for frame in (self.place.upper, self.place.lower) if frame is not None]
        top, bottom = frames[0].top, frames[-1].bottom
        self.painter.fillRect(QRectF(first, top, max(last - first, 1.0), bottom - top), self.theme.colour("steel_soft", 0.75))
        self.painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for x in (first, last):
            self.painter.setPen(QPen(self.theme.colour("steel"), 1.4))
            self.painter.drawLine(QPointF(x, top), QPointF(x, bottom))
            if picture.movable:
                self.painter.setBrush(self.theme.colour("steel"))
                self.painter.drawRoundedRect(QRectF(x - 3.5, (top + bottom) / 2 - 13, 7, 26), 3, 3)
        self.painter.setFont(self.theme.font(11, bold=True))
        words = f"{'set by hand' if picture.by_hand else 'settled'}: {time_words(picture.window_s[1] - picture.window_s[0])}"
        wide = self.painter.fontMetrics().horizontalAdvance(words)
        self.painter.setPen(self.theme.colour("steel"))
        left = first + 6 if first + 6 + wide < self.place.right else first - 6 - wide
        self.painter.drawText(QPointF(left, top + self.theme.px(14)), words)

    def _scale(self, frame: Frame, traces: tuple[Trace, ...], title: str) -> None:
        self.painter.setFont(self.theme.font(11))
        high = self.painter.fontMetrics().height()
        step = nice_step(frame.high - frame.low, max(1.0, min(6.0, (frame.bottom - frame.top) / (1.7 * high))))
        digits = 0 if step >= 1 else 1 if step >= 0.1 else 2
        count = round((frame.high - frame.low) / step)
        for k in range(count + 1):
            value = frame.low + k * step
            y = frame.y(value)
            self.painter.setPen(QPen(self.theme.colour("line", 0.7), 0.8))
            self.painter.drawLine(QPointF(self.place.left, y), QPointF(self.place.right, y))
            above = self.place.upper if frame is self.place.lower else None
            if above is not None and y - above.bottom < high:
                continue  # the foot of the curves above has its figure there
            self.painter.setPen(self.theme.colour("quiet"))
            box = QRectF(0, y - high / 2, self.place.left - 6, high)
            self.painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, number(value, digits))
        units = " / ".join(sorted({one.unit for one in traces if one.unit})[:2])
        words = f"{title} [{units}]" if title else units
        self.painter.setFont(self.theme.font(12 if title else 11, bold=bool(title)))
        self.painter.drawText(QRectF(self.place.left + 5, frame.top + 1, 400, high + 4), Qt.AlignmentFlag.AlignLeft, words)

    def _limits(self, picture: TracePicture, frame: Frame) -> None:
        shown = [limit for limit in sorted(set(picture.limits)) if frame.low < limit < frame.high]
        if not shown:
            return
        self.painter.setPen(QPen(self.theme.colour("bad"), 1.0, Qt.PenStyle.DotLine))
        for limit in shown:
            self.painter.drawLine(QPointF(self.place.left, frame.y(limit)), QPointF(self.place.right, frame.y(limit)))
        self.painter.setFont(self.theme.font(11))
        words = f"limit{'s' if len(shown) > 1 else ''} {', '.join(number(limit) for limit in shown)} °C"
        left = self.place.left + self.theme.px(32)  # beside the unit, which stands at the top
        box = QRectF(left, frame.y(shown[-1]) - self.theme.px(15), self.theme.px(150), self.theme.px(14))
        ground = QRectF(box.x() + 4, box.y(), self.painter.fontMetrics().horizontalAdvance(words) + 4, box.height())
        self.painter.fillRect(ground, self.theme.colour("air", 0.8))
        self.painter.drawText(box.adjusted(6, 0, 0, 0), Qt.AlignmentFlag.AlignLeft, words)

    def _times(self) -> None:
        self.painter.setFont(self.theme.font(11))
        high = self.painter.fontMetrics().height()
        span = self.place.end - self.place.start
        unit, words = (3600.0, "h") if self.place.end > 7200 else (60.0, "min") if self.place.end > 180 else (1.0, "s")
        most = max(2.0, (self.place.right - self.place.left) / self.theme.px(90))
        steps = [s for s in (0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 20, 30, 60, 120, 300, 600, 1800) if span / unit / s <= most]
        step = (steps[0] if steps else 3600.0) * unit
        frame = self.place.lower or self.place.upper
        bottom = frame.bottom if frame is not None else 0.0
        mark = step * -(-self.place.start // step)
        while mark <= self.place.end + 1e-9:
            x = self.place.x(mark)
            self.painter.setPen(QPen(self.theme.colour("line"), 0.8))
            self.painter.drawLine(QPointF(x, bottom), QPointF(x, bottom + 4))
            self.painter.setPen(self.theme.colour("quiet"))
            last = mark + step > self.place.end + 1e-9
            text = f"{number(mark / unit, 0 if step >= unit else 1)}{' ' + words if last else ''}"
            left = min(x - 40, self.place.right + 10 - 80)
            side = Qt.AlignmentFlag.AlignRight if left < x - 40 else Qt.AlignmentFlag.AlignHCenter
            self.painter.drawText(QRectF(left, bottom + 5, 80, high), side, text)
            mark += step

    def _names(self, traces: tuple[Trace, ...], frame: Frame) -> None:
        """Names and figures beside the curves, moved apart where they would lie on each other."""
        self.painter.setFont(self.theme.font(12))
        high = self.painter.fontMetrics().height()
        when = self.place.end if self.at is None else self.at
        named = [(one, one.at(when)) for one in traces if one.tint is not None]
        rows = sorted(((one, value) for one, value in named if value is not None), key=lambda row: -row[1])
        tops: list[float] = []
        top = frame.top - high / 2
        for _, value in rows:
            top = max(top, frame.y(min(max(value, frame.low), frame.high)) - high / 2)
            tops.append(top)
            top += high
        over = max(0.0, top - frame.bottom - high / 2)
        right = self.place.names_end
        for (one, value), y in zip(rows, tops, strict=True):
            colour = tint(self.theme, one.tint or 0)
            y -= over
            self.painter.setPen(QPen(colour, 2.0, Qt.PenStyle.DashLine if one.dashed else Qt.PenStyle.SolidLine))
            self.painter.drawLine(QPointF(self.place.right + 5, y + high / 2), QPointF(self.place.right + 20, y + high / 2))
            self.painter.setPen(self.theme.colour("ink"))
            figure = number(value, 0 if abs(value) >= 1000 else 1)
            wide = self.painter.fontMetrics().horizontalAdvance(figure)
            room = int(right - self.place.right - 24 - wide - 8)
            name = self.painter.fontMetrics().elidedText(one.name, Qt.TextElideMode.ElideRight, room)
            self.painter.drawText(QRectF(self.place.right + 24, y, room + 4, high), Qt.AlignmentFlag.AlignLeft, name)
            self.painter.drawText(QRectF(right - wide - 4, y, wide + 4, high), Qt.AlignmentFlag.AlignRight, figure)
