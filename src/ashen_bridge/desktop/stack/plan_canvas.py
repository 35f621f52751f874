"""The plan as a picture that can be zoomed and pushed: where things are on it, and how it is painted."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QPainter, QPaintEvent, QWheelEvent
from PyQt6.QtWidgets import QWidget

from ashen_bridge.desktop.charts.placement import Placement
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.stack.desk import StackDesk
from ashen_bridge.desktop.stack.edit_painter import paint_hand, paint_outlines, paint_photo
from ashen_bridge.desktop.stack.hand import Hand
from ashen_bridge.desktop.stack.photo import Photo, PlacingHand
from ashen_bridge.desktop.stack.plan_frame import PlanFrame
from ashen_bridge.desktop.stack.plan_model import Outline, PlanPicture, outlines, plan_picture
from ashen_bridge.desktop.stack.plan_painter import PlanPainting
from ashen_bridge.model.bodies import Side

_EMPTY = "This project has no board yet.\nStart from questions (Ctrl+N), or press E to draw the device."
_EMPTY_EDITING = "Nothing here yet. Choose Board above and draw it here: drag its outline, or click for a usual size."


class PlanCanvas(QWidget):
    """Draws the build that is looked at, and what the hands that edit it show."""

    placed = pyqtSignal()
    """Places are drawn elsewhere than before: it was moved, zoomed or made larger."""

    def __init__(self, desk: StackDesk, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        session = desk.session
        self.desk, self.session, self.theme = desk, session, theme
        self.hand = Hand(desk)
        self.photo = Photo(desk)
        self.placing: PlacingHand | None = None
        self._shown: PlanPicture | None = None
        self._outlines: tuple[Outline, ...] = ()
        self._known = False
        self._hovered = ""
        self._frame = PlanFrame()
        self._painted: Placement | None = None
        self.setMinimumSize(360, 200)
        for signal in (session.project_changed, desk.changed, session.results.changed):
            signal.connect(self.refresh)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.refresh()

    def refresh(self) -> None:
        """Take over what the session shows, when it is next needed: several changes make one picture."""
        self._known = False
        self.update()

    @property
    def picture(self) -> PlanPicture | None:
        """What the plan shows now."""
        if not self._known:
            self._shown = plan_picture(self.desk, self.theme)
            self._outlines = outlines(self.desk)
            self._known = True
        return self._shown

    def sizeHint(self) -> QSize:
        return QSize(780, 380)

    # ---- where things are

    def placement(self) -> Placement:
        """Return how millimetres map to pixels now."""
        return self._frame.placement(self._fitted(), (self.width(), self.height()))

    def _fitted(self) -> Placement:
        extent = self.picture.extent if self.picture else (-60.0, -40.0, 60.0, 40.0)
        legend = bool(self.picture and self.picture.legend)
        return Placement.fit(extent, self.width(), self.height(), legend, self.desk.view.side is Side.REAR)

    def fit(self) -> None:
        """Show the whole board again."""
        self._frame.fit()
        self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Zoom about the pointer."""
        if event is None or not event.angleDelta().y():
            return
        turns = event.angleDelta().y() / 120
        self._frame.zoom(turns, event.position(), self._fitted(), (self.width(), self.height()))
        self.update()
        event.accept()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        picture = self.picture
        painter = QPainter(self)
        self._paint(painter, picture)
        painter.end()
        if self.placement() != self._painted:
            self._painted = self.placement()
            self.placed.emit()

    def _paint(self, painter: QPainter, picture: PlanPicture | None) -> None:
        painter.fillRect(self.rect(), self.theme.colour("surface"))
        size = (float(self.width()), float(self.height()))
        place = self.placement()
        painting = PlanPainting(painter, place, self.theme, self._hovered, size)
        photo = self.photo.shown()
        if picture is None:
            painter.setPen(self.theme.colour("quiet"))
            painter.setFont(self.theme.font(14))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, _EMPTY_EDITING if self.desk.view.editing else _EMPTY)
        elif photo is not None:
            # Laid over the bare board and under the parts' outlines: one traces on it.
            painting.paint(picture, photo=lambda: paint_photo(painter, *photo, place))
        else:
            painting.paint(picture)
        paint_outlines(painter, self._outlines, self._taken(place), place, self.theme)
        if self.placing is not None:
            paint_hand(painter, self.placing.picture(), place, self.theme, size)
        elif self.desk.view.editing:
            paint_hand(painter, self.hand.picture(), place, self.theme, size)
        if self.hasFocus():
            painter.setPen(self.theme.colour("ember"))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))

    def _taken(self, place: Placement) -> list[QRectF]:
        """Return where parts, and screws with their forces, are drawn [px]."""
        if self.picture is None:
            return []
        parts = [place.rect(item.box) for item in self.picture.items if item.kind == "component"]
        at = [place.point(screw.x, screw.y) for screw in self.picture.screws]
        return parts + [QRectF(point.x() - 44, point.y() - 12, 88, 24) for point in at]

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self.update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self.update()

    def _item_at(self, at: QPointF) -> str:
        if self.picture is None:
            return ""
        x, y = self.placement().place(at)
        for item in reversed([item for item in self.picture.items if item.kind in ("component", "substrate")]):
            if any(r.bounds[0] <= x <= r.bounds[2] and r.bounds[1] <= y <= r.bounds[3] for r in item.rects):
                return item.id
        return ""
