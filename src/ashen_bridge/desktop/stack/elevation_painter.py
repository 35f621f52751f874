"""Draws the elevation from a plain picture and a theme."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QPainter, QPen, QPolygonF

from ashen_bridge.arrays import Floats
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.stack.elevation_picture import ElevationPicture, ShownBody
from ashen_bridge.desktop.stack.scale import HeightScale, Scale, TrueScale
from ashen_bridge.geometry.section import CutFilling
from ashen_bridge.words.numbers import number, short

_LEFT, _RIGHT, _TOP, _BOTTOM = 14.0, 14.0, 38.0, 20.0  # [px] around the picture, the last two at the usual text size
_GRAB = 6.0  # [px] from an edge
_FILL = {"board": "board", "substrate": "board_edge", "component": "part", "plate": "plate"}


@dataclass(frozen=True)
class Fit:
    """How the picture is fitted: whether heights are true, and the columns that the plan above gives to places along the cut."""

    true_heights: bool = False
    across: tuple[float, float] | None = None


@dataclass(frozen=True)
class Frame:
    """Where along the cut [m] and at which height [m] a pixel is: the picture's room in its widget, and its scales.

    across : pixel column of the cut's origin, and pixels per metre along it; less than none where the board is turned over.
    """

    width: float
    height: float
    theme: Theme
    scale: Scale
    extent: tuple[float, float]
    across: tuple[float, float]

    @classmethod
    def fitted(cls, picture: ElevationPicture, size: tuple[float, float], theme: Theme, view: Fit) -> Frame:
        """Return where a picture lies in a widget: below the plan's own columns if it says them, else across all of it."""
        width, height = size
        low, high = picture.extent
        wide = (width - _LEFT - _RIGHT) / max(high - low, 1e-9)
        across = view.across or (_LEFT - low * wide, wide)
        room = height - theme.px(_BOTTOM) - theme.px(_TOP)
        scale = TrueScale(picture.levels, room / abs(across[1])) if view.true_heights else HeightScale(picture.levels)
        return cls(width, height, theme, scale, (low, high), across)

    @property
    def bottom(self) -> float:
        """Lowest pixel row of the picture."""
        return self.height - self.theme.px(_BOTTOM)

    @property
    def room(self) -> float:
        """Height of the picture [px]."""
        return self.bottom - self.theme.px(_TOP)

    def x(self, s: float) -> float:
        """Return the pixel column of a place along the cut [m]."""
        return self.across[0] + self.across[1] * s

    def y(self, height: float) -> float:
        """Return the pixel row of a height [m]."""
        return self.bottom - self.room * self.scale.share(height)

    def place(self, at: QPointF) -> tuple[float, float]:
        """Return where along the cut and at which height a pixel is [m]."""
        return (at.x() - self.across[0]) / self.across[1], self.scale.height((self.bottom - at.y()) / self.room)

    def near(self, y: float) -> float:
        """Return how much height [m] a few pixels up or down from a row are."""
        here, *around = (self.scale.height((self.bottom - y + by) / self.room) for by in (0.0, -_GRAB, _GRAB))
        return max(abs(other - here) for other in around)


def paint_elevation(painter: QPainter, picture: ElevationPicture, frame: Frame | None, size: QRectF, theme: Theme) -> None:
    """Draw a picture; without a frame its words."""
    painter.fillRect(size, theme.colour("surface"))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if frame is None:
        painter.setPen(theme.colour("quiet"))
        painter.setFont(theme.font(13))
        flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(size.adjusted(20, 0, -20, 0), int(flags.value), picture.words)
        return
    for body in picture.bodies:
        _body(painter, body, frame)
    for filling, chosen in picture.fillings:
        _filling(painter, filling, frame, chosen)
    _callouts(painter, picture, frame)
    _axis(painter, picture, frame)


def paint_words(painter: QPainter, words: str, frame: Frame) -> None:
    """Show the figure that is being dragged."""
    theme = frame.theme
    painter.setFont(theme.font(13, bold=True))
    width = painter.fontMetrics().horizontalAdvance(words) + 16
    box = QRectF(frame.width - width - 8, frame.height - theme.px(44), width, theme.px(22))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("ink"))
    painter.drawRoundedRect(box, 4, 4)
    painter.setPen(theme.colour("surface"))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


