"""The foot of the window: how good the numbers are, what is being worked on, and a way to call it off."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QProgressBar, QToolButton, QWidget

from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.words.numbers import number, percent

_WORDS = {
    "absent": "no numbers yet",
    "stale": "computing… (the numbers shown are those stored or from before)",
    "provisional": "coarse numbers, refining…",
    "refused": "not computable",
}


class WorkStatus(QWidget):
    """One line."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.words = Words()
        self.words.setObjectName("quiet")
        self.task = Words()
        self.task.setObjectName("quiet")
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.bar.setTextVisible(False)
        self.bar.setFixedWidth(140)
        self.cancel = QToolButton()
        self.cancel.setText("Call off")
        self.cancel.setObjectName("plain")
        self.cancel.setToolTip("Call off the running work (Ctrl+.)")
        self.cancel.clicked.connect(session.questions.cancel_all)
        row = QHBoxLayout(self)
        row.setContentsMargins(64, 0, 6, 0)
        row.addWidget(self.words, 1)
        for widget in (self.task, self.bar, self.cancel):
            row.addWidget(widget)
        for signal in (session.results.changed, session.runner.busy, session.questions.changed, session.runs.busy_changed):
            signal.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Say how things stand."""
        session = self.session
        if session.results.state == "current" and session.results.assessment is not None:
            report = session.results.assessment.report
            mesh = "" if report.mesh.refinement_k is None else f" · mesh ±{number(report.mesh.refinement_k, 1)} K"
            text = (
                f"{report.mesh.cells:,} cells{mesh} · energy balance {report.balance.energy_rel:.0e} · "
                f"force balance {report.balance.force_rel:.0e} · {number(report.seconds, 2)} s"
            ).replace(",", " ")
        else:
            text = _WORDS[session.results.state]
        self.words.setText(text)
        running = session.questions.running
        for widget in (self.bar, self.cancel):
            widget.setVisible(bool(running))
        self.task.setText(session.runs.busy)
        self.task.setVisible(bool(running) or bool(session.runs.busy))
        if running:
            first = running[0]
            more = f", and {len(running) - 1} more" if len(running) > 1 else ""
            self.task.setText(f"{first.words}{more}")
            self.bar.setValue(round(100 * first.progress))
            self.bar.setAccessibleName(f"{first.words}: {percent(first.progress)}")
