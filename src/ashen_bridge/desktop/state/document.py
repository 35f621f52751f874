"""The document: one immutable project, changed only through edits, with undo, and the file it belongs to."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QUndoCommand, QUndoStack

from ashen_bridge.changes.edit import Edit
from ashen_bridge.editing.history import Done, done_between, noted
from ashen_bridge.files.archive import save_project
from ashen_bridge.files.errors import FileError
from ashen_bridge.files.recovery import RecoveryCopy
from ashen_bridge.files.stamp import Stamp, is_read_only
from ashen_bridge.files.who import who
from ashen_bridge.model.history import Note
from ashen_bridge.model.project import Project

UNDO_STEPS = 1000
"""How many steps are kept; each takes what it changed, some 10 kB for a device of 30 parts."""


class _Command(QUndoCommand):
    """One edit on the undo stack: the projects before and after, which share all their unchanged parts."""

    def __init__(self, document: Document, edit: Edit, before: Project, after: Project) -> None:
        super().__init__(edit.name)
        self._document, self._before, self._after, self._key = document, before, after, edit.merge_key
        self._done: tuple[Done, ...] | None = None

    def done(self, forth: bool = True) -> tuple[Done, ...]:
        """Return what the edit did, or what taking it back did, in words."""
        if forth:
            if self._done is None:
                self._done = done_between(self._before, self._after, self.text())
            return self._done
        return (("undone", f"Taken back: {self.text()}"[:200], 1),)

    def id(self) -> int:
        """Return a number that is equal for edits that may merge."""
        return hash(self._key) & 0x3FFFFFFF if self._key else -1

    def mergeWith(self, other: QUndoCommand | None) -> bool:
        """Take a following edit of the same thing into this one."""
        if not isinstance(other, _Command) or other._key != self._key:
            return False
        self._after, self._done = other._after, None
        self.setText(other.text())
        return True

    def redo(self) -> None:
        """Put the changed project in place."""
        self._document._show(self._after)

    def undo(self) -> None:
        """Put the earlier project back."""
        self._document._show(self._before)


class Document(QObject):
    """An open project. `changed` is emitted with every new project, `renamed` when file name or clean state change.

    `recovered` work counts as unsaved from the start. `news`: what means something else than in the older format it was in.
    `shipped` documents are the program's own, and so are the predictions stored in them.
    """

    changed = pyqtSignal()
    renamed = pyqtSignal()
    forgot = pyqtSignal(int)
    """The oldest steps can no more be undone; how many are kept. Told once."""

    def __init__(
        self,
        project: Project,
        path: Path | None = None,
        title: str = "",
        *,
        news: tuple[str, ...] = (),
        recovered: bool = False,
        shipped: bool = False,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self.news = news
        self.shipped = shipped
        self.project = self._noted = project
        self.path = path
        self._title = title
        self.stamp = Stamp.of(path) if path else Stamp()
        self._recovery = RecoveryCopy()
        self.undo_stack = QUndoStack(self)
        self.undo_stack.setUndoLimit(UNDO_STEPS)
        self._forgetful = False
        # Signal to signal: a Python function would still be called while the stack is being taken apart.
        self.undo_stack.cleanChanged.connect(self.renamed)
        if recovered:
            self.undo_stack.resetClean()

    @property
    def title(self) -> str:
        """What to call the document."""
        return self.path.name if self.path else self._title or "Untitled"

    @property
    def modified(self) -> bool:
        """Whether there is unsaved work."""
        return not self.undo_stack.isClean()

    @property
    def read_only(self) -> bool:
        """Whether the file cannot be written where it is."""
        return self.path is not None and is_read_only(self.path)

    @property
    def changed_on_disk(self) -> bool:
        """Whether something else has changed or removed the file since it was read or saved here."""
        return self.path is not None and not self.stamp.holds(self.path)

    def apply(self, edit: Edit) -> None:
        """Apply an edit. Raises `AshenError`, with nothing changed, if the project refuses it."""
        after = edit.applied(self.project)
        if after is not self.project:
            full = self.undo_stack.index() == self.undo_stack.undoLimit()
            self.undo_stack.push(_Command(self, edit, self.project, after))
            if full and not self._forgetful:
                self._forgetful = True
                self.forgot.emit(self.undo_stack.undoLimit())

    def save(self, path: Path, extras: dict[str, bytes]) -> tuple[str, ...]:
        """Save to `path`, which becomes the document's file; returns what could not be saved with it. Raises `FileError`."""
        kept = _with(self.project, self.history())
        missing = save_project(path, kept, extras)
        self.project = self._noted = kept
        self.path = path
        self.stamp = Stamp.of(path)
        self.undo_stack.setClean()
        self._recovery.remove()
        self.renamed.emit()
        return missing

    def keep_recovery_copy(self) -> str:
        """Bring the recovery copy up to date: written while there is unsaved work, else taken away.

        Returns a sentence if it cannot be kept, else nothing.
        """
        if not self.modified:
            self._recovery.remove()
            return ""
        try:
            self._recovery.write(_with(self.project, self.history()), self.title, self.path)
        except FileError as error:
            return str(error)
        return ""

    def abandon(self) -> None:
        """Take the recovery copy away: the document goes, saved or not wanted."""
        self._recovery.remove()

    def history(self) -> tuple[Note, ...]:
        """Return the file's history with what was done since it was last saved."""
        return noted(self._noted.history, self._since_saved(), who(), datetime.now())

    def _since_saved(self) -> tuple[Done, ...]:
        stack = self.undo_stack
        clean, here = stack.cleanIndex(), stack.index()
        commands = [stack.command(n) for n in range(min(clean, here), max(clean, here))] if clean >= 0 else []
        if clean < 0 or not all(isinstance(one, _Command) for one in commands):
            return done_between(self._noted, self.project, "Several changes")
        found = [one.done(here > clean) for one in commands if isinstance(one, _Command)]
        return tuple(done for some in (found if here > clean else reversed(found)) for done in some)

    def _show(self, project: Project) -> None:
        # What was done is not taken back with what it did.
        self.project = _with(project, self._noted.history)
        self.changed.emit()


def _with(project: Project, history: tuple[Note, ...]) -> Project:
    """Return a project with a history; notes were validated when they were made."""
    return project if project.history is history else project.model_copy(update={"history": history})
