"""The model fitted to a run: what the readings could tell, what they could not, and which fit later predictions use."""

from __future__ import annotations

from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout

from ashen_bridge.bench import errands
from ashen_bridge.bench.judgement import BENT_K, TOLD, Calibration
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import QuestionPanel, Saying
from ashen_bridge.desktop.parts.rich import BREAK, Rich, bold, coloured, paragraph, rich, table
from ashen_bridge.desktop.parts.text_fields import ChoiceField
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.runs_desk import run_key
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing import runs as edits
from ashen_bridge.editing.fields import label_of
from ashen_bridge.model.signs import unit_of
from ashen_bridge.words.numbers import measured, number, percent

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
            Saying(
                "This very device",
                "Fit to this run",
                explain=(
                    "Sink, joints, powers, board: whatever carries a ± moves as far as the readings of this run ask. What they "
                    "could not tell stays as it is. Later predictions are then about this very device, and can be switched back."
                ),
                waiting="Turning every number a little…",
                tip="Move every uncertain number as far as the readings ask and its own ± allows",
                heading="title",
                by_itself=True,
            ),
            self._table,
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
        self.question.changed.connect(self.refresh)

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

    def _table(self, found: Calibration) -> Rich:
        quiet = self.theme.roles["quiet"]
        told = [one for one in found.numbers if one.told >= TOLD]
        numbers = []
        for one in told[:9]:
            field = one.field.rsplit(".", 1)[-1]
            more = f" ×{len(one.owners)}" if len(one.owners) > 1 else ""
            was = coloured(quiet, f"{measured(one.before, one.before_u)} → ")
            now = measured(one.after, one.after_u, unit_of(field))
            words = rich(bold(f"{one.owners[0]}{more}"), f": {label_of(field).lower()}", BREAK, was, now)
            numbers.append((words, percent(one.told)))
        apart = rich(
            *(
                paragraph(f"! Not told apart: {one} and {other}.", colour=self.theme.roles["warn"])
                for one, other, _ in found.not_apart[:3]
            )
        )
        heads = tuple(coloured(quiet, words) for words in ("sensor, °C", "measured", "before", "fitted"))
        worst = sorted(found.residuals, key=lambda row: -abs(row.before - row.measured))[:8]
        sensors = [(one.name, *(number(value, 1) for value in (one.measured, one.before, one.after))) for one in worst]
        rest = len(found.numbers) - len(told)
        bent = f"Within what is left, readings bend away from straight lines by {number(found.bent_k, 1)} K."
        return rich(
            paragraph(
                bold(f"Misfit {number(found.misfit_before_k, 1)} → {number(found.misfit_after_k, 1)} K (root mean square).")
            ),
            table(numbers, right=(1,), spacing=3),
            paragraph(
                f"The share is how much of a number's variance the run took away. Of {rest} others it says next to nothing.",
                colour=quiet,
            ),
            apart,
            rich(*(paragraph(f"! {one.words}", colour=self.theme.roles["warn"], below=8) for one in found.odd)),
            rich(paragraph(bent, colour=quiet)) if found.bent_k > BENT_K else rich(),
            table((heads, *sensors), right=(1, 2, 3), spacing=3),
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
