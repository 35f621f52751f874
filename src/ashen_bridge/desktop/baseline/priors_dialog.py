"""How often each kind of fault is met, before any reading is looked at: shown, with reasons, and changeable."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFormLayout, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from ashen_bridge.bench.diagnosis.priors import usual_priors
from ashen_bridge.desktop.parts.dialog import WorkDialog
from ashen_bridge.desktop.parts.fields import NumberField, Wanted
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing import runs as edits

_EXPLAINED = (
    "Odds of one fault of a kind against nothing being wrong. Where a joint was just opened, faults of it count more often, in "
    "the same proportion. An empty field leaves a kind to common practice."
)


class PriorsDialog(WorkDialog):
    """One field per kind of fault, those met most often first."""

    def __init__(self, session: Session, over: QWidget | None) -> None:
        super().__init__("Odds beforehand", over)
        self.session = session
        about = Words(_EXPLAINED)
        about.setObjectName("quiet")
        about.setWordWrap(True)
        inside = QWidget()
        form = QFormLayout(inside)
        form.setVerticalSpacing(4)
        self.fields: dict[str, NumberField] = {}
        for kind, usual in sorted(usual_priors().items(), key=lambda one: -one[1].odds):
            field = NumberField(Wanted(f"Odds of {usual.name}", "%", optional=True, low=0, high=1000), partial(self._take, kind))
            field.setToolTip(f"By practice {100 * usual.odds:.3g} %: {usual.why}.")
            self.fields[kind] = field
            form.addRow(f"{usual.name[0].upper()}{usual.name[1:]}", field)
        area = QScrollArea()
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        area.setWidget(inside)
        area.setWidgetResizable(True)
        self.usual = QPushButton("All by practice")
        self.usual.clicked.connect(self._forget)
        leave = QPushButton("Leave")
        leave.clicked.connect(self.close)
        row = QHBoxLayout()
        row.addWidget(leave)
        row.addWidget(self.usual, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 12, 14, 12)
        column.setSpacing(8)
        column.addWidget(about)
        column.addWidget(area, 1)
        column.addLayout(row)
        self.refresh()
        self.resize(430, 600)

    def refresh(self) -> None:
        """Show what counts: what was said here, else what practice says."""
        said = self.session.project.priors
        for kind, field in self.fields.items():
            field.show_value(100 * said.get(kind, usual_priors()[kind].odds))
        self.usual.setEnabled(bool(said))

    def _take(self, kind: str, value: float | None) -> str:
        odds = None if value is None or abs(value - 100 * usual_priors()[kind].odds) < 1e-9 else value / 100
        if self.session.project.priors.get(kind) == odds:
            return ""
        problem = self.session.attempt(edits.set_prior(kind, odds))
        self.refresh()
        return problem

    def _forget(self) -> None:
        for kind in tuple(self.session.project.priors):
            self.session.apply(edits.set_prior(kind, None))
        self.refresh()
