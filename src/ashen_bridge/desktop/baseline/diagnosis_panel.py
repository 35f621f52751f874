"""Why is it so? Faults weighed against the run that is looked at, each with what would confirm it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import datetime
from textwrap import fill

from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout

from ashen_bridge.bench import errands
from ashen_bridge.bench.advice.verdicts import Worth
from ashen_bridge.bench.diagnosis.priors import usual_priors
from ashen_bridge.bench.judgement import Diagnosis, Suspect
from ashen_bridge.changes.edit import Edit
from ashen_bridge.desktop.baseline.advice import worth_words
from ashen_bridge.desktop.baseline.desk import BaselineDesk
from ashen_bridge.desktop.baseline.priors_dialog import PriorsDialog
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.belief import BeliefBar
from ashen_bridge.desktop.parts.keep_button import KeepButton
from ashen_bridge.desktop.parts.question_panel import QuestionPanel, Saying
from ashen_bridge.desktop.parts.rich import Rich, bold, paragraph, rich
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.runs_desk import run_key
from ashen_bridge.editing.keeping import keep_diagnosis
from ashen_bridge.logs.outcome import RunFigures
from ashen_bridge.model.records import Run
from ashen_bridge.words.numbers import number, percent
from ashen_bridge.worker.protocol import Errand

LABEL = "Weighing faults"
_LINE = 52  # letters in a line of what would confirm a suspect
_SHOWN = 0.02  # belief below which a suspect is not shown


class DiagnosisPanel(QFrame):
    """Diagnoses of this window's runs, kept until run or project change."""

    def __init__(self, desk: BaselineDesk, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("card")
        session = desk.session
        self.desk, self.session, self.theme = desk, session, theme
        self.question: Question[Diagnosis] = Question(session.questions, LABEL, self._now)
        self.panel = QuestionPanel(
            self.question,
            Saying(
                "Why is it so?",
                "Weigh the faults",
                explain="Each usual fault is weighed against this run; all other runs of the device speak for or against.",
                waiting="Trying one fault after another: worn paste, pads too thick or bare, screws, fan, air, sensors…",
                tip="Fit every usual fault to this run and weigh them against each other, and against none",
                heading="title",
                by_itself=True,
            ),
            self._words,
        )
        self.rows = QVBoxLayout()
        self.rows.setSpacing(8)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 9)
        column.setSpacing(8)
        column.addWidget(self.panel)
        self.odds = QPushButton("Odds beforehand…")
        self.odds.setObjectName("plain")
        self.odds.setFlat(True)
        self.odds.setToolTip("How often each kind of fault is met, before any reading is looked at")
        self.odds.clicked.connect(self.change_odds)
        self.keep = KeepButton(session, self._keeping)
        foot = QHBoxLayout()
        foot.addWidget(self.odds)
        foot.addStretch(1)
        foot.addWidget(self.keep)
        column.addLayout(self.rows)
        column.addLayout(foot)
        worth: Question[Worth] = Question(session.questions, "Worth opening?", self._opening)
        self.worth = QuestionPanel(
            worth,
            Saying(
                worth.words,
                "Weigh it",
                explain="What the best possible repair could gain, against what is needed and what this test can show.",
            ),
            worth_words,
        )
        column.addWidget(self.worth)
        column.addStretch(1)
        self.question.changed.connect(self.refresh)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = theme
        self.refresh()

    def _now(self) -> Asked | None:
        """The run that is looked at, against the model with the numbers in use."""
        session = self.session
        others = []
        for run in session.project.runs:
            figures = session.runs.figures(run, session.project.device)
            if figures is not None and run is not session.run:
                others.append(figures)
            elif figures is None and not session.runs.problem(run, session.project.device):
                return None  # still being read: it will have something to say
        return self._about_run(errands.diagnose, lambda figures: ((figures,), tuple(others)), [one.run for one in others])

    def _opening(self) -> Asked | None:
        return self._about_run(errands.weigh_opening, lambda figures: (figures,))

    def _about_run(
        self, errand: Errand, told: Callable[[RunFigures], tuple[object, ...]], beside: Sequence[Run] = ()
    ) -> Asked | None:
        session, run = self.session, self.session.run
        figures = session.runs.figures(run, session.project.device) if run is not None else None
        if run is None or figures is None:
            return None
        keys = [f"{run_key(one, session.project.device)}{one.taken}" for one in (run, *beside)]
        key = key_of(session.keys.project(session.computed, "aims", "goals", "closings", "priors", "signs", "evidence"), *keys)
        return Asked(key, errand, (session.computed, *told(figures)))

    def _words(self, found: Diagnosis) -> Rich:
        """The verdict, then what it stands on: which runs spoke, and what is thought likely beforehand."""
        labels = {run.id: run.label for run in self.session.project.runs}
        beside = [labels[one] for one in found.judged if one not in found.runs and one in labels]
        judged = f"Judged together with {', '.join(f'“{one}”' for one in beside)}. " if beside else ""
        usual = sorted(found.priors.items(), key=lambda one: -one[1])[:4]
        names = {kind: one.name for kind, one in usual_priors().items()}
        odds = ", ".join(f"{names.get(kind, kind)} {percent(share)}" for kind, share in usual)
        quiet, warn = self.theme.roles["quiet"], self.theme.roles["warn"]
        order = "! Nobody said which run was before which: they count as they stand in the file. Say it at “Taken”."
        changed = " (some changed here)" if self.session.project.priors else ", by practice"
        return rich(
            paragraph(bold(found.verdict)),
            rich() if found.ordered else paragraph(order, colour=warn),
            paragraph(f"{judged}Odds beforehand{changed}: {odds}.", colour=quiet),
        )

    def _keeping(self, who: str, now: datetime) -> Edit | None:
        found = self.question.value
        return keep_diagnosis(self.session.project, found, who=who, now=now) if found is not None else None

    def change_odds(self) -> None:
        """Open the table of odds."""
        PriorsDialog(self.session, self.window()).show()

    def refresh(self) -> None:
        """Take over the session."""
        if self.desk.view.page != "diagnose" or not self.desk.shown:
            return
        self.panel.refresh()
        self.worth.refresh()
        self._clear()
        self.keep.refresh()
        found = self.question.value
        if found is None:
            return
        # Nothing wrong stands where its weight puts it, so that the list says what the headline says.
        likelier = [one for one in found.suspects if one.weight >= max(_SHOWN, found.healthy_weight)]
        for one in likelier:
            self._add_suspect(one)
        self._add_none(found)
        for one in found.suspects:
            if one.weight >= _SHOWN and one not in likelier:
                self._add_suspect(one)

    def _add_suspect(self, one: Suspect) -> None:
        self.rows.addWidget(BeliefBar(self.theme, one.title, one.weight, f"{one.says} · misfit {number(one.misfit_k, 1)} K"))
        # A long look is written in lines; it never makes the page wider.
        look = QPushButton(fill(f"→ {one.confirm}", _LINE))
        look.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        look.setObjectName("plain")
        look.setFlat(True)
        look.setToolTip("Show in the Stack what this is about")
        look.clicked.connect(lambda _, about=one.about: self._go(about))
        look.setStyleSheet("text-align: left; border: none; background: transparent; padding: 0 4px;")
        self.rows.addWidget(look)

    def _add_none(self, found: Diagnosis) -> None:
        words = f"misfit {number(found.healthy_misfit_k, 1)} K"
        self.rows.addWidget(BeliefBar(self.theme, "Nothing is wrong", found.healthy_weight, words, calm=True))

    def _clear(self) -> None:
        while self.rows.count():
            item = self.rows.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.hide()
                widget.deleteLater()

    def _go(self, about: str) -> None:
        """Show in the Stack what a suspect is about."""
        session = self.session
        run = session.run
        last = about.rsplit(".", 1)[-1]
        build = run.build if run is not None else session.view.build
        sensor = next((one.body for one in session.project.device.sensors if about.endswith(f"sensors.{one.id}")), "")
        group = next((one.joints[0] for one in session.project.groups if about == f"groups.{one.id}"), "")
        session.look(replace(session.view, build=build, selected=group or sensor or last))
        session.part_wanted.emit("")
