"""The Choose workspace: from gaps with their ± to this material, this thickness, for every joint together."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.workspace import Room, Spec, Workspace
from ashen_bridge.desktop.state.commands import Command

if TYPE_CHECKING:
    from ashen_bridge.desktop.choose.page import ChoosePage


class Choose(Workspace):
    """Plans, comparison, shelf."""

    spec = Spec("choose", "Choose", "Choose: materials and thicknesses for all joints together", "F10", "choose")

    def __init__(self, room: Room) -> None:
        super().__init__(room)
        self._page: ChoosePage | None = None

    def page(self) -> ChoosePage:
        """Return its page, made when it is first wanted."""
        if self._page is None:
            from ashen_bridge.desktop.choose.page import ChoosePage

            self._page = ChoosePage(self.room, lambda: self.shown)
        return self._page

    def commands(self) -> tuple[Command, ...]:
        """Return what can be done here."""
        group = "Choose"
        plans = tuple(
            Command(
                f"take_plan_{n}", f"Make plan {n} a build", f"Ctrl+Shift+{n}", group, partial(self._take, n - 1), self._at_plans
            )
            for n in range(1, 6)
        )
        return (
            Command("advise", "Search plans anew", "", group, self._ask, lambda: bool(self.session.project.builds)),
            *plans,
        )

    def _at_plans(self) -> bool:
        return self.shown and self._page is not None and self._page.desk.view.page == "plans"

    def _take(self, n: int) -> None:
        self.page().plans.take(n)

    def _ask(self) -> None:
        self.show()
        self.page().desk.advice.ask()

    def refresh(self) -> None:
        """Bring the page up to date."""
        self.page().refresh()

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        if self._page is not None:
            self._page.set_theme(theme)
