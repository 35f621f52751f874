"""Curves of a log to look at: the wheel zooms, dragging pushes, two handles hold the settled window."""

from __future__ import annotations

from typing import Literal

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from ashen_bridge.desktop.charts.trace_painter import HANDLE, TracePainting
from ashen_bridge.desktop.charts.trace_picture import TracePicture, TracePlacement
from ashen_bridge.desktop.look.theme import Theme

_SHORTEST_S = 5.0


class TraceView(QWidget):
    """Curves, with what is looked at of them. `window_moved` gives the settled window [s] once a handle is let go."""

    window_moved = pyqtSignal(float, float)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme = theme
        self.picture: TracePicture | None = None
        self.words = ""
        self.at: float | None = None
        self._span: tuple[float, float] | None = None
        self._held: Literal["", "start", "end", "push"] = ""
        self._from = 0.0
        self._dragged: tuple[float, float] | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Curves of the log")
        self.setToolTip(
            "Wheel: zoom in time. Drag: push. Double click or Home: all of it. "
            "Drag the blue handles, or Shift and Ctrl with the arrows, to set the settled window."
        )
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(150)

    def sizeHint(self) -> QSize:
        return QSize(640, 300)

    def show_picture(self, picture: TracePicture | None, words: str = "", *, keep_span: bool = True) -> None:
        """Show other curves; `words` where there are none."""
        if picture is None or self.picture is None or not keep_span or picture.whole != self.picture.whole:
            self._span = None
        self.picture, self.words = picture, words
        self.update()

    def placement(self) -> TracePlacement | None:
        """Return how times and values map to pixels now."""
        if self.picture is None or not (self.picture.upper or self.picture.lower):
            return None
        return TracePlacement(self.picture, self.width(), self.height(), self.theme, self._span or self.picture.whole)

    def _shown(self) -> TracePicture | None:
        if self.picture is None or self._dragged is None:
            return self.picture
        return TracePicture(**{**vars(self.picture), "window_s": self._dragged, "by_hand": True})

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        picture, place = self._shown(), self.placement()
        if picture is None or place is None:
            painter.setPen(self.theme.colour("quiet"))
            painter.setFont(self.theme.font(13))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self.rect().adjusted(40, 20, -40, -20), flags, self.words)
        else:
            TracePainting(painter, place, self.theme, self.at).paint(picture)
        if self.hasFocus():
            painter.setPen(self.theme.colour("ember"))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(self.rect().adjusted(0, 0, -1, -1), 5, 5)
        painter.end()

    # ---- zoom and push

    def zoom(self, factor: float, about: float) -> None:
        """Look at a span longer by `factor`, the time `about` [s] staying where it is."""
        if self.picture is None:
            return
        first, last = self.picture.whole
        start, end = self._span or (first, last)
        length = min(max((end - start) * factor, _SHORTEST_S), last - first)
        share = (about - start) / (end - start)
        self._look_at(about - share * length, length)

    def _look_at(self, start: float, length: float) -> None:
        assert self.picture is not None
        first, last = self.picture.whole
        start = min(max(start, first), last - length)
        self._span = None if length >= last - first else (start, start + length)
        self.update()

    def show_all(self) -> None:
        """Look at the whole log."""
        self._span = None
        self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        place = self.placement()
        if event is None or place is None:
            return
        turns = event.angleDelta().y() / 120
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier or event.angleDelta().x():
            turns = turns or event.angleDelta().x() / 120
            self._look_at(place.start - 0.1 * turns * (place.end - place.start), place.end - place.start)
        else:
            self.zoom(0.8**turns, place.seconds(event.position().x()))
        event.accept()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.show_all()

    # ---- the hand

    def _grasped(self, x: float) -> Literal["", "start", "end"]:
        place = self.placement()
        if place is None or self.picture is None or self.picture.window_s is None or not self.picture.movable:
            return ""
        away = [abs(place.x(one) - x) for one in self.picture.window_s]
        if min(away) > HANDLE:
            return ""
        return "start" if away[0] <= away[1] else "end"

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        place = self.placement()
        if event is None or place is None or event.button() not in (Qt.MouseButton.LeftButton, Qt.MouseButton.MiddleButton):
            return
        x = event.position().x()
        self._held = (self._grasped(x) if event.button() == Qt.MouseButton.LeftButton else "") or "push"
        self._from = place.seconds(x)
        self._dragged = self.picture.window_s if self.picture is not None and self._held != "push" else None

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        place = self.placement()
        if event is None or place is None or self.picture is None:
            return
        x = event.position().x()
        if self._held in ("start", "end"):
            self._drag_to(place.seconds(x))
        elif self._held == "push":
            share = (x - place.left) / (place.right - place.left)
            self._look_at(self._from - share * (place.end - place.start), place.end - place.start)
        else:
            self.at = place.seconds(x) if place.left <= x <= place.right else None
            self.setCursor(Qt.CursorShape.SizeHorCursor if self._grasped(x) else Qt.CursorShape.ArrowCursor)
        self.update()

    def _drag_to(self, second: float) -> None:
        assert self.picture is not None
        assert self._dragged is not None
        start, end = self._dragged
        first, last = self.picture.whole
        if self._held == "start":
            start = min(max(second, first), end - _SHORTEST_S)
        else:
            end = max(min(second, last), start + _SHORTEST_S)
        self._dragged = start, end

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        held, dragged = self._held, self._dragged
        self._held, self._dragged = "", None
        if held in ("start", "end") and dragged is not None:
            self.window_moved.emit(*dragged)
        self.update()

    def leaveEvent(self, event: object) -> None:
        self.at = None
        self.update()

    # ---- keys

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        place = self.placement()
        ways = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if event is None or place is None:
            super().keyPressEvent(event)
            return
        key = Qt.Key(event.key())
        step = (place.end - place.start) / 60
        if key in ways and event.modifiers() & (Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier):
            start = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._nudge(start, ways[key] * step)
        elif key in ways:
            now = place.end if self.at is None else self.at
            self.at = min(max(now + ways[key] * step, place.start), place.end)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.zoom(0.8 if key == Qt.Key.Key_Up else 1.25, self.at if self.at is not None else (place.start + place.end) / 2)
        elif key == Qt.Key.Key_Home:
            self.show_all()
        else:
            super().keyPressEvent(event)
            return
        self.update()

    def _nudge(self, start: bool, by: float) -> None:
        if self.picture is None or self.picture.window_s is None or not self.picture.movable:
            return
        self._held, self._dragged = ("start" if start else "end"), self.picture.window_s
        self._drag_to(self.picture.window_s[0 if start else 1] + by)
        dragged, self._held, self._dragged = self._dragged, "", None
        if dragged != self.picture.window_s:
            self.window_moved.emit(*dragged)
