"""How the questions stand: what was answered, what cannot be, and what each page says of its answers."""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from typing import Any

from pydantic import ValidationError

from ashen_bridge.guided.answers import Answers
from ashen_bridge.guided.check import AnswerError, check, problems
from ashen_bridge.guided.questions import Ask, Page, has_memory, options, pages
from ashen_bridge.guided.usual import value_of
from ashen_bridge.words.numbers import short

_READ = {"ambient": "room_c", "core": "core_c", "hot": "hot_c", "memory": "memory_c", "power": "watts", "fan": "fan_percent"}
"""What a log calls what is asked."""

_LINE = 64


@dataclass(frozen=True)
class Interview:
    """All answers so far. Whatever contradicts something else is kept, said, and stands in the way of the result only."""

    answers: Answers = field(default_factory=Answers)

    @property
    def pages(self) -> tuple[Page, ...]:
        """The pages that this device needs."""
        return pages(self.answers)

    @property
    def wrong(self) -> AnswerError | None:
        """The first thing that cannot be."""
        return next(problems(self.answers), None)

    @property
    def begun(self) -> bool:
        """Whether anything was answered."""
        return self.answers != Answers()

    def answered(self, name: str, value: Any) -> Interview:
        """Return the interview with an answer, None for one that is left open. Raises `AnswerError` where it is out of range."""
        given = {**self.answers.model_dump(), name: value}
        try:
            return Interview(Answers.model_validate(given))
        except ValidationError:
            check(given)  # which says so in words
            raise

    def finished(self) -> Answers:
        """Return the answers. Raises `AnswerError` where something cannot be."""
        return check(self.answers.model_dump())

    def page_of(self, name: str) -> int:
        """Return which page asks for something; the first where none does."""
        return next((n for n, page in enumerate(self.pages) if any(ask.field == name for ask in page.asked(self.answers))), 0)

    def read(self, readings: dict[str, float]) -> tuple[Interview, tuple[str, ...]]:
        """Return the interview with what a log showed filled in, and the words of what was."""
        found, told = self, []
        for name, asked in _READ.items():
            if name in readings and (asked != "memory_c" or has_memory(self.answers)):
                try:
                    found = found.answered(asked, round(readings[name], 1))
                    told.append(asked)
                except AnswerError:
                    continue
        return found, tuple(told)

    def said(self, page: Page) -> str:
        """Return the answers of a page in a line: those given, else what is usual, in brackets."""
        words = [said for ask in page.asked(self.answers) if (said := self._said(ask))]
        return shortened(", ".join(words)) or "left open"

    def _said(self, ask: Ask) -> str:
        value = getattr(self.answers, ask.field)
        if value is None or value == "":
            return ""
        if ask.how == "counts":
            return " · ".join(str(one) for one in value)
        known = {str(option): words for words, option in options(ask, self.answers)}
        words = known.get(str(value), "") if ask.how in ("choice", "cards") else ""
        words = words or (short(value) if isinstance(value, int | float) else str(value))
        return f"{words} {ask.unit}".strip() if ask.how == "number" else words

    # ---- kept over a visit

    def kept(self) -> str:
        """Return it as text to be kept."""
        return json.dumps(self.answers.model_dump(mode="json", exclude_none=True))

    @staticmethod
    def of(text: str) -> Interview:
        """Return what was kept; nothing answered where it cannot be read."""
        try:
            return Interview(Answers.model_validate(json.loads(text)))
        except (ValueError, TypeError):
            return Interview()


def shortened(text: str) -> str:
    """Return a text of some sixty signs at most.

    >>> shortened("Marsh harrier " * 9)
    'Marsh harrier Marsh harrier Marsh harrier Marsh harrier Marsh h…'
    """
    return text if len(text) <= _LINE else f"{text[: _LINE - 1].rstrip()}…"


def present(answers: Answers, ask: Ask) -> Any:
    """Return what a control shows: the answer, else what is usual."""
    return value_of(answers, ask.field) if ask.how in ("counts", "count") else getattr(answers, ask.field)
