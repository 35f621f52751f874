"""The Chance page: how likely every limit holds, how far each sensor may be off, and what to measure better."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QFrame, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import QuestionPanel, Saying
from ashen_bridge.desktop.parts.rich import BREAK, NOTHING, SPACE, Rich, bold, coloured, paragraph, rich, table
from ashen_bridge.desktop.stack.desk import StackDesk
from ashen_bridge.desktop.state.session import SAMPLES, Session
from ashen_bridge.editing.fields import label_of
from ashen_bridge.model.signs import unit_of
from ashen_bridge.uncertainty.outcome import Chance, Chances, chance_words, standard_error
from ashen_bridge.words.numbers import measured, number, percent

_ROW = 38.0


class SpreadList(QWidget):
    """One row per sensor: its 95 % interval against its limit, and the chance; a click chooses the part."""

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session, self.theme = session, theme
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Spread and chance of every sensor")

    def rows(self) -> tuple[Chance, ...]:
        """Return the sensors that have a limit, the least likely to keep it first."""
        found = self.session.chances.value
        rows = [one for one in found.sensors if one.within is not None] if found else []
        return tuple(sorted(rows, key=lambda one: one.within or 0.0)[:9])

    def sizeHint(self) -> QSize:
        return QSize(380, round(self.theme.px(_ROW) * max(1, len(self.rows())) + 4))

    def minimumSizeHint(self) -> QSize:
        return QSize(300, self.sizeHint().height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rows = self.rows()
        high = self.theme.px(_ROW)
        low = min((row.low_c for row in rows), default=0.0) - 2
        top = max((max(row.high_c, row.limit_c or 0.0) for row in rows), default=1.0) + 2
        for at, row in enumerate(rows):
            self._row(painter, row, QRectF(0, at * high, self.width(), high), low, top)
        painter.end()

    def _row(self, painter: QPainter, row: Chance, box: QRectF, low: float, top: float) -> None:
        theme = self.theme
        within, error = row.within or 0.0, row.within_se or 0.0
        poor = within < 0.5
        painter.setFont(theme.font(12, bold=row.within is not None and within < 0.95))
        painter.setPen(theme.colour("ink"))
        upper = QRectF(box.x(), box.y() + 1, box.width(), box.height() / 2)
        name = f"{row.name}  {measured(row.shown_c, row.sd_k, '°C')}"
        painter.drawText(upper, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, name)
        painter.setPen(theme.colour("bad" if poor else "warn" if within < 0.95 else "good"))
        words = f"{'✕' if poor else '!' if within < 0.95 else '✓'} {chance_words(within, error)}"
        painter.drawText(upper, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)

        def x(value: float) -> float:
            return box.x() + 3 + (box.width() - 6) * (value - low) / (top - low)

        middle = box.y() + 0.73 * box.height()
        painter.setPen(QPen(theme.colour("line"), 1.0))
        painter.drawLine(round(box.x()), round(middle), round(box.right()), round(middle))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("ember" if within < 0.95 else "steel", 0.55))
        painter.drawRoundedRect(QRectF(x(row.low_c), middle - 4, max(2.0, x(row.high_c) - x(row.low_c)), 8), 3, 3)
        painter.setBrush(theme.colour("ink"))
        painter.drawEllipse(QRectF(x(row.shown_c) - 3, middle - 3, 6, 6))
        if row.limit_c is not None:
            painter.setPen(QPen(theme.colour("bad"), 2.0))
            painter.drawLine(round(x(row.limit_c)), round(middle - 8), round(x(row.limit_c)), round(middle + 8))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        rows = self.rows()
        at = int(event.position().y() // self.theme.px(_ROW)) if event is not None else -1
        if 0 <= at < len(rows) and self.session.results.assessment is not None:
            body = next((row.body for row in self.session.results.assessment.report.sensors if row.id == rows[at].sensor), "")
            self.session.select(body)


class ChancePanel(QFrame):
    """Draws samples when asked, and shows what they say."""

    def __init__(self, desk: StackDesk, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        session = desk.session
        self.desk, self.session, self.theme = desk, session, theme
        self.panel = QuestionPanel(
            session.chances,
            Saying(
                "Will the limits hold?",
                f"Draw {SAMPLES} samples",
                explain="Until samples have been drawn there is only a margin, no chance.",
                waiting="Drawing every number with a ±: heights, pads, springs, materials, powers, air…",
                tip="Draw everything that carries an uncertainty, all at once, and count how often each limit holds",
                heading="title",
                by_itself=True,
            ),
            lambda found: rich(_summary(found)),
        )
        self.spread = SpreadList(session, theme)
        self.better = Words()
        self.better.setWordWrap(True)
        self.better.setTextFormat(Qt.TextFormat.RichText)
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 0, 6, 0)
        column.setSpacing(8)
        for widget in (self.panel, self.spread, self.better):
            column.addWidget(widget)
        column.addStretch(1)
        area = QScrollArea()
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        area.setWidget(inside)
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 8, 6, 9)
        layout.setSpacing(6)
        layout.addWidget(area, 1)
        for signal in (desk.changed, session.results.changed, session.chances.changed):
            signal.connect(self.refresh)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = self.spread.theme = theme
        self.refresh()

    def refresh(self) -> None:
        """Take over the session."""
        session = self.session
        if self.desk.view.page != "chance":
            return
        found = session.chances.value
        self.panel.refresh()
        self.spread.setVisible(found is not None)
        self.better.setVisible(found is not None)
        if found is not None:
            self.better.setText(self._to_measure(found))
        self.spread.updateGeometry()
        self.spread.update()

    def _to_measure(self, found: Chances) -> Rich:
        """What makes the spread of the sensor that is chosen, else of the one least likely to keep its limit."""
        limited = [one for one in found.sensors if one.within is not None]
        if not limited or self.session.results.assessment is None:
            return NOTHING
        bodies = {row.id: row.body for row in self.session.results.assessment.report.sensors}
        chosen = [one for one in limited if bodies.get(one.sensor) == self.session.view.selected]
        about = min(chosen or limited, key=lambda one: one.within or 0.0)
        rows = []
        for share in about.shares[:6]:
            field = share.field.rsplit(".", 1)[-1]
            number_of = coloured(self.theme.roles["quiet"], measured(share.value, share.uncertainty, unit_of(field)))
            words = rich(f"{_owner(share.owners)}: {label_of(field).lower()}", BREAK, number_of)
            rows.append((rich(bold(percent(share.share)), SPACE), words))
        rest = f"{percent(about.unexplained)} comes of numbers acting together, as at a cliff." if about.unexplained > 0.1 else ""
        return rich(
            paragraph(bold(f"What to measure better for {about.name}"), " (share of its spread)"),
            table(rows, right=(0,), spacing=3, wide=False),
            paragraph(rest) if rest else NOTHING,
        )


def _owner(owners: tuple[str, ...]) -> str:
    return owners[0] + (f" ×{len(owners)}" if len(owners) > 1 else "")


def _summary(found: Chances) -> str:
    if found.all_within is None:
        return f"{found.count} samples drawn. No sensor has a limit, so there is only the spread."
    chance = chance_words(found.all_within, standard_error(found.all_within, found.count))
    text = f"All limits hold in {chance} of {found.count} samples. Bars span 95 % of them; the red mark is the limit."
    if found.failed:
        text += f" {number(found.failed)} had no steady state or did not hold together; they count as not keeping any limit."
    return text
