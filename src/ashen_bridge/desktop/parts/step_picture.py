"""What a landing's step means, as a picture: + is set back from the reference plane, − stands out."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QApplication, QWidget


class StepPicture(QWidget):
    """A small section of a plate over a part, with both signs."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setMinimumHeight(92)
        self.setAccessibleName(
            "A landing set back from the plate's plane has a positive step; one that stands out a negative step"
        )

    def sizeHint(self) -> QSize:
        return QSize(360, 92)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        ink = QApplication.palette().windowText().color()
        w = self.width()
        plane, top, back, out = 40.0, 8.0, 24.0, 58.0
        edges = [0.06 * w, 0.2 * w, 0.38 * w, 0.62 * w, 0.8 * w, 0.94 * w]
        outline = [
            (edges[0], top),
            (edges[5], top),
            (edges[5], plane),
            (edges[4], plane),
            (edges[4], out),
            (edges[3], out),
            (edges[3], plane),
            (edges[2], plane),
            (edges[2], back),
            (edges[1], back),
            (edges[1], plane),
            (edges[0], plane),
        ]
        soft = QColor(ink)
        soft.setAlphaF(0.18)
        painter.setBrush(soft)
        painter.setPen(QPen(ink, 1.2))
        painter.drawPolygon(QPolygonF([QPointF(x, y) for x, y in outline]))
        painter.setPen(QPen(ink, 1.0, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(4, plane), QPointF(w - 4, plane))
        for x, y, sign in (((edges[1] + edges[2]) / 2, back, "+"), ((edges[3] + edges[4]) / 2, out, "−")):
            painter.setPen(QPen(ink, 1.6))
            painter.drawLine(QPointF(x, plane), QPointF(x, y))
            painter.drawEllipse(QPointF(x, y), 2.2, 2.2)
            words = "+ set back" if sign == "+" else "− stands out"
            at = QRectF(x - 70, 62, 140, 16)
            painter.drawText(at, Qt.AlignmentFlag.AlignCenter, words)
        painter.setPen(QPen(ink, 1.0))
        painter.drawText(
            QRectF(0, 76, w, 16), Qt.AlignmentFlag.AlignCenter, "dashed: the plate's reference plane; the parts are below it"
        )
