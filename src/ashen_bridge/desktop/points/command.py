"""Opening the operating points of a project."""

from __future__ import annotations

from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.desktop.state.commands import Command


def command(room: Room) -> Command:
    """Return the command that opens them."""

    def act() -> None:
        from ashen_bridge.desktop.points.dialog import PointsDialog

        PointsDialog(room.session, room.asker, room.over).show()

    return Command("points", "Operating points…", "Ctrl+L", "Device", act)
