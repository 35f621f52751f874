"""What people really differ in: light or dark, text size, and where the window was. Kept in the user's settings folder."""

from __future__ import annotations

from pathlib import Path
from typing import Literal, cast, get_args

import platformdirs
from PyQt6.QtCore import QByteArray, QSettings

Look = Literal["light", "dark", "system"]
LOOKS: tuple[Look, ...] = get_args(Look)
TEXT_PERCENT = (80, 90, 100, 110, 125, 140, 160)


class Preferences:
    """Settings in one readable file; a value that makes no sense there counts as not set."""

    def __init__(self, path: Path | None = None) -> None:
        where = path or Path(platformdirs.user_config_dir("ashen-bridge")) / "settings.ini"
        self._settings = QSettings(str(where), QSettings.Format.IniFormat)

    @property
    def look(self) -> Look:
        """Light, dark, or as the system has it."""
        found = self._settings.value("look", "system")
        return cast(Look, found) if found in LOOKS else "system"

    @look.setter
    def look(self, value: Look) -> None:
        self._settings.setValue("look", value)

    @property
    def text_percent(self) -> int:
        """Text size, 100 being the usual one."""
        found = str(self._settings.value("text_percent", "100"))
        return int(found) if found.isdigit() and int(found) in TEXT_PERCENT else 100

    @text_percent.setter
    def text_percent(self, value: int) -> None:
        self._settings.setValue("text_percent", value)

    def keep_layout(self, name: str, state: QByteArray) -> None:
        """Remember how a window or splitter was laid out."""
        self._settings.setValue(f"layout/{name}", state)

    def layout(self, name: str) -> QByteArray | None:
        """Return a remembered layout."""
        found = self._settings.value(f"layout/{name}")
        return found if isinstance(found, QByteArray) else None

    def save(self) -> None:
        """Write everything to disk now."""
        self._settings.sync()
