"""The program around its windows: one list of windows, one look, recovery at the start."""

from __future__ import annotations

import time
from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtWidgets import QApplication

from ashen_bridge.desktop.look.preferences import LOOKS, TEXT_PERCENT, Look, Preferences
from ashen_bridge.desktop.look.theme import THEMES, Theme
from ashen_bridge.desktop.parts.workspace import Workspace
from ashen_bridge.desktop.shell.files import document_of
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.desktop.shell.workspaces import WORKSPACES
from ashen_bridge.desktop.state.document import Document
from ashen_bridge.files.archive import Opened
from ashen_bridge.files.demos import PREFIX
from ashen_bridge.files.recovery import Leftover, leftovers
from ashen_bridge.model.errors import AshenError

RESTORE, LATER, DISCARD = "Restore", "Decide later", "Throw away"


class Workbench(QObject):
    """All open windows and what they share. `theme_changed` tells of another look or text size."""

    theme_changed = pyqtSignal(object)

    def __init__(self, preferences: Preferences | None = None, workspaces: Sequence[type[Workspace]] = WORKSPACES) -> None:
        super().__init__()
        self._workspaces = workspaces
        self.preferences = preferences or Preferences()
        self.windows: list[MainWindow] = []
        hints = QApplication.styleHints()
        if hints is not None:
            hints.colorSchemeChanged.connect(self._system_changed)
        self.theme = self._wanted_theme()
        self._dress()

    # ---- windows

    def open(self, where: str, content: Opened) -> MainWindow:
        """Show a file or demo in a window of its own; one that is open already only comes to the front."""
        already = self._window_of(where)
        if already is not None:
            self.to_front(where)
            return already
        return self.show(document_of(where, content), content.extras)

    def to_front(self, where: str) -> bool:
        """Bring the window to the front in which a file is open; returns whether there is one."""
        window = self._window_of(where)
        if window is None:
            return False
        window.raise_()
        window.activateWindow()
        return True

    def _window_of(self, where: str) -> MainWindow | None:
        """Return the window in which a file is open, by whatever name or link it is asked for."""
        if not where or where.startswith(PREFIX):
            return None
        wanted = Path(where).resolve()
        opened = ((window, window.session.document.path) for window in self.windows)
        return next((window for window, path in opened if path is not None and path.resolve() == wanted), None)

    def show(self, document: Document, extras: dict[str, bytes] | None = None) -> MainWindow:
        """Show a document in a new window."""
        window = MainWindow(self, document, extras or {}, self._workspaces)
        self.windows.append(window)
        window.gone.connect(self._forget)
        window.show()
        return window

    def _forget(self, window: MainWindow) -> None:
        self.windows = [other for other in self.windows if other is not window]

    def quit(self) -> None:
        """Close every window, asking where there is unsaved work; one that stays stops it."""
        for window in list(self.windows):
            if not window.close():
                return

    # ---- recovery

    def offer_recovery(self, over: MainWindow) -> None:
        """Offer what an earlier run could not save; each piece of work is a choice of its own."""
        for leftover in leftovers():
            answer = over.asker.choose(
                "Unsaved work was found",
                f"“{leftover.title}” was open with unsaved changes when the program ended, {_ago(leftover)}.\n\n"
                "Restore it in a window of its own? The file on disk is not touched until you save.",
                (RESTORE, LATER, DISCARD),
                RESTORE,
                LATER,
            )
            if answer == DISCARD:
                leftover.discard()
            elif answer == RESTORE:
                self._restore(leftover, over)

    def _restore(self, leftover: Leftover, over: MainWindow) -> None:
        try:
            project = leftover.project()
        except AshenError as error:
            over.asker.tell("This work cannot be restored", str(error))
            return
        document = Document(project, leftover.path, title=leftover.title, recovered=True)
        problem = document.keep_recovery_copy()
        if problem:
            over.notice.say(problem)
        else:
            leftover.discard()
        self.show(document)

    # ---- looks

    def set_look(self, look: Look) -> None:
        """Choose light, dark, or as the system has it; remembered."""
        self.preferences.look = look
        self._change_theme()

    def toggle_theme(self) -> None:
        """Change between light and dark."""
        self.set_look("dark" if self.theme.name == "light" else "light")

    def change_text(self, by: int) -> None:
        """Make all text one size bigger or smaller; 0 is the usual size."""
        sizes = TEXT_PERCENT
        at = sizes.index(self.preferences.text_percent)
        self.preferences.text_percent = sizes[min(max(at + by, 0), len(sizes) - 1)] if by else 100
        self._change_theme()

    def _system_changed(self) -> None:
        if self.preferences.look == LOOKS[2]:
            self._change_theme()

    def _wanted_theme(self) -> Theme:
        look = self.preferences.look
        if look == "system":
            hints = QApplication.styleHints()
            dark = hints is not None and hints.colorScheme() == Qt.ColorScheme.Dark
            look = "dark" if dark else "light"
        return THEMES[look].scaled(self.preferences.text_percent / 100)

    def _change_theme(self) -> None:
        theme = self._wanted_theme()
        if theme != self.theme:
            self.theme = theme
            self._dress()
            self.theme_changed.emit(theme)

    def _dress(self) -> None:
        application = QApplication.instance()
        if isinstance(application, QApplication):
            # Dressed from bare: changing from one sheet to another takes every widget several times as long.
            application.setStyleSheet("")
            application.setFont(self.theme.font(13))
            application.setPalette(self.theme.palette())
            application.setStyleSheet(self.theme.style_sheet())


def _ago(leftover: Leftover) -> str:
    minutes = (time.time() - leftover.saved_at) / 60
    if minutes < 90:
        return f"{max(round(minutes), 1)} minutes ago"
    return f"{round(minutes / 60)} hours ago" if minutes < 36 * 60 else f"{round(minutes / 1440)} days ago"
