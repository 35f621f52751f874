"""Draws a comparison: per sensor the change with its interval about zero, what became worse first."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from ashen_bridge.bench.judgement import ComparedSensor, Comparison
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.words.numbers import number

_ROW = 34.0
_LOOKS = {"worse": ("▲", "bad", "worse"), "better": ("▼", "good", "better")}
_EVEN = ("≈", "quiet", "no difference shown")


class DifferenceList(QWidget):
    """One row per sensor. `chosen` gives the sensor that was clicked or walked to."""

    chosen = pyqtSignal(str)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.rows: tuple[ComparedSensor, ...] = ()
        self.at = ""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Change of every sensor")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_comparison(self, found: Comparison | None, at: str) -> None:
        """Show a comparison, with one sensor chosen."""
        self.rows = found.sensors if found is not None else ()
        self.at = at
        words = [f"{row.name} {number(row.rise.difference, 1, sign=True)} K, {row.rise.verdict}" for row in self.rows]
        self.setAccessibleDescription("; ".join(words))
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(380, round(self.theme.px(_ROW) * len(self.rows) + self.theme.px(24)))

    def minimumSizeHint(self) -> QSize:
        return QSize(300, self.sizeHint().height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.rows:
            return
        theme, high = self.theme, self.theme.px(_ROW)
        low = min(0.0, *(row.rise.low for row in self.rows))
        span = max(max(0.0, *(row.rise.high for row in self.rows)) - low, 1e-6)
        left, right = theme.px(4), self.width() - theme.px(150)

        def x(kelvin: float) -> float:
            return left + 4 + (kelvin - low) / span * (right - theme.px(32) - left - 8)

        for n, row in enumerate(self.rows):
            top = n * high
            if row.sensor == self.at:
                painter.fillRect(QRectF(0, top, self.width(), high - 1), theme.colour("ember_soft"))
            mark, role, words = _LOOKS.get(row.rise.verdict, _EVEN)
            painter.setFont(theme.font(12, bold=row.rise.verdict == "worse"))
            painter.setPen(theme.colour("ink"))
            line = QRectF(left, top + 1, right - left, high / 2)
            name = painter.fontMetrics().elidedText(row.name, Qt.TextElideMode.ElideRight, int(line.width()))
            painter.drawText(line, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, name)
            side = QRectF(right + theme.px(4), top + 1, theme.px(144), high / 2)
            change = f"{number(row.rise.before, 1)} → {number(row.rise.after, 1)} K"
            painter.drawText(side, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, change)
            painter.setPen(theme.colour(role))
            painter.setFont(theme.font(12, bold=True))
            lower = QRectF(side.x() - theme.px(30), top + high / 2 - 2, side.width() + theme.px(30), high / 2)
            told = f"{mark} {number(row.rise.difference, 1, sign=True)} K {words if role != 'quiet' else 'not shown'}"
            painter.drawText(lower, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, told)
            y = top + 0.74 * high
            painter.setPen(QPen(theme.colour("line"), 1.0))
            painter.drawLine(round(left), round(y), round(right - theme.px(28)), round(y))
            painter.setPen(QPen(theme.colour("quiet"), 1.2))
            painter.drawLine(round(x(0.0)), round(y - 6), round(x(0.0)), round(y + 6))
            self._bar(painter, row, x, y, role)
        bottom = len(self.rows) * high
        painter.setFont(theme.font(11))
        painter.setPen(theme.colour("quiet"))
        painter.drawText(
            QRectF(left, bottom + 2, self.width() - left - 4, theme.px(18)),
            Qt.AlignmentFlag.AlignLeft,
            "upright stroke: no change; bars: 95 % interval of the change",
        )

    def _bar(self, painter: QPainter, row: ComparedSensor, x: Callable[[float], float], y: float, role: str) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.colour("steel" if role == "good" else "ember" if role == "bad" else "stale", 0.55))
        low, high = x(row.rise.low), x(row.rise.high)
        painter.drawRoundedRect(QRectF(low, y - 4, max(high - low, 3.0), 8), 3, 3)
        painter.setBrush(self.theme.colour("ink"))
        painter.drawEllipse(QRectF(x(row.rise.difference) - 2.5, y - 2.5, 5, 5))

    # ---- choosing

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        at = int(event.position().y() // self.theme.px(_ROW)) if event is not None else -1
        if 0 <= at < len(self.rows):
            self.chosen.emit(self.rows[at].sensor)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        ways = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if event is None or not self.rows or Qt.Key(event.key()) not in ways:
            super().keyPressEvent(event)
            return
        names = [row.sensor for row in self.rows]
        now = names.index(self.at) if self.at in names else 0
        self.chosen.emit(names[min(max(now + ways[Qt.Key(event.key())], 0), len(names) - 1)])
