"""A button that prints a paper: asked where to, made by the worker, written at once when it is there."""

from __future__ import annotations

from pathlib import Path
from typing import Literal

from PyQt6.QtWidgets import QMenu, QPushButton

from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.desktop.state.question import Asked, Question, Questions
from ashen_bridge.files.atomic import write_atomically
from ashen_bridge.model.errors import AshenError

Size = Literal["A4", "Letter"]


class Printed:
    """One button with both papers. A kind of paper says what is asked of the worker, and what its file is called."""

    def __init__(self, room: Room, questions: Questions, words: str, what: str) -> None:
        self._room, self._words, self._what = room, words, what
        self._size: Size = "A4"
        self._to: Path | None = None
        self.question: Question[bytes] = Question(
            questions, f"Printing {what[:1].lower()}{what[1:]}", lambda: self.asked(self._size)
        )
        self.question.changed.connect(self._came)
        self.button = QPushButton(words)
        self.button.setProperty("popup", True)
        menu = QMenu(self.button)
        sizes: tuple[Size, ...] = ("A4", "Letter")
        for size in sizes:
            action = menu.addAction(f"{size}, as PDF…")
            assert action is not None  # just made
            action.triggered.connect(lambda _, size=size: self.ask(size))
        self.button.setMenu(menu)

    def asked(self, size: Size) -> Asked | None:
        """Return the errand that prints, None where there is nothing to print."""
        raise NotImplementedError

    @property
    def name(self) -> str:
        """What the file is called where nobody says otherwise."""
        raise NotImplementedError

    def ask(self, size: Size) -> None:
        """Ask where to, and print."""
        if self.asked(size) is None:
            return
        name = self._room.asker.save_file(self._what, f"{self._room.folder()}/{self.name}.pdf", "Portable document (*.pdf)")
        if name:
            self.print_to(Path(name), size)

    def print_to(self, path: Path, size: Size) -> None:
        """Print into a file."""
        self._size, self._to = size, path
        self.question.ask()
        self._came()

    def refresh(self) -> None:
        """Show how it stands."""
        self.button.setEnabled(self.asked(self._size) is not None and not self.question.running)
        self.button.setText("Printing…" if self.question.running else self._words)

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
                self._room.notice.say(f"{self._what} is in {to.name}.")
