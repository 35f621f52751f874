"""Printing the sheet of the procedure."""

from __future__ import annotations

from typing import Literal

from ashen_bridge.desktop.parts.printed import Printed
from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked
from ashen_bridge.desktop.steps.desk import StepsDesk
from ashen_bridge.report import errands


class Printing(Printed):
    """One button with both papers."""

    def __init__(self, desk: StepsDesk, room: Room) -> None:
        self._desk = desk
        super().__init__(room, desk.session.questions, "Print sheet…", "The sheet")

    def asked(self, size: Literal["A4", "Letter"]) -> Asked | None:
        """Return the errand that prints."""
        procedure, project = self._desk.procedure, self._desk.session.project
        if procedure is None:
            return None
        key = key_of(project.device, project.tray, procedure, self._desk.session.view.build, size)
        return Asked(key, errands.sheet, (project, procedure, size))

    @property
    def name(self) -> str:
        """What the file is called where nobody says otherwise."""
        procedure = self._desk.procedure
        return procedure.id if procedure is not None else "sheet"
