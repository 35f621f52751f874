"""Draws the plan from plain values and a theme."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen

from ashen_bridge.desktop.charts.placement import Placement
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.stack.pictures import ramp_image, ramp_table
from ashen_bridge.desktop.stack.plan_model import Item, Legend, PlanPicture


def paint_plan(
    painter: QPainter,
    picture: PlanPicture,
    place: Placement,
    theme: Theme,
    hovered: str,
    size: tuple[float, float],
    photo: Callable[[], None] | None = None,
) -> None:
    """Draw the plan; with a `photo` (what draws it), parts are outlines on it."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for item in picture.items:
        if item.kind == "board" or (item.kind != "plate" and photo is None):
            _body(painter, item, place, theme, hovered, bool(picture.rasters))
        if item.kind == "board" and photo is not None:
            photo()
    if photo is not None:
        for item in picture.items:
            if item.kind in ("component", "substrate"):
                _outline(painter, item, place, theme, hovered)
    _rasters(painter, picture, place, theme, hovered)
    taken = [place.rect(item.box) for item in picture.items if item.kind in ("component", "substrate")]
    screws = [QRectF(at.x() - 60, at.y() - 12, 120, 24) for at in (place.point(s.x, s.y) for s in picture.screws)]
    for item in picture.items:
        if item.kind == "plate":
            taken.append(_plate(painter, item, place, theme, hovered, taken + screws, bool(picture.rasters)))
        elif item.selected or item.companion:
            _ring(painter, item, place, theme)
        if item.kind == "component" and not picture.rasters and photo is None:
            _words(painter, item, place, theme, picture.stale)
    for screw in picture.screws:
        _screw(painter, place.point(screw.x, screw.y), screw.text, theme, picture.stale, taken)
    _cut_line(painter, picture, place, theme, size)
    if picture.legend:
        _legend(painter, picture.legend, theme, size)


def _rasters(painter: QPainter, picture: PlanPicture, place: Placement, theme: Theme, hovered: str) -> None:
    """Lay the overlay's pictures over the parts, and the parts' outlines over the pictures."""
    if not picture.rasters:
        return
    table = ramp_table(theme.heat if picture.rasters[0].heat else theme.mechanics)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, True)
    for raster in picture.rasters:
        values = raster.values[:, ::-1] if place.mirrored else raster.values
        painter.drawImage(place.rect(raster.box), ramp_image(values, picture.low, picture.high, table))
    for item in picture.items:
        if item.kind in ("component", "substrate"):
            _outline(painter, item, place, theme, hovered)


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


def _body(painter: QPainter, item: Item, place: Placement, theme: Theme, hovered: str, washed: bool) -> None:
    fill = item.fill or theme.colour("part")
    if washed and item.kind == "component":
        fill = theme.colour("part")
    painter.setBrush(fill)
    edge = theme.colour("ember") if item.id == hovered and item.kind != "board" else theme.colour("board_edge")
    painter.setPen(QPen(edge, 1.4 if item.id == hovered else 1.0))
    painter.drawPath(_path(item, place))
    if item.mark and not washed:
        _mark(painter, place.rect(item.box), item.mark, theme)


def _outline(painter: QPainter, item: Item, place: Placement, theme: Theme, hovered: str) -> None:
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(theme.colour("ember") if item.id == hovered else theme.colour("ink", 0.35), 1.0))
    painter.drawPath(_path(item, place))


def _plate(
    painter: QPainter, item: Item, place: Placement, theme: Theme, hovered: str, taken: list[QRectF], on_picture: bool
) -> QRectF:
    """Draw a plate's outline and name; returns where the name is, so that the next one keeps clear of it."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    pen = QPen(theme.colour("ember") if item.id == hovered else theme.colour("plate_edge"), 1.3, Qt.PenStyle.DashLine)
    painter.setPen(pen)
    painter.drawPath(_path(item, place))
    box = place.rect(item.box)
    painter.setFont(theme.font(11))
    painter.setPen(theme.colour("quiet"))
    words = painter.fontMetrics().elidedText(item.name, Qt.TextElideMode.ElideRight, int(box.width()) - 10)
    width = painter.fontMetrics().horizontalAdvance(words) + 2
    line = theme.px(16)
    corners = [
        QRectF(x, y, width, line)
        for y in (box.bottom() - line - 3, box.top() + 3, box.bottom() + 3, box.top() - line - 3, box.bottom() + line + 5)
        for x in (box.left() + 6, box.right() - width - 6, box.center().x() - width / 2)
    ]
    where = free_place(corners, taken)
    if on_picture:
        _pill(painter, where.adjusted(-4, 0, 4, 0), theme)
        painter.setPen(theme.colour("quiet"))
    painter.drawText(where, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words)
    return where


def _pill(painter: QPainter, box: QRectF, theme: Theme) -> None:
    """Lay a ground under words that stand on a picture."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("surface", 0.88))
    painter.drawRoundedRect(box, 3, 3)


def free_place(options: list[QRectF], taken: list[QRectF]) -> QRectF:
    """Return the first place that covers nothing, else the one that covers least."""

    def covered(box: QRectF) -> float:
        shared = (box.intersected(other) for other in taken)
        return sum(part.width() * part.height() for part in shared if not part.isEmpty())

    return min(options, key=covered)


