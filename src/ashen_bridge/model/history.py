"""What was done to a file by whom and when, and what was concluded: both are history, and name things that may be gone by now."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ashen_bridge.model.base import Frozen, Id, Name, Text
from ashen_bridge.model.closings import Moment

MOST_NOTES = 2000
"""How many notes a file keeps; where there would be more, the oldest become one a day."""

NoteKind = Literal["device", "build", "run", "reading", "evidence", "step", "fit", "conclusion", "edit", "undone"]
Concluded = Literal["plan", "comparison", "diagnosis", "burn in", "proof", "check"]


class Note(Frozen):
    """One thing that was done: when last (local time), by whom as far as they gave a name, and how often that day."""

    at: Moment
    who: Name = ""
    kind: NoteKind = "edit"
    what: Name
    times: Annotated[int, Field(ge=1, le=1_000_000)] = 1

    @property
    def day(self) -> str:
        """The day of it, as 2031-03-14."""
        return self.at[:10]


class Conclusion(Frozen):
    """An answer that was kept as it was given: its headline, what it says, and a table where it has one.

    The model goes on and would answer otherwise later; a record says what was known on the day.
    """

    id: Id
    kind: Concluded
    title: Text
    at: Moment = ""
    who: Name = ""
    about: Name = ""
    says: tuple[Text, ...] = Field(default=(), max_length=200)
    head: tuple[Name, ...] = Field(default=(), max_length=20)
    rows: tuple[tuple[Text, ...], ...] = Field(default=(), max_length=500)

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.title
