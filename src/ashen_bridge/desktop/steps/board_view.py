"""The open board, to be pointed at: screws on the page of steps, contacts on that of what is seen."""

from __future__ import annotations

import math

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from ashen_bridge.desktop.charts.placement import Placement
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.plain import show_tip
from ashen_bridge.desktop.steps.board_painter import SCREW, BoardPainting
from ashen_bridge.desktop.steps.board_picture import BoardPicture, ScrewMark, board_picture
from ashen_bridge.desktop.steps.contact_mark import ContactMark
from ashen_bridge.desktop.steps.desk import StepsDesk
from ashen_bridge.model.bodies import Side

_DRAGGED_PX, _PLUG = 14.0, 13.0


class BoardView(QWidget):
    """`screw_chosen`, `plug_chosen` and `contact_chosen` (joint, lower) say what was clicked, `wedge_drawn` the direction of a
    drag [°], `placed` where something new was put [mm] while `placing`.
    """

    screw_chosen = pyqtSignal(str)
    plug_chosen = pyqtSignal(str)
    placed = pyqtSignal(float, float)
    contact_chosen = pyqtSignal(str, str)
    wedge_drawn = pyqtSignal(float)

    def __init__(self, desk: StepsDesk, theme: Theme) -> None:
        super().__init__()
        self.desk, self.theme = desk, theme
        self._from: QPointF | None = None
        self._to: QPointF | None = None
        self.placing = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(320, 150)
        self.setAccessibleName("The open board")

    @property
    def picture(self) -> BoardPicture:
        """What is shown now."""
        return board_picture(self.desk)

    def sizeHint(self) -> QSize:
        return QSize(640, 380)

    def placement(self, picture: BoardPicture) -> Placement:
        """Return how millimetres map to pixels now."""
        return Placement.fit(picture.extent, self.width(), self.height(), False, picture.side is Side.REAR)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        picture = self.picture
        painter = QPainter(self)
        BoardPainting(painter, self.placement(picture), self.theme).paint(picture, QRectF(self.rect()))
        if self._from is not None and self._to is not None:
            painter.setPen(QPen(self.theme.colour("ember"), 2.4))
            painter.drawLine(self._from, self._to)
        if self.hasFocus():
            painter.setPen(self.theme.colour("ember"))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        painter.end()

    def screw_at(self, at: QPointF) -> ScrewMark | None:
        """Return the screw at a pixel."""
        picture = self.picture
        place, reach = self.placement(picture), 1.3 * self.theme.px(SCREW)
        near = [(_distance(place.point(*one.at), at), one) for one in picture.screws]
        return min((pair for pair in near if pair[0] < reach), key=lambda pair: pair[0], default=(0.0, None))[1]

    def plug_at(self, at: QPointF) -> str:
        """Return the plug at a pixel, empty where none is."""
        picture = self.picture
        place, reach = self.placement(picture), self.theme.px(_PLUG)
        near = [(_distance(place.point(*one.at), at), one.id) for one in picture.plugs]
        return min((pair for pair in near if pair[0] < reach), default=(0.0, ""))[1]

    def place(self, on: bool) -> None:
        """Let the next click say where something new lies, or no more."""
        self.placing = on
        self.setCursor(Qt.CursorShape.CrossCursor if on else Qt.CursorShape.ArrowCursor)

    def contact_at(self, at: QPointF) -> ContactMark | None:
        """Return the contact at a pixel, the smallest where several lie."""
        picture = self.picture
        place = self.placement(picture)
        hit = [one for one in picture.contacts if place.rect(one.box).adjusted(-2, -2, 2, 2).contains(at)]
        return min(hit, key=lambda one: (one.box[2] - one.box[0]) * (one.box[3] - one.box[1]), default=None)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position()
        screw, contact, plug = self.screw_at(at), self.contact_at(at), self.plug_at(at)
        if self.placing:
            self.place(False)
            self.placed.emit(*self.placement(self.picture).place(at))
        elif plug:
            self.plug_chosen.emit(plug)
        elif screw is not None:
            self.screw_chosen.emit(screw.id)
        elif contact is not None:
            self.contact_chosen.emit(contact.joint, contact.lower)
            self._from = at

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._from is not None and _distance(self._from, event.position()) > _DRAGGED_PX:
            self._to = event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        begin, end = self._from, self._to
        self._from = self._to = None
        self.update()
        if begin is not None and end is not None:
            across = (end.x() - begin.x()) * (-1 if self.desk.view.side is Side.REAR else 1)
            self.wedge_drawn.emit(math.degrees(math.atan2(begin.y() - end.y(), across)))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrow keys go from contact to contact, in the order of the file."""
        if event is not None and event.key() == Qt.Key.Key_Escape and self.placing:
            self.place(False)
            return
        ways = {Qt.Key.Key_Left: -1, Qt.Key.Key_Up: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Down: 1}
        marks = self.picture.contacts
        if event is None or not marks or Qt.Key(event.key()) not in ways:
            super().keyPressEvent(event)
            return
        now = next((n for n, one in enumerate(marks) if one.selected), -1)
        chosen = marks[(now + ways[Qt.Key(event.key())]) % len(marks)]
        self.contact_chosen.emit(chosen.joint, chosen.lower)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            at = QPointF(event.pos())
            contact, screw = self.contact_at(at), self.screw_at(at)
            words = ""
            if contact is not None:
                words = f"{contact.name}: expected {contact.expected}" + (f"; shows {contact.said}" if contact.said else "")
            elif screw is not None:
                slot = next(one for one in self.desk.tray.slots if one.id == screw.id)
                words = f"{slot.number} {slot.label}" + (f": {slot.looks}" if slot.looks else "")
            show_tip(event.globalPos(), words, self)
            return True
        return super().event(event)


def _distance(one: QPointF, other: QPointF) -> float:
    return math.hypot(one.x() - other.x(), one.y() - other.y())
