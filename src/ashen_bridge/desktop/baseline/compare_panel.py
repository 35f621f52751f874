"""Two runs beside each other: what became worse first, as rise over the air, at equal power if asked for."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QCheckBox, QFrame, QHBoxLayout, QVBoxLayout

from ashen_bridge.bench import errands
from ashen_bridge.bench.advice.verdicts import Attribution, Quieter
from ashen_bridge.bench.compare_words import verdict_words
from ashen_bridge.bench.judgement import Comparison
from ashen_bridge.changes.edit import Edit
from ashen_bridge.desktop.baseline.advice import shares_words
from ashen_bridge.desktop.baseline.desk import BaselineDesk
from ashen_bridge.desktop.baseline.differences import DifferenceList
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.keep_button import KeepButton
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import QuestionPanel, Saying
from ashen_bridge.desktop.parts.rich import bold, paragraph, rich
from ashen_bridge.desktop.parts.text_fields import ChoiceField
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.runs_desk import run_key
from ashen_bridge.editing.keeping import keep_comparison
from ashen_bridge.model.records import Run


class ComparePanel(QFrame):
    """The run that is looked at, against an earlier one."""

    def __init__(self, desk: BaselineDesk, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("card")
        session = desk.session
        self.desk, self.session, self.theme = desk, session, theme
        title = Words("Better or worse?")
        title.setObjectName("title")
        self.before = ChoiceField("Run before", lambda one: session.look(replace(session.view, against=one)))
        self.after = ChoiceField("Run after", desk.choose_run)
        self.again = ChoiceField("Repeat of the run before", lambda one: desk.look(replace(desk.view, again=one)))
        self.again.setToolTip("The first build tested once more after the second: before, after, before again tells a drift")
        self.equal = QCheckBox("At equal power")
        self.equal.setToolTip("Rises of the later run are brought to the power of the earlier one")
        self.equal.clicked.connect(lambda on: desk.look(replace(desk.view, equal_power=on)))
        self.verdict = Words()
        self.verdict.setWordWrap(True)
        self.verdict.setTextFormat(Qt.TextFormat.RichText)
        self.list = DifferenceList(theme)
        self.list.chosen.connect(self._choose)
        self.cautions = Words()
        self.cautions.setWordWrap(True)
        self.cautions.setTextFormat(Qt.TextFormat.RichText)
        row = QHBoxLayout()
        row.setSpacing(6)
        row.addWidget(self.before, 1)
        row.addWidget(Words("→"))
        row.addWidget(self.after, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 9)
        column.setSpacing(7)
        column.addWidget(title)
        column.addLayout(row)
        self.resistance = Words()
        self.resistance.setWordWrap(True)
        shares: Question[tuple[Attribution | None, Quieter | None]] = Question(session.questions, "What did what?", self._sharing)
        self.shares = QuestionPanel(
            shares,
            Saying(
                shares.words,
                "Share it out",
                explain="What each change may have done to the chosen sensor, and what a gain is worth in quiet.",
            ),
            shares_words,
        )
        self.keep = KeepButton(session, self._keeping)
        for widget in (self.again, self.equal, self.verdict, self.list, self.resistance, self.cautions, self.keep, self.shares):
            column.addWidget(widget)
        column.addStretch(1)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = self.list.theme = theme
        self.refresh()

    def _compared(self) -> tuple[Comparison | None, str]:
        session = self.session
        if session.run is None or session.against is None or session.run.id == session.against.id:
            return None, ""
        again = next((one for one in self._repeats() if one.id == self.desk.view.again), None)
        return session.runs.comparison(
            session.against, session.run, again, session.project.device, session.computed if self.desk.view.equal_power else None
        )

    def _repeats(self) -> list[Run]:
        """Return the runs that may repeat the one before."""
        first = self.session.against
        if first is None:
            return []
        runs = self.session.project.runs
        return [one for one in runs if one.id != first.id and (one.build, one.point) == (first.build, first.point)]

    def comparison(self) -> Comparison | None:
        """Return what is compared now, if it is known."""
        return self._compared()[0]

    def sensor(self) -> str:
        """Return the sensor whose curves are drawn: the chosen one, else what changed most."""
        found = self.comparison()
        names = [row.sensor for row in found.sensors] if found is not None else []
        channels = self.session.run.channels if self.session.run is not None else ()
        chosen = [one.sensor for one in channels if one.column in self.desk.view.columns and one.sensor in names]
        if chosen:
            return str(chosen[0])
        if found is None or not names:
            return ""
        return max(found.sensors, key=lambda row: abs(row.rise.difference)).sensor

    def refresh(self) -> None:
        """Take over the session."""
        session = self.session
        runs = [(run.label, run.id) for run in session.project.runs]
        before, after = session.against, session.run
        self.before.show_choice(runs, before.id if before else None)
        self.after.show_choice(runs, after.id if after else None)
        repeats = [(f"and again: {one.label}", one.id) for one in self._repeats()]
        self.again.show_choice([("no repeat", ""), *repeats], self.desk.view.again)
        self.again.setVisible(bool(repeats))
        self.equal.setChecked(self.desk.view.equal_power)
        found, problem = self._compared()
        self.list.show_comparison(found, self.sensor())
        self.cautions.setText("")
        self.resistance.setText(_resistance_words(found, self.sensor()))
        self.resistance.setVisible(bool(self.resistance.text()))
        self.shares.refresh()
        self.keep.refresh()
        if before is None or after is None:
            self.verdict.setText("There is no run yet to compare.")
        elif before.id == after.id:
            alone = len(session.project.runs) < 2
            words = (
                "There is one run only: bring in another" if alone else f"“{before.label}” stands on both sides: choose another"
            )
            self.verdict.setText(rich(f"{words} to compare it with."))
        elif found is None:
            self.verdict.setText(rich(problem or "Comparing…"))
        else:
            self.verdict.setText(bold(verdict_words(found)))
            quiet = self.theme.roles["warn"]
            self.cautions.setText(rich(*(paragraph(f"! {one}", colour=quiet, above=3, below=3) for one in found.cautions)))

    def _keeping(self, who: str, now: datetime) -> Edit | None:
        found = self.comparison()
        return keep_comparison(self.session.project, found, who=who, now=now) if found is not None else None

    def _sharing(self) -> Asked | None:
        session, found = self.session, self.comparison()
        if found is None or session.against is None or session.run is None or not self.sensor():
            return None
        device = session.project.device
        runs = (run_key(session.against, device), run_key(session.run, device), self.desk.view.again, self.desk.view.equal_power)
        key = key_of(session.keys.project(session.computed), runs, self.sensor())
        return Asked(key, errands.share_out, (session.computed, session.against, session.run, found, self.sensor()))

    def _choose(self, sensor: str) -> None:
        run = self.session.run
        column = next((one.column for one in run.channels if one.sensor == sensor), "") if run is not None else ""
        self.desk.look(replace(self.desk.view, columns=(column,) if column else ()))


def _resistance_words(found: Comparison | None, sensor: str) -> str:
    """Return rise over power of one sensor before and after, with its interval over the passes."""
    row = next((one for one in found.sensors if one.sensor == sensor), None) if found is not None else None
    if row is None or row.k_w[0] is None or row.k_w[1] is None:
        return ""
    told = ["{:.3f} ({:.3f} to {:.3f})".format(*one) for one in row.k_w if one is not None]
    return f"{row.name} over the whole power: {told[0]} → {told[1]} K/W."
