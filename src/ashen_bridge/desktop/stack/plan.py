"""The plan: the board as it lies before you. Click selects, arrow keys walk, the cut line is dragged; `hand` edits."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QMenu, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.plain import show_tip
from ashen_bridge.desktop.stack.cut_hand import CutHand
from ashen_bridge.desktop.stack.desk import StackDesk
from ashen_bridge.desktop.stack.plan_canvas import PlanCanvas
from ashen_bridge.desktop.stack.plan_model import neighbour, probe
from ashen_bridge.editing.targets import under


class PlanView(PlanCanvas):
    """Plan of the build that is looked at."""

    def __init__(self, desk: StackDesk, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(desk, theme, parent)
        self._panning: QPointF | None = None
        self._cut = CutHand(desk)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Plan of the board")
        self.setAccessibleDescription(
            "Arrow keys walk from part to part; Shift and arrows move the cut line; X turns it. While editing, square "
            "brackets walk and arrow keys nudge what is chosen."
        )

    # ---- mouse

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
