"""A pad's pressure over its compression: the curve, its points, and what a stock thickness would feel."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.editing.materials import Curve
from ashen_bridge.words.numbers import number

_LEFT, _RIGHT, _TOP, _BOTTOM = 50.0, 14.0, 14.0, 34.0


class CurveView(QWidget):
    """A small plot."""

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme = theme
        self._curve: Curve = ()
        self.setMinimumHeight(150)
        self.setAccessibleName("Pressure over compression")

    def sizeHint(self) -> QSize:
        return QSize(320, 180)

    def show_curve(self, curve: Curve) -> None:
        """Show a curve."""
        self._curve = curve
        points = ", ".join(f"{100 * strain:g} % {pressure:g} kPa" for strain, pressure in curve)
        self.setAccessibleDescription(points)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.theme
        box = QRectF(_LEFT, _TOP, self.width() - _LEFT - _RIGHT, self.height() - _TOP - _BOTTOM)
        painter.fillRect(box, theme.colour("raised"))
        if len(self._curve) < 2:
            return
        top_strain = max(strain for strain, _ in self._curve)
        top_pressure = max(pressure for _, pressure in self._curve) * 1.05

        def at(strain: float, pressure: float) -> QPointF:
            return QPointF(box.left() + box.width() * strain / top_strain, box.bottom() - box.height() * pressure / top_pressure)

        painter.setFont(theme.font(11))
        for share in (0.0, 0.25, 0.5, 0.75, 1.0):
            painter.setPen(QPen(theme.colour("line"), 0.8))
            y, x = box.bottom() - share * box.height(), box.left() + share * box.width()
            painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
            painter.setPen(theme.colour("quiet"))
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(QRectF(0, y - 8, _LEFT - 6, 16), right, number(share * top_pressure))
            painter.drawText(
                QRectF(x - 30, box.bottom() + 2, 60, 15), Qt.AlignmentFlag.AlignCenter, number(100 * share * top_strain)
            )
        painter.drawText(
            QRectF(box.left(), box.bottom() + 16, box.width(), 16),
            Qt.AlignmentFlag.AlignCenter,
            "compression [%] → pressure [kPa]",
        )
        path = QPainterPath(at(*self._curve[0]))
        for point in self._curve[1:]:
            path.lineTo(at(*point))
        painter.setPen(QPen(theme.colour("steel"), 2.0))
        painter.drawPath(path)
        painter.setBrush(theme.colour("steel"))
        for point in self._curve:
            painter.drawEllipse(at(*point), 3.2, 3.2)
