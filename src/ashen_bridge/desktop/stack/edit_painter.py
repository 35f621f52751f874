"""Draws what belongs to editing over the plan: choice, handles, guides, band, the box being drawn, the photo under it."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter, QPen, QTransform

from ashen_bridge.changes.boxes import Box
from ashen_bridge.desktop.charts.placement import Placement
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.stack.hand import HANDLES, HandPicture, handle_place, shown_handles
from ashen_bridge.desktop.stack.plan_model import Outline
from ashen_bridge.desktop.stack.plan_painter import free_place
from ashen_bridge.editing.tracing import Similarity

_HALF = 4.5


def paint_photo(painter: QPainter, image: QImage, map_: Similarity, place: Placement) -> None:
    """Lay a photo under the plan."""
    s = place.scale
    a, b = map_.a, map_.b
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.setTransform(
        QTransform(s * a.real, -s * a.imag, s * a.imag, s * a.real, place.x0 + s * b.real, place.y0 - s * b.imag), True
    )
    painter.drawImage(QPointF(0, 0), image)
    painter.restore()


def paint_outlines(painter: QPainter, outlines: tuple[Outline, ...], taken: list[QRectF], place: Placement, theme: Theme) -> None:
    """Draw the edges of landings, with their steps beside what is `taken`, and of pieces that have an outline of their own."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for outline in outlines:
        piece = outline.kind == "piece"
        painter.setBrush(theme.colour("pad", 0.25) if piece else Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.colour("steel"), 1.3, Qt.PenStyle.SolidLine if piece else Qt.PenStyle.DotLine))
        box = place.rect(outline.box)
        painter.drawRect(box)
        if outline.words:
            painter.setFont(theme.font(10))
            width, high = painter.fontMetrics().horizontalAdvance(outline.words) + 6, theme.px(14)
            rows = (box.top() - high, box.bottom(), box.bottom() - high, box.top())
            columns = (box.left(), box.right() - width, box.center().x() - width / 2)
            at = free_place([QRectF(x, y, width, high) for y in rows for x in columns], taken)
            if any(at.intersects(box) for box in taken):
                continue  # no room; the inspector has the figure
            taken.append(at)
            painter.fillRect(at, theme.colour("surface", 0.8))
            painter.setPen(theme.colour("steel"))
            painter.drawText(at, Qt.AlignmentFlag.AlignCenter, outline.words)


def paint_hand(painter: QPainter, hand: HandPicture, place: Placement, theme: Theme, size: tuple[float, float]) -> None:
    """Draw everything the hand shows."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(theme.colour("ember"), 2.0))
    for box in hand.chosen:
        painter.drawRect(place.rect(box))
    for x, y in hand.points:
        painter.drawEllipse(place.point(x, y), 10, 10)
    _guides(painter, hand, place, theme, size)
    if hand.handles is not None:
        painter.setPen(QPen(theme.colour("ember"), 1.4))
        painter.setBrush(theme.colour("raised"))
        seen = place.rect(hand.handles)
        for handle in HANDLES:
            if handle not in shown_handles(seen.width(), seen.height()):
                continue
            at = place.point(*handle_place(hand.handles, handle))
            painter.drawRect(QRectF(at.x() - _HALF, at.y() - _HALF, 2 * _HALF, 2 * _HALF))
    if hand.band is not None:
        painter.setPen(QPen(theme.colour("steel"), 1.2, Qt.PenStyle.DashLine))
        painter.setBrush(theme.colour("steel", 0.10))
        painter.drawRect(place.rect(hand.band))
    if hand.drawn is not None:
        painter.setPen(QPen(theme.colour("ember"), 1.6))
        painter.setBrush(theme.colour("ember", 0.16))
        painter.drawRect(place.rect(hand.drawn))
    if hand.words:
        _bubble(painter, hand.words, _under(hand, place), theme, size)


def _guides(painter: QPainter, hand: HandPicture, place: Placement, theme: Theme, size: tuple[float, float]) -> None:
    painter.setPen(QPen(theme.colour("steel"), 1.2, Qt.PenStyle.DashLine))
    for guide in hand.guides:
        if guide.axis == "x":
            a, b = place.point(guide.at, guide.low), place.point(guide.at, guide.high)
        else:
            a, b = place.point(guide.low, guide.at), place.point(guide.high, guide.at)
        painter.drawLine(a, b)
    del size


def _under(hand: HandPicture, place: Placement) -> QPointF:
    boxes: list[Box] = [hand.drawn] if hand.drawn else list(hand.chosen) or [(x, y, x, y) for x, y in hand.points]
    shown = [place.rect(box) for box in boxes]
    if not shown:
        return QPointF(20, 20)
    return QPointF(sum(box.center().x() for box in shown) / len(shown), max(box.bottom() for box in shown) + 10)


def _bubble(painter: QPainter, words: str, at: QPointF, theme: Theme, size: tuple[float, float]) -> None:
    painter.setFont(theme.font(12, bold=True))
    width = painter.fontMetrics().horizontalAdvance(words) + 14
    high = theme.px(20)
    left = min(max(at.x() - width / 2, 4.0), size[0] - width - 4)
    top = min(at.y(), size[1] - high - 4)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("ink"))
    painter.drawRoundedRect(QRectF(left, top, width, high), 4, 4)
    painter.setPen(theme.colour("surface"))
    painter.drawText(QRectF(left, top, width, high), Qt.AlignmentFlag.AlignCenter, words)
