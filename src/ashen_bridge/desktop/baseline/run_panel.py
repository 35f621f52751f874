"""What a run says, and under which conditions it was logged."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFormLayout, QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ashen_bridge.bench import errands
from ashen_bridge.bench.advice.verdicts import TestPlan, Transfer
from ashen_bridge.bench.words import in_words
from ashen_bridge.desktop.baseline.advice import plan_words, transfer_words
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.fields import NumberField, Wanted
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import QuestionPanel, Saying
from ashen_bridge.desktop.parts.rich import Rich, coloured, paragraph, rich
from ashen_bridge.desktop.parts.text_fields import ChoiceField, StoryField, WordsField
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.runs_desk import run_key
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing import runs as edits
from ashen_bridge.editing.typed import TypedError
from ashen_bridge.model.records import Run

_SUPPLIES = (("not said", ""), ("mains", "mains"), ("battery", "battery"))
_STATISTICS = (("mean of the settled window", "mean"), ("highest", "maximum"), ("99th percentile", "p99"))


def _row(*named: tuple[str, QWidget]) -> QWidget:
    holder = QWidget()
    row = QHBoxLayout(holder)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(5)
    for words, field in named:
        label = Words(words)
        label.setObjectName("quiet")
        row.addWidget(label)
        row.addWidget(field, 1)
    return holder


def _typed(field: NumberField, otherwise: float) -> float:
    try:
        value = field.typed()
    except TypedError:
        return otherwise
    return otherwise if value is None else value


class RunPanel(QFrame):
    """The run that is looked at."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("card")
        self.session, self.theme = session, theme
        self.title = Words()
        self.title.setObjectName("title")
        self.title.setWordWrap(True)
        self.said = Words()
        self.said.setWordWrap(True)
        self.said.setTextFormat(Qt.TextFormat.RichText)
        self.name = WordsField("Name of the run", lambda words: self._set("Name of a run", name=words))
        self.taken = WordsField("When it was", lambda words: self._set("When a run was taken", taken=words.strip()))
        self.taken.setPlaceholderText("2031-03-14, perhaps with T08:30")
        self.build = ChoiceField("Build that was tested", lambda one: self._set("Build of a run", build=one))
        self.point = ChoiceField("Operating point of the test", lambda one: self._set("Operating point of a run", point=one))
        self.workload = WordsField("What the device did", lambda words: self._set("Workload", workload=words))
        self.fan = WordsField("Fan rule", lambda words: self._set("Fan rule", fan_rule=words))
        self.supply = ChoiceField("Mains or battery", lambda one: self._set("Supply", supply=one))
        self.ambient = NumberField(
            Wanted("Air around the device", "°C", optional=True, low=-60, high=90),
            lambda value: self._quantity("ambient_c", value, 0.5),
        )
        self.profile = WordsField("Power limit, undervolt, clocks", lambda words: self._set("Profile", profile=words))
        self.noise_at = NumberField(Wanted("Distance of the noise meter", "m", optional=True, low=0.01, high=100), self._noise_at)
        self.room = NumberField(
            Wanted("Noise of the room in dB", "", optional=True, low=-10, high=130),
            lambda value: self._quantity("room_noise_db", value, 1.0),
        )
        self.noise = NumberField(
            Wanted("Noise in dB", "", optional=True, low=-10, high=130), lambda value: self._quantity("noise_db", value, 1.0)
        )
        self.statistic = ChoiceField("What counts", lambda one: self._set("What counts of a run", statistic=one))
        self.notes = StoryField("Notes", lambda words: self._set("Notes of a run", notes=words[:200]), lines=2)
        self.again = QPushButton("Find the window again")
        self.again.setToolTip("Forget the window that was set by hand")
        self.again.clicked.connect(self._find_again)
        self.form = QWidget()
        self.resolution = NumberField(Wanted("Difference to show", "K", low=0.05, high=50), self._hold)
        self.resolution.show_value(1.0)
        plan: Question[TestPlan] = Question(session.questions, "How long, how often?", self._plan)
        fields = _row(("to show [K]", self.resolution))
        self.plan = QuestionPanel(plan, Saying(plan.words, "Plan the test"), plan_words, fields)
        self.warmer = NumberField(Wanted("Air warmer by", "K", low=-60, high=60), self._hold)
        self.fan_share = NumberField(Wanted("Fan speed of now", "%", low=10, high=300), self._hold)
        self.power_share = NumberField(Wanted("Power of now", "%", low=1, high=500), self._hold)
        for field, value in ((self.warmer, 8.0), (self.fan_share, 100.0), (self.power_share, 100.0)):
            field.show_value(value)
        fields = _row(("air + [K]", self.warmer), ("fan [%]", self.fan_share), ("power [%]", self.power_share))
        carried: Question[Transfer] = Question(session.questions, "What would it be elsewhere?", self._carry)
        self.elsewhere = QuestionPanel(carried, Saying(carried.words, "Carry over"), transfer_words, fields)
        self._lay_out()

    def _lay_out(self) -> None:
        grid = QFormLayout(self.form)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(5)
        grid.setLabelAlignment(Qt.AlignmentFlag.AlignLeft)
        for words, field in (
            ("Name", self.name),
            ("Taken", self.taken),
            ("Build", self.build),
            ("At", self.point),
            ("Workload", self.workload),
            ("Fan", self.fan),
            ("Profile", self.profile),
            ("Supply", self.supply),
            ("Air [°C]", self.ambient),
            ("Noise [dB]", _row(("", self.noise), ("at [m]", self.noise_at), ("room", self.room))),
            ("Counts", self.statistic),
            ("Notes", self.notes),
        ):
            label = Words(words)
            label.setObjectName("quiet")
            grid.addRow(label, field)
        conditions = Words("Conditions")
        conditions.setObjectName("section")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 9)
        column.setSpacing(7)
        for widget in (self.title, self.said, self.again, conditions, self.form, self.plan, self.elsewhere):
            column.addWidget(widget)
        column.addStretch(1)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = theme
        self.refresh()

    def refresh(self) -> None:
        """Take over the session."""
        run, project = self.session.run, self.session.project
        self.form.setVisible(run is not None)
        if run is None:
            self.title.setText("No run yet")
            self.said.setText("Bring in a log of the device under load, or record one. Everything later stands on it.")
            self.again.hide()
            return
        self.title.setText(run.label)
        self.again.setVisible(run.settled_s is not None)
        self.said.setText(self._words(run))
        self.name.show_words(run.name)
        self.taken.show_words(run.taken)
        self.build.show_choice([(one.label, one.id) for one in project.builds], run.build)
        self.point.show_choice([(one.label, one.id) for one in project.points], run.point)
        self.workload.show_words(run.workload)
        self.fan.show_words(run.fan_rule)
        self.supply.show_choice(_SUPPLIES, run.supply)
        self.ambient.show_value(run.ambient_c.value if run.ambient_c else None)
        self.profile.show_words(run.profile)
        self.noise.show_value(run.noise_db.value if run.noise_db else None)
        self.noise_at.show_value(run.noise_at_m)
        self.room.show_value(run.room_noise_db.value if run.room_noise_db else None)
        self.statistic.show_choice(_STATISTICS, run.statistic)
        self.notes.show_words(run.notes)
        self.plan.refresh()
        self.elsewhere.refresh()

    def _hold(self, value: float | None) -> str:
        """A field of a question: it is another question now."""
        for panel in (self.plan, self.elsewhere):
            panel.refresh()
        return ""

    def _plan(self) -> Asked | None:
        session, run = self.session, self.session.run
        device = session.project.device
        if run is None:
            return None
        known = [session.runs.figures(one, device) for one in session.project.runs]
        runs = tuple(one for one in known if one is not None)
        resolution = _typed(self.resolution, 1.0)
        runs_key = " ".join(run_key(one, device) for one in session.project.runs)
        key = key_of(session.keys.project(session.computed), run.id, runs_key, len(runs), resolution)
        return Asked(key, errands.plan_test, (session.computed, run.build, run.point, runs, resolution))

    def _carry(self) -> Asked | None:
        session, run = self.session, self.session.run
        found = session.runs.figures(run, session.project.device) if run is not None else None
        if found is None:
            return None
        there = (_typed(self.warmer, 0.0), _typed(self.fan_share, 100.0) / 100, _typed(self.power_share, 100.0) / 100)
        key = key_of(session.keys.project(session.computed), run_key(found.run, session.project.device), there)
        return Asked(key, errands.transfer, (session.computed, found, *there))

    def _words(self, run: Run) -> Rich:
        device, roles = self.session.project.device, self.theme.roles
        problem = self.session.runs.problem(run, device)
        if problem:
            return coloured(roles["bad"], f"✕ {problem}")
        found = self.session.runs.figures(run, device)
        if found is None:
            return rich("Reading the log…")
        lines = []
        for sentence in in_words(found, device)[:14]:
            role = "bad" if "throttled" in sentence else "warn" if "still" in sentence else "ink"
            mark = {"bad": "! ", "warn": "↗ "}.get(role, "")
            lines.append(paragraph(f"{mark}{sentence[0].upper()}{sentence[1:]}", colour=roles[role], below=3))
        return rich(*lines) if lines else rich("Nothing is mapped yet, so there is nothing to say: choose “Columns…”.")

    def _set(self, what: str, **fields: Any) -> None:
        run = self.session.run
        if run is not None:
            self.session.apply(edits.change_run(run.id, what, **fields))

    def _quantity(self, field: str, value: float | None, uncertainty: float) -> str:
        run = self.session.run
        if run is None:
            return ""
        told = None if value is None else {"value": value, "uncertainty": uncertainty, "origin": "measured"}
        return self.session.attempt(edits.change_run(run.id, "Condition of a run", **{field: told}))

    def _noise_at(self, value: float | None) -> str:
        run = self.session.run
        return self.session.attempt(edits.change_run(run.id, "Condition of a run", noise_at_m=value)) if run is not None else ""

    def _find_again(self) -> None:
        if self.session.run is not None:
            self.session.apply(edits.set_window(self.session.run.id, None))
