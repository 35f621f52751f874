"""A question to the model: absent, running with progress, current, stale, or refused in words. Keyed by what it stands on."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Generic, Literal, TypeVar

from PyQt6.QtCore import QObject, pyqtSignal

from ashen_bridge.desktop.state.runner import Runner
from ashen_bridge.worker.protocol import Errand, Lane

T = TypeVar("T")
State = Literal["absent", "running", "current", "stale", "refused"]
_KEPT = 30


@dataclass(frozen=True)
class Asked:
    """What would be asked now: the errand with its arguments, and the key of everything that its answer depends on."""

    key: str
    errand: Errand
    arguments: tuple[Any, ...]


def _latest(before: Any, value: Any) -> Any:
    return before if value is None else value


class Question(QObject, Generic[T]):
    """One kind of question of one window. `now` says what would be asked as things stand, None while it cannot be.

    Answers are kept by their key, so that undo shows them again. `fold` makes an answer of the values that come step by step;
    left out, the last one is the answer.
    """

    changed = pyqtSignal()

    def __init__(
        self,
        questions: Questions,
        words: str,
        now: Callable[[], Asked | None],
        fold: Callable[[T | None, Any], T | None] = _latest,
    ) -> None:
        super().__init__(questions)
        self.words = words
        self._questions, self._now, self._fold = questions, now, fold
        self._answers: OrderedDict[str, T] = OrderedDict()
        self._problems: OrderedDict[str, str] = OrderedDict()
        self._number, self._key = 0, ""
        self._unwanted = ""
        self.progress = 0.0
        self.note = ""
        """What there is to say about how it was asked: that it took the place of an earlier one."""

    # ---- how it stands

    @property
    def possible(self) -> bool:
        """Whether it can be asked as things stand."""
        return self._now() is not None

    @property
    def running(self) -> bool:
        """Whether it is being worked on, be it about what is looked at now or not."""
        return self._number != 0

    @property
    def state(self) -> State:
        """How it stands about what is looked at now."""
        asked = self._now()
        key = asked.key if asked is not None else ""
        if self.running and self._key == key:
            return "running"
        if key in self._answers:
            return "current"
        if key in self._problems:
            return "refused"
        return "stale" if self._answers else "absent"

    @property
    def value(self) -> T | None:
        """The answer about what is looked at now, as far as it has come; None while there is none."""
        asked = self._now()
        return self._answers.get(asked.key) if asked is not None else None

    @property
    def last(self) -> T | None:
        """The latest answer, whatever it was about."""
        return next(reversed(self._answers.values()), None)

    @property
    def problem(self) -> str:
        """Why there is no answer about what is looked at now, in a sentence; empty if there is none to be said."""
        asked = self._now()
        return self._problems.get(asked.key, "") if asked is not None else ""

    # ---- asking

    def ask_by_itself(self) -> None:
        """Ask because what it stands on is there, unless it was refused, or somebody called just this off."""
        asked = self._now()
        if asked is not None and asked.key != self._unwanted and self.state in ("absent", "stale"):
            self.ask()

    def ask(self) -> None:
        """Ask, unless the answer is known or being worked out; an earlier one that is still worked on is called off."""
        asked = self._now()
        if asked is None or asked.key in self._answers or (self.running and self._key == asked.key):
            self.changed.emit()
            return
        self.note = "The earlier one of its kind was called off for this. " if self.running else ""
        self._problems.pop(asked.key, None)
        self._questions.start(self, asked)

    def cancel(self) -> None:
        """Call it off; what came so far is dropped."""
        if self.running:
            self._answers.pop(self._key, None)
            self._unwanted = self._key
            self._questions.cancel(self._number)
            self._rest()

    def forget(self) -> None:
        """Forget all answers: what they were about is gone."""
        self.cancel()
        self._answers.clear()
        self._problems.clear()
        self.changed.emit()

    def began(self, number: int, key: str) -> None:
        """Take in that it is being worked on."""
        self._number, self._key, self.progress = number, key, 0.0
        self.changed.emit()

    def step(self, value: Any, progress: float) -> None:
        """Take in what came of one step."""
        found = self._fold(self._answers.get(self._key), value)
        self.progress = progress
        if found is not None:
            self._answers[self._key] = found
            self._answers.move_to_end(self._key)
            while len(self._answers) > _KEPT:
                self._answers.popitem(last=False)
        self.changed.emit()

    def end(self, stage: str, problem: str) -> None:
        """Take in that it has ended."""
        if problem:
            self._answers.pop(self._key, None)
            self._problems[self._key] = problem
            while len(self._problems) > _KEPT:
                self._problems.popitem(last=False)
        self._rest()

    def _rest(self) -> None:
        self._number, self.note = 0, ""
        self.changed.emit()


class Questions(QObject):
    """All questions of one window. `changed` tells that one starts, gets on, or ends."""

    changed = pyqtSignal()

    def __init__(self, runner: Runner, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._runner = runner
        self._running: dict[int, Question[Any]] = {}

    @property
    def running(self) -> tuple[Question[Any], ...]:
        """What is being worked on, the one asked first in front."""
        return tuple(self._running.values())

    def start(self, question: Question[Any], asked: Asked) -> None:
        """Send a question; an earlier one of its kind is replaced."""
        self._running = {number: one for number, one in self._running.items() if one is not question}
        number = 0

        def step(value: Any, progress: float) -> None:
            if self._running.get(number) is question:
                question.step(value, progress)
                self.changed.emit()

        def end(stage: str, problem: str) -> None:
            if self._running.pop(number, None) is question:
                question.end(stage, problem)
                self.changed.emit()

        kind = f"{question.words}:{id(question)}"
        number = self._runner.ask(Lane.QUESTION, asked.errand, *asked.arguments, step=step, end=end, kind=kind)
        self._running[number] = question
        question.began(number, asked.key)
        self.changed.emit()

    def cancel(self, number: int) -> None:
        """Call one off."""
        self._running.pop(number, None)
        self._runner.cancel(number)
        self.changed.emit()

    def cancel_all(self) -> None:
        """Call all of them off."""
        for question in self.running:
            question.cancel()
