"""The board with the numbers of all pieces where they go; a click lights one on its sheet."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from ashen_bridge.desktop.charts.outlines import draw_solid, outlines_of
from ashen_bridge.desktop.charts.placement import Placement
from ashen_bridge.desktop.cut.desk import CutDesk
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.model.bodies import Board, Side
from ashen_bridge.planning.cutting.pieces import Box, Cut


class PiecesOnBoard(QWidget):
    """One side of the board. `piece_chosen` says which piece was clicked."""

    piece_chosen = pyqtSignal(int)

    def __init__(self, desk: CutDesk, theme: Theme, side: Side) -> None:
        super().__init__()
        self.desk, self.theme, self.side = desk, theme, side
        self.setMinimumSize(190, 150)
        self.setAccessibleName(f"Where pieces go, {side.value} of the board")

    def sizeHint(self) -> QSize:
        return QSize(320, 230)

    @property
    def cuts(self) -> tuple[Cut, ...]:
        """The pieces of this side."""
        found = self.desk.found
        return tuple(one for one in found[0].cuts if one.side is self.side) if found is not None else ()

    def _placement(self) -> Placement:
        bodies = self.desk.session.project.bodies_of(self.desk.session.build) if self.desk.session.project.builds else ()
        board = next((one for one in bodies if isinstance(one, Board)), None)
        extent = board.footprint.bounds if board is not None else (0.0, 0.0, 100.0, 80.0)
        return Placement.fit(extent, self.width(), self.height(), False, self.side is Side.REAR)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        session, theme, place = self.desk.session, self.theme, self._placement()
        if session.project.builds:
            for outline in outlines_of(session.project.bodies_of(session.build), self.side, ("substrate", "component")):
                draw_solid(painter, outline, place, theme)
        for one in self.cuts:
            box = place.rect(_box(one))
            lit = one.number == self.desk.view.piece
            painter.setPen(QPen(theme.colour("ember" if lit else "ink"), 2.4 if lit else 1.0))
            painter.setBrush(theme.colour("ember_soft" if lit else "pad", 1.0 if lit else 0.6))
            painter.drawRect(box)
            painter.setFont(theme.font(min(max(box.height() * 0.45, 7.0), 13.0), bold=True))
            painter.setPen(theme.colour("ink"))
            painter.drawText(box.adjusted(-6, -6, 6, 6), Qt.AlignmentFlag.AlignCenter, str(one.number))
        painter.setFont(theme.font(10))
        painter.setPen(theme.colour("quiet"))
        painter.drawText(QRectF(6, 4, self.width() - 12, 18), self.side.value.capitalize())
        painter.end()

    def piece_at(self, at: QPointF) -> int:
        """Return the number of the piece at a pixel, 0 where none is."""
        place = self._placement()
        return next((one.number for one in self.cuts if place.rect(_box(one)).adjusted(-3, -3, 3, 3).contains(at)), 0)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        number = self.piece_at(event.position()) if event is not None else 0
        if number:
            self.piece_chosen.emit(number)


def _box(one: Cut) -> Box:
    x, y = one.place
    x0, y0 = min(box[0] for box in one.outline), min(box[1] for box in one.outline)
    x1, y1 = max(box[2] for box in one.outline), max(box[3] for box in one.outline)
    return x + x0, y + y0, x + x1, y + y1
