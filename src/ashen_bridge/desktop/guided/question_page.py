"""One page of questions: what is asked of this device, one below the other."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from ashen_bridge.desktop.guided.ask_row import Answer, AskRow
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.guided.answers import Answers
from ashen_bridge.guided.questions import Page


class QuestionPage(QScrollArea):
    """All questions a page may ask; those that do not apply are not there."""

    def __init__(self, page: Page, answer: Answer, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.page = page
        self.rows = tuple(AskRow(ask, answer) for ask in page.asks)
        title, help_ = Words(page.question), Words(page.help)
        title.setObjectName("question")
        help_.setObjectName("quiet")
        for words in (title, help_):
            words.setWordWrap(True)
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(2, 4, 12, 4)
        column.setSpacing(14)
        for widget in (title, help_, *self.rows):
            column.addWidget(widget)
        column.addStretch(1)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setWidgetResizable(True)
        self.setWidget(inside)

    def minimumSizeHint(self) -> QSize:
        """As wide as its questions need; lower it scrolls."""
        inside = self.widget()
        return QSize(inside.minimumSizeHint().width() + 12 if inside is not None else 0, 240)

    def show_answers(self, answers: Answers) -> None:
        """Show what is asked of this device, and its answers."""
        for row in self.rows:
            row.setVisible(row.ask.applies(answers))
            row.show_answers(answers)

    def row(self, field: str, answers: Answers | None = None) -> AskRow:
        """Return the row of a question; of several that take turns, the one that is asked."""
        found = [row for row in self.rows if row.ask.field == field]
        return next((row for row in found if answers is not None and row.ask.applies(answers)), found[0])

    def focus_first(self, answers: Answers) -> None:
        """Put the keys into the first question."""
        asked = [row for row in self.rows if row.ask.applies(answers)]
        plain = [row for row in asked if row.ask.how != "cards"]
        (plain or asked)[0].focus()