def _ring(painter: QPainter, item: Item, place: Placement, theme: Theme) -> None:
    painter.setBrush(Qt.BrushStyle.NoBrush)
    box = place.rect(item.box).adjusted(-2.5, -2.5, 2.5, 2.5)
    painter.setPen(
        QPen(
            theme.colour("ember"),
            2.6 if item.selected else 1.4,
            Qt.PenStyle.SolidLine if item.selected else Qt.PenStyle.DotLine,
        )
    )
    painter.drawRoundedRect(box, 4, 4)


def _mark(painter: QPainter, box: QRectF, mark: str, theme: Theme) -> None:
    """A corner flag, so that a state is not told by colour alone: filled for over the limit, open for near it."""
    flag = QPainterPath()
    flag.moveTo(box.topRight())
    flag.lineTo(box.right() - 10, box.top())
    flag.lineTo(box.right(), box.top() + 10)
    flag.closeSubpath()
    painter.setPen(QPen(theme.colour("ink"), 1.2))
    painter.setBrush(theme.colour("ink") if mark == "over" else QColor(0, 0, 0, 0))
    painter.drawPath(flag)


def _words(painter: QPainter, item: Item, place: Placement, theme: Theme, stale: bool) -> None:
    box = place.rect(item.box)
    if box.width() < 20 or box.height() < 12:
        return
    ink = theme.ink_on(item.fill or theme.colour("part"))
    if stale:
        ink.setAlphaF(0.55)
    painter.setPen(ink)
    big = 17 if box.width() > 60 else 13
    painter.setFont(theme.font(big if box.height() > 26 else 10.5, bold=True))
    if box.height() > 34:
        middle = QRectF(box.left(), box.center().y() - 2, box.width(), theme.px(big + 3))
        painter.drawText(middle, Qt.AlignmentFlag.AlignCenter, item.value)
        painter.setFont(theme.font(11))
        name = item.name if painter.fontMetrics().horizontalAdvance(item.name) < box.width() - 6 else item.name.split()[-1]
        name = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(box.width() - 4))
        painter.drawText(
            QRectF(box.left(), box.center().y() - 2 - theme.px(15), box.width(), theme.px(15)), Qt.AlignmentFlag.AlignCenter, name
        )
    else:
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, item.value)


def _screw(painter: QPainter, at: QPointF, text: str, theme: Theme, stale: bool, taken: list[QRectF]) -> None:
    painter.setBrush(theme.colour("raised"))
    painter.setPen(QPen(theme.colour("steel"), 1.6))
    painter.drawEllipse(at, 5.5, 5.5)
    painter.drawLine(QPointF(at.x() - 3, at.y()), QPointF(at.x() + 3, at.y()))
    if text:
        painter.setFont(theme.font(11))
        width = painter.fontMetrics().horizontalAdvance(text) + 8
        places = [(8, -8), (-8 - width, -8), (-width / 2, 7), (-width / 2, -23)]
        box = free_place([QRectF(at.x() + dx, at.y() + dy, width, 16) for dx, dy in places], taken)
        _pill(painter, box, theme)
        painter.setPen(theme.colour("stale" if stale else "steel"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)


def _cut_line(painter: QPainter, picture: PlanPicture, place: Placement, theme: Theme, size: tuple[float, float]) -> None:
    pen = QPen(theme.colour("ember"), 1.4, Qt.PenStyle.DashDotLine)
    painter.setPen(pen)
    at = picture.cut.at * 1e3
    if picture.cut.along == "x":
        y = place.point(0, at).y()
        ends = QPointF(8, y), QPointF(size[0] - 8, y)
    else:
        x = place.point(at, 0).x()
        ends = QPointF(x, 8), QPointF(x, size[1] - 8)
    painter.drawLine(*ends)
    painter.setBrush(theme.colour("ember"))
    painter.setPen(Qt.PenStyle.NoPen)
    for end in ends:
        painter.drawEllipse(end, 5, 5)


def _legend(painter: QPainter, legend: Legend, theme: Theme, size: tuple[float, float]) -> None:
    left, top, width = 14.0, size[1] - 20, 150.0 if legend.low else -18.0
    ramp = theme.heat if legend.heat else theme.mechanics
    painter.setFont(theme.font(11))
    metrics = painter.fontMetrics()
    total = metrics.horizontalAdvance(f"{legend.title}  {legend.low}  {legend.high}") + width + 40
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("surface", 0.94))
    painter.drawRoundedRect(QRectF(left - 8, top - 7, total, 22), 5, 5)
    painter.setPen(theme.colour("ink"))
    x = left
    for words in (legend.title, legend.low):
        painter.drawText(QPointF(x, top + 8), words)
        x += metrics.horizontalAdvance(words) + 10
    for step in range(75 if legend.low else 0):
        painter.fillRect(QRectF(x + step * width / 75, top - 2, width / 75 + 0.6, 11), ramp(step / 74))
    painter.setPen(theme.colour("ink"))
    painter.drawText(QPointF(x + width + 8, top + 8), legend.high)
