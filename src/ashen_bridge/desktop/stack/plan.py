"""The plan: the board as it lies before you. Click selects, arrow keys walk, the cut line is dragged; `hand` edits."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QContextMenuEvent, QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PyQt6.QtWidgets import QMenu, QWidget

from ashen_bridge.desktop.charts.placement import Placement
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.plain import show_tip
from ashen_bridge.desktop.stack.cut_hand import CutHand
from ashen_bridge.desktop.stack.desk import StackDesk
from ashen_bridge.desktop.stack.edit_painter import paint_hand, paint_outlines, paint_photo
from ashen_bridge.desktop.stack.hand import Hand
from ashen_bridge.desktop.stack.photo import Photo, PlacingHand
from ashen_bridge.desktop.stack.plan_frame import PlanFrame
from ashen_bridge.desktop.stack.plan_model import Outline, PlanPicture, neighbour, outlines, plan_picture, probe
from ashen_bridge.desktop.stack.plan_painter import PlanPainting
from ashen_bridge.editing.targets import under
from ashen_bridge.model.bodies import Side

_EMPTY = "This project has no board yet.\nStart from questions (Ctrl+N), or press E to draw the device."
_EMPTY_EDITING = "Nothing here yet. Choose Board above and draw it here: drag its outline, or click for a usual size."


class PlanView(QWidget):
    """Plan of the build that is looked at."""

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
        self._panning: QPointF | None = None
        self._frame = PlanFrame()
        self._cut = CutHand(desk)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Plan of the board")
        self.setAccessibleDescription(
            "Arrow keys walk from part to part; Shift and arrows move the cut line; X turns it. While editing, square "
            "brackets walk and arrow keys nudge what is chosen."
        )
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

    # ---- mouse

    def _item_at(self, at: QPointF) -> str:
        if self.picture is None:
            return ""
        x, y = self.placement().place(at)
        for item in reversed([item for item in self.picture.items if item.kind in ("component", "substrate")]):
            if any(r.bounds[0] <= x <= r.bounds[2] and r.bounds[1] <= y <= r.bounds[3] for r in item.rects):
                return item.id
        return ""

    def _at_edge(self, at: QPointF) -> bool:
        edge = 24.0
        return not (edge < at.x() < self.width() - edge and edge < at.y() < self.height() - edge)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if event.button() == Qt.MouseButton.MiddleButton:
            self._panning = event.position()
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if self.placing is not None:
            self._place_photo(event)
            return
        found = self._item_at(event.position())
        # On a part the click means the part; the line is grabbed beside parts and by its ends.
        on_cut = self._cut.near(event.position(), self.placement()) and (
            self._at_edge(event.position()) or not (found or self.desk.view.editing)
        )
        if on_cut and self.desk.view.tool == "choose":
            self._cut.dragging = True
        elif self.desk.view.editing:
            self.hand.press(event, self.placement())
            self._frame.held = self.placement()
            self.update()
        elif found:
            self.session.select(found)

    def _place_photo(self, event: QMouseEvent) -> None:
        if self.placing is not None and self.placing.click(self.placement().place(event.position())):
            self.placing = None
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._panning is not None:
            self._frame.push(event.position() - self._panning)
            self._panning = event.position()
            self.update()
            return
        if self._cut.dragging:
            self._cut.drag(event.position(), self.placement(), self.picture)
            return
        if self.hand.drag is not None:
            self.hand.move(event, self.placement())
            self.update()
            return
        self._hover(event)

    def _hover(self, event: QMouseEvent) -> None:
        found = self._item_at(event.position())
        if found != self._hovered:
            self._hovered = found
            self.update()
        self.setCursor(self._cursor(event.position(), found))
        tip = next((item.tip for item in self.picture.items if item.id == found), "") if self.picture and found else ""
        if self.picture is not None:
            tip = "\n".join(words for words in (probe(self.picture, *self.placement().place(event.position())), tip) if words)
        if not self.desk.view.editing:
            show_tip(event.globalPosition().toPoint(), tip, self)

    def _cursor(self, at: QPointF, found: str) -> Qt.CursorShape:
        shape = Qt.CursorShape
        if self.placing is not None or self.desk.view.tool != "choose":
            return shape.CrossCursor
        if self.desk.view.editing:
            handle = self.hand.handle_at(at, self.placement())
            if handle is not None:
                flat = {(1, 0): shape.SizeHorCursor, (0, 1): shape.SizeVerCursor}
                same = (handle[0] * handle[1] > 0) is not self.placement().mirrored
                return flat.get((abs(handle[0]), abs(handle[1]))) or (shape.SizeBDiagCursor if same else shape.SizeFDiagCursor)
            if found:
                return shape.SizeAllCursor
        if self._cut.near(at, self.placement()) and not found:
            return self._cut.cursor()
        return shape.PointingHandCursor if found else shape.ArrowCursor

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._cut.dragging = False
        self._panning = None
        if event is not None and self.hand.drag is not None:
            self.hand.release(event, self.placement())
            self._frame.held = None
            self.update()

    def leaveEvent(self, event: object) -> None:
        self._hovered = ""
        self.update()

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        """List everything that lies under the pointer, so that what is covered can be chosen too."""
        if event is None or self.picture is None:
            return
        place = self.placement()
        x, y = place.place(QPointF(event.pos()))
        found = under(self.desk.targets(), x, y, self.desk.view.side, 7 / place.scale)
        menu = QMenu(self)
        for target in found:
            action = menu.addAction(f"{target.label}  ·  {target.kind}")
            if action is not None:
                action.triggered.connect(lambda _, path=target.path: self._edit(path))
        if found:
            menu.exec(event.globalPos())

    def _edit(self, path: str) -> None:
        self.desk.look(replace(self.desk.view, editing=True, page="part"))
        self.desk.choose(path)

    # ---- keys

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() == Qt.Key.Key_Escape and self.placing is not None:
            self.placing = None
            self.update()
            return
        if self.desk.view.editing and self.hand.key(event, self.placement().mirrored):
            self._frame.held = None
            self.update()
            return
        ways = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, 1),
            Qt.Key.Key_Down: (0, -1),
        }
        way = ways.get(Qt.Key(event.key()))
        if way is None:
            super().keyPressEvent(event)
            return
        across = -way[0] if self.placement().mirrored else way[0]
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._cut.step(across, way[1], self.picture)
        elif self.picture is not None:
            self.session.select(neighbour(self.picture, across, way[1]) or self.session.view.selected)

    def turn_cut(self) -> None:
        """Turn the cut line by a quarter, through the middle of what is selected."""
        self._cut.turn(self.picture)
