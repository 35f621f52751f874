"""The Stack workspace: what lies between the faces, and the device itself."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QByteArray

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.workspace import Room, Spec, Workspace
from ashen_bridge.desktop.stack.desk import OVERLAYS, Page, StackDesk
from ashen_bridge.desktop.stack.editing_desk import EditingDesk
from ashen_bridge.desktop.state.commands import Command
from ashen_bridge.editing.parts_list import add_parts, is_parts_table, read_parts
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.errors import AshenError

if TYPE_CHECKING:
    from ashen_bridge.desktop.stack.page import StackPage

_PICTURES = (".png", ".jpg", ".jpeg")
_WORDS = {
    "margins": "Show margins in the plan",
    "bond line": "Show bond lines in the plan",
    "pressure": "Show pressure in the plan",
    "temperature": "Show temperature in the plan",
    "bow": "Show how the board bends",
    "flux": "Show where heat passes into the plates",
}


class Stack(Workspace):
    """Plan, cut and layers of one build."""

    spec = Spec("stack", "Stack", "Stack: what lies between the faces", "F6", "stack", findings=True)

    def __init__(self, room: Room) -> None:
        super().__init__(room)
        self.desk = StackDesk(room.session)
        self.editing = EditingDesk(self.desk, room.asker)
        self._page: StackPage | None = None
        self.desk.changed.connect(self.changed)
        room.session.part_wanted.connect(self.show_part)

    def page(self) -> StackPage:
        """Return its page, made when it is first wanted."""
        if self._page is None:
            from ashen_bridge.desktop.stack.page import StackPage

            self._page = StackPage(self.desk, self.room.theme(), self.room.commands, self.room.asker)
            self._page.bar.placing_wanted.connect(self._page.place_photo)
        return self._page

    # ---- commands

    def commands(self) -> tuple[Command, ...]:
        """Return what is done to the device and how it is looked at; keys of the Stack do nothing where it is not seen."""
        desk = self.desk

        def here(name: str, words: str, keys: str, group: str, act: Callable[[], object]) -> Command:
            return Command(name, words, keys, group, act, lambda: self.shown)

        return (
            *self.editing.commands(lambda: self.shown),
            here("edit_mode", "Edit the device", "E", "Device", self.toggle_editing),
            Command("assumptions", "Assumptions", "Ctrl+I", "Device", partial(self.toggle_page, "assumptions")),
            Command("chance", "Chance of every limit", "Ctrl+J", "Device", partial(self.toggle_page, "chance")),
            here("thicker", "One stock step thicker", "+", "Device", partial(self._step, 1)),
            here("thinner", "One stock step thinner", "-", "Device", partial(self._step, -1)),
            here("group", "Whole group or one joint", "G", "Device", self._toggle_group),
            Command("photo", "Lay a photo under the plan…", "", "Device", self._ask_photo),
            Command("parts_table", "Parts from a table…", "", "Device", self._ask_parts),
            *(
                here(f"show_{name.replace(' ', '_')}", _WORDS[name], str(n), "Look", partial(self._show_overlay, n - 1))
                for n, name in enumerate(OVERLAYS, start=1)
            ),
            here("time", "Temperatures over time, or the cut", "T", "Look", self._toggle_time),
            here("flip", "Turn the board over", "F", "Look", lambda: desk.look(replace(desk.view, side=_other(desk.view.side)))),
            here("turn_cut", "Turn the cut line", "X", "Look", lambda: self.page().plan.turn_cut()),
            here("true_heights", "Heights true, or legible", "H", "Look", self._toggle_heights),
            here("fit", "Show the whole board", "Home", "Look", lambda: self.page().plan.fit()),
        )

    def _show_overlay(self, at: int) -> None:
        self.desk.look(replace(self.desk.view, overlay=OVERLAYS[at]))

    def _toggle_time(self) -> None:
        view = self.desk.view
        self.desk.look(replace(view, lower="cut" if view.lower == "time" else "time"))

    def _toggle_heights(self) -> None:
        self.desk.look(replace(self.desk.view, true_heights=not self.desk.view.true_heights))

    def _toggle_group(self) -> None:
        view = self.session.view
        self.session.look(replace(view, whole_group=not view.whole_group))

    def _step(self, by: int) -> None:
        self.page().panel.step_thickness(by)

    def toggle_editing(self) -> None:
        """Edit the device in plan and elevation, or only look at it."""
        view = self.desk.view
        editing = not view.editing
        page: Page = "part" if editing else "joint" if view.page == "part" else view.page
        self.desk.look(replace(view, editing=editing, tool="choose", page=page))
        self.page().plan.setFocus()

    def toggle_page(self, page: Page) -> None:
        """Show a page beside the plan, or the joint again."""
        view = self.desk.view
        self.desk.look(replace(view, page="joint" if view.page == page else page))
        self.show()

    # ---- coming from elsewhere

    def show_part(self, path: str) -> None:
        """Show a part that was found by its path; without one what is selected, with its figures."""
        if not path:
            self.desk.look(replace(self.desk.view, page="joint"))
        self.show()
        if path and self.desk.view.editing:
            self.desk.choose(path)
        self.page().plan.setFocus()

    def start_editing(self) -> None:
        """Show the device as it is edited."""
        self.desk.look(replace(self.desk.view, editing=True, page="part"))

    def take(self, paths: Sequence[str]) -> Sequence[str]:
        """Lay dropped pictures under the plan, and put the parts of dropped tables on the board."""
        pictures = [path for path in paths if Path(path).suffix.lower() in _PICTURES]
        for path in pictures:
            self.lay_photo(path)
        tables = [path for path in paths if is_parts_table(Path(path))]
        for path in tables:
            self.import_parts(Path(path))
        return [path for path in paths if path not in pictures and path not in tables]

    def import_parts(self, path: Path) -> None:
        """Put the parts of a table on the board, in one edit."""
        session = self.session
        try:
            made = add_parts(session.project, session.view.build or None, read_parts(path.read_text("utf-8")))
            wrong = session.attempt(made)
        except (AshenError, OSError, UnicodeDecodeError) as error:
            wrong = str(error)
        if wrong:
            self.room.asker.tell(f"“{path.name}” was not taken", wrong)
        else:
            self.show()
            self.room.notice.say(f"{made.name}. Undo takes them out again.")

    def _ask_parts(self) -> None:
        name = self.room.asker.open_file("Parts from a table", self.room.folder(), "Table (*.csv)")
        if name:
            self.import_parts(Path(name))

    def _ask_photo(self) -> None:
        name = self.room.asker.open_file("Lay a photo under the plan", self.room.folder(), "Picture (*.png *.jpg *.jpeg)")
        if name:
            self.lay_photo(name)

    def lay_photo(self, name: str) -> None:
        """Lay a picture under the side that is looked at and ask for its two known points."""
        self.show()
        self.start_editing()
        if self.editing.lay_photo(Path(name)):
            self.page().place_photo()

    # ---- the page

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        if self._page is not None:
            self._page.set_theme(theme)

    def layout_state(self) -> QByteArray | None:
        """Return how plan and elevation share the page."""
        return self.page().split.saveState()

    def restore_layout(self, state: QByteArray) -> None:
        """Let them share it as they did."""
        self.page().split.restoreState(state)


def _other(side: Side) -> Side:
    return Side.REAR if side is Side.FRONT else Side.FRONT
