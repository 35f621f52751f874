"""The main window: rail, header, notice, verdict strip, the workspace that is shown, findings."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QMainWindow, QStackedWidget, QVBoxLayout, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.asking import Asker
from ashen_bridge.desktop.parts.framed import keep_on_screen
from ashen_bridge.desktop.parts.notice import Notice
from ashen_bridge.desktop.parts.reading import bring_into_sight, in_reading_order
from ashen_bridge.desktop.parts.workspace import Room, Workspace
from ashen_bridge.desktop.shell.files import FileDesk
from ashen_bridge.desktop.shell.findings import FindingsList
from ashen_bridge.desktop.shell.general import General
from ashen_bridge.desktop.shell.header import Header
from ashen_bridge.desktop.shell.program import Program
from ashen_bridge.desktop.shell.rail import Rail
from ashen_bridge.desktop.shell.status import WorkStatus
from ashen_bridge.desktop.shell.verdict import VerdictStrip
from ashen_bridge.desktop.state.commands import Commands
from ashen_bridge.desktop.state.document import Document
from ashen_bridge.desktop.state.runner import Runner
from ashen_bridge.desktop.state.session import Session

_PROJECTS = (".ashb", ".json")
_SIZE = QSize(1280, 800)


class _Pages(QStackedWidget):
    """One page at a time, as narrow as the one that is shown can be."""

    def minimumSizeHint(self) -> QSize:
        shown = self.currentWidget()
        return shown.minimumSizeHint() if shown is not None else super().minimumSizeHint()


class MainWindow(QMainWindow):
    """One window on one document. `gone` tells that it has closed."""

    gone = pyqtSignal(object)

    def __init__(
        self, program: Program, document: Document, extras: dict[str, bytes], workspaces: Sequence[type[Workspace]]
    ) -> None:
        super().__init__()
        self.program = program
        self.theme: Theme = program.theme
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setAcceptDrops(True)
        self.runner = Runner()
        self.session = Session(document, extras, self.runner, self)
        self.asker = Asker(self)
        self.notice = Notice()
        self.files = FileDesk(self.session, self.notice, self.asker, program.preferences, self)
        self.commands = Commands(self)
        self.room = Room(
            self.session, self.commands, self.asker, self.notice, self, lambda: self.theme, lambda: str(self.files.folder())
        )
        self.workspaces = {kind.spec.name: kind(self.room) for kind in workspaces}
        self.general = General(self.room, program, self.files, self.workspaces)
        self.commands.add(*self.general.commands())
        for workspace in self.workspaces.values():
            self.commands.add(*workspace.commands())
        self.commands.add(*self.general.looks_and_help())
        self.header = Header(self.session, self.theme, self.commands, self.asker)
        self.verdict = VerdictStrip(self.session, self.theme, lambda: self.workspace.spec.runs)
        self.findings = FindingsList(self.session, self.theme)
        self.rail = Rail(self.theme, self.commands, [one.spec for one in self.workspaces.values()])
        self.pages = _Pages()
        self.status = WorkStatus(self.session)
        self._lay_out()
        self._listen()
        self._follow_document()
        self.set_theme(self.theme)
        self._restore_layout()
        self.workspace.page().setFocus()

    @property
    def workspace(self) -> Workspace:
        """The workspace that is looked at."""
        return self.workspaces[self.session.view.workspace]

    def _lay_out(self) -> None:
        page = QWidget()
        page.setObjectName("page")
        column = QVBoxLayout(page)
        column.setContentsMargins(4, 8, 10, 2)
        column.setSpacing(8)
        column.addWidget(self.header)
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
        self.notice.lie_over(page)
        bar = self.statusBar()
        if bar is not None:
            bar.addPermanentWidget(self.status, 1)

    def _listen(self) -> None:
        session = self.session
        session.refused.connect(self.notice.say)
        session.document_replaced.connect(self._follow_document)
        session.view_changed.connect(self._show_workspace)
        for signal in (session.view_changed, session.project_changed):
            signal.connect(self.commands.refresh)
        for workspace in self.workspaces.values():
            workspace.changed.connect(self.commands.refresh)
        self.header.file_wanted.connect(self.general.open_beside)
        self.files.renamed.connect(self._show_title)
        self.program.theme_changed.connect(self.set_theme)

    def sizeHint(self) -> QSize:
        return _SIZE

    def showEvent(self, event: QShowEvent | None) -> None:
        """Keep all of the window on its screen, frame included, once the window manager has framed it."""
        super().showEvent(event)
        keep_on_screen(self)

    def focusNextPrevChild(self, next: bool) -> bool:
        """Let Tab go as one reads: header, verdict, workspace, findings, and the rail last."""
        line = in_reading_order((self.header, self.verdict, self.workspace.page(), self.findings, self.notice, self.rail))
        now = self.focusWidget()
        if not line:
            return False
        at = line.index(now) if now in line else -1 if next else 0
        to = line[(at + (1 if next else -1)) % len(line)]
        to.setFocus(Qt.FocusReason.TabFocusReason if next else Qt.FocusReason.BacktabFocusReason)
        bring_into_sight(to)
        return True

    # ---- files

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        """Take files."""
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        """Take what is dropped."""
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None:
            event.acceptProposedAction()
            self.take_files([url.toLocalFile() for url in data.urls()])

    def take_files(self, names: Sequence[str]) -> None:
        """Open projects (the first one here); the rest is offered to the workspaces, those that take anything last."""
        projects = [name for name in names if Path(name).suffix.lower() in _PROJECTS]
        for n, name in enumerate(projects):
            if n == 0:
                self.general.open_here(name)
            else:
                self.general.open_beside(name)
        rest: Sequence[str] = [name for name in names if name not in projects]
        for workspace in sorted(self.workspaces.values(), key=lambda one: one.spec.takes_anything):
            rest = workspace.take(rest)

    # ---- what is shown

    def _show_workspace(self) -> None:
        """Show the workspace that is looked at."""
        workspace = self.workspace
        self.rail.show_workspace(workspace.spec.name)
        self.findings.setVisible(workspace.spec.findings)
        page = workspace.page()
        if self.pages.indexOf(page) < 0:
            self.pages.addWidget(page)
            workspace.set_theme(self.theme)
        if self.pages.currentWidget() is not page:
            self.pages.setCurrentWidget(page)
            workspace.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Show everything in a theme."""
        self.theme = theme
        for part in (self.header, self.verdict, self.findings, self.rail):
            part.set_theme(theme)
        for workspace in self.workspaces.values():
            workspace.set_theme(theme)

    def _follow_document(self) -> None:
        self.session.document.undo_stack.indexChanged.connect(self._show_undo)
        self._show_undo()
        self._show_title()
        self.commands.refresh()
        self._show_workspace()

    def _show_undo(self) -> None:
        stack = self.session.document.undo_stack
        for name, able, text in (
            ("undo", stack.canUndo(), stack.undoText()),
            ("redo", stack.canRedo(), stack.redoText()),
        ):
            action = self.commands[name]
            action.setEnabled(able)
            action.setToolTip(f"{action.text()} {text} ({action.shortcut().toString()})")

    def _show_title(self) -> None:
        document = self.session.document
        mark = "• " if document.modified else ""
        only = " (read-only)" if document.read_only else ""
        self.setWindowTitle(f"{mark}{document.title}{only} — Ashen Bridge")

    def _restore_layout(self) -> None:
        self.resize(_SIZE)
        kept = self.program.preferences.layout("window")
        if kept is not None:
            self.restoreGeometry(kept)
        for name, workspace in self.workspaces.items():
            state = self.program.preferences.layout(name)
            if state is not None:
                workspace.restore_layout(state)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Ask about unsaved work, remember the layout, then end the worker."""
        if event is None:
            return
        if not all(one.may_leave() for one in self.workspaces.values()) or not self.files.may_leave():
            event.ignore()
            return
        self.program.preferences.keep_layout("window", self.saveGeometry())
        for name, workspace in self.workspaces.items():
            state = workspace.layout_state()
            if state is not None:
                self.program.preferences.keep_layout(name, state)
        # Stop listening to a document that goes away: its undo stack still speaks while it is taken apart.
        self.session.document.undo_stack.indexChanged.disconnect(self._show_undo)
        self.files.leave()
        self.runner.stop()
        self.session.runs.stop()
        for workspace in self.workspaces.values():
            workspace.leave()
        self.gone.emit(self)
        event.accept()
