"""The Baseline workspace: tests of the device as it is, and what they mean."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from ashen_bridge.desktop.baseline.desk import NAME, BaselineDesk
from ashen_bridge.desktop.baseline.run_actions import RunActions
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.workspace import Room, Spec, Workspace
from ashen_bridge.desktop.state.commands import Command

if TYPE_CHECKING:
    from ashen_bridge.desktop.baseline.page import BaselinePage


class Baseline(Workspace):
    """Runs: brought in, recorded, compared, explained."""

    spec = Spec(NAME, "Baseline", "Baseline: runs and what they say", "F5", "baseline", runs=True, takes_anything=True)

    def __init__(self, room: Room) -> None:
        super().__init__(room)
        self.desk = BaselineDesk(room.session)
        self.actions = RunActions(room, self.desk, self.page, self.show)
        self._page: BaselinePage | None = None
        self.desk.changed.connect(self.changed)

    def page(self) -> BaselinePage:
        """Return its page, made when it is first wanted."""
        if self._page is None:
            from ashen_bridge.desktop.baseline.page import BaselinePage

            self._page = BaselinePage(self.desk, self.room)
            self.actions.attach(self._page)
        return self._page

    def commands(self) -> tuple[Command, ...]:
        """Return what is done with runs."""
        return self.actions.commands()

    def take(self, paths: Sequence[str]) -> Sequence[str]:
        """Bring in everything else as logs."""
        if paths:
            self.actions.take(list(paths))
        return ()

    def refresh(self) -> None:
        """Bring the page up to date."""
        self.page().refresh()

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        if self._page is not None:
            self._page.set_theme(theme)

    def leave(self) -> None:
        """Listen to no source of readings any more; the process that reads logs ends."""
        if self._page is not None:
            self._page.recording.close_source()
