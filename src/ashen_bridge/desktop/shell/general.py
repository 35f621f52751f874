"""What a window can be told to do whatever workspace is shown: files, undo, looks, finding things, help."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtGui import QUndoStack

from ashen_bridge.desktop.materials import command as materials
from ashen_bridge.desktop.parts.workspace import Room, Workspace
from ashen_bridge.desktop.points import command as points
from ashen_bridge.desktop.shell.files import FileDesk
from ashen_bridge.desktop.shell.guide import GuideSheet, KeysSheet
from ashen_bridge.desktop.shell.palette import Palette, entries
from ashen_bridge.desktop.shell.program import Program
from ashen_bridge.desktop.shell.undo_list import UndoList
from ashen_bridge.desktop.state.commands import Command
from ashen_bridge.desktop.state.document import Document
from ashen_bridge.files.demos import PREFIX, demo_names
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    from collections.abc import Mapping

EMPTY = {
    "name": "",
    "builds": [{"id": "as_found", "name": "As found"}],
    "points": [{"id": "load", "name": "Full load"}],
    "main_build": "as_found",
}


class General:
    """The commands of the shell itself."""

    def __init__(self, room: Room, program: Program, files: FileDesk, workspaces: Mapping[str, Workspace]) -> None:
        self.room, self.program, self.files, self.workspaces = room, program, files, workspaces
        self.session = room.session
        room.session.device_wanted.connect(self.start_guided)

    def commands(self) -> tuple[Command, ...]:
        """Return all of them, those of looks and help last."""
        files = self.files
        return (
            Command("new_guided", "New device from questions…", "Ctrl+N", "File", self.start_guided),
            Command("new_empty", "New empty project", "Ctrl+Shift+N", "File", self.new_empty),
            Command("open", "Open…", "Ctrl+O", "File", self._open),
            Command("open_window", "Open in a new window…", "Ctrl+Shift+O", "File", self._open_window),
            *(
                Command(
                    f"open_{name}", f"Open the {name} demo in a new window", "", "File", partial(self.open_beside, PREFIX + name)
                )
                for name in demo_names()
            ),
            Command("devices", "Devices of a folder…", "Ctrl+Shift+D", "File", self.show_devices),
            Command("save", "Save", "Ctrl+S", "File", files.save),
            Command("save_as", "Save as…", "Ctrl+Shift+S", "File", files.save_as),
            Command("reload", "Load the file again from disk", "", "File", files.reload),
            Command("close", "Close the window", "Ctrl+W", "File", lambda: self.room.over.close()),
            Command("quit", "Quit", "Ctrl+Q", "File", self.program.quit),
            Command("undo", "Undo", "Ctrl+Z", "Change", self.undo, lambda: self._undos.canUndo()),
            Command("redo", "Redo", "Ctrl+Shift+Z", "Change", self.redo, lambda: self._undos.canRedo()),
            Command("undo_list", "List of what was done", "Ctrl+Alt+Z", "Change", self.show_undo_list),
            Command("history", "History of this file, and your name", "Ctrl+Alt+H", "File", self.show_history),
            materials.command(self.room),
            points.command(self.room),
            Command("step_done", "Step done, and on to the next", "Ctrl+Return", "Change", self.go_on, self._can_go_on),
            Command("cancel", "Call off the running work", "Ctrl+.", "Device", self.session.questions.cancel_all),
            *(Command(f"go_{name}", one.spec.purpose, one.spec.keys, "Look", one.show) for name, one in self.workspaces.items()),
        )

    def looks_and_help(self) -> tuple[Command, ...]:
        """Return what is the same in every program, listed after what the workspaces do."""
        program = self.program
        return (
            Command("theme", "Light or dark", "Ctrl+T", "Look", program.toggle_theme),
            Command("look_light", "Always light", "", "Look", lambda: program.set_look("light")),
            Command("look_dark", "Always dark", "", "Look", lambda: program.set_look("dark")),
            Command("look_system", "Light or dark as the system has it", "", "Look", lambda: program.set_look("system")),
            Command("text_bigger", "Bigger text", "Ctrl++", "Look", lambda: program.change_text(1)),
            Command("text_smaller", "Smaller text", "Ctrl+-", "Look", lambda: program.change_text(-1)),
            Command("text_usual", "Usual text size", "Ctrl+0", "Look", lambda: program.change_text(0)),
            Command("palette", "Find a command, part or file…", "Ctrl+K", "Help", self.show_palette),
            Command("guide", "Guide to this page", "F1", "Help", self.show_guide),
            Command("keys", "Overview of keys", "F2", "Help", lambda: KeysSheet(self.room.commands, self.room.over).show()),
        )

    def _can_go_on(self) -> bool:
        return any(one.shown and one.can_go_on for one in self.workspaces.values())

    def go_on(self) -> None:
        """Tick the step that is shown, in the workspace that is looked at."""
        for one in self.workspaces.values():
            if one.shown and one.can_go_on:
                one.go_on()

    # ---- undo

    @property
    def _undos(self) -> QUndoStack:
        return self.session.document.undo_stack

    def undo(self) -> None:
        """Take the last edit back."""
        self._undos.undo()

    def redo(self) -> None:
        """Make it again."""
        self._undos.redo()

    # ---- help

    def show_palette(self) -> None:
        """Let anything be found by its name."""
        Palette(self.room.over, entries(self.session, self.room.commands, self._go, self.open_beside)).show()

    def _go(self, path: str, body: str) -> None:
        """Show a part that was found by its name."""
        self.session.select(body)
        self.session.part_wanted.emit(path)

    def show_guide(self) -> None:
        """Show the guide page of the workspace that is looked at."""
        GuideSheet(self.workspaces[self.session.view.workspace].guide(), self.room.over).show()

    def show_undo_list(self) -> None:
        """Show everything that was done, by name."""
        UndoList(self.session.document.undo_stack, self.room.over).show()

    def show_history(self) -> None:
        """Show who did what when, as the file keeps it."""
        from ashen_bridge.desktop.shell.history_sheet import HistorySheet

        HistorySheet(self.room).show()

    # ---- new devices

    def start_guided(self, readings: dict[str, float] | None = None) -> None:
        """Start a device from questions, in this window or, if there is work in it, in a new one, from `readings` of a log."""
        from ashen_bridge.desktop.guided.dialog import GuidedDialog

        dialog = GuidedDialog(self.session, self.room.theme(), self.program.preferences, self.room.over)
        dialog.finished_project.connect(self._take_guided)
        dialog.start_from(readings or {})
        dialog.show()

    def _take_guided(self, project: Project) -> None:
        self._begin(Document(project, title=project.name, recovered=True), "assumptions")

    def new_empty(self) -> None:
        """Start with nothing but an empty build, ready to draw."""
        self._begin(Document(Project.parse(EMPTY), title="New project"), "edit_mode")

    def _begin(self, document: Document, first: str) -> None:
        """Show a new document and do a first thing with it; in a window of its own if there is work in this one."""
        if self.session.document.modified or self.session.document.path is not None:
            commands = self.program.show(document).commands
        else:
            self.files.replace(document)
            commands = self.room.commands
        commands["go_stack"].trigger()
        commands[first].trigger()

    # ---- files

    def _open(self) -> None:
        name = self.files.open_dialog()
        if name:
            self.open_here(name)

    def open_here(self, name: str) -> None:
        """Open a file in this window; one that is open in another comes to the front there."""
        if not self.program.to_front(name):
            self.files.open_path(name)

    def show_devices(self) -> None:
        """Show the devices of a folder as a list."""
        from ashen_bridge.desktop.shell.devices_dialog import DevicesDialog

        DevicesDialog(self.room, self.room.folder(), self.open_beside).show()

    def _open_window(self) -> None:
        name = self.files.open_dialog()
        if name:
            self.open_beside(name)

    def open_beside(self, name: str) -> None:
        """Open a file in a window of its own."""
        if self.program.to_front(name):
            return
        opened = self.files.read(name)
        if opened is not None:
            self.program.open(name, opened)
