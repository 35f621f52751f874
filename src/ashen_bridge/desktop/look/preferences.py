"""What people really differ in, as one table of settings. Kept in the user's settings folder."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Generic, Literal, TypeVar, get_args

import platformdirs
from PyQt6.QtCore import QByteArray, QSettings

Look = Literal["light", "dark", "system"]
LOOKS: tuple[Look, ...] = get_args(Look)
TEXT_PERCENT = (80, 90, 100, 110, 125, 140, 160)
_FILES = 40
T = TypeVar("T", bound=str | int)


class Setting(Generic[T]):
    """One setting: its name in the file, what it is at first, and what it may be; anything else there counts as not set."""

    def __init__(self, name: str, at_first: T, choices: tuple[T, ...]) -> None:
        self.name, self.at_first, self.choices = name, at_first, choices

    def __get__(self, owner: Preferences, kind: type | None = None) -> T:
        found = str(owner.file.value(self.name, self.at_first))
        return next((choice for choice in self.choices if str(choice) == found), self.at_first)

    def __set__(self, owner: Preferences, value: T) -> None:
        owner.file.setValue(self.name, value)


class Preferences:
    """All settings, in one readable file; and how windows and splitters were laid out."""

    look = Setting[Look]("look", "system", LOOKS)
    text_percent = Setting[int]("text_percent", 100, TEXT_PERCENT)

    def __init__(self, path: Path | None = None) -> None:
        where = path or Path(platformdirs.user_config_dir("ashen-bridge")) / "settings.ini"
        self.file = QSettings(str(where), QSettings.Format.IniFormat)

    @property
    def interview(self) -> str:
        """Answers about a new device that were kept when the questions were left; empty if none were."""
        return str(self.file.value("interview", ""))

    @interview.setter
    def interview(self, kept: str) -> None:
        self.file.setValue("interview", kept)

    @property
    def folder(self) -> str:
        """The folder that a file was last opened from or saved to; empty before the first."""
        return str(self.file.value("folder", ""))

    @folder.setter
    def folder(self, folder: str) -> None:
        self.file.setValue("folder", folder)

    def leave_at(self, path: Path, build: str, point: str) -> None:
        """Remember which build and operating point of a file were looked at last, of the last so many files."""
        known = {name: where for name, where in self._left().items() if name != str(path.absolute())}
        newest = list(known.items())[-(_FILES - 1) :]
        self.file.setValue("left_at", json.dumps({**dict(newest), str(path.absolute()): [build, point]}))

    def left_at(self, path: Path) -> tuple[str, str]:
        """Return the build and operating point of a file that were looked at last; empty if it was never open."""
        build, point = self._left().get(str(path.absolute()), ("", ""))
        return str(build), str(point)

    def _left(self) -> dict[str, list[str]]:
        try:
            found = json.loads(str(self.file.value("left_at", "{}")))
        except ValueError:
            return {}
        listed = found.items() if isinstance(found, dict) else ()
        return {name: where for name, where in listed if isinstance(where, list) and len(where) == 2}

    def keep_layout(self, name: str, state: QByteArray) -> None:
        """Remember how a window or splitter was laid out."""
        self.file.setValue(f"layout/{name}", state)

    def layout(self, name: str) -> QByteArray | None:
        """Return a remembered layout."""
        found = self.file.value(f"layout/{name}")
        return found if isinstance(found, QByteArray) else None

    def save(self) -> None:
        """Write everything to disk now."""
        self.file.sync()
