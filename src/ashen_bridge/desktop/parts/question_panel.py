"""One part for every question to the model: a button, how it stands, and the answer or why there is none."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.rich import NOTHING, Rich, paragraph, rich
from ashen_bridge.desktop.state.question import Question
from ashen_bridge.words.numbers import percent

EARLIER = "This is about an earlier state of the project; ask again for the present one."


def standing(question: Question[Any], waiting: str = "Working it out…", explain: str = "") -> str:
    """Return how a question stands in plain words; empty once there is an answer to be shown.

    `waiting` is said with the progress while it is worked on, `explain` while it has not been asked.
    """
    match question.state:
        case "running":
            return f"{question.note}{waiting} {percent(question.progress)}"
        case "refused":
            return question.problem
        case "stale":
            return EARLIER
        case "absent":
            return explain
        case "current":
            return ""


@dataclass(frozen=True)
class Saying:
    """What a panel says around its question: above it, on its button, before it is asked, while it is worked on, as a tip.

    `by_itself`: whether it is asked as soon as it is looked at; its button is there only where that was called off or refused.
    """

    title: str
    button: str
    explain: str = ""
    waiting: str = "Working it out…"
    tip: str = ""
    heading: Literal["section", "title"] = "section"
    by_itself: bool = False


class QuestionPanel(QWidget):
    """A question with its button. `words` turns an answer into rich text; an earlier one stays, said to be that.

    `fields` are numbers that belong to the question.
    """

    def __init__(
        self, question: Question[Any], saying: Saying, words: Callable[[Any], Rich], fields: QWidget | None = None
    ) -> None:
        super().__init__()
        self.question, self._saying, self._words = question, saying, words
        self.go = QPushButton(saying.button)
        self.go.setToolTip(saying.tip)
        self.go.clicked.connect(question.ask)
        self.stop = QPushButton("Call off")
        self.stop.setToolTip("Call this off; other work goes on")
        self.stop.clicked.connect(question.cancel)
        self.said = Words()
        self.said.setWordWrap(True)
        self.said.setTextFormat(Qt.TextFormat.RichText)
        head = QHBoxLayout()
        if saying.title:
            label = Words(saying.title)
            label.setObjectName(saying.heading)
            head.addWidget(label, 1)
        head.addWidget(self.go)
        head.addWidget(self.stop)
        if not saying.title:
            head.addStretch(1)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 4, 0, 0)
        self.column.setSpacing(5)
        self.column.addLayout(head)
        if fields is not None:
            self.column.addWidget(fields)
        self.column.addWidget(self.said)
        question.changed.connect(self.refresh)
        self.refresh()

    def showEvent(self, event: QShowEvent | None) -> None:
        """Ask what is asked by itself, now that it is looked at."""
        super().showEvent(event)
        if self._saying.by_itself:
            self.refresh()

    def refresh(self) -> None:
        """Show how the question stands."""
        question = self.question
        if self._saying.by_itself and self.isVisible():
            question.ask_by_itself()
        state = question.state
        self.go.setVisible(state != "running" and not (self._saying.by_itself and state == "current"))
        self.stop.setVisible(state == "running")
        self.go.setEnabled(question.possible and state != "current")
        said = standing(question, self._saying.waiting, self._saying.explain)
        answer = question.last if state == "stale" else question.value
        told = self._words(answer) if answer is not None else NOTHING
        self.said.setText(rich(paragraph(said), told) if said and told else rich(said or told))
        self.said.setVisible(bool(self.said.text()))
