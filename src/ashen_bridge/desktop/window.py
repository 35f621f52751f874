"""The main window: rail, header, notice, verdict strip, workspace, findings; what its actions do."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from itertools import pairwise
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QHBoxLayout, QMainWindow, QVBoxLayout, QWidget

from ashen_bridge.desktop.actions import STACK_ONLY, make_actions
from ashen_bridge.desktop.document import Document
from ashen_bridge.desktop.editing_desk import EditingDesk
from ashen_bridge.desktop.file_desk import FileDesk
from ashen_bridge.desktop.jobs import JobRunner
from ashen_bridge.desktop.pages import Pages
from ashen_bridge.desktop.run_actions import RunActions
from ashen_bridge.desktop.session import OVERLAYS, Overlay, Session
from ashen_bridge.desktop.stack.workspace import StackWorkspace
from ashen_bridge.desktop.theme import Theme
from ashen_bridge.desktop.widgets.asking import Asker
from ashen_bridge.desktop.widgets.findings import FindingsList
from ashen_bridge.desktop.widgets.guide import GuideSheet, KeysSheet
from ashen_bridge.desktop.widgets.header import Header
from ashen_bridge.desktop.widgets.notice import Notice
from ashen_bridge.desktop.widgets.palette import Palette, entries
from ashen_bridge.desktop.widgets.rail import Rail
from ashen_bridge.desktop.widgets.status import WorkStatus
from ashen_bridge.desktop.widgets.undo_list import UndoList
from ashen_bridge.desktop.widgets.verdict import VerdictStrip
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    from ashen_bridge.bench.remarks import Triage
    from ashen_bridge.desktop.workbench import Workbench

_PROJECTS, _PICTURES = (".ashb", ".json"), (".png", ".jpg", ".jpeg")
EMPTY = {
    "name": "",
    "builds": [{"id": "as_found", "name": "As found"}],
    "points": [{"id": "load", "name": "Full load"}],
    "main_build": "as_found",
}


class MainWindow(QMainWindow):
    """One window on one document."""

    gone = pyqtSignal(object)

    def __init__(self, bench: Workbench, document: Document, extras: dict[str, bytes]) -> None:
        super().__init__()
        self.bench = bench
        self.theme: Theme = bench.theme
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setAcceptDrops(True)
        self.runner = JobRunner()
        self.session = Session(document, extras, self.runner, self)
        self.asker = Asker(self)
        self.notice = Notice()
        self.files = FileDesk(self.session, self.notice, self.asker, self)
        self.editing = EditingDesk(self.session, self.asker, self)
        self.runs = RunActions(self.session, self.notice, self.asker, self)
        self.command_actions = make_actions(self, self._handlers())
        self.workspace = StackWorkspace(self.session, self.theme, self.command_actions)
        self.header = Header(self.session, self.theme, self.command_actions, self.asker)
        self.verdict = VerdictStrip(self.session, self.theme)
        self.findings = FindingsList(self.session, self.theme)
        self.rail = Rail(self.theme, self.command_actions)
        self.pages = Pages(self.session, self.theme, self.command_actions, self.workspace, self.asker)
        self.pages.on_baseline = self.runs.attach
        self.pages.made.connect(self._order_focus)
        self.status = WorkStatus(self.session)
        self._lay_out()
        self.session.refused.connect(self.notice.say)
        self.header.file_wanted.connect(self.open_beside)
        self.runs.triaged.connect(self._show_triage)
        self.session.document_replaced.connect(self._follow_document)
        self.session.view_changed.connect(self._enable)
        self.session.view_changed.connect(self._show_workspace)
        self.files.renamed.connect(self._show_title)
        bench.theme_changed.connect(self.set_theme)
        self._follow_document()
        self.set_theme(self.theme)
        self._order_focus()
        self.resize(1280, 800)
        for name, restore in (("window", self.restoreGeometry), ("stack", self.workspace.split.restoreState)):
            state = bench.preferences.layout(name)
            if state is not None:
                restore(state)
        self.workspace.plan.setFocus()

    def _lay_out(self) -> None:
        page = QWidget()
        page.setObjectName("page")
        column = QVBoxLayout(page)
        column.setContentsMargins(4, 8, 10, 2)
        column.setSpacing(8)
        column.addWidget(self.header)
        column.addWidget(self.notice)
        column.addWidget(self.verdict)
        column.addWidget(self.pages, 1)
        column.addWidget(self.findings)
        whole = QWidget()
        row = QHBoxLayout(whole)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.rail)
        row.addWidget(page, 1)
        self.setCentralWidget(whole)
        bar = self.statusBar()
        if bar is not None:
            bar.addPermanentWidget(self.status, 1)

    def sizeHint(self) -> QSize:
        return QSize(1280, 800)

    def _order_focus(self) -> None:
        """Let Tab go as one reads: header, verdict, workspace, findings, and the rail last."""
        chain = [
            widget
            for part in (self.header, self.notice, self.verdict, self.pages, self.findings, self.rail)
            for widget in (part, *part.findChildren(QWidget))
            if widget.focusPolicy() & Qt.FocusPolicy.TabFocus and widget.window() is self
        ]
        for one, following in pairwise(chain):
            QWidget.setTabOrder(one, following)

    # ---- actions

    def _handlers(self) -> dict[str, Callable[[], object]]:
        session, files, editing, bench = self.session, self.files, self.editing, self.bench
        overlays: tuple[Overlay, ...] = OVERLAYS
        return {
            "new_guided": lambda: self.start_guided(),
            "triage": self.runs.ask_triage,
            "new_empty": self.new_empty,
            "open": self._open,
            "open_window": self._open_window,
            "open_demo": partial(self.open_beside, "demo:correlator"),
            "open_beamformer": partial(self.open_beside, "demo:beamformer"),
            "open_buoy": partial(self.open_beside, "demo:buoy"),
            "save": files.save,
            "save_as": files.save_as,
            "reload": files.reload,
            "close": self.close,
            "quit": bench.quit,
            "undo": lambda: session.document.undo_stack.undo(),
            "redo": lambda: session.document.undo_stack.redo(),
            "undo_list": self.show_undo_list,
            "photo": self._photo,
            "edit_mode": self.toggle_editing,
            "materials": self.show_materials,
            "points": self.show_points,
            "assumptions": self.show_assumptions,
            "chance": self.show_chance,
            "time": lambda: session.look(lower="cut" if session.view.lower == "time" else "time"),
            "thicker": lambda: self._step(1),
            "thinner": lambda: self._step(-1),
            "group": lambda: session.look(whole_group=not session.view.whole_group),
            "cancel": session.tasks.cancel,
            **{f"show_{name.replace(' ', '_')}": partial(session.look, overlay=name) for name in overlays},
            "flip": lambda: session.look(side=Side.REAR if session.view.side is Side.FRONT else Side.FRONT),
            "turn_cut": lambda: self.workspace.plan.turn_cut(),
            "fit": lambda: self.workspace.plan.fit(),
            "theme": bench.toggle_theme,
            "look_light": lambda: bench.set_look("light"),
            "look_dark": lambda: bench.set_look("dark"),
            "look_system": lambda: bench.set_look("system"),
            "text_bigger": lambda: bench.change_text(1),
            "text_smaller": lambda: bench.change_text(-1),
            "text_usual": lambda: bench.change_text(0),
            "palette": self.show_palette,
            "guide": lambda: GuideSheet(session.view.workspace, self).show(),
            "keys": lambda: KeysSheet(self.command_actions, self).show(),
            **{f"go_{name}": partial(session.look, workspace=name) for name in ("baseline", "stack", "prove")},
            "import_log": self.runs.import_log,
            "another_pass": self.runs.another_pass,
            "record": self.runs.record,
            "type_readings": self.runs.type_readings,
            "export_run": self.runs.export_run,
            "remove_run": self.runs.remove_run,
            **editing.handlers(),
        }

    def _enable(self) -> None:
        """Only what can be done now can be asked for; keys of the Stack do nothing where it is not seen."""
        stack = self.session.view.workspace == "stack"
        for name, able in self.editing.able().items():
            self.command_actions[name].setEnabled(able and stack)
        for name in STACK_ONLY:
            self.command_actions[name].setEnabled(stack)

    def _step(self, by: int) -> None:
        present, options = self.workspace.panel.strip.present(), self.session.thicknesses
        if present and options:
            here = max(present) if by > 0 else min(present)
            beyond = [value for value in options if (value > here + 1e-9 if by > 0 else value < here - 1e-9)]
            if beyond:
                self.workspace.panel.choose_thickness(min(beyond) if by > 0 else max(beyond))

    def toggle_editing(self) -> None:
        """Edit the device in plan and elevation, or only look at it."""
        editing = not self.session.view.editing
        page = "part" if editing else "joint" if self.session.view.page == "part" else self.session.view.page
        self.session.look(editing=editing, tool="choose", page=page)
        self.workspace.plan.setFocus()

    def show_assumptions(self) -> None:
        """Show what the numbers stand on."""
        self.session.look(page="joint" if self.session.view.page == "assumptions" else "assumptions")

    def show_chance(self) -> None:
        """Show the chances of the limits."""
        self.session.look(page="joint" if self.session.view.page == "chance" else "chance")

    def show_materials(self) -> None:
        """Open the materials of the project."""
        from ashen_bridge.desktop.materials.dialog import MaterialsDialog

        MaterialsDialog(self.session, self.theme, self.asker, self).show()

    def show_points(self) -> None:
        """Open the operating points."""
        from ashen_bridge.desktop.points_dialog import PointsDialog

        PointsDialog(self.session, self.asker, self).show()

    def show_palette(self) -> None:
        """Let anything be found by its name."""
        Palette(self, entries(self.session, self.command_actions, self._go, self.open_beside)).show()

    def _go(self, path: str, body: str) -> None:
        """Choose a part that was found by its name."""
        self.session.look(workspace="stack")
        if self.session.view.editing:
            self.session.choose(path)
        else:
            self.session.look(selected=body)
        self.workspace.plan.setFocus()

    def show_undo_list(self) -> None:
        """Show everything that was done, by name."""
        UndoList(self.session.document.undo_stack, self).show()

    def start_guided(self, readings: dict[str, float] | None = None) -> None:
        """Start a device from questions, in this window or, if there is work in it, in a new one, from `readings` of a log."""
        from ashen_bridge.desktop.guided.dialog import GuidedDialog

        dialog = GuidedDialog(self.session, self.theme, self)
        dialog.finished_project.connect(self._take_guided)
        dialog.start_from(readings or {})
        dialog.show()

    def _show_triage(self, names: list[str], found: Triage) -> None:
        from ashen_bridge.desktop.triage_sheet import TriageSheet

        sheet = TriageSheet(names, found, self.theme, self)
        sheet.wanted.connect(self.start_guided)
        sheet.show()

    def _take_guided(self, project: Project) -> None:
        document = Document(project, title=project.name, recovered=True)
        if self.session.document.modified or self.session.document.path is not None:
            window = self.bench.show(document)
            window.session.look(page="assumptions")
        else:
            self.files.replace(document)
            self.session.look(page="assumptions")

    def new_empty(self) -> None:
        """Start with nothing but an empty build, ready to draw."""
        document = Document(Project.parse(EMPTY), title="New project")
        if self.session.document.modified or self.session.document.path is not None:
            self.bench.show(document).toggle_editing()
        else:
            self.files.replace(document)
            self.session.look(editing=True, page="part")

    # ---- files

    def _open(self) -> None:
        name = self.files.open_dialog()
        if name:
            self.files.open_path(name)

    def _open_window(self) -> None:
        name = self.files.open_dialog()
        if name:
            self.open_beside(name)

    def open_beside(self, name: str) -> None:
        """Open a file in a window of its own."""
        opened = self.files.read(name)
        if opened is not None:
            self.bench.open(name, opened)

    def _photo(self) -> None:
        pattern = "Picture (*.png *.jpg *.jpeg)"
        name = self.asker.open_file("Lay a photo under the plan", str(self.files.folder()), pattern)
        if name:
            self.lay_photo(name)

    def lay_photo(self, name: str) -> None:
        """Lay a picture under the side that is looked at and ask for its two known points."""
        self.session.look(workspace="stack", editing=True, page="part")
        if self.editing.lay_photo(Path(name)):
            self.workspace.place_photo()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        """Take files."""
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        """Open dropped projects (the first one here), lay a dropped picture under the plan."""
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None:
            event.acceptProposedAction()
            self.take_files([url.toLocalFile() for url in data.urls()])

    def take_files(self, names: list[str]) -> None:
        """Do the expected thing with some files."""
        here, logs = True, []
        for name in names:
            suffix = Path(name).suffix.lower()
            if suffix in _PROJECTS:
                if here:
                    self.files.open_path(name)
                    here = False
                else:
                    self.open_beside(name)
            elif suffix in _PICTURES:
                self.lay_photo(name)
            else:
                logs.append(name)
        if logs:
            self.runs.take(logs)

    # ---- what is shown

    def _show_workspace(self) -> None:
        """Show the workspace that is looked at."""
        name = self.session.view.workspace
        self.rail.show_workspace(name)
        self.pages.follow()
        self.findings.setVisible(name == "stack")

    def set_theme(self, theme: Theme) -> None:
        """Show everything in a theme."""
        self.theme = theme
        for part in (self.header, self.verdict, self.pages, self.findings, self.rail):
            part.set_theme(theme)

    def _follow_document(self) -> None:
        self.session.document.undo_stack.indexChanged.connect(self._show_undo)
        self._show_undo()
        self._show_title()
        self._enable()
        self._show_workspace()

    def _show_undo(self) -> None:
        stack = self.session.document.undo_stack
        for name, able, text in (
            ("undo", stack.canUndo(), stack.undoText()),
            ("redo", stack.canRedo(), stack.redoText()),
        ):
            action: QAction = self.command_actions[name]
            action.setEnabled(able)
            action.setToolTip(f"{action.text()} {text} ({action.shortcut().toString()})")

    def _show_title(self) -> None:
        document = self.session.document
        mark = "• " if document.modified else ""
        only = " (read-only)" if document.read_only else ""
        self.setWindowTitle(f"{mark}{document.title}{only} — Ashen Bridge")

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Ask about unsaved work, remember the layout, then end the worker."""
        if event is None:
            return
        if not self.files.may_leave():
            event.ignore()
            return
        self.bench.preferences.keep_layout("window", self.saveGeometry())
        self.bench.preferences.keep_layout("stack", self.workspace.split.saveState())
        # Stop listening to a document that goes away: its undo stack still speaks while it is taken apart.
        self.session.document.undo_stack.indexChanged.disconnect(self._show_undo)
        self.files.leave()
        self.runner.stop()
        self.session.runs.stop()
        self.pages.leave()
        self.gone.emit(self)
        event.accept()
