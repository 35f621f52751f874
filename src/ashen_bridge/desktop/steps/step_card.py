"""The present step, large: what to do, what to mind, how long to wait, and one key to go on."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication, QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ashen_bridge.changes import procedures as changes
from ashen_bridge.changes.edit import edit
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.asking import Asker
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.text_fields import StoryField
from ashen_bridge.desktop.steps.desk import StepsDesk
from ashen_bridge.desktop.steps.photos import PATTERN, is_there, photo
from ashen_bridge.editing import procedures as edits
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.procedures import ProcedureStep


class StepCard(QFrame):
    """One step. Nothing on it changes the device."""

    def __init__(self, desk: StepsDesk, theme: Theme, asker: Asker, folder: Callable[[], str]) -> None:
        super().__init__()
        self.setObjectName("card")
        self.desk, self.theme, self._asker, self._folder = desk, theme, asker, folder
        self._left_s, self._timed = 0.0, ""
        self.place = Words()
        self.place.setObjectName("quiet")
        self.text = Words()
        self.text.setObjectName("question")
        self.text.setWordWrap(True)
        self.caution = Words()
        self.caution.setObjectName("caution")
        self.caution.setWordWrap(True)
        self.wrong = Words()
        self.wrong.setObjectName("wrong")
        self.wrong.setWordWrap(True)
        self.done = QPushButton()
        self.done.setObjectName("go")
        self.done.setToolTip("Ctrl+Enter")
        self.done.clicked.connect(self.go_on)
        self.back = QPushButton("Not done after all")
        self.back.clicked.connect(self.untick)
        self.wait = QPushButton()
        self.wait.clicked.connect(self._start_timer)
        self.note = StoryField("Note at this step", self._noted, lines=2)
        self.note.setPlaceholderText("Note at this step")
        self.photo = QPushButton("Photo…")
        self.photo.setToolTip("Keep a photo with this step")
        self.photo.clicked.connect(self._ask_photo)
        self.photos = Words()
        self.photos.setObjectName("quiet")
        self._clock = QTimer(self)
        self._clock.setInterval(1000)
        self._clock.timeout.connect(self._second)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 16, 12)
        column.setSpacing(8)
        column.addWidget(self.place)
        column.addWidget(self.text)
        column.addWidget(self.caution)
        column.addStretch(1)
        column.addWidget(self.wrong)
        row = QHBoxLayout()
        row.addWidget(self.done, 1)
        row.addWidget(self.wait)
        row.addWidget(self.back)
        column.addLayout(row)
        beside = QHBoxLayout()
        beside.addWidget(self.note, 1)
        kept = QVBoxLayout()
        kept.addWidget(self.photo)
        kept.addWidget(self.photos)
        kept.addStretch(1)
        beside.addLayout(kept)
        column.addLayout(beside)
        self._below: tuple[QWidget, ...] = (self.note, self.photo, self.photos)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = theme
        self.refresh()

    def refresh(self) -> None:
        """Take over the step that is looked at."""
        step, procedure, begun = self.desk.step, self.desk.procedure, self.desk.begun
        if step is None or procedure is None:
            self.place.setText("")
            self.text.setText(self.desk.nothing)
            self._say_caution("")
            for widget in (self.done, self.back, self.wait, *self._below):
                widget.setVisible(False)
            return
        n, count = procedure.steps.index(step) + 1, len(procedure.steps)
        ticked = sum(one.done for one in procedure.steps)
        hold = "Hold point. " if step.kind == "hold" else ""
        at = f", ticked {step.done_at.replace('T', ' ')}" if step.done and step.done_at else ""
        self.place.setText(f"{hold}Step {n} of {count}{at}" + (f" · {ticked} done" if begun else ""))
        self.text.setText(step.text)
        self._say_caution(step.caution)
        shut = begun is None and count == 1 and step.hold == "licensed"
        self.done.setVisible(not step.done and not shut)
        self.done.setText("Begin" if begun is None else "Confirm" if step.kind == "hold" else "Done")
        self.back.setVisible(step.done)
        self.wait.setVisible(begun is not None and step.timer_s > 0 and not step.done)
        if self._timed != step.id:
            self._clock.stop()
            self._timed, self._left_s = step.id, step.timer_s
        self._show_timer()
        for widget in self._below:
            widget.setVisible(begun is not None)
        self.note.show_words(step.note)
        names = {one.id: one.name or one.id for one in self.desk.session.project.images}
        gone = [name for name in step.images if not is_there(self.desk.session.project, name)]
        shown = ", ".join(names.get(name, name) for name in step.images)
        self.photos.setText(shown + (f" ({len(gone)} gone from this machine)" if gone else ""))

    def _say_caution(self, words: str) -> None:
        self.caution.setVisible(bool(words))
        self.caution.setText(words)

    # ---- going on

    def go_on(self) -> None:
        """Begin, or tick the step that is looked at and look at the next."""
        session, begun, step = self.desk.session, self.desk.begun, self.desk.step
        if begun is None:
            procedure = self.desk.procedure
            if procedure is not None and not (len(procedure.steps) == 1 and procedure.steps[0].hold == "licensed"):
                self._tell(session.attempt(edits.add_procedure(procedure)))
            return
        if step is None or step.done:
            return
        try:
            made = edits.tick(session.project, begun.id, step.id, _now())
        except (AshenError, ValueError) as error:
            self._tell(str(error))
            return
        self._tell(session.attempt(made))
        after = self.desk.begun.next if self.desk.begun is not None else None
        if not self.wrong.text() and after is not None:
            self.desk.choose_step(after)

    def untick(self) -> None:
        """Take the tick of the step that is looked at back."""
        session, begun, step = self.desk.session, self.desk.begun, self.desk.step
        if begun is not None and step is not None and step.done:
            self._tell(session.attempt(edits.untick(session.project, begun.id, step.id)))

    def _tell(self, problem: str) -> None:
        self.wrong.setText(problem)
        self.wrong.setVisible(bool(problem))

    # ---- timer, note, photo

    def _start_timer(self) -> None:
        step = self.desk.step
        if step is None:
            return
        if self._clock.isActive():
            self._clock.stop()
        else:
            self._left_s = self._left_s or step.timer_s
            self._clock.start()
        self._show_timer()

    def _second(self) -> None:
        self._left_s = max(self._left_s - 1, 0.0)
        if not self._left_s:
            self._clock.stop()
            QApplication.beep()
        self._show_timer()

    def _show_timer(self) -> None:
        minutes, seconds = divmod(round(self._left_s), 60)
        left = f"{minutes}:{seconds:02d}"
        self.wait.setText(f"{left}: stop" if self._clock.isActive() else f"Wait {left}" if self._left_s else "Time is up")

    def _noted(self, text: str) -> None:
        begun, step = self.desk.begun, self.desk.step
        if begun is not None and step is not None and text != step.note:
            self._tell(self.desk.session.attempt(edits.note(begun.id, step.id, text)))

    def _ask_photo(self) -> None:
        name = self._asker.open_file("A photo for this step", self._folder(), PATTERN)
        step = self.desk.step
        if name and step is not None:
            self.keep_photo(Path(name), step)

    def keep_photo(self, path: Path, step: ProcedureStep) -> None:
        """Keep a photo with a step; what is none is said in words."""
        begun, session = self.desk.begun, self.desk.session
        if begun is None:
            return
        try:
            image = photo(session.project, path)
        except AshenError as error:
            self._tell(str(error))
            return
        self._tell(session.attempt(edit(f"Photo “{path.name}”", changes.show_image, begun.id, step.id, image)))


def _now() -> str:
    return datetime.now().isoformat(timespec="minutes")
