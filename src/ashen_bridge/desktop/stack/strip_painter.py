"""Draws the thickness strip from plain values and a theme."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from ashen_bridge.assess.result import StripCell
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.words.numbers import number, thickness

_HOTTEST_C = 250.0


@dataclass(frozen=True)
class StripPicture:
    """One cell per stock thickness [mm], with what is known of it and whether it is the present one; or words in their place."""

    cells: tuple[tuple[float, StripCell | None, bool], ...] = ()
    words: str = ""


@dataclass(frozen=True)
class StripPainting:
    """The thickness strip on a painter."""

    painter: QPainter
    theme: Theme

    def paint(self, picture: StripPicture, size: QRectF) -> None:
        """Draw the strip into a rectangle."""
        self.painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not picture.cells:
            self.painter.setPen(self.theme.colour("quiet"))
            self.painter.setFont(self.theme.font(12))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            self.painter.drawText(size, int(flags.value), picture.words)
            return
        width = size.width() / len(picture.cells)
        for at, (value, cell, present) in enumerate(picture.cells):
            self._cell(QRectF(at * width + 1, 1, width - 2, size.height() - 2), value, cell, present)

    def _cell(self, box: QRectF, value: float, cell: StripCell | None, present: bool) -> None:
        self.painter.setBrush(self.theme.colour("ember_soft" if present else "raised"))
        self.painter.setPen(QPen(self.theme.colour("ember" if present else "line"), 2.0 if present else 1.0))
        self.painter.drawRoundedRect(box, 4, 4)
        self.painter.setPen(self.theme.colour("ink"))
        self.painter.setFont(self.theme.font(14, bold=True))
        self.painter.drawText(
            QRectF(box.left(), box.top() + 3, box.width(), self.theme.px(19)), Qt.AlignmentFlag.AlignCenter, thickness(value)
        )
        if cell is None or cell.refusal:
            self.painter.setPen(self.theme.colour("quiet"))
            self.painter.setFont(self.theme.font(12))
            self.painter.drawText(box.adjusted(0, 20, 0, 0), Qt.AlignmentFlag.AlignCenter, "–" if cell else "…")
            return
        row = self.theme.px(17.0)
        lines = [(cell.group_c, "steel"), (cell.die_c, "ember")]
        for at, (temperature, role) in enumerate(lines):
            top = box.top() + self.theme.px(24) + at * row
            self.painter.setPen(self.theme.colour(role))
            self.painter.setFont(self.theme.font(13, bold=role == "ember"))
            words = (
                "–"
                if temperature is None
                else f"{number(temperature)}°"
                if temperature < _HOTTEST_C
                else f">{number(_HOTTEST_C)}°"
            )
            self.painter.drawText(QRectF(box.left(), top, box.width(), row), Qt.AlignmentFlag.AlignCenter, words)
        self.painter.setPen(self.theme.colour("quiet"))
        self.painter.setFont(self.theme.font(11))
        touching = cell.contact is not None and cell.contact > 0.005
        words = "off" if not touching else f"{number(100 * (cell.compression or 0))} %"
        self.painter.drawText(
            QRectF(box.left(), box.top() + self.theme.px(60), box.width(), self.theme.px(15)), Qt.AlignmentFlag.AlignCenter, words
        )
        bar = QRectF(box.left() + 5, box.bottom() - 12, box.width() - 10, 5)
        self.painter.setPen(QPen(self.theme.colour("steel"), 0.8))
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
        self.painter.drawRect(bar)
        self.painter.fillRect(
            QRectF(bar.left(), bar.top(), bar.width() * (cell.contact or 0.0), bar.height()), self.theme.colour("steel")
        )
