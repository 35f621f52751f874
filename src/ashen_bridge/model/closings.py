"""When things were done to the device: each time that the stack was closed."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import AfterValidator, Field, StringConstraints

from ashen_bridge.model.base import Frozen, Id, Name


def _moment(text: str) -> str:
    if text:
        try:
            if "T" in text or len(text) == 10:
                datetime.fromisoformat(text)
                return text
        except ValueError:
            pass
        raise ValueError(f"'{text}' is no day: write it as 2031-03-14, with a time of day as 2031-03-14T08:30")
    return text


Moment = Annotated[str, StringConstraints(max_length=40), AfterValidator(_moment)]
"""A day, perhaps with the time of day, as ISO 8601 writes it; empty where it is not known. Moments compare as text."""


class Closing(Frozen):
    """One time that the stack was closed: the builds and runs it covers, and the joints that were opened before it.

    A run belongs to the closing that names it, else to the last one that names its build. Where `opened` is None nobody said
    what was opened. It is history: what it names may be gone by now, and is passed over then.
    """

    id: Id
    name: Name = ""
    taken: Moment = ""
    builds: tuple[Id, ...] = Field(default=(), max_length=200)
    runs: tuple[Id, ...] = Field(default=(), max_length=1000)
    opened: tuple[Id, ...] | None = Field(default=None, max_length=1000)

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.name or self.id
