"""The page of Choose: plans, other ways, builds beside each other, what if, tolerances, and what is at hand."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import cast

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from ashen_bridge.desktop.choose.compare_page import ComparePage
from ashen_bridge.desktop.choose.desk import ChooseDesk, Page
from ashen_bridge.desktop.choose.plans_page import PlansPage
from ashen_bridge.desktop.choose.shelf_page import ShelfPage
from ashen_bridge.desktop.choose.slide_page import SlidePage
from ashen_bridge.desktop.choose.tight_page import TightPage
from ashen_bridge.desktop.choose.ways_page import WaysPage
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.turned import TurnedPages
from ashen_bridge.desktop.parts.workspace import Room

PAGES: tuple[tuple[Page, str, str], ...] = (
    ("plans", "Plans", "Material and thickness for all joints together"),
    ("ways", "Other ways", "What may be done beside choosing a material, from a power limit to taking the lid off"),
    ("compare", "Builds beside each other", "Any builds at any operating points"),
    ("slide", "What if", "A few numbers slid, the answer following"),
    ("tight", "How tight", "How wide every tolerance may be for all limits to hold"),
    ("shelf", "Shelf", "Materials by what people decide by; what is at hand and what it costs"),
)


class ChoosePage(QWidget):
    """Six pages over one desk."""

    def __init__(self, room: Room, shown: Callable[[], bool]) -> None:
        super().__init__()
        self._shown = shown
        self.desk = ChooseDesk(room.session, self)
        self.plans = PlansPage(self.desk, room)
        self.ways = WaysPage(self.desk, room)
        self.compare = ComparePage(self.desk, room)
        self.shelf = ShelfPage(self.desk, room)
        self.tight = TightPage(self.desk, room)
        self.slide = SlidePage(self.desk, room)
        self._pages: dict[Page, PlansPage | WaysPage | ComparePage | SlidePage | TightPage | ShelfPage] = {
            "plans": self.plans,
            "ways": self.ways,
            "compare": self.compare,
            "slide": self.slide,
            "tight": self.tight,
            "shelf": self.shelf,
        }
        self.turned = TurnedPages(PAGES, self._pages, self.turn_to)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.turned)
        for signal in (room.session.project_changed, room.session.view_changed, self.desk.changed):
            signal.connect(self.refresh)

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
        page, session = self.desk.view.page, self.desk.session
        said = f"From build “{session.build.label}”" if session.project.builds and page in ("plans", "ways") else ""
        self.turned.show_page(page, said)
        self._pages[page].refresh()
