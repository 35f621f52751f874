"""The model fitted to a run: what the readings could tell, what they could not, and which fit later predictions use."""

from __future__ import annotations

from html import escape

from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout

from ashen_bridge.bench import errands
from ashen_bridge.bench.judgement import TOLD, Calibration
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import QuestionPanel
from ashen_bridge.desktop.parts.text_fields import ChoiceField
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.runs_desk import run_key
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing import runs as edits
from ashen_bridge.editing.fields import label_of, unit_of
from ashen_bridge.words.numbers import measured, number

LABEL = "Fitting the model"


class FitPanel(QFrame):
    """Fits the model to the run that is looked at, and says which kept fit is in use."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("card")
        self.session, self.theme = session, theme
        self.question: Question[Calibration] = Question(session.questions, LABEL, self._now)
        self.panel = QuestionPanel(
            self.question,
            "This very device",
            "Fit to this run",
            self._table,
            explain="Sink, joints, powers, board: whatever carries a ± moves as far as the readings of this run ask. What they "
            "could not tell stays as it is. Later predictions are then about this very device, and can be switched back.",
            waiting="Turning every number a little…",
            tip="Move every uncertain number as far as the readings ask and its own ± allows",
            heading="title",
        )
        self.keep = QPushButton("Keep and use it")
        self.keep.clicked.connect(self._keep)
        self.used = ChoiceField("Numbers that predictions use", lambda one: session.apply(edits.use_calibration(one)))
        self.forget = QPushButton("Forget")
        self.forget.setToolTip("Forget the fit that is in use; undo brings it back")
        self.forget.clicked.connect(self._forget)
        label = Words("Predictions use")
        label.setObjectName("quiet")
        use = QHBoxLayout()
        use.addWidget(label)
        use.addWidget(self.used, 1)
        use.addWidget(self.forget)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 9)
        column.setSpacing(8)
        column.addLayout(use)
        column.addWidget(self.panel)
        column.addWidget(self.keep)
        column.addStretch(1)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = theme
        self.refresh()

    def refresh(self) -> None:
        """Take over the session."""
        project = self.session.project
        kept = [(f"fit {one.label}", one.id) for one in project.calibrations]
        self.used.show_choice([("numbers as they stand", None), *kept], project.calibration)
        self.forget.setEnabled(project.calibration is not None)
        self.panel.refresh()
        # Only a fit to the project as it is can be kept: an earlier one would bring numbers back that have been changed since.
        self.keep.setVisible(self.question.state == "current")

    def _table(self, found: Calibration) -> str:
        quiet = self.theme.roles["quiet"]
        misfit = f"Misfit {number(found.misfit_before_k, 1)} → {number(found.misfit_after_k, 1)} K (root mean square)."
        told = [one for one in found.numbers if one.told >= TOLD]
        rows = ""
        for one in told[:9]:
            field = one.field.rsplit(".", 1)[-1]
            more = f" ×{len(one.owners)}" if len(one.owners) > 1 else ""
            was = measured(one.before, one.before_u)
            now = measured(one.after, one.after_u, unit_of(field))
            rows += (
                f"<tr><td><b>{escape(one.owners[0])}{more}</b>: {escape(label_of(field).lower())}<br>"
                f"<span style='color:{quiet}'>{was} → </span>{now}</td><td align='right'>{one.told:.0%}</td></tr>"
            )
        rest = len(found.numbers) - len(told)
        apart = "".join(
            f"<p style='color:{self.theme.roles['warn']}'>! Not told apart: {escape(a)} and {escape(b)}.</p>"
            for a, b, _ in found.not_apart[:3]
        )
        sensors = "".join(
            f"<tr><td>{escape(one.name)}</td><td align='right'>{number(one.measured, 1)}</td>"
            f"<td align='right'>{number(one.before, 1)}</td><td align='right'>{number(one.after, 1)}</td></tr>"
            for one in sorted(found.residuals, key=lambda row: -abs(row.before - row.measured))[:8]
        )
        heads = "".join(
            f"<td align='{side}'><span style='color:{quiet}'>{words}</span></td>"
            for words, side in (("sensor, °C", "left"), ("measured", "right"), ("before", "right"), ("fitted", "right"))
        )
        return (
            f"<p><b>{misfit}</b></p><table cellspacing='3' width='100%'>{rows}</table>"
            f"<p style='color:{quiet}'>The share is how much of a number's variance the run took away. Of {rest} others it says "
            f"next to nothing.</p>{apart}<table cellspacing='3' width='100%'><tr>{heads}</tr>{sensors}</table>"
        )

    def _now(self) -> Asked | None:
        """The run that is looked at, with the numbers as they stand: in an earlier fit a run must not count twice."""
        session, run = self.session, self.session.run
        figures = session.runs.figures(run, session.project.device) if run is not None else None
        if run is None or figures is None:
            return None
        key = key_of(session.keys.project(session.project), run_key(run, session.project.device))
        return Asked(key, errands.calibrate, (session.project, (figures,)))

    def _keep(self) -> None:
        found = self.question.value
        if found is not None and self.question.state == "current":
            self.session.apply(edits.keep_calibration(self.session.project, found))

    def _forget(self) -> None:
        if self.session.project.calibration is not None:
            self.session.apply(edits.remove_calibration(self.session.project.calibration))
