"""Why is it so? Faults weighed against the run that is looked at, each with what would confirm it."""

from __future__ import annotations

from html import escape

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout

from ashen_bridge.bench import errands
from ashen_bridge.bench.judgement import Diagnosis, Suspect
from ashen_bridge.desktop.baseline.advice import Advice, Question, worth_words
from ashen_bridge.desktop.runs_desk import run_key
from ashen_bridge.desktop.session import Session
from ashen_bridge.desktop.theme import Theme
from ashen_bridge.desktop.widgets.belief import BeliefBar
from ashen_bridge.desktop.widgets.plain import Words
from ashen_bridge.desktop.words import number

LABEL = "Weighing faults"
_SHOWN = 0.02  # belief below which a suspect is not shown


class DiagnosisPanel(QFrame):
    """Diagnoses of this window's runs, kept until run or project change."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("card")
        self.session, self.theme = session, theme
        self._found: dict[tuple[str, str], Diagnosis] = {}
        self._asked: tuple[str, str] | None = None
        self._problem = ""
        title = Words("Why is it so?")
        title.setObjectName("title")
        self.go = QPushButton("Weigh the faults")
        self.go.setToolTip("Fit every usual fault to this run and weigh them against each other, and against none")
        self.go.clicked.connect(self.ask)
        head = QHBoxLayout()
        head.addWidget(title, 1)
        head.addWidget(self.go)
        self.words = Words()
        self.words.setWordWrap(True)
        self.words.setTextFormat(Qt.TextFormat.RichText)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(8)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 9)
        column.setSpacing(8)
        column.addLayout(head)
        column.addWidget(self.words)
        column.addLayout(self.rows)
        self.worth = Advice(
            session,
            "Worth opening?",
            "Weigh it",
            self._opening,
            worth_words,
            explain="What the best possible repair could gain, against what is needed and what this test can show.",
        )
        column.addWidget(self.worth)
        column.addStretch(1)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = theme
        self.refresh()

    def _key(self) -> tuple[str, str] | None:
        run, project = self.session.run, self.session.computed
        if run is None:
            return None
        return run_key(run, project.device), project.model_dump_json(include={"device", "builds", "points", "materials"})

    def _opening(self) -> Question | None:
        session, run = self.session, self.session.run
        figures = session.runs.figures(run, session.project.device) if run is not None else None
        return (errands.weigh_opening, (session.computed, figures)) if figures is not None else None

    def found(self) -> Diagnosis | None:
        """Return the diagnosis of what is looked at, if there is one."""
        key = self._key()
        return self._found.get(key) if key is not None else None

    def refresh(self) -> None:
        """Take over the session."""
        if self.session.view.run_page != "diagnose" or self.session.view.workspace != "baseline":
            return
        session, run = self.session, self.session.run
        running = session.tasks.running
        mine = running is not None and running.label == LABEL
        found = self.found()
        ready = run is not None and session.runs.figures(run, session.project.device) is not None
        self.go.setEnabled(ready and not mine)
        self.worth.refresh()
        self._clear()
        if found is None:
            waiting = f"Trying one fault after another… {running.progress:.0%}" if mine and running is not None else ""
            self.words.setText(
                waiting
                or escape(self._problem)
                or "Worn paste, pads too thick or not touching, a loose screw, a bent base, a weak fan, warm air, more power, a "
                "sensor that is off: each is fitted to this run and weighed. All that is uncertain anyway is allowed for, so "
                "“nothing is wrong” and “none explains it” are answers too."
            )
            return
        self.words.setText(f"<b>{escape(found.verdict)}</b>")
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
        look = QPushButton(f"→ {one.confirm}")
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

    def ask(self) -> None:
        """Weigh the faults against the run that is looked at."""
        session, run = self.session, self.session.run
        figures = session.runs.figures(run, session.project.device) if run is not None else None
        if figures is None:
            return
        self._problem, self._asked = "", self._key()
        asked = (session.computed, (figures,))
        session.tasks.start(LABEL, errands.diagnose, *asked, step=self._take, done=self._done)

    def _take(self, value: Diagnosis | None) -> None:
        if value is not None and self._asked is not None:
            self._found[self._asked] = value

    def _done(self, problem: str) -> None:
        self._problem = problem
        self.refresh()

    def _go(self, about: str) -> None:
        """Show in the Stack what a suspect is about."""
        session = self.session
        run = session.run
        last = about.rsplit(".", 1)[-1]
        build = run.build if run is not None else session.view.build
        sensor = next((one.body for one in session.project.device.sensors if about.endswith(f"sensors.{one.id}")), "")
        group = next((one.joints[0] for one in session.project.groups if about == f"groups.{one.id}"), "")
        session.look(workspace="stack", build=build, selected=group or sensor or last, page="joint")
