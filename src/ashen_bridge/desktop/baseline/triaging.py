"""What logs say by themselves, before there is a device."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from ashen_bridge.desktop.parts.workspace import Room

if TYPE_CHECKING:
    from ashen_bridge.logs.remarks import Triage

LOGS = "Sensor log (*.csv *.txt *.tsv *.log);;Every file (*)"


class Triaging:
    """Asks for logs and shows what they tell."""

    def __init__(self, room: Room) -> None:
        self._room = room

    def ask(self) -> None:
        """Ask for a log and say what it tells by itself."""
        name = self._room.asker.open_file("What does a log say?", str(Path.home()), LOGS)
        if name:
            self.of([name])

    def of(self, paths: list[str]) -> None:
        """Say what the logs of one test tell by themselves; what is none is said in a sentence."""

        def take(found: Triage | None, problem: str) -> None:
            if found is None:
                self._room.notice.say(problem)
            else:
                self._show([Path(path).name for path in paths], found)

        self._room.session.runs.triage(tuple(paths), take)

    def _show(self, names: list[str], found: Triage) -> None:
        from ashen_bridge.desktop.baseline.triage_sheet import TriageSheet

        sheet = TriageSheet(names, found, self._room.theme(), self._room.over)
        sheet.wanted.connect(self._room.session.device_wanted)
        sheet.show()
