"""What is done with runs: logs brought in, kept, exported and removed; readings typed in."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject

from ashen_bridge.bench.errands import ReadFile
from ashen_bridge.changes.edit import Edit
from ashen_bridge.desktop.baseline.desk import BaselineDesk
from ashen_bridge.desktop.baseline.triaging import LOGS, Triaging
from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.desktop.state.commands import Command
from ashen_bridge.editing import runs as edits
from ashen_bridge.model.errors import AshenError

if TYPE_CHECKING:
    from ashen_bridge.desktop.baseline.page import BaselinePage

TABLES = "Table (*.csv *.parquet)"
REMOVE, KEEP = "Remove", "Keep"


class RunActions(QObject):
    """Runs of one window, and the page they are brought in on."""

    def __init__(
        self,
        room: Room,
        desk: BaselineDesk,
        page: Callable[[], BaselinePage],
        show: Callable[[], None],
    ) -> None:
        super().__init__(room.over)
        self.room, self.desk, self.session = room, desk, room.session
        self.notice, self.asker = room.notice, room.asker
        self._page, self._show = page, show
        self._attached: BaselinePage | None = None
        self.triage = Triaging(room)
        self._waiting: list[tuple[str, str]] = []

    def commands(self) -> tuple[Command, ...]:
        """Return what is done with runs."""

        def run() -> bool:
            return self.session.run is not None

        return (
            Command("triage", "What does a log say?…", "", "Runs", self.triage.ask),
            Command("import_log", "Bring in a log…", "Ctrl+B", "Runs", self.import_log),
            Command("another_pass", "Bring in another pass of this run…", "", "Runs", self.another_pass, run),
            Command("record", "Record…", "Ctrl+R", "Runs", self.record),
            Command("type_readings", "Type readings…", "", "Runs", self.type_readings),
            Command("export_run", "Export this run…", "", "Runs", self.export_run, run),
            Command("remove_run", "Remove this run", "", "Runs", self.remove_run, run),
        )

    def attach(self, page: BaselinePage) -> None:
        """Listen to a page from now on."""
        self._attached = page
        page.importing.kept.connect(self.keep)
        page.importing.left.connect(self.leave)
        page.recording.recorded.connect(self._recorded)
        page.recording.left.connect(lambda: page.show_recording(False))

    # ---- bringing in

    def take(self, paths: list[str]) -> None:
        """Bring in dropped logs; with nothing to map them to, say what they tell by themselves."""
        if not self.session.project.device.bodies:
            self.triage.of(paths)
            return
        for path in paths:
            self.read(path)

    def import_log(self) -> None:
        """Ask for a log and bring it in."""
        self._show()
        name = self.asker.open_file("Bring in a sensor log", str(Path.home()), LOGS)
        if name:
            self.read(name)

    def another_pass(self) -> None:
        """Ask for a log of another pass of the run that is looked at."""
        run = self.session.run
        name = self.asker.open_file("Bring in another pass", str(Path.home()), LOGS) if run is not None else ""
        if name and run is not None:
            self.read(name, run.id)

    def read(self, name: str, run_id: str = "") -> None:
        """Read a file as a log and show what its columns are taken for; what it cannot be is said in a sentence."""
        self._waiting.append((name, run_id))
        if len(self._waiting) == 1 and not (self._attached is not None and self._attached.is_importing):
            self._read_next()

    def _read_next(self) -> None:
        if self._waiting:
            name, run_id = self._waiting[0]
            self.session.runs.read(name, self.session.project, lambda read, problem: self._take(read, problem, run_id))

    def _take(self, read: ReadFile | None, problem: str, run_id: str) -> None:
        self._waiting.pop(0)
        if read is None:
            self.notice.say(problem)
            self._read_next()
            return
        self._show()
        page = self._page()
        page.importing.show_file(read, run_id)
        page.show_importing(True)

    def leave(self) -> None:
        """Leave the log that is shown, keeping nothing."""
        self._page().show_importing(False)
        self._read_next()

    def keep(self) -> None:
        """Keep the log that is shown as a run, as another pass, or only what its columns are."""
        page = self._page().importing
        if page.log is None:
            return
        channels = page.told()
        if page.remaps:
            if self.session.apply(edits.remap_run(page.remaps, channels)):
                self.leave()
            return
        log = page.log
        assert log is not None
        run_id = page.where.currentData()
        old = next((run.channels for run in self.session.project.runs if run.id == run_id), ())
        page.keep.setEnabled(False)
        self.session.runs.keep(log, channels, old, self._kept)

    def _kept(self, digest: str | None, problem: str) -> None:
        page, session = self._page().importing, self.session
        page.keep.setEnabled(True)
        if digest is None:
            page.problem.setText(problem)
            return
        try:
            edit, run_id = self._edit_of(digest)
            session.document.apply(edit)
        except AshenError as error:
            page.problem.setText(str(error))
            return
        run = session.project.run(run_id)
        self.desk.choose_run(run_id)
        self.desk.look(replace(self.desk.view, run_pass=len(run.passes) - 1, columns=()))
        self.leave()

    def _edit_of(self, digest: str) -> tuple[Edit, str]:
        """Return the edit that keeps a stored log as the page says, and the run it belongs to. Raises `AshenError`."""
        page, project = self._page().importing, self.session.project
        run_id = page.where.currentData()
        if run_id:
            return edits.add_pass(project, run_id, [digest], page.told()), run_id
        said: dict[str, Any] = {} if page.ambient_c is None else {"ambient_c": page.ambient_c}
        name = (page.name.currentText().strip() or "Run")[:200]
        where = page.build.currentData(), page.point.currentData()
        return edits.add_run(project, name, [digest], page.told(), *where, **said)

    # ---- taking out

    def export_run(self) -> None:
        """Write the run that is looked at as one clean table."""
        run = self.session.run
        if run is None:
            return
        name = self.asker.save_file("Export the run", str(Path.home() / f"{run.id}.csv"), TABLES)
        if name:
            path = name if Path(name).suffix in (".csv", ".parquet") else f"{name}.csv"
            self.session.runs.export(self.session.project, run, path, self._exported)

    def _exported(self, rows: int | None, problem: str) -> None:
        self.notice.say(problem if rows is None else f"{rows} rows were written.")

    def remove_run(self) -> None:
        """Remove the run that is looked at, after asking."""
        run = self.session.run
        if run is None:
            return
        question = f"Remove the run “{run.label}” and the fits made to it? Undo brings them back."
        if self.asker.choose("Remove run", question, (REMOVE, KEEP), KEEP, KEEP) == REMOVE:
            self.session.apply(edits.remove_run(self.session.project, run.id))

    def record(self) -> None:
        """Record a run from a source of live readings."""
        self._show()
        if not (self._attached is not None and self._attached.is_importing):
            self._page().show_recording(True)

    def _recorded(self, read: ReadFile) -> None:
        self._page().importing.show_file(read)
        self._page().show_importing(True)

    def type_readings(self) -> None:
        """Type readings of a thermometer in."""
        from ashen_bridge.desktop.baseline.typed_dialog import TypedDialog

        self._show()
        if not self.session.project.device.sensors:
            self.notice.say("This device has no sensors yet; say under Edit where a reading is taken.")
            return
        TypedDialog(self.desk, self.room.over).show()
