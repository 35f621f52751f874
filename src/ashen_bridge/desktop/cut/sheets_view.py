"""All sheets at one scale with their numbered pieces and cuts; a click lights a piece."""

from __future__ import annotations

from collections.abc import Iterator

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.planning.cutting.nesting import Laid, Placed
from ashen_bridge.planning.cutting.pieces import Box
from ashen_bridge.words.numbers import short

_GAP, _HEAD, _MARGIN = 22.0, 20.0, 8.0  # [px] between sheets, of the words over them, around all
_LEAST, _MOST = 1.6, 7.0  # [px/mm]


class SheetsView(QWidget):
    """`piece_chosen` says which piece was clicked."""

    piece_chosen = pyqtSignal(int)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.laid: tuple[Laid, ...] = ()
        self.piece = 0
        self.setAccessibleName("Sheets with their pieces")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def show_sheets(self, laid: tuple[Laid, ...], piece: int) -> None:
        """Show sheets, one piece lit."""
        if (laid, piece) != (self.laid, self.piece):
            self.laid, self.piece = laid, piece
            words = [f"sheet {n}: {', '.join(str(p.cut.number) for p in one.placed)}" for n, one in enumerate(laid, 1)]
            self.setAccessibleDescription("; ".join(words))
            self.setMinimumHeight(self.heightForWidth(max(self.width(), 400)))
            self.update()

    def sizeHint(self) -> QSize:
        return QSize(600, 340)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        """Return how high all sheets stand at a width, in rows at the scale that fits the widest."""
        return round(max((box.bottom() for _, box in self._places(width)), default=120.0) + _MARGIN)

    def _scale(self, width: float) -> float:
        if not self.laid:
            return _LEAST
        together = sum(one.sheet.w_mm for one in self.laid)
        room = width - 2 * _MARGIN - _GAP * (len(self.laid) - 1)
        tall = max(one.sheet.h_mm for one in self.laid)
        fits = min(room / together, max(self.height() - _HEAD - 2 * _MARGIN, 120.0) / tall)
        widest = max(one.sheet.w_mm for one in self.laid)
        return min(max(fits, _LEAST), _MOST, (width - 2 * _MARGIN) / widest)

    def _places(self, width: float) -> Iterator[tuple[Laid, QRectF]]:
        """Yield every sheet and where it is drawn, in rows."""
        scale, x, y, high = self._scale(width), _MARGIN, _MARGIN + self.theme.px(_HEAD), 0.0
        for one in self.laid:
            w, h = one.sheet.w_mm * scale, one.sheet.h_mm * scale
            if x > _MARGIN and x + w > width - _MARGIN:
                x, y, high = _MARGIN, y + high + _GAP + self.theme.px(_HEAD), 0.0
            yield one, QRectF(x, y, w, h)
            x, high = x + w + _GAP, max(high, h)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for n, (one, box) in enumerate(self._places(self.width()), 1):
            self._sheet(painter, n, one, box)
        painter.end()

    def _sheet(self, painter: QPainter, n: int, one: Laid, box: QRectF) -> None:
        theme = self.theme
        painter.setFont(theme.font(11))
        painter.setPen(theme.colour("ink"))
        said = f"{n}  {one.placed[0].cut.name}, {one.sheet.says}{', at hand' if one.sheet.stock else ''}"
        room = painter.fontMetrics().elidedText(said, Qt.TextElideMode.ElideRight, round(max(box.width(), 90.0)))
        painter.drawText(QPointF(box.left(), box.top() - 6), room)
        painter.setPen(QPen(theme.colour("ink"), 1.2))
        painter.setBrush(theme.colour("surface"))
        painter.drawRect(box)
        for rest in one.rests:
            painter.setPen(QPen(theme.colour("stale"), 1.0, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(_at(rest, one, box))
        for placed in one.placed:
            self._piece(painter, placed, one, box)
        scale = box.width() / one.sheet.w_mm
        painter.setPen(QPen(theme.colour("ember", 0.75), 1.0, Qt.PenStyle.DashLine))
        for cut in one.cuts:
            a = (cut.at_mm, cut.from_mm) if cut.along == "y" else (cut.from_mm, cut.at_mm)
            b = (cut.at_mm, cut.to_mm) if cut.along == "y" else (cut.to_mm, cut.at_mm)
            ends = [QPointF(box.left() + x * scale, box.bottom() - y * scale) for x, y in (a, b)]
            painter.drawLine(ends[0], ends[1])

    def _piece(self, painter: QPainter, placed: Placed, one: Laid, box: QRectF) -> None:
        theme = self.theme
        lit = placed.cut.number == self.piece
        inside = _at(placed.box, one, box)
        painter.setPen(QPen(theme.colour("ember" if lit else "bad" if placed.cut.wrong else "ink"), 2.4 if lit else 1.1))
        painter.setBrush(theme.colour("ember_soft" if lit else "pad", 1.0 if lit else 0.55))
        painter.drawRect(inside)
        size = max(min(inside.height(), inside.width()) * 0.42, 7.0)
        painter.setFont(theme.font(min(size, 17.0), bold=True))
        painter.setPen(theme.colour("ink"))
        painter.drawText(inside, Qt.AlignmentFlag.AlignCenter, str(placed.cut.number))
        if inside.height() > theme.px(52) and inside.width() > theme.px(58):
            painter.setFont(theme.font(9))
            painter.setPen(theme.colour("quiet"))
            words = f"{short(placed.w_mm)} × {short(placed.h_mm)}"
            low = inside.adjusted(0, inside.height() / 2 + theme.px(8), 0, 0)
            painter.drawText(low, int((Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop).value), words)

    def piece_at(self, at: QPointF) -> int:
        """Return the number of the piece at a pixel, 0 where none is."""
        for one, box in self._places(self.width()):
            for placed in one.placed:
                if _at(placed.box, one, box).contains(at):
                    return placed.cut.number
        return 0

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        number = self.piece_at(event.position()) if event is not None else 0
        if number:
            self.piece_chosen.emit(number)


def _at(inner: Box, one: Laid, box: QRectF) -> QRectF:
    scale = box.width() / one.sheet.w_mm
    x0, y0, x1, y1 = inner
    return QRectF(box.left() + x0 * scale, box.bottom() - y1 * scale, (x1 - x0) * scale, (y1 - y0) * scale)
