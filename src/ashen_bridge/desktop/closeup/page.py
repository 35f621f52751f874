"""The page of Close up: steps, the first minutes under load, burn-in."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from ashen_bridge.desktop.closeup.burn_desk import BurnDesk
from ashen_bridge.desktop.closeup.burn_page import BurnPage
from ashen_bridge.desktop.closeup.desk import CloseDesk
from ashen_bridge.desktop.closeup.first_desk import FirstDesk
from ashen_bridge.desktop.closeup.first_page import FirstPage
from ashen_bridge.desktop.closeup.steps_page import CloseStepsPage
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.turned import TurnedPages
from ashen_bridge.desktop.parts.workspace import Room

PAGES = (
    ("steps", "Steps", "What to do, one step after another, to the first start"),
    ("first", "First minutes", "Under load for the first time: as planned, or stop, and what it looks like"),
    ("burn", "Burn-in", "Hot and cold cycles until everything has melted or settled"),
)


class ClosePage(QWidget):
    """Three pages, each over its desk."""

    def __init__(self, room: Room, shown: Callable[[], bool]) -> None:
        super().__init__()
        self._room, self._shown = room, shown
        self.page = "steps"
        self.desk = CloseDesk(room.session, self)
        self.first_desk = FirstDesk(room.session, self)
        self.burn_desk = BurnDesk(room.session, self)
        self.steps = CloseStepsPage(self.desk, room)
        self.first = FirstPage(self.first_desk, room)
        self.burn = BurnPage(self.burn_desk, room)
        self._pages: dict[str, CloseStepsPage | FirstPage | BurnPage] = {
            "steps": self.steps,
            "first": self.first,
            "burn": self.burn,
        }
        self.turned = TurnedPages(PAGES, self._pages, self.turn_to)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.turned)
        desks = (self.desk, self.first_desk, self.burn_desk)
        for signal in (room.session.project_changed, room.session.view_changed, *(desk.changed for desk in desks)):
            signal.connect(self.refresh)

    def turn_to(self, page: str) -> None:
        """Look at one of the pages."""
        self.page = page
        self.refresh()

    @property
    def can_go_on(self) -> bool:
        """Whether steps are looked at."""
        return self.page != "first"

    def go_on(self) -> None:
        """Tick the step that is shown."""
        page = self._pages[self.page]
        if not isinstance(page, FirstPage):
            page.card.go_on()

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        for page in self._pages.values():
            page.set_theme(theme)
        self.refresh()

    def refresh(self) -> None:
        """Take over the session; a workspace that is not shown waits."""
        if not self._shown():
            return
        session = self._room.session
        self.turned.show_page(self.page, f"Build “{session.build.label}”" if session.project.builds else "")
        if self.page == "steps" and self.desk.begun is None:
            self.desk.planned.ask_by_itself()
        if self.page == "burn" and self.burn_desk.begun is None:
            self.burn_desk.planned.ask_by_itself()
        self._pages[self.page].refresh()
