"""The tray: cells with the screws that lie in them, and what is missing."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.plain import show_tip
from ashen_bridge.desktop.steps.desk import StepsDesk
from ashen_bridge.planning.practice import practice
from ashen_bridge.planning.tray import Slot, cell

_HIGH = 40.0  # [px] of a row


class TrayView(QWidget):
    """Cells row by row; a click chooses the screw in one. What is missing stands behind them."""

    screw_chosen = pyqtSignal(str)

    def __init__(self, desk: StepsDesk, theme: Theme) -> None:
        super().__init__()
        self.desk, self.theme = desk, theme
        self.setAccessibleName("The screw tray")
        self.setMinimumWidth(260)

    def refresh(self) -> None:
        """Take over where screws are."""
        self.setAccessibleDescription(self.desk.tray.told)
        self.setFixedHeight(self._height())
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(420, self._height())

    @property
    def cells(self) -> dict[str, tuple[QRectF, Slot | None]]:
        """Every cell shown: where it is and what lies in it."""
        lying = {one.cell: one for one in self.desk.tray.lying}
        columns = practice().tray_columns
        wide, high = self.width() / columns, self.theme.px(_HIGH)
        return {
            name: (QRectF(n % columns * wide, n // columns * high, wide, high), lying.get(name))
            for n, name in enumerate(cell(n) for n in range(self._rows() * columns))
        }

    def _rows(self) -> int:
        columns = practice().tray_columns
        last = max((_number(one.cell) for one in self.desk.tray.lying), default=-1)
        return max(-(-len(self.desk.tray.slots) // columns), last // columns + 1, 1)

    def _height(self) -> int:
        return round(self._rows() * self.theme.px(_HIGH)) + 2

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.theme
        asked = self.desk.tray.asked()
        for name, (box, slot) in self.cells.items():
            inner = box.adjusted(2, 2, -2, -2)
            chosen = slot is not None and slot.id == self.desk.view.screw
            painter.setPen(QPen(theme.colour("ember" if chosen else "line"), 2.0 if chosen else 1.0))
            painter.setBrush(theme.colour("raised" if slot is not None else "surface"))
            painter.drawRoundedRect(inner, 6, 6)
            painter.setFont(theme.font(10))
            painter.setPen(theme.colour("stale"))
            painter.drawText(inner.adjusted(5, 2, -5, 0), int(Qt.AlignmentFlag.AlignLeft.value), name)
            if slot is not None:
                painter.setFont(theme.font(16, bold=True))
                painter.setPen(theme.colour("ember" if asked is not None and asked.id == slot.id else "ink"))
                painter.drawText(inner, Qt.AlignmentFlag.AlignCenter, str(slot.number))
        painter.end()

    def slot_at(self, at: QPointF) -> Slot | None:
        """Return the screw at a pixel."""
        return next((slot for box, slot in self.cells.values() if box.contains(at)), None)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        found = self.slot_at(event.position()) if event is not None else None
        if found is not None:
            self.screw_chosen.emit(found.id)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            found = self.slot_at(QPointF(event.pos()))
            looks = f": {found.looks}" if found is not None and found.looks else ""
            show_tip(event.globalPos(), f"{found.number} {found.label}{looks}" if found is not None else "", self)
            return True
        return super().event(event)


def _number(name: str) -> int:
    return (ord(name[0]) - ord("A")) * practice().tray_columns + int(name[1:]) - 1
