"""The plan: the board from above. Click selects, arrow keys walk, the cut line is dragged."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QSize, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QToolTip, QWidget

from ashen_bridge.desktop.session import Session
from ashen_bridge.desktop.stack.plan_model import PlanPicture, plan_picture
from ashen_bridge.desktop.stack.plan_painter import Placement, paint_plan
from ashen_bridge.desktop.theme import Theme, font
from ashen_bridge.geometry.section import Cut

_GRAB = 7.0  # [px] from the cut line


class PlanView(QWidget):
    """Plan of the build that is looked at."""

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session, self.theme = session, theme
        self._shown: PlanPicture | None = None
        self._known = False
        self._hovered = ""
        self._dragging = False
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Plan of the board")
        self.setAccessibleDescription("Arrow keys walk from part to part; Shift and arrows move the cut line; X turns it.")
        self.setMinimumSize(360, 200)
        for signal in (session.project_changed, session.view_changed, session.result_changed):
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
            self._shown = plan_picture(self.session, self.theme)
            self._known = True
        return self._shown

    def sizeHint(self) -> QSize:
        return QSize(780, 380)

    def placement(self) -> Placement:
        """Return how millimetres map to pixels now."""
        extent = self.picture.extent if self.picture else (0.0, 0.0, 1.0, 1.0)
        return Placement.fit(extent, self.width(), self.height(), bool(self.picture and self.picture.legend))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), self.theme.colour("surface"))
        if self.picture is None:
            painter.setPen(self.theme.colour("quiet"))
            painter.setFont(font(14))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "This project has no board yet.")
        else:
            paint_plan(painter, self.picture, self.placement(), self.theme, self._hovered, (self.width(), self.height()))
        if self.hasFocus():
            painter.setPen(self.theme.colour("ember"))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))

    # ---- mouse

    def _item_at(self, at: QPointF) -> str:
        if self.picture is None:
            return ""
        x, y = self.placement().place(at)
        for item in reversed([item for item in self.picture.items if item.kind in ("component", "substrate")]):
            if any(r.bounds[0] <= x <= r.bounds[2] and r.bounds[1] <= y <= r.bounds[3] for r in item.rects):
                return item.id
        return ""

    def _on_cut(self, at: QPointF) -> bool:
        cut = self.session.view.cut
        line = self.placement().point(cut.at * 1e3, cut.at * 1e3)
        return abs((line.y() - at.y()) if cut.along == "x" else (line.x() - at.x())) < _GRAB

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        edge = 24.0
        outside = not (edge < event.position().x() < self.width() - edge and edge < event.position().y() < self.height() - edge)
        found = self._item_at(event.position())
        # On a part the click means the part; the line is grabbed beside parts and by its ends.
        if self._on_cut(event.position()) and (outside or not found):
            self._dragging = True
            return
        if found:
            self.session.look(selected=found)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._dragging:
            x, y = self.placement().place(event.position())
            self._move_cut((y if self.session.view.cut.along == "x" else x) * 1e-3)
            return
        found = self._item_at(event.position())
        if found != self._hovered:
            self._hovered = found
            self.update()
        if self._on_cut(event.position()) and not found:
            vertical = self.session.view.cut.along == "x"
            self.setCursor(Qt.CursorShape.SizeVerCursor if vertical else Qt.CursorShape.SizeHorCursor)
        else:
            self.setCursor(Qt.CursorShape.PointingHandCursor if found else Qt.CursorShape.ArrowCursor)
        tip = next((item.tip for item in self.picture.items if item.id == found), "") if self.picture and found else ""
        QToolTip.showText(event.globalPosition().toPoint(), tip, self)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._dragging = False

    def leaveEvent(self, event: object) -> None:
        self._hovered = ""
        self.update()

    def _move_cut(self, at: float) -> None:
        if self.picture is None:
            return
        x0, y0, x1, y1 = self.picture.extent
        low, high = (y0, y1) if self.session.view.cut.along == "x" else (x0, x1)
        self.session.look(cut=Cut(self.session.view.cut.along, min(max(at, low * 1e-3), high * 1e-3)))

    # ---- keys

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        ways = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, 1),
            Qt.Key.Key_Down: (0, -1),
        }
        way = ways.get(Qt.Key(event.key()))
        if way and event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            step = 1e-3 * (way[1] if self.session.view.cut.along == "x" else way[0])
            self._move_cut(self.session.view.cut.at + step)
        elif way:
            self._walk(*way)
        elif event.key() == Qt.Key.Key_X:
            self.turn_cut()
        else:
            super().keyPressEvent(event)

    def turn_cut(self) -> None:
        """Turn the cut line by a quarter, through the middle of what is selected."""
        if self.picture is None:
            return
        box = next((item.box for item in self.picture.items if item.selected), self.picture.extent)
        if self.session.view.cut.along == "x":
            self.session.look(cut=Cut("y", (box[0] + box[2]) / 2e3))
        else:
            self.session.look(cut=Cut("x", (box[1] + box[3]) / 2e3))

    def _walk(self, dx: int, dy: int) -> None:
        """Select the nearest part in a direction."""
        if self.picture is None:
            return
        parts = [item for item in self.picture.items if item.kind == "component"]
        here = next((item for item in parts if item.selected), None)
        if here is None:
            if parts:
                self.session.look(selected=parts[0].id)
            return
        cx, cy = (here.box[0] + here.box[2]) / 2, (here.box[1] + here.box[3]) / 2

        def cost(item: object) -> float:
            box = item.box  # type: ignore[attr-defined]
            ax, ay = (box[0] + box[2]) / 2 - cx, (box[1] + box[3]) / 2 - cy
            ahead, aside = ax * dx + ay * dy, abs(ax * dy - ay * dx)
            return ahead + 2.5 * aside if ahead > 0.5 and aside < 2 * ahead else float("inf")

        best = min(parts, key=cost)
        if cost(best) < float("inf"):
            self.session.look(selected=best.id)
