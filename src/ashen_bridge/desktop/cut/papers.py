"""Printing the cut sheet: asked where to, made by the worker, written at once when it is there."""

from __future__ import annotations

from typing import Literal

from ashen_bridge.desktop.cut.desk import SAID, CutDesk
from ashen_bridge.desktop.parts.printed import Printed
from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked
from ashen_bridge.report import errands


class Papers(Printed):
    """One button with both papers."""

    def __init__(self, desk: CutDesk, room: Room) -> None:
        self._desk = desk
        super().__init__(room, desk.session.questions, "Print…", "The cut sheet")

    def asked(self, size: Literal["A4", "Letter"]) -> Asked | None:
        """Return the errand that prints."""
        session = self._desk.session
        if self._desk.found is None:
            return None
        key = key_of(session.keys.project(session.computed, *SAID), session.view.build, size)
        return Asked(key, errands.cut_sheet, (session.computed, session.view.build, size))

    @property
    def name(self) -> str:
        """What the file is called where nobody says otherwise."""
        return f"cut-{self._desk.session.view.build}"
