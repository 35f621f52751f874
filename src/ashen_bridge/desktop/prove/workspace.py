"""The Prove workspace: what was promised against what came of it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.workspace import Room, Spec, Workspace

if TYPE_CHECKING:
    from ashen_bridge.desktop.prove.page import ProvePage


class Prove(Workspace):
    """One repair: predicted, predicted for this very device, measured."""

    spec = Spec("prove", "Prove", "Prove: predicted against measured", "F7", "prove", runs=True)

    def __init__(self, room: Room) -> None:
        super().__init__(room)
        self._page: ProvePage | None = None

    def page(self) -> ProvePage:
        """Return its page, made when it is first wanted."""
        if self._page is None:
            from ashen_bridge.desktop.prove.page import ProvePage

            self._page = ProvePage(self.room, lambda: self.shown)
        return self._page

    def refresh(self) -> None:
        """Bring the page up to date."""
        self.page().refresh()

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        if self._page is not None:
            self._page.set_theme(theme)
