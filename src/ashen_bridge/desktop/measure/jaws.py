"""Where the jaws go: a small picture for every form of reading, drawn as plain shapes."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cache
from importlib import resources

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from ashen_bridge.desktop.look.theme import Theme


@dataclass(frozen=True)
class Shape:
    """A box in hundredths of the picture: left, top, width, height; its role in the theme."""

    x: float
    y: float
    w: float
    h: float
    role: str


@dataclass(frozen=True)
class Jaws:
    """What is drawn: shapes, and between which two heights, at which place, the length is read; perhaps lying down."""

    shapes: tuple[Shape, ...]
    at: float
    low: float
    high: float
    across: bool = False


@cache
def pictures() -> dict[str, Jaws]:
    """Return the picture of every form, from `jaws.json` beside this module."""
    data = json.loads(resources.files(__package__).joinpath("jaws.json").read_text(encoding="utf-8"))
    return {
        form: Jaws(tuple(Shape(*one) for one in said["shapes"]), said["at"], said["low"], said["high"], said.get("across", False))
        for form, said in data.items()
        if form != "about"
    }


class JawsView(QWidget):
    """The picture of one form."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme, self.form = theme, "height"
        self.setAccessibleName("Where the jaws go")

    def show_form(self, form: str) -> None:
        """Show where the jaws go for a form."""
        if form != self.form:
            self.form = form
            self.update()

    def sizeHint(self) -> QSize:
        return QSize(round(self.theme.px(104)), round(self.theme.px(66)))

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, jaws = self.theme, pictures()[self.form]
        w, h = self.width() / 100, self.height() / 100
        for one in jaws.shapes:
            painter.setPen(QPen(theme.colour("plate_edge"), 0.8))
            painter.setBrush(theme.colour(one.role))
            painter.drawRect(QRectF(one.x * w, one.y * h, one.w * w, one.h * h))
        pen = QPen(theme.colour("ember"), 2.0)
        painter.setPen(pen)
        if jaws.across:
            begin, end = QPointF(jaws.low * w, 76 * h), QPointF(jaws.high * w, 76 * h)
        else:
            begin, end = QPointF(jaws.at * w, jaws.low * h), QPointF(jaws.at * w, jaws.high * h)
            for y in (begin.y(), end.y()):
                painter.drawLine(QPointF(jaws.at * w - 9, y), QPointF(jaws.at * w + 9, y))
        painter.drawLine(begin, end)
        painter.setBrush(theme.colour("ember"))
        painter.setPen(Qt.PenStyle.NoPen)
        for tip, other in ((begin, end), (end, begin)):
            back = (other - tip) / max(abs(other.x() - tip.x()) + abs(other.y() - tip.y()), 1e-6) * 6
            side = QPointF(-back.y(), back.x()) * 0.55
            painter.drawPolygon(QPolygonF([tip, tip + back + side, tip + back - side]))
        painter.end()
