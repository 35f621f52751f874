"""How far gaps may be off: a bar of what a plan bears around each gap, and within it what is known of the gap."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.planning.choosing.result import Tolerated
from ashen_bridge.words.numbers import number, plus_minus

_ROW, _LEFT, _RIGHT, _REACH = 34.0, 150.0, 236.0, 0.65


class BarsView(QWidget):
    """One bar for every place; its ends say what goes wrong there."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.rows: tuple[Tolerated, ...] = ()
        self.setMouseTracking(True)
        self.setAccessibleName("How far gaps may be off")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_rows(self, rows: tuple[Tolerated, ...]) -> None:
        """Show what a plan bears."""
        if rows != self.rows:
            self.rows = rows
            self.setAccessibleDescription("; ".join(f"{one.label}: {_said(one)}" for one in rows))
            self.updateGeometry()
            self.update()

    def sizeHint(self) -> QSize:
        return QSize(420, round(self.theme.px(_ROW * max(len(self.rows), 1))))

    def minimumSizeHint(self) -> QSize:
        return QSize(360, self.sizeHint().height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for n, one in enumerate(self.rows):
            self._bar(painter, one, QRectF(0, n * self.theme.px(_ROW), self.width(), self.theme.px(_ROW)))
        painter.end()

    def _bar(self, painter: QPainter, one: Tolerated, box: QRectF) -> None:
        theme, y = self.theme, box.center().y()
        left, right = theme.px(_LEFT), box.width() - theme.px(_RIGHT)
        middle, scale = (left + right) / 2, (right - left) / 2 / _REACH
        painter.setPen(theme.colour("ink"))
        painter.setFont(theme.font(12, bold=True))
        name = painter.fontMetrics().elidedText(one.label, Qt.TextElideMode.ElideRight, int(left - 8))
        painter.drawText(QRectF(0, box.top(), left - 6, box.height()), int(Qt.AlignmentFlag.AlignVCenter), name)
        low, high = (limit if limit is not None else _REACH for limit in (one.less_mm, one.more_mm))
        low, high = min(low, _REACH), min(high, _REACH)
        inside = 1.64 * one.pm_mm <= min(low, high)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("steel_soft" if inside else "ember_soft"))
        painter.drawRoundedRect(QRectF(middle - low * scale, y - 8, (low + high) * scale, 16), 4, 4)
        painter.setPen(QPen(theme.colour("steel" if inside else "ember"), 1.4))
        for limit, sign in ((one.less_mm, -1), (one.more_mm, 1)):
            if limit is not None:
                x = middle + sign * min(limit, _REACH) * scale
                painter.drawLine(QPointF(x, y - 9), QPointF(x, y + 9))
        painter.setPen(QPen(theme.colour("ink"), 3.0))
        reach = min(1.64 * one.pm_mm, _REACH) * scale
        painter.drawLine(QPointF(middle - max(reach, 1.5), y), QPointF(middle + max(reach, 1.5), y))
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("ink" if inside else "bad"))
        words = painter.fontMetrics().elidedText(_said(one), Qt.TextElideMode.ElideRight, int(theme.px(_RIGHT) - 12))
        painter.drawText(
            QRectF(right + 12, box.top(), theme.px(_RIGHT) - 12, box.height()), int(Qt.AlignmentFlag.AlignVCenter), words
        )

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        n = int(event.position().y() // self.theme.px(_ROW))
        if 0 <= n < len(self.rows):
            one = self.rows[n]
            ends = [f"{number(limit, 2)} mm {words}: {said}" for limit, words, said in _ends(one) if limit is not None]
            self.setToolTip("\n".join(ends) or "Nothing goes wrong as far as was looked: 0.6 mm either way")


def _ends(one: Tolerated) -> tuple[tuple[float | None, str, str], ...]:
    return (one.less_mm, "less", one.less_says), (one.more_mm, "more", one.more_says)


def _said(one: Tolerated) -> str:
    ends = [f"{sign}{number(limit, 2)}" for limit, sign in ((one.less_mm, "−"), (one.more_mm, "+")) if limit is not None]
    bears = f"bears {' / '.join(ends)} mm" if ends else "bears 0.6 mm either way"
    return f"{number(one.gap_mm, 2)} mm {plus_minus(one.pm_mm, 2)}, {bears}"
