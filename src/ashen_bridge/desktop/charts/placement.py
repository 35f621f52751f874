"""Where places on a board are drawn: millimetres to pixels."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF

MARGIN = 15.0


@dataclass(frozen=True)
class Placement:
    """Millimetres to pixels; y points up in plan. `mirrored` shows the rear: the board turned over like in the hand."""

    scale: float
    x0: float
    y0: float
    mirrored: bool = False

    @classmethod
    def fit(
        cls,
        extent: tuple[float, float, float, float],
        width: float,
        height: float,
        legend: bool = False,
        mirrored: bool = False,
    ) -> Placement:
        """Return the placement that shows all of `extent` in the middle of a widget, above the legend if there is one."""
        height -= 22 if legend else 0
        w, h = max(extent[2] - extent[0], 1e-6), max(extent[3] - extent[1], 1e-6)
        scale = max(0.05, min((width - 2 * MARGIN) / w, (height - 2 * MARGIN - 8) / h))
        left = -extent[2] if mirrored else extent[0]
        return cls(scale, (width - scale * w) / 2 - scale * left, (height - 8 + scale * h) / 2 + scale * extent[1], mirrored)

    def zoomed(self, factor: float, shift: QPointF, size: tuple[float, float]) -> Placement:
        """Return the placement enlarged about the widget's middle and then moved by `shift` [px]."""
        cx, cy = size[0] / 2, size[1] / 2
        x0 = cx + factor * (self.x0 - cx) + shift.x()
        return Placement(self.scale * factor, x0, cy + factor * (self.y0 - cy) + shift.y(), self.mirrored)

    def point(self, x: float, y: float) -> QPointF:
        """Return a place [mm] in pixels."""
        return QPointF(self.x0 + self.scale * (-x if self.mirrored else x), self.y0 - self.scale * y)

    def rect(self, box: tuple[float, float, float, float]) -> QRectF:
        """Return a box [mm] in pixels."""
        return QRectF(self.point(box[0], box[3]), self.point(box[2], box[1])).normalized()

    def place(self, at: QPointF) -> tuple[float, float]:
        """Return a pixel as a place [mm]."""
        x = (at.x() - self.x0) / self.scale
        return -x if self.mirrored else x, (self.y0 - at.y()) / self.scale