def _polygon(s: Floats, low: Floats, high: Floats, frame: Frame) -> QPolygonF:
    around = np.concatenate([s, s[::-1]]), np.concatenate([high, low[::-1]])
    xs, ys = frame.across[0] + frame.across[1] * around[0], frame.bottom - frame.room * frame.scale.shares(around[1])
    return QPolygonF(list(map(QPointF, xs.tolist(), ys.tolist())))


def _body(painter: QPainter, shown: ShownBody, frame: Frame) -> None:
    theme, body = frame.theme, shown.cut
    shape = _polygon(body.s, body.low, body.high, frame)
    painter.setBrush(theme.heat(shown.heat) if shown.heat is not None else theme.colour(_FILL[body.kind]))
    painter.setPen(QPen(theme.colour("plate_edge" if body.kind == "plate" else "board_edge"), 0.8))
    painter.drawPolygon(shape)
    box = shape.boundingRect()
    if body.kind not in ("component", "plate", "board") or box.width() <= 70 or box.height() <= 14:
        return
    painter.setFont(theme.font(11))
    painter.setPen(theme.ink_on(painter.brush().color()))
    words, metrics = shown.name, painter.fontMetrics()
    if metrics.horizontalAdvance(words) > box.width() - 8:
        words = metrics.elidedText(words.split()[-1], Qt.TextElideMode.ElideRight, int(box.width() - 8))
    if body.kind != "plate" or box.width() > 0.3 * frame.width or shown.widest:
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


def _filling(painter: QPainter, filling: CutFilling, frame: Frame, chosen: bool) -> None:
    theme = frame.theme
    if filling.what == "air":
        painter.setBrush(QBrush(theme.colour("steel"), Qt.BrushStyle.BDiagPattern))
        painter.setPen(QPen(theme.colour("steel"), 1.0, Qt.PenStyle.DotLine))
    else:
        painter.setBrush(theme.colour("paste" if filling.what == "paste" else "pad"))
        painter.setPen(QPen(theme.colour("ember"), 2.0) if chosen else QPen(theme.colour("ink", 0.5), 0.7))
    painter.drawPolygon(_polygon(filling.s, filling.low, filling.high, frame))


def _callouts(painter: QPainter, picture: ElevationPicture, frame: Frame) -> None:
    """Write true figures in two rows above the picture, each tied to its joint by a thin line."""
    theme = frame.theme
    painter.setFont(theme.font(11))
    metrics = painter.fontMetrics()
    ends = [-1e9, -1e9]
    for callout in sorted(picture.callouts, key=lambda one: frame.x(one.at)):
        x = frame.x(callout.at)
        width = metrics.horizontalAdvance(callout.text) + 8
        left = min(max(x - width / 2, 2.0), frame.width - width - 2)
        row = 0 if ends[0] + 4 <= left else 1
        if row == 1 and ends[1] + 4 > left:
            continue  # no room: the figure is still in the joint panel and the tool tips
        ends[row] = left + width
        line = theme.px(16)
        y = 3 + line * row
        painter.setPen(QPen(theme.colour("bad" if callout.alarm else "quiet", 0.7), 0.8))
        painter.drawLine(QPointF(x, y + line - 1), QPointF(x, frame.y(callout.top)))
        painter.setPen(theme.colour("stale" if picture.stale else "bad" if callout.alarm else "ink"))
        painter.drawText(QRectF(left, y, width, line - 1), Qt.AlignmentFlag.AlignCenter, callout.text)


def _axis(painter: QPainter, picture: ElevationPicture, frame: Frame) -> None:
    theme = frame.theme
    painter.setFont(theme.font(11))
    painter.setPen(theme.colour("quiet"))
    high = theme.px(15)
    foot = QRectF(_LEFT, frame.height - high - 2, frame.width - _LEFT - _RIGHT, high)
    wide = f"{number((frame.extent[1] - frame.extent[0]) * 1e3)} mm"
    painter.drawText(foot, Qt.AlignmentFlag.AlignRight, wide)
    room = foot.width() - painter.fontMetrics().horizontalAdvance(wide) - 12
    words = painter.fontMetrics().elidedText(f"{picture.foot} · {stretch_words(frame)}", Qt.TextElideMode.ElideRight, int(room))
    painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, words)


def stretch_words(frame: Frame) -> str:
    """Return by how much heights are stretched against lengths."""
    if not isinstance(frame.scale, HeightScale):
        return "true scale (H: heights legible)"
    least, most = (short(value, 2) for value in frame.scale.stretch(frame.room, abs(frame.across[1])))
    return f"heights drawn {least} to {most} times as large as lengths, figures true (H: true scale)"
