"""The foot of the window: how good the numbers are, what is being worked on, and a way to call it off."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QProgressBar, QToolButton, QWidget

from ashen_bridge.desktop.session import Session
from ashen_bridge.desktop.widgets.plain import Words

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
        self.cancel.clicked.connect(session.tasks.cancel)
        row = QHBoxLayout(self)
        row.setContentsMargins(64, 0, 6, 0)
        row.addWidget(self.words, 1)
        for widget in (self.task, self.bar, self.cancel):
            row.addWidget(widget)
        for signal in (session.result_changed, session.busy_changed, session.tasks.changed, session.runs.busy_changed):
            signal.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Say how things stand."""
        session = self.session
        if session.state == "current" and session.assessment is not None:
            report = session.assessment.report
            mesh = "" if report.mesh.refinement_k is None else f" · mesh ±{report.mesh.refinement_k:.1f} K"
            text = (
                f"{report.mesh.cells:,} cells{mesh} · energy balance {report.balance.energy_rel:.0e} · "
                f"force balance {report.balance.force_rel:.0e} · {report.seconds:.2f} s"
            ).replace(",", " ")
        else:
            text = _WORDS[session.state]
        self.words.setText(text)
        running = session.tasks.running
        for widget in (self.bar, self.cancel):
            widget.setVisible(running is not None)
        self.task.setText(session.runs.busy)
        self.task.setVisible(running is not None or bool(session.runs.busy))
        if running is not None:
            self.task.setText(running.label)
            self.bar.setValue(round(100 * running.progress))
            self.bar.setAccessibleName(f"{running.label}: {running.progress:.0%}")
