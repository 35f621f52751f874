"""The elevation: the stack along the cut line, heights legible or true. A click selects; while editing, edges drag."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from ashen_bridge.desktop.charts.placement import Placement
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.stack.desk import StackDesk
from ashen_bridge.desktop.stack.elevation_painter import Fit, Frame, paint_elevation, paint_words
from ashen_bridge.desktop.stack.elevation_picture import ElevationPicture, cut_through, elevation_picture
from ashen_bridge.desktop.stack.height_hand import HeightHand
from ashen_bridge.desktop.stack.where import Where
from ashen_bridge.geometry.section import Section


class ElevationView(QWidget):
    """Section of the build that is looked at."""

    def __init__(self, desk: StackDesk, theme: Theme, where: Where, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        session = desk.session
        self.desk, self.session, self.theme = desk, session, theme
        self._cut: Section | None = None
        self._picture = ElevationPicture()
        self._known = False
        self.hand = HeightHand(desk, where)
        self._frozen: Frame | None = None
        self._plan: Callable[[], Placement] | None = None
        self.setMouseTracking(True)
        self.setAccessibleName("Elevation along the cut line")
        self.setMinimumHeight(150)
        for signal in (session.project_changed, desk.changed, session.results.changed):
            signal.connect(self.refresh)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.update()

    def refresh(self) -> None:
        """Take over what the session shows, when it is next needed."""
        self._known = False
        self.update()

    @property
    def section(self) -> Section | None:
        """The section that is shown now."""
        self._bring_up_to_date()
        return self._cut

    @property
    def picture(self) -> ElevationPicture:
        """What is shown now."""
        self._bring_up_to_date()
        return self._picture

    def _bring_up_to_date(self) -> None:
        if not self._known:
            self._cut = cut_through(self.desk)
            self._picture = elevation_picture(self.desk, self._cut)
            self._known = True

    def sizeHint(self) -> QSize:
        return QSize(780, 210)

    def frame(self) -> Frame | None:
        """Return where things are, None if nothing is; while an edge is held, by the scales of when it was taken."""
        picture = self.picture
        if not picture.bodies:
            return None
        if self._frozen is not None:
            return self._frozen
        size = float(self.width()), float(self.height())
        return Frame.fitted(picture, size, self.theme, Fit(self.desk.view.true_heights, self._across()))

    def follow(self, plan: Callable[[], Placement]) -> None:
        """Show what is cut along x right below where the plan shows it."""
        self._plan = plan

    def _across(self) -> tuple[float, float] | None:
        """Return the columns of the plan above: of places along x, where both are as wide."""
        if self._plan is None or self.desk.view.cut.along != "x":
            return None
        place = self._plan()
        return place.x0, (-1e3 if place.mirrored else 1e3) * place.scale

    def paintEvent(self, event: QPaintEvent | None) -> None:
        frame = self.frame()
        painter = QPainter(self)
        paint_elevation(painter, self.picture, frame, QRectF(self.rect()), self.theme)
        if self.hand.words and frame is not None:
            paint_words(painter, self.hand.words, frame)
        painter.end()  # an error on the way may keep this frame, and the painter with it, alive

    # ---- mouse

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Select the joint or part that was clicked; while editing, take hold of an upper or lower edge."""
        frame, cut = self.frame(), self.section
        if event is None or frame is None or cut is None:
            return
        s, height = frame.place(event.position())
        if self.desk.view.editing:
            self._frozen = frame
            self.hand.press(cut, s, height, frame.near(event.position().y()))
            self.update()
            return
        for filling in cut.fillings:
            if filling.s[0] <= s <= filling.s[-1]:
                self.session.select(filling.lower)
                return
        for body in cut.bodies:
            if body.kind == "component" and body.s[0] <= s <= body.s[-1]:
                self.session.select(body.id)
                return

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        frame, cut = self.frame(), self.section
        if event is None or frame is None or cut is None:
            return
        s, height = frame.place(event.position())
        if self.hand.holding and event.buttons() & Qt.MouseButton.LeftButton:
            self.hand.move(height, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        elif self.desk.view.editing:
            grip = self.hand.grip_at(cut, s, height, frame.near(event.position().y()))
            self.setCursor(Qt.CursorShape.SizeVerCursor if grip else Qt.CursorShape.PointingHandCursor)
        else:
            self.unsetCursor()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._frozen = None
        self.hand.release()  # which may ask something: what is drawn meanwhile has let go
        self.update()
