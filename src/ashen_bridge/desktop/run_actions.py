"""What is done with runs: logs brought in, kept, exported and removed; readings typed in."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from ashen_bridge.bench.errands import ReadFile
from ashen_bridge.changes.edit import Edit
from ashen_bridge.desktop.session import Session
from ashen_bridge.desktop.widgets.asking import Asker
from ashen_bridge.desktop.widgets.notice import Notice
from ashen_bridge.editing import runs as edits

if TYPE_CHECKING:
    from ashen_bridge.bench.remarks import Triage
    from ashen_bridge.desktop.baseline.workspace import BaselineWorkspace

LOGS = "Sensor log (*.csv *.txt *.tsv *.log);;Every file (*)"
TABLES = "Table (*.csv *.parquet)"
REMOVE, KEEP = "Remove", "Keep"


class RunActions(QObject):
    """Runs of one window. `triaged`: what some files, by name, tell by themselves."""

    triaged = pyqtSignal(list, object)

    def __init__(self, session: Session, notice: Notice, asker: Asker, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.session, self.notice, self.asker = session, notice, asker
        self.over = parent if isinstance(parent, QWidget) else None
        self.page: BaselineWorkspace | None = None
        self._waiting: list[tuple[str, str]] = []

    def attach(self, page: BaselineWorkspace) -> None:
        """Work with a page from now on."""
        self.page = page
        page.importing.kept.connect(self.keep)
        page.importing.left.connect(self.leave)
        page.recording.recorded.connect(self._recorded)
        page.recording.left.connect(lambda: page.show_recording(False))

    # ---- without a device

    def ask_triage(self) -> None:
        """Ask for a log and say what it tells by itself."""
        name = self.asker.open_file("What does a log say?", str(Path.home()), LOGS)
        if name:
            self.triage([name])

    def triage(self, paths: list[str]) -> None:
        """Say what the logs of one test tell by themselves; what is none is said in a sentence."""

        def take(found: Triage | None, problem: str) -> None:
            if found is None:
                self.notice.say(problem)
            else:
                self.triaged.emit([Path(path).name for path in paths], found)

        self.session.runs.triage(tuple(paths), take)

    # ---- bringing in

    def take(self, paths: list[str]) -> None:
        """Bring in dropped logs; with nothing to map them to, say what they tell by themselves."""
        if not self.session.project.device.bodies:
            self.triage(paths)
            return
        for path in paths:
            self.read(path)

    def import_log(self) -> None:
        """Ask for a log and bring it in."""
        self.session.look(workspace="baseline")
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
        if len(self._waiting) == 1 and not (self.page is not None and self.page.is_importing):
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
        self.session.look(workspace="baseline")
        if self.page is not None:
            self.page.importing.show_file(read, run_id)
            self.page.show_importing(True)

    def leave(self) -> None:
        """Leave the log that is shown, keeping nothing."""
        if self.page is not None:
            self.page.show_importing(False)
        self._read_next()

    def keep(self) -> None:
        """Keep the log that is shown as a run, as another pass, or only what its columns are."""
        if self.page is None or self.page.importing.log is None:
            return
        page = self.page.importing
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
        assert self.page is not None
        page, session = self.page.importing, self.session
        page.keep.setEnabled(True)
        if digest is None:
            page.problem.setText(problem)
            return
        run_id = page.where.currentData()
        edit: Edit
        if run_id:
            edit = edits.add_pass(session.project, run_id, [digest], page.told())
        else:
            said = {} if page.ambient_c is None else {"ambient_c": page.ambient_c}
            name = page.name.currentText().strip() or "Run"
            edit, run_id = edits.add_run(
                session.project, name[:200], [digest], page.told(), page.build.currentData(), page.point.currentData(), **said
            )
        refused = session.attempt(edit)
        if refused:
            page.problem.setText(refused)
            return
        run = session.project.run(run_id)
        session.look(run=run_id, run_pass=len(run.passes) - 1, columns=())
        self.leave()

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
        self.session.look(workspace="baseline")
        if self.page is not None and not self.page.is_importing:
            self.page.show_recording(True)

    def _recorded(self, read: ReadFile) -> None:
        if self.page is not None:
            self.page.importing.show_file(read)
            self.page.show_importing(True)

    def type_readings(self) -> None:
        """Type readings of a thermometer in."""
        from ashen_bridge.desktop.baseline.typed_dialog import TypedDialog

        self.session.look(workspace="baseline")
        if not self.session.project.device.sensors:
            self.notice.say("This device has no sensors yet; say under Edit where a reading is taken.")
            return
        TypedDialog(self.session, self.over).show()
