"""Methods side by side for one gap: what each alone says, and all together."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.measuring.result import Gap, Value
from ashen_bridge.words.numbers import number

_ROW, _LEFT, _RIGHT, _FOOT = 24.0, 118.0, 86.0, 4.0


@dataclass(frozen=True)
class Line:
    """One estimate of the gap: what it is called, its value and ± [mm], and the colour role it has."""

    name: str
    value: Value
    role: str
    whole: bool = False


def lines_of(gap: Gap, without: Value | None) -> list[Line]:
    """Return what is set side by side, the answer last; `without` is that without a reading that does not fit."""
    lines = [Line("known before", gap.before, "quiet")]
    lines += [Line(one.name, (one.gap_mm, one.sd_mm), "steel") for one in gap.methods]
    if without is not None:
        lines.append(Line("without the odd one", without, "good"))
    return [*lines, Line("all together", gap.now, "ember", whole=True)]


class MethodChart(QWidget):
    """Estimates on one axis with bars of twice their standard uncertainty."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.lines: list[Line] = []
        self.setAccessibleName("Methods side by side")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_lines(self, lines: list[Line]) -> None:
        """Show some estimates."""
        self.lines = lines
        self.setAccessibleDescription("; ".join(f"{one.name}: {one.value[0]:.3f} ± {one.value[1]:.3f} mm" for one in lines))
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(300, round(self.theme.px(_ROW * len(self.lines) + _FOOT)))

    def minimumSizeHint(self) -> QSize:
        return QSize(240, self.sizeHint().height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if not self.lines:
            return
        painter, theme = QPainter(self), self.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        low = min(value - 2 * sd for value, sd in (one.value for one in self.lines))
        high = max(value + 2 * sd for value, sd in (one.value for one in self.lines))
        span, left, right = max(high - low, 1e-6), theme.px(_LEFT), self.width() - theme.px(_RIGHT)
        row = theme.px(_ROW)
        answer = left + (right - left) * (self.lines[-1].value[0] - low) / span
        painter.setPen(QPen(theme.colour("ember", 0.45), 1.0, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(answer, 2), QPointF(answer, row * len(self.lines) - 2))
        for n, one in enumerate(self.lines):
            self._line(painter, one, QRectF(0, n * row, self.width(), row), (left, right, low, span))
        painter.end()

    def _line(self, painter: QPainter, one: Line, box: QRectF, axis: tuple[float, float, float, float]) -> None:
        theme = self.theme
        left, right, low, span = axis
        y = box.center().y()
        painter.setFont(theme.font(12, bold=one.whole))
        painter.setPen(theme.colour("ink" if one.whole else "quiet"))
        flags = Qt.AlignmentFlag.AlignVCenter
        name = painter.fontMetrics().elidedText(one.name, Qt.TextElideMode.ElideRight, int(left - 8))
        painter.drawText(QRectF(0, box.top(), left - 6, box.height()), flags | Qt.AlignmentFlag.AlignLeft, name)

        def x(value: float) -> float:
            return left + (right - left) * (value - low) / span

        value, sd = one.value
        painter.setPen(QPen(theme.colour(one.role, 0.7), 3.0 if one.whole else 2.0))
        painter.drawLine(QPointF(x(value - 2 * sd), y), QPointF(x(value + 2 * sd), y))
        painter.setPen(QPen(theme.colour(one.role), 1.8))
        painter.setBrush(theme.colour(one.role) if one.whole else theme.colour("surface"))
        size = 4.6 if one.whole else 3.8
        painter.drawEllipse(QPointF(x(value), y), size, size)
        painter.setPen(theme.colour("ink" if one.whole else "quiet"))
        words = f"{number(value, 3)} ± {number(sd, 3)}"
        painter.drawText(
            QRectF(right + 4, box.top(), self.width() - right - 4, box.height()), flags | Qt.AlignmentFlag.AlignRight, words
        )
