"""The page of Open up: steps, what is seen, and pictures of contact, one at a time."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial

from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.openup.desk import OpenDesk, Page
from ashen_bridge.desktop.openup.film_page import FilmPage
from ashen_bridge.desktop.openup.seen_page import SeenPage
from ashen_bridge.desktop.openup.steps_page import StepsPage
from ashen_bridge.desktop.parts.plain import Words
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
        self.steps = StepsPage(self.desk, room)
        self.seen = SeenPage(self.desk, theme, room.asker, room.folder)
        self.film = FilmPage(self.desk, theme, room.asker, room.folder)
        self._pages: dict[Page, StepsPage | SeenPage | FilmPage] = {"steps": self.steps, "seen": self.seen, "film": self.film}
        self._stack = QStackedWidget()
        self.turns: dict[Page, QPushButton] = {}
        group = QButtonGroup(self)
        row = QHBoxLayout()
        row.setSpacing(6)
        for name, words, tip in PAGES:
            button = QPushButton(words)
            button.setCheckable(True)
            button.setToolTip(tip)
            button.clicked.connect(partial(self.turn_to, name))
            group.addButton(button)
            self.turns[name] = button
            row.addWidget(button)
            self._stack.addWidget(self._pages[name])
        self.build = Words()
        self.build.setObjectName("quiet")
        row.addStretch(1)
        row.addWidget(self.build)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addLayout(row)
        column.addWidget(self._stack, 1)
        for signal in (room.session.project_changed, room.session.view_changed, self.desk.changed):
            signal.connect(self.refresh)
        room.session.results.changed.connect(self._predicted)

    def turn_to(self, page: Page, _: bool = False) -> None:
        """Look at one of the pages."""
        self.desk.look(replace(self.desk.view, page=page))
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
        self.turns[page].setChecked(True)
        self._stack.setCurrentWidget(self._pages[page])
        session = self.desk.session
        self.build.setText(f"Build “{session.build.label}”" if session.project.builds else "")
        self._pages[page].refresh()

    def _predicted(self) -> None:
        if self.desk.view.page == "film":
            self.refresh()
