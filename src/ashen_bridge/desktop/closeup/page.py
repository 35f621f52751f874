"""The page of Close up."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from ashen_bridge.desktop.closeup.desk import CloseDesk
from ashen_bridge.desktop.closeup.steps_page import CloseStepsPage
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.workspace import Room


class ClosePage(QWidget):
    """Steps over one desk."""

    def __init__(self, room: Room, shown: Callable[[], bool]) -> None:
        super().__init__()
        self._shown = shown
        self.desk = CloseDesk(room.session, self)
        self.steps = CloseStepsPage(self.desk, room)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.steps)
        for signal in (room.session.project_changed, room.session.view_changed, self.desk.changed):
            signal.connect(self.refresh)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.steps.set_theme(theme)
        self.refresh()

    def refresh(self) -> None:
        """Take over the session; a workspace that is not shown waits."""
        if not self._shown():
            return
        if self.desk.begun is None:
            self.desk.planned.ask_by_itself()
        self.steps.refresh()
