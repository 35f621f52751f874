"""The page of Open up: steps, what is seen, and pictures of contact, one at a time."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import cast

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.openup.desk import OpenDesk, Page
from ashen_bridge.desktop.openup.film_page import FilmPage
from ashen_bridge.desktop.openup.seen_page import SeenPage
from ashen_bridge.desktop.openup.steps_page import OpenStepsPage
from ashen_bridge.desktop.parts.turned import TurnedPages
from ashen_bridge.desktop.parts.workspace import Room

PAGES: tuple[tuple[Page, str, str], ...] = (
    ("steps", "Steps", "What to do, one step after another"),
    ("seen", "What it shows", "What old pads and pastes show, before it is wiped off"),
    ("film", "Pictures of contact", "Pressure films and stamped pads"),
)


class OpenPage(QWidget):
    """Three pages over one desk."""

    def __init__(self, room: Room, shown: Callable[[], bool]) -> None:
        super().__init__()
        self.room, self._shown = room, shown
        self.desk = OpenDesk(room.session, self)
        theme = room.theme()
        self.steps = OpenStepsPage(self.desk, room)
        self.seen = SeenPage(self.desk, theme, room.asker, room.folder)
        self.film = FilmPage(self.desk, theme, room.asker, room.folder)
        self._pages: dict[Page, OpenStepsPage | SeenPage | FilmPage] = {"steps": self.steps, "seen": self.seen, "film": self.film}
        self.turned = TurnedPages(PAGES, self._pages, self.turn_to)
        self.turns = self.turned.turns
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.turned)
        for signal in (room.session.project_changed, room.session.view_changed, self.desk.changed):
            signal.connect(self.refresh)
        room.session.results.changed.connect(self._predicted)

    def turn_to(self, page: str) -> None:
        """Look at one of the pages."""
        self.desk.look(replace(self.desk.view, page=cast(Page, page)))
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        for page in self._pages.values():
            page.set_theme(theme)
        self.refresh()

    def refresh(self) -> None:
        """Take over the session; a workspace that is not shown waits."""
        if not self._shown():
            return
        page = self.desk.view.page
        session = self.desk.session
        self.turned.show_page(page, f"Build “{session.build.label}”" if session.project.builds else "")
        self._pages[page].refresh()

    def _predicted(self) -> None:
        if self.desk.view.page == "film":
            self.refresh()
