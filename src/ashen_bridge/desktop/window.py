"""The main window: rail, header, verdict strip, workspace, findings; opening and saving."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QSettings, QSize, Qt, QTimer
from PyQt6.QtGui import QAction, QCloseEvent, QKeySequence
from PyQt6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMessageBox,
    QVBoxLayout,
    QWidget,
)

from ashen_bridge.desktop.document import Document
from ashen_bridge.desktop.jobs import JobRunner
from ashen_bridge.desktop.session import Session
from ashen_bridge.desktop.stack.workspace import StackWorkspace
from ashen_bridge.desktop.theme import THEMES, Theme
from ashen_bridge.desktop.widgets.findings import FindingsList
from ashen_bridge.desktop.widgets.header import Header
from ashen_bridge.desktop.widgets.rail import Rail
from ashen_bridge.desktop.widgets.verdict import VerdictStrip
from ashen_bridge.files.archive import Opened
from ashen_bridge.files.demos import PREFIX, open_anything
from ashen_bridge.geometry.checks import assembly_problems
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.resolve import resolve

FILTER = "Ashen Bridge project (*.ashb *.json)"
TEXT_PX = 13


class MainWindow(QMainWindow):
    """One window on one document."""

    def __init__(self, where: str, opened: Opened, theme: Theme | None = None) -> None:
        super().__init__()
        self.theme = theme or THEMES["light"]
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.runner = JobRunner()
        self.session = Session(_document(where, opened), opened.extras, self.runner, self)
        self.command_actions = self._make_actions()
        self.header = Header(self.session, self.theme, self.command_actions)
        self.verdict = VerdictStrip(self.session, self.theme)
        self.workspace = StackWorkspace(self.session, self.theme)
        self.findings = FindingsList(self.session, self.theme)
        self.rail = Rail(self.theme)
        self.message = QLabel()
        self.message.setObjectName("refusal")
        self.message.setWordWrap(True)
        self.message.hide()
        self._message_timer = QTimer(self)
        self._message_timer.setSingleShot(True)
        self._message_timer.setInterval(9000)
        self._message_timer.timeout.connect(self.message.hide)
        self._lay_out()
        self._status = QLabel()
        self._status.setObjectName("quiet")
        self._status.setContentsMargins(64, 0, 0, 0)
        self.statusBar().addPermanentWidget(self._status, 1)
        self.session.refused.connect(self.say)
        self.session.document_replaced.connect(self._follow_document)
        self.session.result_changed.connect(self._show_status)
        self.session.busy_changed.connect(lambda _: self._show_status())
        self._follow_document()
        self.apply_theme(self.theme)
        self.resize(1280, 800)
        self.workspace.plan.setFocus()

    def _lay_out(self) -> None:
        page = QWidget()
        page.setObjectName("page")
        column = QVBoxLayout(page)
        column.setContentsMargins(4, 8, 10, 2)
        column.setSpacing(8)
        column.addWidget(self.header)
        column.addWidget(self.message)
        column.addWidget(self.verdict)
        column.addWidget(self.workspace, 1)
        column.addWidget(self.findings)
        whole = QWidget()
        row = QHBoxLayout(whole)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.rail)
        row.addWidget(page, 1)
        self.setCentralWidget(whole)

    def sizeHint(self) -> QSize:
        return QSize(1280, 800)

    # ---- actions

    def _make_actions(self) -> dict[str, QAction]:
        made: dict[str, QAction] = {}

        def add(name: str, words: str, keys: str | QKeySequence.StandardKey, act: Callable[[], object]) -> None:
            action = QAction(words, self)
            action.setShortcut(QKeySequence(keys))
            action.setToolTip(f"{words} ({action.shortcut().toString()})")
            action.triggered.connect(lambda _: act())
            self.addAction(action)
            made[name] = action

        add("undo", "Undo", QKeySequence.StandardKey.Undo, lambda: self.session.document.undo_stack.undo())
        add("redo", "Redo", "Ctrl+Shift+Z", lambda: self.session.document.undo_stack.redo())
        add("open", "Open…", QKeySequence.StandardKey.Open, lambda: self.open_dialog())
        add("save", "Save", QKeySequence.StandardKey.Save, lambda: self.save())
        add("save_as", "Save as…", "Ctrl+Shift+S", lambda: self.save_as())
        add("theme", "Light or dark", "Ctrl+T", lambda: self.toggle_theme())
        add(
            "group",
            "Whole group or one joint",
            "G",
            lambda: self.session.look(whole_group=not self.session.view.whole_group),
        )
        add("thicker", "One stock step thicker", "+", lambda: self._step(1))
        add("thinner", "One stock step thinner", "-", lambda: self._step(-1))
        return made

    def _step(self, by: int) -> None:
        present, options = self.workspace.panel.strip.present(), self.session.thicknesses
        if present and options:
            here = max(present) if by > 0 else min(present)
            beyond = [value for value in options if (value > here + 1e-9 if by > 0 else value < here - 1e-9)]
            if beyond:
                self.workspace.panel.choose_thickness(min(beyond) if by > 0 else max(beyond))

    def toggle_theme(self) -> None:
        """Change between light and dark; remembered for the next start."""
        self.apply_theme(THEMES["dark" if self.theme.name == "light" else "light"])
        QSettings().setValue("theme", self.theme.name)

    def apply_theme(self, theme: Theme) -> None:
        """Show everything in a theme."""
        self.theme = theme
        application = QApplication.instance()
        if isinstance(application, QApplication):
            application.setStyleSheet(theme.style_sheet(TEXT_PX))
        for part in (self.header, self.verdict, self.workspace, self.findings, self.rail):
            part.set_theme(theme)

    # ---- words to the user

    def say(self, text: str) -> None:
        """Say one sentence above the work; it goes away by itself."""
        self.message.setText(text)
        self.message.show()
        self._message_timer.start()

    def _show_status(self) -> None:
        session = self.session
        words = {
            "absent": "no numbers yet",
            "stale": "computing…",
            "provisional": "coarse numbers, refining…",
            "refused": "not computable",
        }
        if session.state == "current" and session.assessment is not None:
            report = session.assessment.report
            mesh = "" if report.mesh.refinement_k is None else f" · mesh ±{report.mesh.refinement_k:.1f} K"
            text = (
                f"{report.mesh.cells:,} cells{mesh} · energy balance {report.balance.energy_rel:.0e} · "
                f"force balance {report.balance.force_rel:.0e} · {report.seconds:.2f} s"
            ).replace(",", " ")
        else:
            text = words[session.state]
        self._status.setText(text)

    def _follow_document(self) -> None:
        document = self.session.document
        document.renamed.connect(self._show_title)
        document.undo_stack.indexChanged.connect(self._show_undo)
        self._show_undo()
        self._show_title()
        self._show_status()

    def _leave_document(self) -> None:
        """Stop listening to a document that goes away: its undo stack still speaks while it is taken apart."""
        self.session.document.undo_stack.indexChanged.disconnect(self._show_undo)

    def _show_undo(self) -> None:
        stack = self.session.document.undo_stack
        for name, able, text in (
            ("undo", stack.canUndo(), stack.undoText()),
            ("redo", stack.canRedo(), stack.redoText()),
        ):
            action = self.command_actions[name]
            action.setEnabled(able)
            action.setToolTip(f"{action.text()} {text} ({action.shortcut().toString()})")

    def _show_title(self) -> None:
        mark = "• " if self.session.document.modified else ""
        self.setWindowTitle(f"{mark}{self.session.document.title} — Ashen Bridge")

    # ---- files

    def open_dialog(self) -> None:
        """Ask for a file and open it here."""
        name, _ = QFileDialog.getOpenFileName(self, "Open a project", str(_folder(self.session.document)), FILTER)
        if name:
            self.open_path(name)

    def open_path(self, where: str) -> bool:
        """Open a file or demo in this window; if it cannot be, the open project stays as it is."""
        try:
            opened = open_anything(where)
            problem = next(assembly_problems(resolve(opened.project)), None) if opened.project.builds else None
        except AshenError as error:
            self._tell("This file cannot be opened", str(error))
            return False
        if problem is not None and not self._ask(
            "This file opens, but cannot be computed", f"{problem}\n\nOpen it to put it right?"
        ):
            return False
        if not self._may_leave():
            return False
        self._leave_document()
        self.session.replace_document(_document(where, opened), opened.extras)
        return True

    def save(self) -> bool:
        """Save to the document's file; asks for a name if it has none."""
        path = self.session.document.path
        return self._save_to(path) if path else self.save_as()

    def save_as(self) -> bool:
        """Ask for a name and save there."""
        start = _folder(self.session.document) / (
            self.session.document.path.name if self.session.document.path else "project.ashb"
        )
        name, _ = QFileDialog.getSaveFileName(self, "Save the project as", str(start), FILTER)
        if not name:
            return False
        path = Path(name)
        return self._save_to(path if path.suffix in (".ashb", ".json") else path.with_name(path.name + ".ashb"))

    def _save_to(self, path: Path) -> bool:
        try:
            self.session.document.save(path, self.session.extras_to_save())
        except AshenError as error:
            self._tell("Not saved", str(error))
            return False
        return True

    def _may_leave(self) -> bool:
        """Ask about unsaved work; returns whether the document may be left."""
        if not self.session.document.modified:
            return True
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self,
            "Unsaved work",
            f"“{self.session.document.title}” has unsaved changes. Save them first?",
            buttons.Save | buttons.Discard | buttons.Cancel,
            buttons.Save,
        )
        if answer == buttons.Save:
            return self.save()
        return bool(answer == buttons.Discard)

    def _tell(self, title: str, text: str) -> None:
        QMessageBox.warning(self, title, text)

    def _ask(self, title: str, text: str) -> bool:
        buttons = QMessageBox.StandardButton
        return bool(QMessageBox.question(self, title, text, buttons.Open | buttons.Cancel, buttons.Cancel) == buttons.Open)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Ask about unsaved work, then end the worker."""
        if event is None:
            return
        if not self._may_leave():
            event.ignore()
            return
        self._leave_document()
        self.runner.stop()
        event.accept()


def _document(where: str, opened: Opened) -> Document:
    demo = where.startswith(PREFIX)
    return Document(opened.project, None if demo else Path(where), title=f"{opened.project.name or where} (demo)" if demo else "")


def _folder(document: Document) -> Path:
    return document.path.parent if document.path else Path.home()
