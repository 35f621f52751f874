"""The Cut workspace: pieces, sheets, what has to be bought, and drawings at exactly 1:1."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.workspace import Room, Spec, Workspace
from ashen_bridge.desktop.state.commands import Command

if TYPE_CHECKING:
    from ashen_bridge.desktop.cut.page import CutPage


class CutWorkspace(Workspace):
    """Pieces of the build that is looked at."""

    spec = Spec("cut", "Cut", "Cut: pieces, sheets, and what has to be bought", "F11", "cut")

    def __init__(self, room: Room) -> None:
        super().__init__(room)
        self._page: CutPage | None = None

    def page(self) -> CutPage:
        """Return its page, made when it is first wanted."""
        if self._page is None:
            from ashen_bridge.desktop.cut.page import CutPage

            self._page = CutPage(self.room, lambda: self.shown)
        return self._page

    def commands(self) -> tuple[Command, ...]:
        """Return what can be done here."""
        return (
            Command("print_cut", "Print the cut sheet…", "", "Cut", self._print, lambda: bool(self.session.project.builds)),
            Command("it_is_cut", "It is cut: keep the offcuts", "", "Cut", lambda: self.page().keep_rests(), self._cuttable),
        )

    def _print(self) -> None:
        self.show()
        self.page().papers.ask("A4")

    def _cuttable(self) -> bool:
        return self.shown and self._page is not None and self._page.desk.found is not None

    def refresh(self) -> None:
        """Bring the page up to date."""
        self.page().refresh()

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        if self._page is not None:
            self._page.set_theme(theme)
