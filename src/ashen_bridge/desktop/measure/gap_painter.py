"""Draws the plan of gaps: each with a ring that closes as it becomes known."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from ashen_bridge.desktop.charts.outlines import draw_solid
from ashen_bridge.desktop.charts.placement import Placement
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.measure.gap_picture import GapPicture, Mark
from ashen_bridge.words.numbers import number

_ROOMY, _NARROW = 46.0, 22.0  # [px] of a part from which ± stands below its gap, and under which nothing is written
_FULL = 360 * 16


@dataclass(frozen=True)
class GapPainting:
    """A plan of gaps on a painter."""

    painter: QPainter
    place: Placement
    theme: Theme

    def paint(self, picture: GapPicture, size: QRectF) -> None:
        """Draw everything."""
        painter, theme = self.painter, self.theme
        painter.fillRect(size, theme.colour("surface"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for outline in picture.outlines:
            draw_solid(painter, outline, self.place, theme)
        for mark in picture.marks:
            self._mark(mark, picture.stale)
        if picture.words:
            painter.setPen(theme.colour("quiet"))
            painter.setFont(theme.font(13))
            flags = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignBottom | Qt.TextFlag.TextWordWrap
            painter.drawText(size.adjusted(20, 0, -20, -8), int(flags.value), picture.words)
        elif picture.marks:
            self._key(size)

    def _mark(self, mark: Mark, stale: bool) -> None:
        painter, theme = self.painter, self.theme
        box = self.place.rect(mark.box)
        side = min(box.width(), box.height())
        if mark.selected:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(theme.colour("ember"), 2.4))
            painter.drawRoundedRect(box.adjusted(-3, -3, 3, 3), 4, 4)
        wide = max(3.0, min(side * 0.09, 7.0))
        ring = QRectF(0, 0, side - wide - 5, side - wide - 5)
        ring.moveCenter(box.center())
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.colour("ink", 0.22), wide))
        painter.drawEllipse(ring)
        role = "stale" if stale else "bad" if mark.odd else "steel" if mark.told else "quiet"
        pen = QPen(theme.colour(role), wide)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        if not mark.told:
            pen.setDashPattern([0.6, 0.5])  # what nobody measured is dotted, whatever its ±
        painter.setPen(pen)
        painter.drawArc(ring, 90 * 16, -round(_FULL * mark.sure))
        figure, spread = _figures(mark)
        if side < theme.px(_NARROW):
            # No room inside: beside it, towards the board's left.
            painter.setFont(theme.font(10, bold=mark.selected))
            painter.setPen(theme.colour("ink"))
            beside = QRectF(box.left() - theme.px(40), box.top() - 6, theme.px(37), box.height() + 12)
            painter.drawText(beside, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, figure)
            return
        painter.setPen(theme.ink_on(theme.colour("part")))
        roomy = side >= theme.px(_ROOMY)
        painter.setFont(theme.font(min(16.0, max(9.5, side * 0.24 / theme.scale)), bold=True))
        middle = box.adjusted(0, -side * 0.12, 0, -side * 0.12) if roomy else box
        painter.drawText(middle, Qt.AlignmentFlag.AlignCenter, figure)
        if roomy:
            painter.setFont(theme.font(min(12.0, side * 0.17 / theme.scale)))
            painter.drawText(box.adjusted(0, side * 0.19, 0, side * 0.19), Qt.AlignmentFlag.AlignCenter, spread)

    def _key(self, size: QRectF) -> None:
        """Say below the plan how rings are read."""
        painter, theme = self.painter, self.theme
        painter.setFont(theme.font(11))
        at, y = size.left() + 12, size.bottom() - theme.px(11)
        for told, sure, words in (
            (True, 1.0, "known to ± 0.02 mm"),
            (True, 0.4, "less well"),
            (False, 0.6, "nobody measured it"),
        ):
            ring = QRectF(at, y - 6, 12, 12)
            painter.setPen(QPen(theme.colour("ink", 0.22), 3))
            painter.drawEllipse(ring)
            pen = QPen(theme.colour("steel" if told else "quiet"), 3)
            pen.setCapStyle(Qt.PenCapStyle.FlatCap)
            if not told:
                pen.setDashPattern([0.6, 0.5])
            painter.setPen(pen)
            painter.drawArc(ring, 90 * 16, -round(_FULL * sure))
            painter.setPen(theme.colour("quiet"))
            painter.drawText(QPointF(at + 18, y + theme.px(4)), words)
            at += 18 + painter.fontMetrics().horizontalAdvance(words) + theme.px(16)
        words = "figures in mm: gap to fill, standard uncertainty"
        if at + painter.fontMetrics().horizontalAdvance(words) < size.right() - 8:
            painter.drawText(QPointF(at, y + theme.px(4)), words)


def _figures(mark: Mark) -> tuple[str, str]:
    """Return a gap and its ±: in micrometres where it is a bond line."""
    if 0 < mark.gap_mm < 0.1:
        return f"{number(mark.gap_mm * 1e3)} µm", f"± {number(mark.sd_mm * 1e3, 1)}"
    return number(mark.gap_mm, 2), f"± {number(mark.sd_mm, 2)}"
