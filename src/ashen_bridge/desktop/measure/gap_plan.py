"""The board with every gap on it, to be pointed at."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from ashen_bridge.desktop.charts.placement import Placement
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.measure.desk import MeasureDesk
from ashen_bridge.desktop.measure.gap_painter import GapPainting
from ashen_bridge.desktop.measure.gap_picture import GapPicture, Mark, gap_picture
from ashen_bridge.desktop.parts.plain import show_tip
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.model.bodies import Side
from ashen_bridge.words.numbers import measured


class GapPlan(QWidget):
    """Gaps by their places; a click or the arrow keys choose one."""

    def __init__(self, desk: MeasureDesk, theme: Theme) -> None:
        super().__init__()
        self.desk, self.theme = desk, theme
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(360, 220)
        self.setAccessibleName("Gaps on the board")

    @property
    def picture(self) -> GapPicture:
        """What is shown now."""
        return gap_picture(self.desk, standing(self.desk.question, "Moving every length a little…"))

    def refresh(self) -> None:
        """Take over what is known."""
        chosen = self.desk.gap
        self.setAccessibleDescription(f"{chosen.name}: {measured(*chosen.now, 'mm')}" if chosen is not None else "")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(760, 430)

    def placement(self, picture: GapPicture) -> Placement:
        """Return how millimetres map to pixels now, above the key."""
        return Placement.fit(picture.extent, self.width(), self.height(), True, picture.side is Side.REAR)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        picture = self.picture
        painter = QPainter(self)
        GapPainting(painter, self.placement(picture), self.theme).paint(picture, QRectF(self.rect()))
        if self.hasFocus():
            painter.setPen(self.theme.colour("ember"))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        painter.end()

    def mark_at(self, at: QPointF) -> Mark | None:
        """Return the gap at a pixel, the smallest where several lie."""
        picture = self.picture
        place = self.placement(picture)
        hit = [one for one in picture.marks if place.rect(one.box).contains(at)]
        return min(hit, key=lambda one: (one.box[2] - one.box[0]) * (one.box[3] - one.box[1]), default=None)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        found = self.mark_at(event.position()) if event is not None else None
        if found is not None:
            self.desk.session.select(found.lower)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrow keys go from gap to gap, in the order of the file."""
        ways = {Qt.Key.Key_Left: -1, Qt.Key.Key_Up: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Down: 1}
        marks = self.picture.marks
        if event is None or not marks or Qt.Key(event.key()) not in ways:
            super().keyPressEvent(event)
            return
        now = next((n for n, one in enumerate(marks) if one.selected), 0)
        self.desk.session.select(marks[(now + ways[Qt.Key(event.key())]) % len(marks)].lower)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            found = self.mark_at(QPointF(event.pos()))
            words = f"{found.name}: {measured(found.gap_mm, found.sd_mm, 'mm')} to fill" if found is not None else ""
            show_tip(event.globalPos(), words, self)
            return True
        return super().event(event)
