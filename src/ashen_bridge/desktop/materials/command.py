"""Opening the materials of a project."""

from __future__ import annotations

from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.desktop.state.commands import Command


def command(room: Room) -> Command:
    """Return the command that opens them."""

    def act() -> None:
        from ashen_bridge.desktop.materials.dialog import MaterialsDialog

        MaterialsDialog(room.session, room.theme(), room.asker, room.over).show()

    return Command("materials", "Materials…", "Ctrl+M", "Device", act)
