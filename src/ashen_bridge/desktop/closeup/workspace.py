"""The Close up workspace: from clean faces to the first start."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.workspace import Room, Spec, Workspace

if TYPE_CHECKING:
    from ashen_bridge.desktop.closeup.page import ClosePage


class CloseUp(Workspace):
    """Procedure and tray, the other way round."""

    spec = Spec("closeup", "Close up", "Close up: step by step, screws crosswise, first start", "F12", "closeup")

    def __init__(self, room: Room) -> None:
        super().__init__(room)
        self._page: ClosePage | None = None

    def page(self) -> ClosePage:
        """Return its page, made when it is first wanted."""
        if self._page is None:
            from ashen_bridge.desktop.closeup.page import ClosePage

            self._page = ClosePage(self.room, lambda: self.shown)
        return self._page

    @property
    def can_go_on(self) -> bool:
        """Whether steps are looked at."""
        return self.shown and self._page is not None and self._page.can_go_on

    def go_on(self) -> None:
        """Tick the step that is shown."""
        self.page().go_on()

    def refresh(self) -> None:
        """Bring the page up to date."""
        self.page().refresh()

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        if self._page is not None:
            self._page.set_theme(theme)

    def leave(self) -> None:
        """Listen to no source any more."""
        if self._page is not None:
            self._page.first_desk.stop_following()
            self._page.burn_desk.stop_following()
