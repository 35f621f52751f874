"""Printing the sheet of the procedure: asked where to, made by the worker, written at once when it is there."""

from __future__ import annotations

from pathlib import Path
from typing import Literal

from PyQt6.QtWidgets import QMenu, QPushButton

from ashen_bridge.desktop.openup.desk import OpenDesk
from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.files.atomic import write_atomically
from ashen_bridge.model.errors import AshenError
from ashen_bridge.report import errands


class Printing:
    """One button with both papers."""

    def __init__(self, desk: OpenDesk, room: Room) -> None:
        self._desk, self._room = desk, room
        self._size: Literal["A4", "Letter"] = "A4"
        self._to: Path | None = None
        self.question: Question[bytes] = Question(desk.session.questions, "Printing a sheet", self._now)
        self.question.changed.connect(self._came)
        self.button = QPushButton("Print sheet…")
        self.button.setProperty("popup", True)
        menu = QMenu(self.button)
        for size in ("A4", "Letter"):
            action = menu.addAction(f"{size}, as PDF…")
            assert action is not None  # just made
            action.triggered.connect(lambda _, size=size: self.ask(size))
        self.button.setMenu(menu)

    def _now(self) -> Asked | None:
        procedure, project = self._desk.procedure, self._desk.session.project
        if procedure is None:
            return None
        key = key_of(project.device, project.tray, procedure, self._desk.session.view.build, self._size)
        return Asked(key, errands.sheet, (project, procedure, self._size))

    def ask(self, size: Literal["A4", "Letter"]) -> None:
        """Ask where to, and print."""
        procedure = self._desk.procedure
        if procedure is None:
            return
        name = self._room.asker.save_file(
            "Print the sheet", f"{self._room.folder()}/{procedure.id}.pdf", "Portable document (*.pdf)"
        )
        if name:
            self.print_to(Path(name), size)

    def print_to(self, path: Path, size: Literal["A4", "Letter"]) -> None:
        """Print the sheet into a file."""
        self._size, self._to = size, path
        self.question.ask()
        self._came()

    def refresh(self) -> None:
        """Show how it stands."""
        self.button.setEnabled(self._desk.procedure is not None and not self.question.running)
        self.button.setText("Printing…" if self.question.running else "Print sheet…")

    def _came(self) -> None:
        self.refresh()
        to, content = self._to, self.question.value
        if to is None or self.question.running:
            return
        if self.question.problem:
            self._to = None
            self._room.notice.say(self.question.problem)
        elif content is not None:
            self._to = None
            try:
                write_atomically(to, content)
            except AshenError as error:
                self._room.notice.say(str(error))
            else:
                self._room.notice.say(f"The sheet is in {to.name}.")
