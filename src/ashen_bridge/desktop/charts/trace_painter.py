"""Draws curves of a log with their names and figures, the settled window, limits, and a reading line."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from ashen_bridge.desktop.charts.thinning import polygon, thinned
from ashen_bridge.desktop.charts.trace_picture import Frame, Trace, TracePicture, TracePlacement, nice_step
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.words.numbers import number
from ashen_bridge.words.times import time_words

TINTS = ("ember", "steel", "good", "warn", "ink", "bad", "quiet")
HANDLE = 7.0  # [px] half width of what can be grasped


def tint(theme: Theme, number_of: int) -> QColor:
    """Return the colour a curve of that number has."""
    return theme.colour(TINTS[number_of % len(TINTS)])


def paint_traces(painter: QPainter, picture: TracePicture, place: TracePlacement, theme: Theme, at: float | None) -> None:
    """Draw everything; `at` is the time [s] of the reading line, if there is one."""
    for ground in (place.upper, place.lower):
        if ground is not None:
            box = QRectF(place.left, ground.top, place.right - place.left, ground.bottom - ground.top)
            painter.fillRect(box, theme.colour("air"))
    if picture.window_s is not None:
        _window(painter, picture, place, theme)
    for frame, traces in ((place.upper, picture.upper), (place.lower, picture.lower)):
        if frame is None:
            continue
        _scale(painter, frame, traces, place, theme, picture.title if frame is place.upper else "")
        painter.save()
        painter.setClipRect(QRectF(place.left, frame.top - 2, place.right - place.left, frame.bottom - frame.top + 4))
        for one in sorted(traces, key=lambda trace: trace.tint is not None):
            _curve(painter, one, frame, place, theme)
        painter.restore()
        _names(painter, traces, frame, place, theme, at)
    if place.upper is not None:
        _limits(painter, picture, place.upper, place, theme)
    _times(painter, place, theme)
    if at is not None and place.start <= at <= place.end:
        painter.setPen(QPen(theme.colour("ink", 0.5), 1.0))
        for frame in (place.upper, place.lower):
            if frame is not None:
                painter.drawLine(QPointF(place.x(at), frame.top), QPointF(place.x(at), frame.bottom))


def _curve(painter: QPainter, one: Trace, frame: Frame, place: TracePlacement, theme: Theme) -> None:
    pixels = int(place.right - place.left)
    # A wide or smooth pen costs most of a frame on many points: background curves get the plainest one and half the points.
    plain = one.tint is None
    t, v = thinned(one.time_s, one.values, place.start, place.end, pixels // 2 if plain else pixels)
    first, last = np.searchsorted(one.time_s, [place.start, place.end])
    dense = last - first > 1.5 * pixels
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, not (dense or plain))
    colour = theme.colour("line") if one.tint is None else tint(theme, one.tint)
    style = Qt.PenStyle.DashLine if one.dashed and not dense else Qt.PenStyle.SolidLine
    painter.setPen(QPen(colour, 0.0 if dense or plain else 1.6, style))
    scale = (place.right - place.left) / (place.end - place.start)
    x = place.left + (t - place.start) * scale
    y = frame.bottom - (v - frame.low) * ((frame.bottom - frame.top) / (frame.high - frame.low))
    painter.drawPolyline(polygon(x, y))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)


def _window(painter: QPainter, picture: TracePicture, place: TracePlacement, theme: Theme) -> None:
    assert picture.window_s is not None
    first, last = (min(max(place.x(one), place.left), place.right) for one in picture.window_s)
    frames = [frame for frame in (place.upper, place.lower) if frame is not None]
    top, bottom = frames[0].top, frames[-1].bottom
    painter.fillRect(QRectF(first, top, max(last - first, 1.0), bottom - top), theme.colour("steel_soft", 0.75))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for x in (first, last):
        painter.setPen(QPen(theme.colour("steel"), 1.4))
        painter.drawLine(QPointF(x, top), QPointF(x, bottom))
        if picture.movable:
            painter.setBrush(theme.colour("steel"))
            painter.drawRoundedRect(QRectF(x - 3.5, (top + bottom) / 2 - 13, 7, 26), 3, 3)
    painter.setFont(theme.font(11, bold=True))
    words = f"{'set by hand' if picture.by_hand else 'settled'}: {time_words(picture.window_s[1] - picture.window_s[0])}"
    wide = painter.fontMetrics().horizontalAdvance(words)
    painter.setPen(theme.colour("steel"))
    left = first + 6 if first + 6 + wide < place.right else first - 6 - wide
    painter.drawText(QPointF(left, top + theme.px(14)), words)


def _scale(painter: QPainter, frame: Frame, traces: tuple[Trace, ...], place: TracePlacement, theme: Theme, title: str) -> None:
    painter.setFont(theme.font(11))
    high = painter.fontMetrics().height()
    step = nice_step(frame.high - frame.low, max(1.0, min(6.0, (frame.bottom - frame.top) / (1.7 * high))))
    digits = 0 if step >= 1 else 1 if step >= 0.1 else 2
    count = round((frame.high - frame.low) / step)
    for k in range(count + 1):
        value = frame.low + k * step
        y = frame.y(value)
        painter.setPen(QPen(theme.colour("line", 0.7), 0.8))
        painter.drawLine(QPointF(place.left, y), QPointF(place.right, y))
        painter.setPen(theme.colour("quiet"))
        box = QRectF(0, y - high / 2, place.left - 6, high)
        painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, number(value, digits))
    units = " / ".join(sorted({one.unit for one in traces if one.unit})[:2])
    words = f"{title} [{units}]" if title else units
    painter.setFont(theme.font(12 if title else 11, bold=bool(title)))
    painter.drawText(QRectF(place.left + 5, frame.top + 1, 400, high + 4), Qt.AlignmentFlag.AlignLeft, words)


def _limits(painter: QPainter, picture: TracePicture, frame: Frame, place: TracePlacement, theme: Theme) -> None:
    shown = [limit for limit in sorted(set(picture.limits)) if frame.low < limit < frame.high]
    if not shown:
        return
    painter.setPen(QPen(theme.colour("bad"), 1.0, Qt.PenStyle.DotLine))
    for limit in shown:
        painter.drawLine(QPointF(place.left, frame.y(limit)), QPointF(place.right, frame.y(limit)))
    painter.setFont(theme.font(11))
    words = f"limit{'s' if len(shown) > 1 else ''} {', '.join(number(limit) for limit in shown)} °C"
    box = QRectF(place.left, frame.y(shown[-1]) - theme.px(15), theme.px(150), theme.px(14))
    ground = QRectF(box.x() + 4, box.y(), painter.fontMetrics().horizontalAdvance(words) + 4, box.height())
    painter.fillRect(ground, theme.colour("air", 0.8))
    painter.drawText(box.adjusted(6, 0, 0, 0), Qt.AlignmentFlag.AlignLeft, words)


def _times(painter: QPainter, place: TracePlacement, theme: Theme) -> None:
    painter.setFont(theme.font(11))
    high = painter.fontMetrics().height()
    span = place.end - place.start
    unit, words = (3600.0, "h") if place.end > 7200 else (60.0, "min") if place.end > 180 else (1.0, "s")
    most = max(2.0, (place.right - place.left) / theme.px(90))
    steps = [s for s in (0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 20, 30, 60, 120, 300, 600, 1800) if span / unit / s <= most]
    step = (steps[0] if steps else 3600.0) * unit
    frame = place.lower or place.upper
    bottom = frame.bottom if frame is not None else 0.0
    mark = step * -(-place.start // step)
    while mark <= place.end + 1e-9:
        x = place.x(mark)
        painter.setPen(QPen(theme.colour("line"), 0.8))
        painter.drawLine(QPointF(x, bottom), QPointF(x, bottom + 4))
        painter.setPen(theme.colour("quiet"))
        last = mark + step > place.end + 1e-9
        text = f"{number(mark / unit, 0 if step >= unit else 1)}{' ' + words if last else ''}"
        left = min(x - 40, place.right + 10 - 80)
        side = Qt.AlignmentFlag.AlignRight if left < x - 40 else Qt.AlignmentFlag.AlignHCenter
        painter.drawText(QRectF(left, bottom + 5, 80, high), side, text)
        mark += step


def _names(
    painter: QPainter, traces: tuple[Trace, ...], frame: Frame, place: TracePlacement, theme: Theme, at: float | None
) -> None:
    """Names and figures beside the curves, moved apart where they would lie on each other."""
    painter.setFont(theme.font(12))
    high = painter.fontMetrics().height()
    when = place.end if at is None else at
    named = [(one, one.at(when)) for one in traces if one.tint is not None]
    rows = sorted(((one, value) for one, value in named if value is not None), key=lambda row: -row[1])
    tops: list[float] = []
    top = frame.top - high / 2
    for _, value in rows:
        top = max(top, frame.y(min(max(value, frame.low), frame.high)) - high / 2)
        tops.append(top)
        top += high
    over = max(0.0, top - frame.bottom - high / 2)
    right = place.names_end
    for (one, value), y in zip(rows, tops, strict=True):
        colour = tint(theme, one.tint or 0)
        y -= over
        painter.setPen(QPen(colour, 2.0, Qt.PenStyle.DashLine if one.dashed else Qt.PenStyle.SolidLine))
        painter.drawLine(QPointF(place.right + 5, y + high / 2), QPointF(place.right + 20, y + high / 2))
        painter.setPen(theme.colour("ink"))
        figure = number(value, 0 if abs(value) >= 1000 else 1)
        wide = painter.fontMetrics().horizontalAdvance(figure)
        room = int(right - place.right - 24 - wide - 8)
        name = painter.fontMetrics().elidedText(one.name, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QRectF(place.right + 24, y, room + 4, high), Qt.AlignmentFlag.AlignLeft, name)
        painter.drawText(QRectF(right - wide - 4, y, wide + 4, high), Qt.AlignmentFlag.AlignRight, figure)
