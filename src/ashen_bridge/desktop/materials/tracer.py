"""Tracing a compression curve off the picture of a chart: two points on each axis, then along the curve."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.dialog import WorkDialog
from ashen_bridge.desktop.parts.fields import NumberField, Wanted
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.text_fields import ChoiceField
from ashen_bridge.editing.materials import Curve
from ashen_bridge.editing.traced import Axis, Pixel, compression_curve, traced
from ashen_bridge.editing.typed import TypedError

_AXIS = ("left on the horizontal axis", "right on it", "low on the vertical axis", "high on it")


class ChartView(QWidget):
    """The picture; clicks are points of it [pixel of the picture], the right button takes the last one back."""

    clicked = pyqtSignal(float, float)
    undone = pyqtSignal()

    def __init__(self, image: QImage, theme: Theme) -> None:
        super().__init__()
        self.image, self.theme = image, theme
        self.points: list[Pixel] = []
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Picture of the chart: click its axes, then along the curve; Backspace takes a point back")
        self.setCursor(Qt.CursorShape.CrossCursor)

    def sizeHint(self) -> QSize:
        return QSize(620, 430)

    @property
    def frame(self) -> QRectF:
        """Where the picture is drawn."""
        scale = min(self.width() / max(self.image.width(), 1), self.height() / max(self.image.height(), 1))
        size = QSize(round(self.image.width() * scale), round(self.image.height() * scale))
        return QRectF((self.width() - size.width()) / 2, (self.height() - size.height()) / 2, size.width(), size.height())

    def at(self, pixel: Pixel) -> QPointF:
        """Return where a pixel of the picture is drawn."""
        frame, scale = self.frame, self.frame.width() / max(self.image.width(), 1)
        return QPointF(frame.x() + pixel[0] * scale, frame.y() + pixel[1] * scale)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if event.button() == Qt.MouseButton.RightButton:
            self.undone.emit()
            return
        frame, scale = self.frame, self.frame.width() / max(self.image.width(), 1)
        if frame.contains(event.position()):
            at = event.position() - frame.topLeft()
            self.clicked.emit(at.x() / scale, at.y() / scale)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Backspace:
            self.undone.emit()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(self.frame, self.image)
        for n, pixel in enumerate(self.points):
            at = self.at(pixel)
            painter.setPen(QPen(self.theme.colour("steel" if n < len(_AXIS) else "ember"), 2))
            reach = 7 if n < len(_AXIS) else 4
            painter.drawLine(at - QPointF(reach, 0), at + QPointF(reach, 0))
            painter.drawLine(at - QPointF(0, reach), at + QPointF(0, reach))
        painter.end()


class TraceDialog(WorkDialog):
    """Points of a chart become a curve; `take` gets it."""

    def __init__(self, image: QImage, theme: Theme, take: Callable[[Curve], str], over: QWidget) -> None:
        super().__init__("Trace a chart", over)
        self._take = take
        self.chart = ChartView(image, theme)
        self.chart.clicked.connect(self._add)
        self.chart.undone.connect(self._back)
        self.says = Words()
        self.says.setObjectName("big")
        self.says.setWordWrap(True)
        self.wrong = Words()
        self.wrong.setObjectName("wrong")
        self.wrong.setWordWrap(True)
        self.x_is = ChoiceField("What lies horizontally", lambda _: self._show())
        self.x_is.show_choice([("compression %", "compression"), ("pressure kPa", "pressure")], "compression")
        self.values: list[float] = [0.0, 40.0, 0.0, 400.0]
        self.fields = [NumberField(Wanted(words, "", -1e6, 1e6), self._value(n)) for n, words in enumerate(_AXIS)]
        self.log = QCheckBox("vertical axis by decades")
        self.log.clicked.connect(lambda _: self._show())
        self.go = QPushButton("Use this curve")
        self.go.setObjectName("go")
        self.go.clicked.connect(self._done)
        grid = QGridLayout()
        for n, (words, field) in enumerate(zip(_AXIS, self.fields, strict=True)):
            label = Words(words)
            label.setObjectName("quiet")
            grid.addWidget(label, n % 2, 2 * (n // 2))
            grid.addWidget(field, n % 2, 2 * (n // 2) + 1)
            field.show_value(self.values[n])
        foot = QHBoxLayout()
        foot.addWidget(self.x_is)
        foot.addWidget(self.log)
        foot.addStretch(1)
        foot.addWidget(self.go)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 12, 14, 12)
        column.addWidget(self.says)
        column.addWidget(self.chart, 1)
        column.addLayout(grid)
        column.addLayout(foot)
        column.addWidget(self.wrong)
        self.resize(820, 700)
        self._show()

    def _value(self, n: int) -> Callable[[float | None], str]:
        def take(value: float | None) -> str:
            self.values[n] = value if value is not None else self.values[n]
            self._show()
            return ""

        return take

    def _add(self, x: float, y: float) -> None:
        self.chart.points.append((x, y))
        self._show()

    def _back(self) -> None:
        if self.chart.points:
            self.chart.points.pop()
        self._show()

    @property
    def curve(self) -> Curve:
        """The curve as it is traced. Raises `TypedError` while it is none."""
        points = self.chart.points
        if len(points) <= len(_AXIS):
            raise TypedError("")
        a, b, c, d = self.values
        x_axis, y_axis = Axis(points[0], points[1], a, b), Axis(points[2], points[3], c, d, self.log.isChecked())
        return compression_curve(traced(x_axis, y_axis, points[4:]), str(self.x_is.currentData()))

    def _show(self) -> None:
        count = len(self.chart.points)
        if count < len(_AXIS):
            self.says.setText(f"Click a point whose value is known: {_AXIS[count]}.")
        else:
            self.says.setText(f"Now along the curve: {count - len(_AXIS)} so far. Backspace takes one back.")
        try:
            curve = self.curve
            self.wrong.setText("")
            self.says.setText(f"{self.says.text()} Up to {100 * curve[-1][0]:.0f} % at {curve[-1][1]:.0f} kPa.")
            self.go.setEnabled(True)
        except TypedError as error:
            self.wrong.setText(str(error))
            self.go.setEnabled(False)
        self.chart.update()

    def _done(self) -> None:
        wrong = self._take(self.curve)
        self.wrong.setText(wrong)
        if not wrong:
            self.close()
