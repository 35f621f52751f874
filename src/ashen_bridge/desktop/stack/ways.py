"""Where the watts of the chosen component go, and what its layers would gain if they were perfect."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from ashen_bridge.assess.errands import rank_layers
from ashen_bridge.assess.result import LayerGain
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import QuestionPanel, Saying
from ashen_bridge.desktop.parts.rich import NOTHING, SPACE, Rich, bold, joined, paragraph, rich, table
from ashen_bridge.desktop.stack.descent import DescentView
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.predict.report import Report
from ashen_bridge.words.numbers import number

LABEL = "Ranking layers"


class WaysView(QWidget):
    """Below the descent: parallel ways in watts, and on request the layers by kelvin."""

    def __init__(self, session: Session, theme: Theme, descent: DescentView, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session, self.theme, self._descent = session, theme, descent
        self.gains: Question[tuple[LayerGain, ...]] = Question(session.questions, LABEL, self._now)
        self.ways = Words()
        self.ways.setWordWrap(True)
        self.ways.setTextFormat(Qt.TextFormat.RichText)
        tip = "Rank layers and ways by the kelvins a perfect one would gain: no work on it can gain more"
        self.panel = QuestionPanel(self.gains, Saying("", "What if a layer were perfect?", tip=tip), _gains)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(self.ways)
        column.addWidget(self.panel)
        for signal in (session.view_changed, session.results.changed):
            signal.connect(self.refresh)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = theme
        self.refresh()

    def sensor(self) -> str:
        """Return the sensor of the component whose descent is shown, empty if none reads it."""
        descent = self._descent.descent()
        rows = self.session.results.assessment.report.sensors if self.session.results.assessment else ()
        return next((row.id for row in rows if descent is not None and row.body == descent.component), "")

    def refresh(self) -> None:
        """Take over the session."""
        session = self.session
        descent = self._descent.descent()
        if session.results.assessment is None or descent is None:
            self.ways.setText("")
            self.panel.setVisible(False)
            return
        report = session.results.assessment.report
        labels = {name: body.label for name, body in session.project.bodies_known(session.build).items()}
        self.ways.setText(_ways(report, descent.component, labels))
        self.panel.setVisible(bool(self.sensor()))
        self.panel.refresh()

    def _now(self) -> Asked | None:
        """The layers of the sensor of what is shown."""
        session, results, sensor = self.session, self.session.results, self.sensor()
        if results.assessment is None or results.state != "current" or not sensor:
            return None
        asked = (session.computed, session.view.build, session.view.point, sensor)
        return Asked(f"{results.assessment.report.input_hash} {sensor}", rank_layers, asked)


def _ways(report: Report, component: str, labels: dict[str, str]) -> Rich:
    rows = [row for row in report.ledger if row.component == component]
    total = sum(row.watts for row in rows if row.watts > 0)
    if total <= 0:
        return NOTHING
    merged: dict[str, float] = {}
    for row in rows:
        merged[row.to] = merged.get(row.to, 0.0) + row.watts
    ranked = [(to, watts) for to, watts in sorted(merged.items(), key=lambda item: -item[1]) if abs(watts) >= 0.005 * total]

    def name(to: str) -> str:
        return "to air" if to == "air" else f"into {labels.get(to, to)}"

    goes = [
        rich(bold(f"{number(watts / total * 100)} %"), f" ({number(watts, 1)} W) {name(to)}") for to, watts in ranked if watts > 0
    ]
    comes = [
        rich(bold(f"{number(-watts, 1)} W"), f" come in from {labels.get(to, to)}, which is hotter")
        for to, watts in ranked
        if watts < 0
    ]
    sentences = [rich("Its heat goes ", joined(", ", goes))] if goes else []
    sentences += [joined(", ", comes)] if comes else []
    return rich(joined(". ", sentences), ".") if sentences else NOTHING


def _gains(ranked: tuple[LayerGain, ...]) -> Rich:
    rows = [(rich(bold(f"{number(one.gain_k, 1)} K"), SPACE), one.label) for one in ranked[:6] if one.gain_k >= 0.05]
    head = paragraph("The most that work on each could gain, if it became perfect:")
    return rich(head, table(rows, right=(0,), wide=False))
