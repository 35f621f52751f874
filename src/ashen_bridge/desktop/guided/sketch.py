"""The sketch that grows with the answers: the board from above, and a cut through the stack beside it."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from ashen_bridge.changes.boxes import Box
from ashen_bridge.desktop.charts.placement import Placement
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.guided.answers import Answers, DeviceKind
from ashen_bridge.guided.layout import lay_out
from ashen_bridge.guided.questions import has_pads, has_rear_plate, has_spreader, memory_padded
from ashen_bridge.guided.usual import value_of
from ashen_bridge.words.numbers import short

_ASKED_ON = {"die": "chip", "parts": "parts", "rear": "rear", "pads": "pads", "screws": "cooler"}
_ORDER = ("device", "chip", "lid", "parts", "rear", "case", "pads", "cooler", "seen", "result")


class Sketch(QWidget):
    """What is known so far; what has not been asked yet is only hinted at."""

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme = theme
        self._answers = Answers()
        self._layout = lay_out(self._answers)
        self._page = "device"
        self.setMinimumSize(220, 240)
        self.setAccessibleName("Sketch of the device as described so far")

    def sizeHint(self) -> QSize:
        return QSize(400, 460)

    def show_answers(self, answers: Answers, page: str) -> None:
        """Show the answers, with the page's own subject marked."""
        self._answers, self._page = answers, page
        try:
            self._layout = lay_out(answers)
        except ValueError:
            return
        die = f"die {short(value_of(answers, 'die_w_mm'))} by {short(value_of(answers, 'die_h_mm'))} mm"
        parts = f"{len(self._layout.parts)} parts, {len(self._layout.rear)} behind"
        self.setAccessibleDescription(f"{answers.kind.value}, {die}, {parts}")
        self.update()

    def _ink(self, what: str) -> tuple[float, float]:
        """Return opacity and line width of a subject: strong while it is asked about, faint before."""
        at, now = _ORDER.index(_ASKED_ON[what]), _ORDER.index(self._page)
        return (1.0, 2.2) if now == at else (0.9, 1.2) if now > at else (0.3, 1.0)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), self.theme.colour("surface"))
        plan_height = self.height() * 0.62
        layout = self._layout
        place = Placement.fit(layout.board, self.width(), plan_height)
        theme = self.theme
        self._box(painter, place, layout.board, "board", "board_edge", 1.0, 1.0)
        self._box(painter, place, layout.substrate, "board_edge", "board_edge", *self._ink("die"))
        self._box(painter, place, layout.die, "ember", "ink", *self._ink("die"))
        alpha, width = self._ink("parts")
        for _, box in layout.parts.values():
            self._box(painter, place, box, "pad" if memory_padded(self._answers) else "part", "ink", alpha, width)
        alpha, width = self._ink("rear")
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.colour("steel", alpha), width, Qt.PenStyle.DashLine))
        for box in layout.rear.values():
            painter.drawRect(place.rect(box))
        painter.setPen(QPen(theme.colour("plate_edge"), 1.2, Qt.PenStyle.DashLine))
        painter.drawRect(place.rect(layout.plate))
        alpha, width = self._ink("screws")
        painter.setBrush(theme.colour("raised", alpha))
        painter.setPen(QPen(theme.colour("steel", alpha), width))
        for x, y in layout.screws:
            painter.drawEllipse(place.point(x, y), 6, 6)
        self._box_of_regulators(painter, place)
        self._section(painter, QRectF(12, plan_height, self.width() - 24, self.height() - plan_height - 10))

    def _box(self, painter: QPainter, place: Placement, box: Box, fill: str, edge: str, alpha: float, width: float) -> None:
        painter.setBrush(self.theme.colour(fill, alpha))
        painter.setPen(QPen(self.theme.colour(edge, alpha), width))
        painter.drawRoundedRect(place.rect(box), 2, 2)

    def _box_of_regulators(self, painter: QPainter, place: Placement) -> None:
        alpha, width = self._ink("parts")
        for box in self._layout.regulators.values():
            self._box(painter, place, box, "part", "ink", alpha, width)

    def _section(self, painter: QPainter, area: QRectF) -> None:
        """Draw the stack in section, not to scale: board, die or lid, pads, plate, perhaps a case wall."""
        theme, answers = self.theme, self._answers
        painter.setFont(theme.font(11))
        x, w = area.left(), area.width()
        board = area.bottom() - theme.px(46)
        lidded, boxed = answers.kind is DeviceKind.LIDDED, answers.kind is DeviceKind.BOX
        unit = (board - area.top() - 8) / (6.0 if boxed else 6.4)

        def slab(x0: float, x1: float, low: float, high: float, fill: str, alpha: float = 1.0) -> None:
            painter.setBrush(theme.colour(fill, alpha))
            painter.setPen(QPen(theme.colour("board_edge"), 0.9))
            painter.drawRect(QRectF(QPointF(x + x0 * w, board - high * unit), QPointF(x + x1 * w, board - low * unit)))

        die, _ = self._ink("die")
        slab(0.0, 1.0, -0.5, 0.0, "board")
        slab(0.34, 0.66, 0.0, 0.9, "board_edge", die)
        slab(0.42, 0.58, 0.9, 1.7, "ember", die)
        top = 1.85
        slab(0.42, 0.58, 1.7, top, "paste", die)
        if lidded:
            slab(0.36, 0.64, top, top + 0.8, "plate")
            slab(0.36, 0.64, top + 0.8, top + 0.95, "paste")
            top += 0.95
        parts, _ = self._ink("parts")
        pads, _ = self._ink("pads")
        spread = boxed and has_spreader(answers)
        for x0, x1 in ((0.1, 0.24), (0.76, 0.9)):
            if self._layout.parts:
                slab(x0, x1, 0.0, 1.0, "part", parts)
                if memory_padded(answers):
                    slab(x0, x1, 1.0, top, "pad", pads)
        if boxed:
            if spread:
                slab(0.08, 0.92, top, top + 0.5, "plate")
                top += 0.5
            if value_of(answers, "reach") == "pad":
                slab(0.38, 0.62, top, top + 0.6, "pad")
            slab(0.0, 1.0, top + 0.6, top + 1.1, "plate")
            slab(0.0, 1.0, -1.4, -1.0, "plate")
        else:
            slab(0.04, 0.96, top, top + 1.0, "plate")
            for n in range(12):
                slab(0.06 + 0.075 * n, 0.085 + 0.075 * n, top + 1.0, top + 2.6, "plate")
            if has_rear_plate(answers):
                slab(0.1, 0.9, -1.3, -0.9, "plate")
        if has_pads(answers):
            painter.setPen(theme.colour("ink"))
            wanted = f" → {short(answers.pad_wanted_mm)} mm" if answers.pad_wanted_mm else ""
            words = f"pads {short(value_of(answers, 'pad_now_mm'))} mm{wanted}"
            painter.drawText(area, Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignLeft, words)
        painter.setPen(theme.colour("quiet"))
        painter.drawText(area, Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignRight, "not to scale")
