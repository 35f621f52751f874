"""The plans: a click on a column looks at its plan, on a place at what else could lie there; arrow keys do the same."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from ashen_bridge.desktop.choose.plan_painter import LABEL, LEAST, PlanLayout, paint_plans
from ashen_bridge.desktop.choose.plan_picture import PlanPicture
from ashen_bridge.desktop.look.theme import Theme


class PlanTable(QWidget):
    """Plans as columns, places as rows."""

    plan_chosen = pyqtSignal(int)
    place_chosen = pyqtSignal(str)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.picture = PlanPicture((), ())
        self.chosen, self.place = -1, ""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Plans")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMouseTracking(True)

    @property
    def layout_now(self) -> PlanLayout:
        """Where everything lies."""
        return PlanLayout(self.theme, self.width(), len(self.picture.columns), len(self.picture.rows))

    def show_plans(self, picture: PlanPicture, chosen: int, place: str) -> None:
        """Show some plans, the column and the place that are looked at."""
        if (picture, chosen, place) == (self.picture, self.chosen, self.place):
            return
        self.picture, self.chosen, self.place = picture, chosen, place
        said = [f"{one.name}: {one.answer} {one.under}" for one in picture.columns]
        self.setAccessibleDescription("; ".join(said))
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        columns = max(len(self.picture.columns), 1)
        return QSize(round(self.theme.px(LABEL + columns * 150)), round(self.layout_now.height))

    def minimumSizeHint(self) -> QSize:
        return QSize(round(self.theme.px(LABEL + max(len(self.picture.columns), 1) * LEAST)), round(self.layout_now.height))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_plans(painter, self.picture, self.layout_now, self.chosen, self.place)
        if self.hasFocus() and self.picture.columns:
            painter.setPen(self.theme.colour("ember", 0.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(self.rect().adjusted(0, 0, -1, -1).toRectF(), 7, 7)
        painter.end()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        column, row = self.layout_now.at(event.position())
        if column >= 0:
            self.plan_chosen.emit(column)
        if row >= 0 and self.picture.rows[row][1]:
            self.place_chosen.emit(self.picture.rows[row][1])

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            column, row = self.layout_now.at(QPointF(event.position()))
            of = self.picture.rows[row][1] if row >= 0 else ""
            tip = (
                self.picture.columns[column].tip
                if column >= 0 and row < 0
                else "A click shows what else could lie here"
                if of
                else ""
            )
            self.setToolTip(tip)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        places = [of for _, of in self.picture.rows if of]
        if event.key() in steps and self.picture.columns:
            self.plan_chosen.emit(min(max(self.chosen + steps[Qt.Key(event.key())], 0), len(self.picture.columns) - 1))
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and places:
            at = places.index(self.place) if self.place in places else -1
            step = 1 if event.key() == Qt.Key.Key_Down else -1
            self.place_chosen.emit(places[min(max(at + step, 0), len(places) - 1)])
        else:
            super().keyPressEvent(event)
