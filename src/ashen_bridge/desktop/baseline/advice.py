"""A question to the model beside a run: a button, and the answer in a sentence or two, kept until what it stands on changes."""

from __future__ import annotations

from collections.abc import Callable
from html import escape
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ashen_bridge.bench.advice.verdicts import Attribution, Quieter, TestPlan, Transfer, Worth
from ashen_bridge.desktop.session import Session
from ashen_bridge.desktop.stack.course_painter import time_words
from ashen_bridge.desktop.tasks import Steps
from ashen_bridge.desktop.widgets.plain import Words
from ashen_bridge.desktop.words import number

Question = tuple[Steps, tuple[Any, ...]]


class Advice(QWidget):
    """`question` gives errand and arguments, None while it cannot be asked; `words` turns the answer into rich text."""

    def __init__(
        self,
        session: Session,
        title: str,
        button: str,
        question: Callable[[], Question | None],
        words: Callable[[Any], str],
        *,
        explain: str = "",
        fields: QWidget | None = None,
    ) -> None:
        super().__init__()
        self._session, self._label, self._question, self._words = session, title, question, words
        self._explain = explain
        self._answers: dict[str, str] = {}
        self._asked = ""
        self._value: Any = None
        heading = Words(title)
        heading.setObjectName("section")
        self.go = QPushButton(button)
        self.go.clicked.connect(self.ask)
        self.said = Words()
        self.said.setWordWrap(True)
        self.said.setTextFormat(Qt.TextFormat.RichText)
        head = QHBoxLayout()
        head.addWidget(heading, 1)
        head.addWidget(self.go)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.setSpacing(5)
        column.addLayout(head)
        if fields is not None:
            column.addWidget(fields)
        column.addWidget(self.said)

    def _key(self, question: Question) -> str:
        return str(
            hash(tuple(part.model_dump_json() if hasattr(part, "model_dump_json") else repr(part) for part in question[1]))
        )

    def refresh(self) -> None:
        """Show the answer to what can be asked now, if there is one."""
        question = self._question()
        running = self._session.tasks.running
        mine = running is not None and running.label == self._label
        self.go.setEnabled(question is not None and not mine)
        answer = self._answers.get(self._key(question), "") if question is not None and self._answers else ""
        waiting = f"Working it out… {running.progress:.0%}" if mine and running is not None else ""
        self.said.setText(waiting or answer or self._explain)
        self.said.setVisible(bool(self.said.text()))

    def ask(self) -> None:
        """Ask the model."""
        question = self._question()
        if question is None:
            return
        self._asked, self._value = self._key(question), None
        self._session.tasks.start(self._label, question[0], *question[1], step=self._step, done=self._done)

    def _step(self, value: Any) -> None:
        self._value = value

    def _done(self, problem: str) -> None:
        self._answers[self._asked] = escape(problem) if problem else self._words(self._value)
        self.refresh()


def plan_words(plan: TestPlan) -> str:
    """Return a test plan as rich text."""
    spread = "measured here" if plan.measured else "usual, none was repeated yet"
    return (
        f"<b>Run {time_words(plan.seconds)} under load, {plan.passes} passes of each build.</b> {escape(plan.slowest)} needs "
        f"{time_words(plan.soak_s)} to come within 1 K of its end. Passes differ by {number(plan.spread_k, 2)} K ({spread}); so "
        f"many show a difference of {number(plan.resolution_k, 1)} K."
    )


def transfer_words(found: Transfer) -> str:
    """Return a transferred result as rich text."""
    rows = "".join(
        f"<tr><td>{escape(one.name)}</td><td align='right'>{number(one.here_c, 1)} → <b>{number(one.there_c, 1)}</b> ± "
        f"{number(one.uncertainty, 1)} °C</td><td align='right'>{'! over' if one.over else ''}</td></tr>"
        for one in found.sensors[:5]
    )
    return f"<b>{escape(found.text)}</b><table cellspacing='2' width='100%'>{rows}</table>"


def worth_words(found: Worth) -> str:
    """Return whether opening pays as rich text."""
    return f"<b>{escape(found.text)}</b>"


def shares_words(value: tuple[Attribution, Quieter | None]) -> str:
    """Return shares of several changes, and what a gain is worth in quiet, as rich text."""
    found, quiet = value
    rows = ""
    for one in found.shares[:6]:
        undecided = f" ± {number(one.undecided_k, 1)}" if one.undecided_k >= 0.05 else ""
        told = one.first_k is not None or one.last_k is not None
        figure = f"{number(one.middle_k, 1, sign=True)}{undecided} K" if told else "cannot be computed alone"
        rows += f"<tr><td>{escape(one.label)}</td><td align='right'>{figure}</td></tr>"
    said = f"<p><b>{escape(found.doubt)}</b></p>" if found.doubt else ""
    said += f"<p><b>{escape(found.name)}: {number(found.measured_k, 1, sign=True)} K measured</b>, "
    said += f"{number(found.model_k, 1, sign=True)} K by the model.</p><table cellspacing='2' width='100%'>{rows}</table>"
    said += f"<p>{escape(found.settle)}</p>"
    if quiet is not None:
        least = "at least " if quiet.at_least else ""
        said += (
            f"<p>Or as hot as before with the fans at {quiet.speed:.0%} of now: {least}{number(quiet.less_db, 1)} dB quieter.</p>"
        )
    return said
