"""Draws the plan from plain values and a theme."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen

from ashen_bridge.desktop.charts.pictures import ramp_image, ramp_table
from ashen_bridge.desktop.charts.placement import Placement
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.stack.plan_model import Item, Legend, PlanPicture


@dataclass(frozen=True)
class PlanPainting:
    """The plan on a painter; `hovered` is the body under the pointer, `size` that of the ground [px]."""

    painter: QPainter
    place: Placement
    theme: Theme
    hovered: str
    size: tuple[float, float]

    def paint(self, picture: PlanPicture, photo: Callable[[], None] | None = None) -> None:
        """Draw the plan; with a `photo` (what draws it), parts are outlines on it."""
        self.painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for item in picture.items:
            if item.kind == "board" or (item.kind != "plate" and photo is None):
                self._body(item, bool(picture.rasters))
            if item.kind == "board" and photo is not None:
                photo()
        if photo is not None:
            for item in picture.items:
                if item.kind in ("component", "substrate"):
                    self._outline(item)
        self._rasters(picture)
        taken = [self.place.rect(item.box) for item in picture.items if item.kind in ("component", "substrate")]
        screws = [QRectF(at.x() - 60, at.y() - 12, 120, 24) for at in (self.place.point(s.x, s.y) for s in picture.screws)]
        for item in picture.items:
            if item.kind == "plate":
                taken.append(self._plate(item, taken + screws, bool(picture.rasters)))
            elif item.selected or item.companion:
                self._ring(item)
            if item.kind == "component" and not picture.rasters and photo is None:
                self._words(item, picture.stale)
        for screw in picture.screws:
            self._screw(self.place.point(screw.x, screw.y), screw.text, picture.stale, taken)
        self._cut_line(picture)
        if picture.rasters:
            self._figures(picture)
        if picture.legend:
            self._legend(picture.legend)

    def _rasters(self, picture: PlanPicture) -> None:
        """Lay the overlay's pictures over the parts, and the parts' outlines over the pictures."""
        if not picture.rasters:
            return
        table = ramp_table(self.theme.heat if picture.rasters[0].heat else self.theme.mechanics)
        self.painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, True)
        for raster in picture.rasters:
            values = raster.values[:, ::-1] if self.place.mirrored else raster.values
            self.painter.drawImage(self.place.rect(raster.box), ramp_image(values, picture.low, picture.high, table))
        for item in picture.items:
            if item.kind in ("component", "substrate"):
                self._outline(item)

    def _body(self, item: Item, washed: bool) -> None:
        fill = item.fill or self.theme.colour("part")
        if washed and item.kind == "component":
            fill = self.theme.colour("part")
        self.painter.setBrush(fill)
        edge = self.theme.colour("ember") if item.id == self.hovered and item.kind != "board" else self.theme.colour("board_edge")
        self.painter.setPen(QPen(edge, 1.4 if item.id == self.hovered else 1.0))
        self.painter.drawPath(_path(item, self.place))
        if item.mark and not washed:
            self._mark(self.place.rect(item.box), item.mark)

    def _outline(self, item: Item) -> None:
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
        self.painter.setPen(QPen(self.theme.colour("ember") if item.id == self.hovered else self.theme.colour("ink", 0.35), 1.0))
        self.painter.drawPath(_path(item, self.place))

    def _plate(self, item: Item, taken: list[QRectF], on_picture: bool) -> QRectF:
        """Draw a plate's outline and name; returns where the name is, so that the next one keeps clear of it."""
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
        pen = QPen(
            self.theme.colour("ember") if item.id == self.hovered else self.theme.colour("plate_edge"), 1.3, Qt.PenStyle.DashLine
        )
        self.painter.setPen(pen)
        self.painter.drawPath(_path(item, self.place))
        box = self.place.rect(item.box)
        self.painter.setFont(self.theme.font(11))
        self.painter.setPen(self.theme.colour("quiet"))
        words = self.painter.fontMetrics().elidedText(item.name, Qt.TextElideMode.ElideRight, int(box.width()) - 10)
        width = self.painter.fontMetrics().horizontalAdvance(words) + 2
        line = self.theme.px(16)
        corners = [
            QRectF(x, y, width, line)
            for y in (box.bottom() - line - 3, box.top() + 3, box.bottom() + 3, box.top() - line - 3, box.bottom() + line + 5)
            for x in (box.left() + 6, box.right() - width - 6, box.center().x() - width / 2)
        ]
        where = free_place(corners, taken)
        if on_picture:
            self._pill(where.adjusted(-4, 0, 4, 0))
            self.painter.setPen(self.theme.colour("quiet"))
        self.painter.drawText(where, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words)
        return where

    def _pill(self, box: QRectF) -> None:
        """Lay a ground under words that stand on a picture."""
        self.painter.setPen(Qt.PenStyle.NoPen)
        self.painter.setBrush(self.theme.colour("surface", 0.88))
        self.painter.drawRoundedRect(box, 3, 3)

    def _ring(self, item: Item) -> None:
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
        box = self.place.rect(item.box).adjusted(-2.5, -2.5, 2.5, 2.5)
        self.painter.setPen(
            QPen(
                self.theme.colour("ember"),
                2.6 if item.selected else 1.4,
                Qt.PenStyle.SolidLine if item.selected else Qt.PenStyle.DotLine,
            )
        )
        self.painter.drawRoundedRect(box, 4, 4)

    def _figures(self, picture: PlanPicture) -> None:
        for item in picture.items:
            if item.figure:
                self._figure(item, picture.stale)

    def _figure(self, item: Item, stale: bool) -> None:
        """What the overlay shows of a part in the mean, where there is room for it."""
        box = self.place.rect(item.box)
        self.painter.setFont(self.theme.font(11))
        words = (
            item.figure if self.painter.fontMetrics().horizontalAdvance(item.figure) <= box.width() else item.figure.split()[0]
        )
        width, high = self.painter.fontMetrics().horizontalAdvance(words) + 6, self.theme.px(15)
        if width > box.width() + 4:
            return
        where = QRectF(box.center().x() - width / 2, box.center().y() - high / 2, width, high)
        self._pill(where)
        self.painter.setPen(self.theme.colour("stale" if stale else "ink"))
        self.painter.drawText(where, Qt.AlignmentFlag.AlignCenter, words)

    def _mark(self, box: QRectF, mark: str) -> None:
        """A corner flag, so that a state is not told by colour alone: filled for over the limit, open for near it."""
        flag = QPainterPath()
        flag.moveTo(box.topRight())
        flag.lineTo(box.right() - 10, box.top())
        flag.lineTo(box.right(), box.top() + 10)
        flag.closeSubpath()
        self.painter.setPen(QPen(self.theme.colour("ink"), 1.2))
        self.painter.setBrush(self.theme.colour("ink") if mark == "over" else QColor(0, 0, 0, 0))
        self.painter.drawPath(flag)

    def _words(self, item: Item, stale: bool) -> None:
        box = self.place.rect(item.box)
        if box.width() < 20 or box.height() < 12:
            return
        ink = self.theme.ink_on(item.fill or self.theme.colour("part"))
        if stale:
            ink.setAlphaF(0.55)
        self.painter.setPen(ink)
        big = 17 if box.width() > 60 else 13
        self.painter.setFont(self.theme.font(big if box.height() > 26 else 10.5, bold=True))
        if box.height() > 34:
            middle = QRectF(box.left(), box.center().y() - 2, box.width(), self.theme.px(big + 3))
            self.painter.drawText(middle, Qt.AlignmentFlag.AlignCenter, item.value)
            self.painter.setFont(self.theme.font(11))
            name = (
                item.name if self.painter.fontMetrics().horizontalAdvance(item.name) < box.width() - 6 else item.name.split()[-1]
            )
            name = self.painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(box.width() - 4))
            self.painter.drawText(
                QRectF(box.left(), box.center().y() - 2 - self.theme.px(15), box.width(), self.theme.px(15)),
                Qt.AlignmentFlag.AlignCenter,
                name,
            )
        else:
            self.painter.drawText(box, Qt.AlignmentFlag.AlignCenter, item.value)

    def _screw(self, at: QPointF, text: str, stale: bool, taken: list[QRectF]) -> None:
        self.painter.setBrush(self.theme.colour("raised"))
        self.painter.setPen(QPen(self.theme.colour("steel"), 1.6))
        self.painter.drawEllipse(at, 5.5, 5.5)
        self.painter.drawLine(QPointF(at.x() - 3, at.y()), QPointF(at.x() + 3, at.y()))
        if text:
            self.painter.setFont(self.theme.font(11))
            width = self.painter.fontMetrics().horizontalAdvance(text) + 8
            places = [(8, -8), (-8 - width, -8), (-width / 2, 7), (-width / 2, -23)]
            box = free_place([QRectF(at.x() + dx, at.y() + dy, width, 16) for dx, dy in places], taken)
            self._pill(box)
            self.painter.setPen(self.theme.colour("stale" if stale else "steel"))
            self.painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def _cut_line(self, picture: PlanPicture) -> None:
        pen = QPen(self.theme.colour("ember"), 1.4, Qt.PenStyle.DashDotLine)
        self.painter.setPen(pen)
        at = picture.cut.at * 1e3
        if picture.cut.along == "x":
            y = self.place.point(0, at).y()
            ends = QPointF(8, y), QPointF(self.size[0] - 8, y)
        else:
            x = self.place.point(at, 0).x()
            ends = QPointF(x, 8), QPointF(x, self.size[1] - 8)
        self.painter.drawLine(*ends)
        self.painter.setBrush(self.theme.colour("ember"))
        self.painter.setPen(Qt.PenStyle.NoPen)
        for end in ends:
            self.painter.drawEllipse(end, 5, 5)

    def _legend(self, legend: Legend) -> None:
        left, top, width = 14.0, self.size[1] - 20, 150.0 if legend.low else -18.0
        ramp = self.theme.heat if legend.heat else self.theme.mechanics
        self.painter.setFont(self.theme.font(11))
        metrics = self.painter.fontMetrics()
        total = metrics.horizontalAdvance(f"{legend.title}  {legend.low}  {legend.high}") + width + 40
        self.painter.setPen(Qt.PenStyle.NoPen)
        self.painter.setBrush(self.theme.colour("surface", 0.94))
        self.painter.drawRoundedRect(QRectF(left - 8, top - 7, total, 22), 5, 5)
        self.painter.setPen(self.theme.colour("ink"))
        x = left
        for words in (legend.title, legend.low):
            self.painter.drawText(QPointF(x, top + 8), words)
            x += metrics.horizontalAdvance(words) + 10
        for step in range(75 if legend.low else 0):
            self.painter.fillRect(QRectF(x + step * width / 75, top - 2, width / 75 + 0.6, 11), ramp(step / 74))
        self.painter.setPen(self.theme.colour("ink"))
        self.painter.drawText(QPointF(x + width + 8, top + 8), legend.high)


def _path(item: Item, place: Placement) -> QPainterPath:
    path = QPainterPath()
    for rect in item.rects:
        part = QPainterPath()
        part.addRoundedRect(place.rect(rect.bounds), 2, 2)
        path = path.united(part) if not path.isEmpty() else part
    for hole in item.holes:
        cut = QPainterPath()
        cut.addRect(place.rect(hole.bounds))
        path = path.subtracted(cut)
    return path


def free_place(options: list[QRectF], taken: list[QRectF]) -> QRectF:
    """Return the first place that covers nothing, else the one that covers least."""

    def covered(box: QRectF) -> float:
        shared = (box.intersected(other) for other in taken)
        return sum(part.width() * part.height() for part in shared if not part.isEmpty())

    return min(options, key=covered)
