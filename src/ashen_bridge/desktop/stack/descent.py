"""The descent: from the selected component's hottest point to ambient, one bar per temperature step."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.predict.report import Descent
from ashen_bridge.words.numbers import number

_ROW, _HEAD = 23.0, 24.0
_LEVEL_K = 0.05  # what is shown as no step at all


class DescentView(QWidget):
    """Steps of temperature of the selected component; the hottest die if a part without heat is selected."""

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session, self.theme = session, theme
        self.setAccessibleName("Descent from junction to air")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.MinimumExpanding)
        session.view_changed.connect(self.refresh)
        session.results.changed.connect(self.refresh)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.refresh()

    def refresh(self) -> None:
        """Take over what the session shows."""
        self.updateGeometry()
        self.update()

    def descent(self) -> Descent | None:
        """Return the descent that is shown."""
        if self.session.results.assessment is None:
            return None
        descents = {descent.component: descent for descent in self.session.results.assessment.report.descents}
        joint = self.session.joint
        for name in (self.session.view.selected, *(self._hottest(joint.lower) if joint else ())):
            if name in descents:
                return descents[name]
        return next(iter(descents.values()), None)

    def _hottest(self, names: tuple[str, ...]) -> tuple[str, ...]:
        rows = (
            {row.id: row.t_max_c for row in self.session.results.assessment.report.components}
            if self.session.results.assessment
            else {}
        )
        return tuple(sorted(names, key=lambda name: -rows.get(name, 0.0)))

    def sizeHint(self) -> QSize:
        descent = self.descent()
        return QSize(380, round(self.theme.px(_HEAD + _ROW * (len(descent.steps) if descent else 6) + 8)))

    def minimumSizeHint(self) -> QSize:
        return QSize(300, self.sizeHint().height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        descent = self.descent()
        theme = self.theme
        found = self.session.results.assessment
        if descent is None or found is None:
            painter.setPen(theme.colour("quiet"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "No temperatures yet.")
            return
        row_high, head_high = theme.px(_ROW), theme.px(_HEAD)
        report = found.report
        stale = self.session.results.state in ("stale", "refused")
        hot, cold = descent.steps[0].t_from_c, report.ambient_c
        bodies = {name: body.label for name, body in self.session.project.bodies_known(self.session.build).items()}
        painter.setFont(theme.font(13, bold=True))
        painter.setPen(theme.colour("stale" if stale else "ink"))
        head = f"{bodies.get(descent.component, descent.component)}: {number(hot, 1)} °C down to {number(cold)} °C ambient"
        head = painter.fontMetrics().elidedText(head, Qt.TextElideMode.ElideRight, self.width())
        painter.drawText(
            QRectF(0, 0, self.width(), head_high - 4), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, head
        )
        words_width, figure = self.width() * 0.46, theme.px(62.0)
        room = self.width() - words_width - figure - 12
        worst = max(descent.steps, key=lambda step: step.t_from_c - step.t_to_c)
        for at, step in enumerate(descent.steps):
            top = head_high + at * row_high
            drop = step.t_from_c - step.t_to_c
            painter.setFont(theme.font(12, bold=step is worst))
            painter.setPen(theme.colour("stale" if stale else "ink"))
            rises = drop < -_LEVEL_K
            words = f"{step.label}, heated by others" if rises else step.label
            label = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(words_width - 6))
            painter.drawText(
                QRectF(0, top, words_width, row_high), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, label
            )
            span = max(hot - cold, 1e-6)
            left = words_width + room * (min(step.t_from_c, step.t_to_c) - cold) / span
            width = max(room * abs(drop) / span, 1.5)
            colour = theme.heat(0.15 + 0.8 * (step.t_from_c - cold) / span)
            if stale:
                colour.setAlphaF(0.4)
            painter.setBrush(colour)
            painter.setPen(QPen(theme.colour("ember" if step is worst else "line"), 1.4 if step is worst else 0.8))
            painter.drawRoundedRect(QRectF(left, top + 4, width, row_high - 8), 2, 2)
            if step.resistance_mm2k_w is not None:
                between = (words_width, left, left + width, words_width + room)
                self._per_area(painter, step.resistance_mm2k_w, top, row_high, between)
                painter.setFont(theme.font(12, bold=step is worst))
            painter.setPen(theme.colour("stale" if stale else "ink"))
            painter.drawText(
                QRectF(self.width() - figure, top, figure, row_high),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                f"{number(-drop, 1)} K up" if rises else f"{number(max(drop, 0.0), 1)} K",
            )

    def _per_area(
        self, painter: QPainter, resistance: float, top: float, high: float, between: tuple[float, float, float, float]
    ) -> None:
        """Write what a step resists per area beside its bar, on the side where there is room."""
        start, left, right, end = between
        painter.setFont(self.theme.font(10))
        painter.setPen(self.theme.colour("quiet"))
        words = f"{number(resistance, 0 if resistance >= 10 else 1)} mm²·K/W"
        wide = painter.fontMetrics().horizontalAdvance(words) + 5
        if end - right >= wide:
            place, side = QRectF(right + 5, top, end - right, high), Qt.AlignmentFlag.AlignLeft
        elif left - start >= wide:
            place, side = QRectF(start, top, left - start - 5, high), Qt.AlignmentFlag.AlignRight
        else:
            return
        painter.drawText(place, side | Qt.AlignmentFlag.AlignVCenter, words)
