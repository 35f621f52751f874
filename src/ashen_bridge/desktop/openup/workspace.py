"""The Open up workspace: from the first hold point to the device lying open, everything it shows noted."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.workspace import Room, Spec, Workspace
from ashen_bridge.desktop.state.commands import Command

if TYPE_CHECKING:
    from ashen_bridge.desktop.openup.page import OpenPage


class OpenUp(Workspace):
    """Procedure, tray, evidence, pictures of contact."""

    spec = Spec("openup", "Open up", "Open up: step by step, and what it shows", "F9", "openup")

    def __init__(self, room: Room) -> None:
        super().__init__(room)
        self._page: OpenPage | None = None

    def page(self) -> OpenPage:
        """Return its page, made when it is first wanted."""
        if self._page is None:
            from ashen_bridge.desktop.openup.page import OpenPage

            self._page = OpenPage(self.room, lambda: self.shown)
        return self._page

    def commands(self) -> tuple[Command, ...]:
        """Return what can be done here."""
        group = "Open up"
        marks = tuple(
            Command(f"mark_{n}", f"Say mark {n}", f"Alt+{n % 10}", group, partial(self._mark, n - 1), self._at_seen)
            for n in range(1, 11)
        )
        return (
            Command("recipe_open", "Go by a recipe…", "", group, self._recipe, lambda: bool(self.session.project.builds)),
            Command("recipe_save", "Save the procedure as a recipe…", "", group, self._save_recipe, self._at_steps),
            *marks,
        )

    def _at_steps(self) -> bool:
        return self.shown and self._page is not None and self._page.desk.view.page == "steps"

    def _at_seen(self) -> bool:
        return self.shown and self._page is not None and self._page.desk.view.page == "seen"

    @property
    def can_go_on(self) -> bool:
        """Whether steps are looked at."""
        return self._at_steps()

    def go_on(self) -> None:
        """Tick the step that is shown."""
        self.page().steps.card.go_on()

    def _mark(self, n: int) -> None:
        self.page().seen.say_number(n)

    def _recipe(self) -> None:
        self.show()
        self.page().steps.open_recipe()

    def _save_recipe(self) -> None:
        self.page().steps.save_recipe()

    def take(self, paths: Sequence[str]) -> Sequence[str]:
        """Take a picture while pictures are looked at."""
        if not self.shown or self._page is None or self._page.desk.view.page != "film":
            return paths
        mine = [one for one in paths if Path(one).suffix.lower() in (".png", ".jpg", ".jpeg")]
        if mine:
            self._page.film.film.open(Path(mine[0]))
        return [one for one in paths if one not in mine]

    def refresh(self) -> None:
        """Bring the page up to date."""
        self.page().refresh()

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        if self._page is not None:
            self._page.set_theme(theme)
