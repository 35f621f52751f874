"""The papers that stay: the record of everything, and the bench card for the wall."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal

from ashen_bridge.desktop.parts.printed import Printed
from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked
from ashen_bridge.model.project import Project
from ashen_bridge.report import errands


class Paper(Printed):
    """A paper of the build at the operating point that is looked at."""

    def __init__(self, room: Room, words: str, what: str, errand: Callable[..., Any], name: str) -> None:
        self._session, self._errand, self._name = room.session, errand, name
        super().__init__(room, room.session.questions, words, what)

    def asked(self, size: Literal["A4", "Letter"]) -> Asked | None:
        """Return the errand that prints; None where there is nothing to be computed."""
        session = self._session
        if not session.project.builds or not session.project.points or session.scene() is None:
            return None
        at = session.view.build, session.view.point
        # All that the file holds is printed, so all of it counts.
        key = key_of(session.keys.project(session.computed, *Project.model_fields), *at, size)
        return Asked(key, self._errand, (self._project(), *at, size, *self._further()))

    def _project(self) -> Project:
        return self._session.computed

    def _further(self) -> tuple[Any, ...]:
        return ()

    @property
    def name(self) -> str:
        """What the file is called where nobody says otherwise."""
        return self._name


class Record(Paper):
    """The record of everything, with what was done since the file was saved, and figures of runs as they are known here."""

    def _project(self) -> Project:
        return self._session.computed.model_copy(update={"history": self._session.document.history()})

    def _further(self) -> tuple[Any, ...]:
        session = self._session
        found = (session.runs.figures(run, session.project.device) for run in session.project.runs)
        return (tuple(one for one in found if one is not None),)


def papers(room: Room) -> tuple[Paper, Paper]:
    """Return the buttons of both papers."""
    return (
        Record(room, "Print the record…", "The record", errands.record, "record"),
        Paper(room, "Bench card…", "The bench card", errands.card, "bench-card"),
    )
