"""The thickness strip: for each stock thickness what this group and the die would do. Click or arrow keys choose."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.plain import show_tip
from ashen_bridge.desktop.stack.strip_painter import StripPainting, StripPicture
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.words.numbers import celsius, number, thickness

_HEIGHT = 98


class ThicknessStrip(QWidget):
    """One cell per stock thickness. Emits `chosen` with a thickness [mm]."""

    chosen = pyqtSignal(float)
    stepped = pyqtSignal(int)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session, self.theme = session, theme
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Thickness strip")
        self.setAccessibleDescription("Left and right arrow choose the next stock thickness for the whole group.")
        for signal in (session.project_changed, session.view_changed, session.results.strip_changed, session.results.changed):
            signal.connect(self.update)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(380, round(self.theme.px(_HEIGHT)))

    def present(self) -> set[float]:
        """Return the thicknesses [mm] the selected joints have now (their first sheet)."""
        found = set()
        for joint in self.session.build.joints:
            if joint.id in self.session.joints:
                sheets = [piece.thickness_mm.value for piece in joint.pieces if piece.thickness_mm]
                found |= set(sheets[:1])
        return found

    def _picture(self) -> StripPicture:
        results = self.session.results
        if not results.thicknesses:
            paste = "A paste has no thickness to choose: it follows from force and form."
            return StripPicture(words=paste if self.session.joint else "Select a joint.")
        present = self.present()
        return StripPicture(tuple((value, results.strip.get(value), value in present) for value in results.thicknesses))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        StripPainting(painter, self.theme).paint(self._picture(), QRectF(self.rect()))
        if self.hasFocus():
            painter.setPen(QPen(self.theme.colour("ember"), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4)
        painter.end()

    # ---- choosing

    def event(self, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.ToolTip:
            at = self._at(event.pos().x())  # type: ignore[attr-defined]
            if at is not None:
                show_tip(event.globalPos(), self._words(at), self)  # type: ignore[attr-defined]
                return True
        return super().event(event)

    def _words(self, value: float) -> str:
        cell = self.session.results.strip.get(value)
        if cell is None:
            return f"{thickness(value)} mm: not computed yet"
        if cell.refusal:
            return f"{thickness(value)} mm: {cell.refusal}"
        group = celsius(cell.group_c, 1) if cell.group_c is not None else "–"
        die = celsius(cell.die_c, 1) if cell.die_c is not None else "–"
        return (
            f"{thickness(value)} mm: hottest of this group {group}, die {die}, "
            f"compressed {number(100 * (cell.compression or 0))} %, least contact {number(100 * (cell.contact or 0))} %\n"
            "Differences of the coarse field on the present fine value."
        )

    def _at(self, x: float) -> float | None:
        options = self.session.results.thicknesses
        if not options:
            return None
        return options[min(max(int(x / self.width() * len(options)), 0), len(options) - 1)]

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        value = self._at(event.position().x()) if event is not None else None
        if value is not None:
            self.setFocus()
            self.chosen.emit(value)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
        else:
            self.stepped.emit(step)
