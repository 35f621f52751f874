"""The application's own icons, drawn as strokes so that they follow the theme."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QIcon, QPainter, QPainterPath, QPen, QPixmap, QPolygonF

_SIZE = 64


def application_icon() -> QPixmap:
    """Return the picture of the application: two slabs, two blue piers and the ember joint between them."""
    pixmap = QPixmap(4 * _SIZE, 4 * _SIZE)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.scale(4, 4)
    painter.setPen(Qt.PenStyle.NoPen)
    for colour, x, y, w, h, r in (
        ("#e4dfd7", 2, 2, 60, 60, 13),
        ("#2a2725", 9, 13, 46, 9, 2.5),
        ("#335a78", 15, 25, 12, 15, 1.5),
        ("#335a78", 37, 25, 12, 15, 1.5),
        ("#b3410f", 28.5, 25, 7, 15, 1.5),
        ("#2a2725", 9, 43, 46, 9, 2.5),
    ):
        painter.setBrush(QColor(colour))
        painter.drawRoundedRect(QRectF(x, y, w, h), r, r)
    painter.end()
    return pixmap


def icon(name: str, colour: QColor) -> QIcon:
    """Return an icon by name in one colour."""
    pixmap = QPixmap(_SIZE, _SIZE)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.scale(_SIZE / 24, _SIZE / 24)
    painter.setPen(QPen(colour, 1.9, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
    _DRAW[name](painter, colour)
    painter.end()
    return QIcon(pixmap)


def _lines(painter: QPainter, *points: tuple[float, float]) -> None:
    painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in points]))


def _stack(painter: QPainter, colour: QColor) -> None:
    """A bridge of layers: two piers, a deck, and a thin ember line between."""
    for top, left, right in ((5, 3, 21), (17, 3, 21)):
        painter.drawRoundedRect(QRectF(left, top, right - left, 3.5), 1, 1)
    for x in (5.5, 14.5):
        painter.fillRect(QRectF(x, 10, 4, 5.5), colour)


def _undo(painter: QPainter, colour: QColor) -> None:
    path = QPainterPath(QPointF(5, 10))
    path.cubicTo(9, 5, 19, 6, 19, 13)
    path.cubicTo(19, 17, 15, 19, 11, 19)
    painter.drawPath(path)
    _lines(painter, (10, 11), (5, 10), (6, 5))


def _redo(painter: QPainter, colour: QColor) -> None:
    painter.translate(24, 0)
    painter.scale(-1, 1)
    _undo(painter, colour)


def _open(painter: QPainter, colour: QColor) -> None:
    _lines(painter, (3, 19), (3, 6), (9, 6), (11, 8.5), (19, 8.5), (19, 11))
    _lines(painter, (3, 19), (6.5, 11), (22, 11), (18.5, 19), (3, 19))


def _save(painter: QPainter, colour: QColor) -> None:
    _lines(painter, (12, 4), (12, 14))
    _lines(painter, (8, 10.5), (12, 14.5), (16, 10.5))
    _lines(painter, (4, 14), (4, 20), (20, 20), (20, 14))


def _theme(painter: QPainter, colour: QColor) -> None:
    painter.drawEllipse(QPointF(12, 12), 7.5, 7.5)
    path = QPainterPath(QPointF(12, 4.5))
    path.arcTo(QRectF(4.5, 4.5, 15, 15), 90, -180)
    path.closeSubpath()
    painter.fillPath(path, colour)


def _up(painter: QPainter, colour: QColor) -> None:
    _lines(painter, (7, 14), (12, 9), (17, 14))


def _down(painter: QPainter, colour: QColor) -> None:
    _lines(painter, (7, 10), (12, 15), (17, 10))


def _remove(painter: QPainter, colour: QColor) -> None:
    _lines(painter, (7, 7), (17, 17))
    _lines(painter, (17, 7), (7, 17))


def _menu(painter: QPainter, colour: QColor) -> None:
    for y in (7, 12, 17):
        _lines(painter, (5, y), (19, y))


def _pencil(painter: QPainter, colour: QColor) -> None:
    _lines(painter, (5, 19), (6, 15), (16, 5), (19, 8), (9, 18), (5, 19))


def _find(painter: QPainter, colour: QColor) -> None:
    painter.drawEllipse(QPointF(10.5, 10.5), 5.5, 5.5)
    _lines(painter, (14.7, 14.7), (19.5, 19.5))


def _guide(painter: QPainter, colour: QColor) -> None:
    _lines(painter, (12, 7), (9, 5.5), (4, 5.5), (4, 18), (9, 18), (12, 19.5), (15, 18), (20, 18), (20, 5.5), (15, 5.5), (12, 7))
    _lines(painter, (12, 7), (12, 19))


def _new(painter: QPainter, colour: QColor) -> None:
    painter.drawRoundedRect(QRectF(4, 4, 16, 16), 3, 3)
    _lines(painter, (12, 8.2), (12, 15.8))
    _lines(painter, (8.2, 12), (15.8, 12))


def _baseline(painter: QPainter, colour: QColor) -> None:
    """A curve that climbs and settles, over a floor."""
    path = QPainterPath(QPointF(3.5, 16.5))
    path.cubicTo(7, 6.5, 10, 6.5, 20.5, 6.5)
    painter.drawPath(path)
    _lines(painter, (3.5, 20), (20.5, 20))


def _prove(painter: QPainter, colour: QColor) -> None:
    """Two bars of uncertainty that meet, each with its dot."""
    for y, left, right, dot in ((8, 3.5, 17, 9), (16, 8, 20.5, 15)):
        _lines(painter, (left, y), (right, y))
        painter.setBrush(colour)
        painter.drawEllipse(QPointF(dot, y), 2.3, 2.3)
        painter.setBrush(Qt.BrushStyle.NoBrush)


_DRAW = {
    "baseline": _baseline,
    "prove": _prove,
    "new": _new,
    "menu": _menu,
    "pencil": _pencil,
    "find": _find,
    "guide": _guide,
    "stack": _stack,
    "undo": _undo,
    "redo": _redo,
    "open": _open,
    "save": _save,
    "theme": _theme,
    "up": _up,
    "down": _down,
    "remove": _remove,
}
