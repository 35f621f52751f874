"""Draws what people decide by: resistance over thickness, push-back over compression, several materials in one picture."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter, QPainterPath, QPen

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.planning.choosing.result import ShelfCurve
from ashen_bridge.words.numbers import short

_LEFT, _FOOT, _HEAD, _RIGHT = 46.0, 34.0, 26.0, 14.0
TICKS = 4
Points = Sequence[tuple[float, float]]


def nice(most: float) -> float:
    """Return a round step of which `TICKS` reach `most`.

    >>> nice(545.0), nice(3.06), nice(61.2)
    (150.0, 0.8, 16.0)
    """
    wanted = max(most, 1e-9) / TICKS
    size = 10.0 ** math.floor(math.log10(wanted))
    return next(
        round(size * one, 12) for one in (1.0, 1.2, 1.5, 1.6, 2.0, 2.5, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0) if size * one >= wanted
    )


def paint_resistance(
    painter: QPainter, box: QRectF, theme: Theme, shown: Sequence[tuple[ShelfCurve, str]], pressure_kpa: float
) -> None:
    """Draw resistance over free thickness."""
    lines = [list(zip(one.thickness_mm, one.resistance, strict=True)) for one, _ in shown]
    _chart(
        painter,
        box,
        theme,
        (lines, [role for _, role in shown]),
        f"mm²·K/W at {short(pressure_kpa, 3)} kPa, over thickness in mm",
        dots=True,
    )


def paint_push(
    painter: QPainter, box: QRectF, theme: Theme, shown: Sequence[tuple[ShelfCurve, str]], thickness_mm: float
) -> None:
    """Draw push-back over compression."""
    lines = [[(100 * x, y) for x, y in zip(one.strain, one.push_kpa, strict=True)] for one, _ in shown]
    _chart(
        painter,
        box,
        theme,
        (lines, [role for _, role in shown]),
        f"kPa of push-back of {short(thickness_mm)} mm, over compression in %",
        most=900.0,
    )


def _chart(
    painter: QPainter,
    box: QRectF,
    theme: Theme,
    given: tuple[Sequence[Points], Sequence[str]],
    title: str,
    dots: bool = False,
    most: float = 1e9,
) -> None:
    lines, tints = given
    points = [point for line in lines for point in line]
    inner = box.adjusted(theme.px(_LEFT), theme.px(_HEAD), -_RIGHT, -theme.px(_FOOT))
    painter.setFont(theme.font(12, bold=True))
    painter.setPen(theme.colour("ink"))
    painter.drawText(
        QRectF(box.left() + 4, box.top(), box.width() - 8, theme.px(_HEAD)), int(Qt.AlignmentFlag.AlignVCenter), title
    )
    if not points:
        painter.setPen(theme.colour("quiet"))
        painter.drawText(inner, int(Qt.AlignmentFlag.AlignCenter), "Nothing chosen has such a curve")
        return
    step_x, step_y = nice(max(x for x, _ in points) * 1.02), nice(min(max(y for _, y in points) * 1.02, most))
    high_x, high_y = TICKS * step_x, TICKS * step_y
    _axes(painter, inner, theme, high_x, high_y)

    def at(x: float, y: float) -> QPointF:
        return QPointF(inner.left() + inner.width() * x / high_x, inner.bottom() - inner.height() * min(y, high_y * 1.2) / high_y)

    painter.save()
    painter.setClipRect(inner.adjusted(-4, -4, 6, 4))
    for n, line in enumerate(lines):
        _line(painter, theme, theme.colour(tints[n]), line, at, dots)
    painter.restore()


def _line(
    painter: QPainter, theme: Theme, colour: QColor, line: Points, at: Callable[[float, float], QPointF], dots: bool
) -> None:
    if not line:
        return
    path = QPainterPath(at(*line[0]))
    for point in line[1:]:
        path.lineTo(at(*point))
    painter.setPen(QPen(colour, 2.0))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(path)
    if dots or len(line) == 1:
        painter.setBrush(colour)
        for point in line:
            painter.drawEllipse(at(*point), theme.px(3.2), theme.px(3.2))


def _axes(painter: QPainter, inner: QRectF, theme: Theme, high_x: float, high_y: float) -> None:
    painter.setFont(theme.font(11))
    metrics = QFontMetricsF(painter.font())
    for n in range(TICKS + 1):
        y = inner.bottom() - inner.height() * n / TICKS
        painter.setPen(QPen(theme.colour("line"), 1.0))
        painter.drawLine(QPointF(inner.left(), y), QPointF(inner.right(), y))
        painter.setPen(theme.colour("quiet"))
        words = short(high_y * n / TICKS, 4)
        painter.drawText(QPointF(inner.left() - 6 - metrics.horizontalAdvance(words), y + metrics.ascent() / 2 - 1), words)
        x = inner.left() + inner.width() * n / TICKS
        words = short(high_x * n / TICKS, 4)
        painter.drawText(QPointF(x - metrics.horizontalAdvance(words) / 2, inner.bottom() + metrics.height() + 2), words)
