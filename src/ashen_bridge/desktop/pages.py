"""The workspaces of a window, one of which is shown; all but Stack are made when they are first wanted."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QStackedWidget

from ashen_bridge.desktop.session import Session
from ashen_bridge.desktop.stack.workspace import StackWorkspace
from ashen_bridge.desktop.theme import Theme
from ashen_bridge.desktop.widgets.asking import Asker

if TYPE_CHECKING:
    from ashen_bridge.desktop.baseline.workspace import BaselineWorkspace
    from ashen_bridge.desktop.prove.workspace import ProveWorkspace


class Pages(QStackedWidget):
    """Stack, Baseline and Prove. `made` tells that one more of them is there."""

    made = pyqtSignal()

    def __init__(self, session: Session, theme: Theme, actions: dict[str, QAction], stack: StackWorkspace, asker: Asker) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self._actions, self._asker = actions, asker
        self.stack = stack
        self.baseline: BaselineWorkspace | None = None
        self.prove: ProveWorkspace | None = None
        self.on_baseline: Callable[[BaselineWorkspace], object] = lambda page: None
        self.addWidget(stack)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = theme
        for page in (self.stack, self.baseline, self.prove):
            if page is not None:
                page.set_theme(theme)

    def leave(self) -> None:
        """The window goes: nothing is listened to any more."""
        if self.baseline is not None:
            self.baseline.recording.close_source()

    def follow(self) -> None:
        """Show the workspace that is looked at."""
        name = self.session.view.workspace
        page = {"baseline": self._baseline, "prove": self._prove}.get(name, lambda: self.stack)()
        if self.currentWidget() is not page:
            self.setCurrentWidget(page)

    def _baseline(self) -> BaselineWorkspace:
        if self.baseline is None:
            from ashen_bridge.desktop.baseline.workspace import BaselineWorkspace

            self.baseline = BaselineWorkspace(self.session, self.theme, self._actions, self._asker)
            self._add(self.baseline)
            self.on_baseline(self.baseline)
        return self.baseline

    def _prove(self) -> ProveWorkspace:
        if self.prove is None:
            from ashen_bridge.desktop.prove.workspace import ProveWorkspace

            self.prove = ProveWorkspace(self.session, self.theme)
            self._add(self.prove)
        return self.prove

    def _add(self, page: BaselineWorkspace | ProveWorkspace) -> None:
        self.addWidget(page)
        page.set_theme(self.theme)
        page.refresh()
        self.made.emit()
