"""A device from questions, page by page: answers listed at the left, a sketch at the right, then the result."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QKeyEvent
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QProgressBar,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ashen_bridge.desktop.guided.question_page import QuestionPage
from ashen_bridge.desktop.guided.result_page import ResultPage
from ashen_bridge.desktop.guided.sketch import Sketch
from ashen_bridge.desktop.look.preferences import Preferences
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.asking import Asker
from ashen_bridge.desktop.parts.dialog import WorkDialog
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.reading import bring_into_sight
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.guided.answers import Answers
from ashen_bridge.guided.check import AnswerError
from ashen_bridge.guided.fit import fitting
from ashen_bridge.guided.interview import Interview
from ashen_bridge.guided.questions import PAGES
from ashen_bridge.guided.result import Described

_KEEP, _DROP, _STAY = "Keep the answers", "Throw them away", "Go on answering"


class GuidedDialog(WorkDialog):
    """Emits `finished_project` with a project once the answers are worked through."""

    finished_project = pyqtSignal(object)

    def __init__(self, session: Session, theme: Theme, kept: Preferences, parent: QWidget | None = None) -> None:
        super().__init__("New device from questions", parent)
        self.session, self.theme, self.kept = session, theme, kept
        self.asker = Asker(self)
        self.interview = Interview()
        self._answers: Answers | None = None
        self._done = False
        self.building: Question[Described] = Question(session.questions, "Working the device out", lambda: _asked(self._answers))
        self.building.changed.connect(self._follow)
        self.list = QListWidget()
        self.list.setAccessibleName("Questions and answers")
        self.list.setObjectName("steps")
        self.list.setFixedWidth(round(theme.px(196)))
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.pages = QStackedWidget()
        self.asking = tuple(QuestionPage(page, self.answer) for page in PAGES)
        self.outcome = ResultPage(theme)
        for widget in (*self.asking, self.outcome):
            self.pages.addWidget(widget)
        self.sketch = Sketch(theme)
        self.wrong = Words()
        self.wrong.setObjectName("wrong")
        self.wrong.setWordWrap(True)
        self.progress = QProgressBar()
        self.progress.setRange(0, 100)
        self.progress.setTextVisible(False)
        self.back, self.next, self.finish = QPushButton("Back"), QPushButton("Next"), QPushButton("Work it out")
        self.afresh = QPushButton("Start afresh")
        self.afresh.setToolTip("Take all answers back")
        self._lay_out()
        self.list.currentRowChanged.connect(self.go)
        self.back.clicked.connect(lambda: self.go(self.at - 1))
        self.next.clicked.connect(lambda: self.go(self.at + 1))
        self.finish.clicked.connect(self.build)
        self.afresh.clicked.connect(self._begin_afresh)
        self.resize(round(theme.px(1080)), round(theme.px(640)))
        self._take(Interview.of(kept.interview))

    def _lay_out(self) -> None:
        for button in (self.back, self.next, self.finish, self.afresh):
            button.setMinimumHeight(38)
            button.setAutoDefault(False)
        self.finish.setToolTip("What was not answered keeps its usual value, marked assumed")
        foot = QHBoxLayout()
        for widget, stretch in ((self.back, 0), (self.afresh, 0), (self.progress, 1), (self.next, 0), (self.finish, 0)):
            foot.addWidget(widget, stretch)
        _holds_its_place(self.progress)
        middle = QVBoxLayout()
        middle.addWidget(self.pages, 1)
        middle.addWidget(self.wrong)
        middle.addLayout(foot)
        # Room for a sentence of two lines: nothing moves when one is said.
        self.wrong.setMinimumHeight(2 * self.wrong.fontMetrics().lineSpacing() + 4)
        self.card = QFrame()
        self.card.setObjectName("card")
        inside = QVBoxLayout(self.card)
        inside.setContentsMargins(4, 4, 4, 4)
        inside.addWidget(self.sketch)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 14, 14, 14)
        row.setSpacing(14)
        row.addWidget(self.list)
        row.addLayout(middle, 5)
        row.addWidget(self.card, 3)

    # ---- where we are

    @property
    def at(self) -> int:
        """Which of this device's pages is shown; their number where the result is."""
        if self.pages.currentWidget() is self.outcome:
            return len(self.interview.pages)
        shown = self.asking[self.pages.currentIndex()].page
        return next((n for n, page in enumerate(self.interview.pages) if page.id == shown.id), 0)

    def page(self, name: str) -> QuestionPage:
        """Return a page by its id."""
        return next(one for one in self.asking if one.page.id == name)

    def go(self, at: int) -> None:
        """Show a page; behind the last question is the result, which is worked out when it is asked for."""
        pages = self.interview.pages
        at = min(max(at, 0), len(pages))
        if at == len(pages):
            self.build()
            return
        shown = self.page(pages[at].id)
        self.pages.setCurrentWidget(shown)
        self._show()
        shown.focus_first(self.interview.answers)

    # ---- answers

    def start_from(self, readings: dict[str, float]) -> None:
        """Fill in what a log showed [°C, W, %]."""
        found, _ = self.interview.read(readings)
        self._take(found)

    def answer(self, field: str, value: Any) -> str:
        """Take an answer; returns what is wrong with it, and keeps the one before if something is.

        What is being worked out from other answers is called off.
        """
        self.building.cancel()
        try:
            self.interview = self.interview.answered(field, value)
        except AnswerError as error:
            return str(error)
        # Kept at once: whatever ends the program, or the window behind it, the answers come back.
        self.kept.interview = self.interview.kept()
        self._show()
        return ""

    def _begin_afresh(self) -> None:
        self.kept.interview = ""
        self._take(Interview())

    def _take(self, interview: Interview) -> None:
        self.interview = interview
        self.go(0)

    def _show(self) -> None:
        """Show the answers everywhere; what cannot be is said, with the page where it was answered."""
        interview = self.interview
        for page in self.asking:
            page.show_answers(interview.answers)
        at, wrong = self.at, interview.wrong
        self.sketch.show_answers(interview.answers, "result" if at == len(interview.pages) else interview.pages[at].id)
        self.wrong.setText(str(wrong) if wrong is not None else "")
        odd = {interview.page_of(wrong.field), interview.page_of(wrong.other)} if wrong is not None else set()
        self.list.blockSignals(True)
        lines = [f"{'!' if n in odd else n + 1}  {page.title}\n{interview.said(page)}" for n, page in enumerate(interview.pages)]
        lines.append(f"{len(lines) + 1}  Result\n{self._standing()}")
        while self.list.count() > len(lines):
            self.list.takeItem(self.list.count() - 1)
        self.list.addItems(lines[self.list.count() :])
        for n, line in enumerate(lines):
            item = self.list.item(n)
            if item is not None:
                item.setText(line)
        self.list.setCurrentRow(at)
        self.list.blockSignals(False)
        there = at == len(interview.pages)
        self.card.setVisible(not there)
        self.back.setEnabled(at > 0)
        self.afresh.setEnabled(interview.begun and not there)
        self.next.setVisible(at < len(interview.pages) - 1)
        self.finish.setText("Open it" if there else "Work it out")
        self.finish.setEnabled(not there or self._done)
        self.progress.setVisible(self.building.running)

    def _standing(self) -> str:
        return "worked out" if self._done else "being worked out" if self.building.running else "what follows from it"

    # ---- working it out

    def build(self) -> None:
        """Work the device out, fitted in the worker to what was seen; once that is done, open it."""
        if self.pages.currentWidget() is self.outcome and self._done:
            self._open()
            return
        try:
            answers = self.interview.finished()
        except AnswerError as error:
            self.go(self.interview.page_of(error.field))
            return
        self._answers, self._done = answers, False
        self.outcome.show_result(None)
        self.pages.setCurrentWidget(self.outcome)
        self.building.ask()
        self._follow()

    def _follow(self) -> None:
        """Show how the work stands."""
        if self._answers is None or self.pages.currentWidget() is not self.outcome:
            return
        state = self.building.state
        self.progress.setValue(round(100 * self.building.progress))
        found = self.building.value
        self.outcome.show_result(found)
        self._done = state == "current" and found is not None
        self._show()
        if state == "refused":
            self.wrong.setText(self.building.problem)
        elif self._done:
            self.finish.setFocus()

    def _open(self) -> None:
        found = self.building.value
        if found is not None:
            self.kept.interview = ""
            self.interview = Interview()
            self.finished_project.emit(found.project)
            self.accept()

    # ---- keys and leaving

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter goes on to the next field or page; a refused answer keeps it."""
        if event is None or event.key() not in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            super().keyPressEvent(event)
            return
        page = self.pages.currentWidget()
        fields = [one for one in page.findChildren(QLineEdit) if one.isVisible()] if page is not None else []
        focus = self.focusWidget()
        if isinstance(focus, QLineEdit) and focus in fields:
            if focus.property("wrong"):
                return
            if focus is not fields[-1]:
                following = fields[fields.index(focus) + 1]
                following.setFocus()
                following.selectAll()
                bring_into_sight(following)
                return
        self.go(self.at + 1)

    def reject(self) -> None:
        """Escape leaves as closing does."""
        self.close()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Ask once what becomes of the answers."""
        if event is None or not self.interview.begun:
            if event is not None:
                event.accept()
            return
        text = "Your answers so far can be kept: the questions then begin with them next time."
        chosen = self.asker.choose("Leave the questions", text, (_KEEP, _DROP, _STAY), _KEEP, _STAY)
        if chosen == _STAY:
            event.ignore()
            return
        self.kept.interview = self.interview.kept() if chosen == _KEEP else ""
        self.building.cancel()
        event.accept()


def _holds_its_place(widget: QWidget) -> None:
    policy = widget.sizePolicy()
    policy.setRetainSizeWhenHidden(True)
    widget.setSizePolicy(policy)


def _asked(answers: Answers | None) -> Asked | None:
    return Asked(key_of(answers), fitting, (answers,)) if answers is not None else None
