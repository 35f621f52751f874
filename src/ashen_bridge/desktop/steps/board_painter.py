"""Draws the board as it lies open."""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFont, QPainter, QPen

from ashen_bridge.desktop.charts.outlines import Outline, draw_solid, path_of
from ashen_bridge.desktop.charts.placement import Placement
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.steps.board_picture import BoardPicture, PlugMark, ScrewMark
from ashen_bridge.desktop.steps.contact_mark import ContactMark

SCREW = 11.0
"""Radius of a screw's number [px at the usual text size]."""
_SAID = {
    "untouched": "○", "faint": "faint", "even": "even", "deep": "deep", "wedge": "wedge", "part bare": "bare",
}  # fmt: skip


@dataclass(frozen=True)
class BoardPainting:
    """An open board on a painter."""

    painter: QPainter
    place: Placement
    theme: Theme

    def paint(self, picture: BoardPicture, size: QRectF) -> None:
        """Draw everything."""
        painter, theme = self.painter, self.theme
        painter.fillRect(size, theme.colour("surface"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for outline in picture.outlines:
            self._outline(outline)
        for mark in picture.contacts:
            self._contact(mark)
        turned = sorted((one for one in picture.screws if one.turn), key=lambda one: one.turn)
        self._round(turned)
        for plug in picture.plugs:
            self._plug(plug)
        for screw in picture.screws:
            self._screw(screw)
        if picture.words:
            painter.setPen(theme.colour("quiet"))
            painter.setFont(theme.font(13))
            painter.drawText(size, int(Qt.AlignmentFlag.AlignCenter.value), picture.words)

    def _outline(self, outline: Outline) -> None:
        painter, theme = self.painter, self.theme
        if outline.kind != "plate":
            draw_solid(painter, outline, self.place, theme)
            return
        # Plates lie over everything: only their edge is drawn.
        pen = QPen(theme.colour("ember" if outline.held else "plate_edge"), 2.2 if outline.held else 1.2)
        if not outline.held:
            pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.setBrush(theme.colour("ember", 0.08) if outline.held else Qt.BrushStyle.NoBrush)
        painter.drawPath(path_of(outline, self.place))

    def _round(self, turned: list[ScrewMark]) -> None:
        """Draw in which order screws are turned."""
        if len(turned) < 2:
            return
        pen = QPen(self.theme.colour("ember", 0.55), 1.6)
        pen.setStyle(Qt.PenStyle.DotLine)
        self.painter.setPen(pen)
        points = [self.place.point(*one.at) for one in turned]
        for one, other in pairwise(points):
            self.painter.drawLine(one, other)

    def _screw(self, mark: ScrewMark) -> None:
        painter, theme = self.painter, self.theme
        at, radius = self.place.point(*mark.at), theme.px(SCREW)
        out = mark.state in ("tray", "missing")
        fill = theme.colour("ember") if mark.turn and not out else theme.colour("raised")
        edge = theme.colour("bad" if mark.state == "missing" else "ember" if mark.turn or mark.selected else "ink")
        pen = QPen(edge, 2.4 if mark.selected or mark.turn else 1.5)
        if out:
            pen.setStyle(Qt.PenStyle.DotLine)
            fill.setAlphaF(0.35)
        painter.setPen(pen)
        painter.setBrush(fill)
        painter.drawEllipse(at, radius, radius)
        painter.setFont(theme.font(12, bold=True))
        painter.setPen(theme.colour("on_accent") if mark.turn and not out else theme.colour("stale" if out else "ink"))
        box = QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(mark.number))
        if mark.turn:
            tag = QRectF(at.x() + radius * 0.6, at.y() - radius * 1.75, theme.px(15), theme.px(14))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("ink"))
            painter.drawRoundedRect(tag, 4, 4)
            painter.setPen(theme.colour("surface"))
            painter.setFont(theme.font(10, bold=True))
            painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, f"{mark.turn}.")

    def _plug(self, mark: PlugMark) -> None:
        painter, theme = self.painter, self.theme
        at, w, h = self.place.point(*mark.at), theme.px(13), theme.px(8)
        box = QRectF(at.x() - w, at.y() - h, 2 * w, 2 * h)
        pen = QPen(theme.colour("ember" if mark.held else "steel"), 2.2 if mark.held else 1.4)
        if mark.hidden:
            pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.setBrush(theme.colour("surface" if mark.off else "ember" if mark.held else "steel_soft"))
        painter.drawRoundedRect(box, 3, 3)
        for n in range(3):
            x = box.left() + box.width() * (n + 1) / 4
            painter.drawLine(QPointF(x, box.bottom()), QPointF(x, box.bottom() + theme.px(4)))

    def _contact(self, mark: ContactMark) -> None:
        painter, theme = self.painter, self.theme
        box = self.place.rect(mark.box)
        touched = mark.expected != "untouched"
        colour = theme.colour("pad", 0.55) if touched else theme.colour("air", 0.8)
        painter.setBrush(colour)
        edge = "bad" if mark.odd else "ember" if mark.selected else "steel" if mark.said else "board_edge"
        painter.setPen(QPen(theme.colour(edge), 2.6 if mark.odd or mark.selected else 1.2))
        painter.drawRect(box)
        if mark.selected:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(-4, -4, 4, 4), 4, 4)
        if mark.toward_deg is not None:
            self._arrow(box, mark.toward_deg)
        words = mark.said.split(", ")[0] if mark.said else mark.expected
        self._in_box(box, _SAID.get(words, words), bool(mark.said))

    def _arrow(self, box: QRectF, toward_deg: float) -> None:
        """Draw towards which side a wedge is thinnest."""
        angle = math.radians(toward_deg)
        along = QPointF(math.cos(angle) * (-1 if self.place.mirrored else 1), -math.sin(angle))
        reach = 0.42 * min(box.width(), box.height()) + 8
        tip, tail = box.center() + along * reach, box.center() - along * reach
        self.painter.setPen(QPen(self.theme.colour("ember"), 2.4))
        self.painter.drawLine(tail, tip)
        side = QPointF(-along.y(), along.x())
        for sign in (1, -1):
            self.painter.drawLine(tip, tip - along * 7 + side * (4 * sign))

    def _in_box(self, box: QRectF, words: str, said: bool) -> None:
        painter, theme = self.painter, self.theme
        font: QFont = theme.font(11, bold=said)
        painter.setFont(font)
        if painter.fontMetrics().horizontalAdvance(words) > box.width() - 2:
            font = theme.font(9, bold=said)
            painter.setFont(font)
        if painter.fontMetrics().horizontalAdvance(words) > box.width() - 2 or box.height() < theme.px(11):
            words = words[:1].upper()
        painter.setPen(theme.colour("ink") if said else theme.colour("quiet"))
        painter.drawText(box.adjusted(-6, -6, 6, 6), Qt.AlignmentFlag.AlignCenter, words)
