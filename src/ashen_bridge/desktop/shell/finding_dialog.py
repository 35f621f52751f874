"""What to do about a finding: remedies by one click, with what each would do; or switched off, with a reason that stays."""

from __future__ import annotations

from datetime import date
from functools import partial

from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from ashen_bridge.changes.edit import Edit
from ashen_bridge.desktop.parts.dialog import WorkDialog
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing import choosing as edits
from ashen_bridge.findings.finding import Finding
from ashen_bridge.model.errors import AshenError
from ashen_bridge.planning import errands
from ashen_bridge.planning.remedies import Effect, remedies


class FindingDialog(WorkDialog):
    """One finding, or (without one) those that are switched off."""

    def __init__(self, session: Session, finding: Finding | None, over: QWidget) -> None:
        super().__init__("What to do about it" if finding is not None else "Findings that are switched off", over)
        self.session, self.finding = session, finding
        self.buttons: list[QPushButton] = []
        self._effects: list[Words] = []
        self._edits = _remedies(session, finding)
        self.wrong = Words()
        self.wrong.setObjectName("wrong")
        self.wrong.setWordWrap(True)
        self.reason = QLineEdit()
        self.reason.setPlaceholderText("for example: measured, it does touch")
        self.reason.setAccessibleName("Why it does not matter")
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(16, 14, 16, 14)
        self._column.setSpacing(8)
        self.question: Question[tuple[Effect, ...]] = Question(session.questions, "What remedies do", self._now)
        self.question.changed.connect(self._show_effects)
        if finding is not None:
            self._about(finding)
        else:
            self._switched_off()
        self._column.addWidget(self.wrong)
        self._column.addStretch(1)
        self.resize(560, 320)
        if self._edits:
            self.question.ask()

    def _about(self, finding: Finding) -> None:
        for words, name in ((finding.text, "big"), (f"→ {finding.remedy}", "")):
            label = Words(words)
            label.setObjectName(name)
            label.setWordWrap(True)
            self._column.addWidget(label)
        if self._edits:
            self._section("One click")
        for made in self._edits:
            row = QHBoxLayout()
            button = QPushButton(made.name)
            button.clicked.connect(partial(self._do, made))
            effect = Words("working out what it would do…")
            effect.setObjectName("quiet")
            effect.setWordWrap(True)
            row.addWidget(button)
            row.addWidget(effect, 1)
            self._column.addLayout(row)
            self.buttons.append(button)
            self._effects.append(effect)
        self._section("Or it does not matter, because")
        row = QHBoxLayout()
        off = QPushButton("Switch it off")
        off.setToolTip("It is not shown any more; the reason stays in the file and in the record")
        off.clicked.connect(self.switch_off)
        row.addWidget(self.reason, 1)
        row.addWidget(off)
        self._column.addLayout(row)

    def _switched_off(self) -> None:
        for one in self.session.project.silenced:
            row = QHBoxLayout()
            words = Words(f"{one.code.replace('_', ' ')} at {one.about}: {one.reason}{f' ({one.since})' if one.since else ''}")
            words.setWordWrap(True)
            again = QPushButton("Switch on again")
            again.clicked.connect(partial(self._again, one.code, one.about))
            row.addWidget(words, 1)
            row.addWidget(again)
            self._column.addLayout(row)
            self.buttons.append(again)

    def _section(self, words: str) -> None:
        label = Words(words)
        label.setObjectName("section")
        self._column.addWidget(label)

    def _now(self) -> Asked | None:
        if not self._edits:
            return None
        session = self.session
        at = session.view.build, session.view.point
        key = key_of(session.keys.project(session.computed), *at, tuple(str(one.to_plain()) for one in self._edits))
        return Asked(key, errands.remedied, (session.computed, *at, self._edits))

    def _show_effects(self) -> None:
        found = self.question.value or ()
        for words, effect in zip(self._effects, found, strict=False):
            words.setText(effect.words)
        if self.question.problem:
            self.wrong.setText(self.question.problem)

    def _do(self, made: Edit) -> None:
        self._after(self.session.attempt(made))

    def switch_off(self) -> None:
        """Switch the finding off with the reason that was typed."""
        assert self.finding is not None  # only then is there such a button
        try:
            made = edits.silence(self.finding.code, self.finding.about, self.reason.text(), date.today().isoformat())
        except AshenError as error:
            self.wrong.setText(str(error))
            return
        self._after(self.session.attempt(made))

    def _again(self, code: str, about: str) -> None:
        self._after(self.session.attempt(edits.speak_again(code, about)))

    def _after(self, wrong: str) -> None:
        self.wrong.setText(wrong)
        if not wrong:
            self.close()


def _remedies(session: Session, finding: Finding | None) -> tuple[Edit, ...]:
    if finding is None:
        return ()
    try:
        return remedies(session.project, session.view.build, finding)
    except AshenError:
        return ()
