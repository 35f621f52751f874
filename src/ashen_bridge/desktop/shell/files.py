"""One window's dealings with files: opening, saving, what others change on disk, recovery copies, unsaved work."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QFileSystemWatcher, QObject, QTimer, pyqtSignal

from ashen_bridge.desktop.look.preferences import Preferences
from ashen_bridge.desktop.parts.asking import Asker
from ashen_bridge.desktop.parts.notice import Notice
from ashen_bridge.desktop.state.document import Document
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.files import recent
from ashen_bridge.files.archive import Opened
from ashen_bridge.files.demos import PREFIX, open_anything
from ashen_bridge.files.stamp import Stamp
from ashen_bridge.geometry.checks import assembly_problems
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve

FILTER = "Ashen Bridge project (*.ashb *.json)"
_CHECK_MS = 120  # others may write in several steps
SAVE, DISCARD, CANCEL, OPEN, OVERWRITE, ELSEWHERE = "Save", "Do not save", "Cancel", "Open it", "Overwrite", "Save elsewhere…"


def document_of(where: str, opened: Opened) -> Document:
    """Return the document of what was opened; a demo belongs to no file."""
    if where.startswith(PREFIX):
        return Document(opened.project, title=f"{opened.project.name or where} (demo)", news=opened.news, shipped=True)
    return Document(opened.project, Path(where) if where else None, news=opened.news)


class FileDesk(QObject):
    """Files of one window. `renamed` follows every change of name, clean state or document."""

    renamed = pyqtSignal()

    def __init__(self, session: Session, notice: Notice, asker: Asker, kept: Preferences, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.session, self.notice, self.asker, self.kept = session, notice, asker, kept
        self._told_no_recovery = False
        self._watcher = QFileSystemWatcher(self)
        self._watcher.fileChanged.connect(lambda _: self._check.start())
        self._watcher.directoryChanged.connect(lambda _: self._check.start())
        self._check = QTimer(self)
        self._check.setSingleShot(True)
        self._check.setInterval(_CHECK_MS)
        self._check.timeout.connect(self.look_at_disk)
        # After the edit itself, in the same turn of the event loop.
        self._keep = QTimer(self)
        self._keep.setSingleShot(True)
        self._keep.setInterval(0)
        self._keep.timeout.connect(self._keep_copy)
        self._follow()

    @property
    def document(self) -> Document:
        """The open document."""
        return self.session.document

    # ---- documents come and go

    def _follow(self) -> None:
        document = self.document
        document.renamed.connect(self.renamed)
        document.forgot.connect(self._forgot)
        document.changed.connect(self._keep.start)
        document.renamed.connect(self._keep.start)
        if document.modified:
            self._keep.start()
        self._watch()
        if document.path is not None:
            recent.remember(document.path)
            self.kept.folder = str(document.path.absolute().parent)
            self._look_where_it_was_left(document.path)
        if document.news:
            self.notice.ask(" ".join(document.news), [("Understood", lambda: None)])
        elif document.read_only:
            self.notice.say("This file is read-only: changes can be saved under another name.")

    def _look_where_it_was_left(self, path: Path) -> None:
        """Show the build and operating point that were looked at last, if they are still there."""
        build, point = self.kept.left_at(path)
        project, view = self.session.project, self.session.view
        builds, points = {one.id for one in project.builds}, {one.id for one in project.points}
        self.session.look(
            replace(view, build=build if build in builds else view.build, point=point if point in points else view.point)
        )

    def leave(self) -> None:
        """Let go of the document; its recovery copy is not needed any more."""
        if self.document.path is not None:
            self.kept.leave_at(self.document.path, self.session.view.build, self.session.view.point)
        self.document.forgot.disconnect(self._forgot)
        for signal, slot in (
            (self.document.renamed, self.renamed),
            (self.document.changed, self._keep.start),
            (self.document.renamed, self._keep.start),
        ):
            signal.disconnect(slot)
        self._keep.stop()
        self.document.abandon()

    def _forgot(self, steps: int) -> None:
        self.notice.say(f"The last {steps} steps can be undone; older ones were let go to save memory.")

    def replace(self, document: Document, extras: dict[str, bytes] | None = None) -> None:
        """Show another document in this window."""
        self.leave()
        self.session.replace_document(document, extras or {})
        self._follow()
        self.renamed.emit()

    def _keep_copy(self) -> None:
        problem = self.document.keep_recovery_copy()
        if problem and not self._told_no_recovery:
            self._told_no_recovery = True
            self.notice.say(problem)

    # ---- opening

    def open_dialog(self) -> str:
        """Ask for a file; returns its name, empty if none was chosen."""
        return self.asker.open_file("Open a project", str(self.folder()), FILTER)

    def read(self, where: str) -> Opened | None:
        """Return the content of a file or demo, None if it cannot be or shall not be opened; why is said."""
        try:
            opened = open_anything(where)
            problem = next(assembly_problems(resolve(opened.project)), None) if opened.project.builds else None
        except AshenError as error:
            self.asker.tell("This file cannot be opened", str(error))
            return None
        question = f"{problem}\n\nOpen it to put it right?"
        if (
            problem is not None
            and self.asker.choose("This file opens, but cannot be computed", question, (OPEN, CANCEL), CANCEL, CANCEL) != OPEN
        ):
            return None
        return opened

    def open_path(self, where: str) -> bool:
        """Open a file or demo in this window; if it cannot be, the open project stays as it is."""
        opened = self.read(where)
        if opened is None or not self.may_leave():
            return False
        self.replace(document_of(where, opened), opened.extras)
        return True

    def new(self, project: Project, title: str) -> bool:
        """Start a new document in this window."""
        if not self.may_leave():
            return False
        self.replace(Document(project, title=title))
        return True

    # ---- saving

    def save(self) -> bool:
        """Save to the document's file; asks for a name if it has none or may not be written."""
        path = self.document.path
        if path is None:
            return self.save_as()
        if self.document.read_only:
            self.notice.say(f"“{path.name}” is read-only, so it needs another name.")
            return self.save_as()
        if self.document.changed_on_disk and path.exists():
            text = f"“{path.name}” was changed by something else since it was opened here. Overwrite those changes?"
            answer = self.asker.choose("Changed on disk", text, (OVERWRITE, ELSEWHERE, CANCEL), ELSEWHERE, CANCEL)
            if answer != OVERWRITE:
                return answer == ELSEWHERE and self.save_as()
        return self.save_to(path)

    def save_as(self) -> bool:
        """Ask for a name and save there."""
        path = self.document.path
        start = self.folder() / (path.name if path else "project.ashb")
        name = self.asker.save_file("Save the project as", str(start), FILTER)
        if not name:
            return False
        chosen = Path(name)
        return self.save_to(chosen if chosen.suffix in (".ashb", ".json") else chosen.with_name(chosen.name + ".ashb"))

    def save_to(self, path: Path) -> bool:
        """Save under a name."""
        try:
            missing = self.document.save(path, self.session.extras_to_save())
        except AshenError as error:
            self.asker.tell("Not saved", str(error))
            return False
        self._watch()
        recent.remember(path)
        self.kept.folder = str(path.absolute().parent)
        if missing:
            self.notice.say(f"Saved, but without what is not on this computer any more: {', '.join(missing)}.")
        return True

    def may_leave(self) -> bool:
        """Ask about unsaved work; returns whether the document may be left."""
        if not self.document.modified:
            return True
        text = f"“{self.document.title}” has unsaved changes. Save them first?"
        answer = self.asker.choose("Unsaved work", text, (SAVE, DISCARD, CANCEL), SAVE, CANCEL)
        return self.save() if answer == SAVE else answer == DISCARD

    # ---- what others do

    def _watch(self) -> None:
        watched = self._watcher.files() + self._watcher.directories()
        if watched:
            self._watcher.removePaths(watched)
        path = self.document.path
        if path is not None and path.exists():
            # The folder too: most programs replace a file rather than write into it.
            self._watcher.addPaths([str(path), str(path.absolute().parent)])

    def look_at_disk(self) -> None:
        """Say so if the file was changed by something else, and let the user choose."""
        document = self.document
        if document.path is None or not document.changed_on_disk:
            return
        name = document.path.name
        if not document.path.exists():
            document.stamp = Stamp()
            self.notice.say(f"“{name}” is gone from its folder; saving puts it back.")
            return
        unsaved = " Your unsaved changes would be lost." if document.modified else ""
        self.notice.ask(
            f"“{name}” was changed by something else.{unsaved}", [("Load it", self.reload), ("Keep mine", self.keep_mine)]
        )
        self._watch()

    def keep_mine(self) -> None:
        """Go on with what is open; the next save asks before it overwrites."""
        document = self.document
        if not document.modified:
            document.undo_stack.resetClean()

    def reload(self) -> bool:
        """Load the file again, dropping what is open."""
        path = self.document.path
        if path is None or not path.exists():
            self.notice.say("There is no file to load again.")
            return False
        try:
            opened = open_anything(str(path))
        except AshenError as error:
            self.asker.tell("This file cannot be loaded again", str(error))
            return False
        self.replace(Document(opened.project, path, news=opened.news), opened.extras)
        return True

    def folder(self) -> Path:
        """Return the folder to start looking in."""
        if self.document.path is not None:
            return self.document.path.parent
        last = Path(self.kept.folder) if self.kept.folder else Path.home()
        return last if last.is_dir() else Path.home()
