"""Where the watts of the chosen component go, and what its layers would gain if they were perfect."""

from __future__ import annotations

from html import escape

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ashen_bridge.assess.errands import rank_layers
from ashen_bridge.assess.result import LayerGain
from ashen_bridge.desktop.session import Session
from ashen_bridge.desktop.stack.descent import DescentView
from ashen_bridge.desktop.theme import Theme
from ashen_bridge.desktop.widgets.plain import Words
from ashen_bridge.desktop.words import number
from ashen_bridge.predict.report import Report

LABEL = "Ranking layers"


class WaysView(QWidget):
    """Below the descent: parallel ways in watts, and on request the layers by kelvin."""

    def __init__(self, session: Session, theme: Theme, descent: DescentView, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session, self.theme, self._descent = session, theme, descent
        self._ranked: dict[tuple[str, str], tuple[LayerGain, ...]] = {}
        self._asked: tuple[str, str] | None = None
        self.ways = Words()
        self.ways.setWordWrap(True)
        self.ways.setTextFormat(Qt.TextFormat.RichText)
        self.rank = QPushButton("What if a layer were perfect?")
        self.rank.setToolTip("Rank layers and ways by the kelvins a perfect one would gain: no work on it can gain more")
        self.rank.clicked.connect(self.ask)
        self.gains = Words()
        self.gains.setWordWrap(True)
        self.gains.setTextFormat(Qt.TextFormat.RichText)
        row = QHBoxLayout()
        row.addWidget(self.rank)
        row.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(self.ways)
        column.addLayout(row)
        column.addWidget(self.gains)
        for signal in (session.view_changed, session.result_changed, session.tasks.changed):
            signal.connect(self.refresh)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = theme
        self.refresh()

    def sensor(self) -> str:
        """Return the sensor of the component whose descent is shown, empty if none reads it."""
        descent = self._descent.descent()
        rows = self.session.assessment.report.sensors if self.session.assessment else ()
        return next((row.id for row in rows if descent is not None and row.body == descent.component), "")

    def refresh(self) -> None:
        """Take over the session."""
        session = self.session
        descent = self._descent.descent()
        if session.assessment is None or descent is None:
            self.ways.setText("")
            self.gains.setText("")
            self.rank.setVisible(False)
            return
        report = session.assessment.report
        labels = {name: body.label for name, body in session.project.bodies_known(session.build).items()}
        self.ways.setText(_ways(report, descent.component, labels))
        running = session.tasks.running
        mine = running is not None and running.label == LABEL
        sensor = self.sensor()
        self.rank.setVisible(bool(sensor))
        self.rank.setEnabled(session.state == "current" and not mine)
        ranked = self._ranked.get((report.input_hash, sensor))
        self.gains.setText(_gains(ranked) if ranked else "Working it out…" if mine else "")

    def ask(self) -> None:
        """Rank the layers for the sensor of what is shown."""
        session = self.session
        if session.assessment is None or not self.sensor():
            return
        self._asked = (session.assessment.report.input_hash, self.sensor())
        asked = (session.computed, session.view.build, session.view.point, self.sensor())
        session.tasks.start(LABEL, rank_layers, *asked, step=self._take)

    def _take(self, value: tuple[LayerGain, ...]) -> None:
        if self._asked is not None:
            self._ranked[self._asked] = value
            while len(self._ranked) > 40:
                self._ranked.pop(next(iter(self._ranked)))


def _ways(report: Report, component: str, labels: dict[str, str]) -> str:
    rows = [row for row in report.ledger if row.component == component]
    total = sum(row.watts for row in rows if row.watts > 0)
    if total <= 0:
        return ""
    merged: dict[str, float] = {}
    for row in rows:
        merged[row.to] = merged.get(row.to, 0.0) + row.watts

    def name(to: str) -> str:
        return "air" if to == "air" else escape(labels.get(to, to))

    ranked = [(to, watts) for to, watts in sorted(merged.items(), key=lambda item: -item[1]) if abs(watts) >= 0.005 * total]
    goes = [
        f"<b>{number(watts / total * 100)} %</b> ({number(watts, 1)} W) {'to' if to == 'air' else 'into'} {name(to)}"
        for to, watts in ranked
        if watts > 0
    ]
    comes = [f"<b>{number(-watts, 1)} W</b> come in from {name(to)}, which is hotter" for to, watts in ranked if watts < 0]
    sentences = ["Its heat goes " + ", ".join(goes)] if goes else []
    return ". ".join([*sentences, *([", ".join(comes)] if comes else [])]) + "." if sentences or comes else ""


def _gains(ranked: tuple[LayerGain, ...]) -> str:
    rows = "".join(
        f"<tr><td align='right'><b>{number(one.gain_k, 1)} K</b>&nbsp;&nbsp;</td><td>{escape(one.label)}</td></tr>"
        for one in ranked[:6]
        if one.gain_k >= 0.05
    )
    return f"<p>The most that work on each could gain, if it became perfect:</p><table>{rows}</table>"
