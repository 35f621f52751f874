"""The Measure workspace: the device lies open, and what instruments say becomes what is known of its gaps."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.workspace import Room, Spec, Workspace
from ashen_bridge.desktop.state.commands import Command

if TYPE_CHECKING:
    from ashen_bridge.desktop.measure.page import MeasurePage


class Measure(Workspace):
    """Gaps, readings, and the number to take next."""

    spec = Spec("measure", "Measure", "Measure: gaps and what is known of them", "F8", "measure")

    def __init__(self, room: Room) -> None:
        super().__init__(room)
        self._page: MeasurePage | None = None

    def page(self) -> MeasurePage:
        """Return its page, made when it is first wanted."""
        if self._page is None:
            from ashen_bridge.desktop.measure.page import MeasurePage

            self._page = MeasurePage(self.session, self.room.theme(), lambda: self.shown, self.room.notice.say)
        return self._page

    def commands(self) -> tuple[Command, ...]:
        """Return what can be done here."""
        return (
            Command(
                "take_back",
                "Take the last reading back",
                "Ctrl+Backspace",
                "Measure",
                lambda: self.page().entry.take_back(),
                lambda: self.shown and bool(self.session.project.readings),
            ),
            Command("kept", "Instruments and closings…", "", "Measure", self._keep),
        )

    def _keep(self) -> None:
        from ashen_bridge.desktop.measure.kept_dialog import KeptDialog

        KeptDialog(self.session, self.room.over).show()

    def leave(self) -> None:
        """Listen to no caliper any more."""
        if self._page is not None:
            self._page.entry.hang_up()

    def refresh(self) -> None:
        """Bring the page up to date."""
        self.page().refresh()

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        if self._page is not None:
            self._page.set_theme(theme)
