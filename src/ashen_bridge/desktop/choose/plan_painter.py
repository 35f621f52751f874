"""Draws plans beside each other: columns on paper, the chance large above each, what changes in ember."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen

from ashen_bridge.desktop.choose.plan_picture import Column, PlanPicture
from ashen_bridge.desktop.look.theme import Theme

HEAD, ROW, TALL, LABEL, LEAST, NARROW = 84.0, 32.0, 46.0, 138.0, 104.0, 128.0
_FLAGS = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap


@dataclass(frozen=True)
class PlanLayout:
    """Where columns and rows lie, in the size of a widget [px]."""

    theme: Theme
    width: float
    columns: int
    rows: int

    @property
    def left(self) -> float:
        """Where columns begin."""
        return self.theme.px(LABEL)

    @property
    def wide(self) -> float:
        """Width of a column."""
        return max((self.width - self.left) / max(self.columns, 1), self.theme.px(LEAST))

    @property
    def high(self) -> float:
        """Height of a row: words of narrow columns stand in three lines."""
        return self.theme.px(ROW if self.wide > self.theme.px(NARROW) else TALL)

    @property
    def height(self) -> float:
        """Height of everything."""
        return self.theme.px(HEAD) + self.rows * self.high + 6

    def column(self, n: int) -> QRectF:
        """Return the box of a column."""
        return QRectF(self.left + n * self.wide, 0, self.wide, self.height - 4)

    def row(self, n: int) -> QRectF:
        """Return the box of a row, over all columns."""
        return QRectF(0, self.theme.px(HEAD) + n * self.high, self.left + self.columns * self.wide, self.high)

    def at(self, point: QPointF) -> tuple[int, int]:
        """Return the (column, row) under a point; −1 where there is none."""
        column = int((point.x() - self.left) // self.wide) if point.x() >= self.left else -1
        row = int((point.y() - self.theme.px(HEAD)) // self.high) if point.y() >= self.theme.px(HEAD) else -1
        return (column if column < self.columns else -1), (row if row < self.rows else -1)


def paint_plans(painter: QPainter, picture: PlanPicture, layout: PlanLayout, chosen: int, place: str) -> None:
    """Draw plans; `chosen` is the column that is looked at, `place` the row whose candidates are."""
    theme = layout.theme
    for n, column in enumerate(picture.columns):
        _ground(painter, layout, n, column, n == chosen)
    for n, (words, of) in enumerate(picture.rows):
        box = layout.row(n)
        painter.setPen(QPen(theme.colour("line"), 1.0))
        painter.drawLine(box.topLeft(), box.topRight())
        if of and of == place:
            painter.fillRect(QRectF(0, box.top() + 4, 3, box.height() - 8), theme.colour("ember"))
        painter.setFont(theme.font(12, bold=bool(of)))
        painter.setPen(theme.colour("ink" if of else "quiet"))
        painter.drawText(QRectF(8, box.top(), layout.left - 14, box.height()), int(_FLAGS), words)
    for n, column in enumerate(picture.columns):
        _head(painter, layout, n, column)
        for m, cell in enumerate(column.cells):
            box = layout.row(m)
            inner = QRectF(layout.column(n).left() + 9, box.top() + 1, layout.wide - 14, box.height() - 2)
            role = "bad" if cell.warns else "ember" if cell.differs else "ink"
            painter.setPen(theme.colour(role))
            _fitted(painter, theme, inner, cell.words, bold=cell.differs)


def _ground(painter: QPainter, layout: PlanLayout, n: int, column: Column, chosen: bool) -> None:
    theme, box = layout.theme, layout.column(n).adjusted(2, 1, -2, 0)
    painter.setPen(QPen(theme.colour("ember" if chosen else "line"), 1.8 if chosen else 1.0))
    painter.setBrush(theme.colour("surface" if column.present else "raised"))
    painter.drawRoundedRect(box, 7, 7)


def _head(painter: QPainter, layout: PlanLayout, n: int, column: Column) -> None:
    theme, box = layout.theme, layout.column(n)
    left, wide = box.left() + 9, layout.wide - 16
    painter.setFont(theme.font(13, bold=True))
    painter.setPen(theme.colour("quiet" if column.present else "ink"))
    name = QFontMetricsF(painter.font()).elidedText(column.name, Qt.TextElideMode.ElideRight, wide)
    painter.drawText(QRectF(left, 6, wide, theme.px(20)), int(Qt.AlignmentFlag.AlignVCenter), name)
    painter.setFont(theme.font(27, bold=True))
    painter.setPen(theme.colour("bad" if column.short else "good"))
    painter.drawText(QRectF(left, theme.px(24), wide, theme.px(33)), int(Qt.AlignmentFlag.AlignVCenter), column.answer)
    painter.setFont(theme.font(11))
    painter.setPen(theme.colour("quiet"))
    said = f"{column.under}, short of what is wanted" if column.short and column.answer != "…" else column.under
    painter.drawText(QRectF(left, theme.px(56), wide, theme.px(28)), int(Qt.TextFlag.TextWordWrap), said)


def _fitted(painter: QPainter, theme: Theme, box: QRectF, words: str, bold: bool) -> None:
    """Draw words in a box, smaller where they would not fit, and cut off in the end."""
    for size in (12.0, 11.0, 10.5):
        painter.setFont(theme.font(size, bold))
        needed = QFontMetricsF(painter.font()).boundingRect(box, int(_FLAGS), words)
        if needed.height() <= box.height() + 1 and needed.width() <= box.width() + 1:
            break
    painter.save()
    painter.setClipRect(box)
    painter.drawText(box, int(_FLAGS), words)
    painter.restore()
