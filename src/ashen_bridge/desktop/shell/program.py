"""What a window knows of the program around it."""

from __future__ import annotations

from typing import Protocol

from PyQt6.QtCore import pyqtBoundSignal

from ashen_bridge.desktop.look.preferences import Look, Preferences
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.state.commands import Commands
from ashen_bridge.desktop.state.document import Document
from ashen_bridge.files.archive import Opened


class Shown(Protocol):
    """A window that the program shows."""

    commands: Commands


class Program(Protocol):
    """All windows and what they share: the look, the text size, the settings."""

    theme: Theme
    preferences: Preferences

    @property
    def theme_changed(self) -> pyqtBoundSignal:
        """Tells of another look or text size."""

    def open(self, where: str, content: Opened) -> Shown:
        """Show a file or demo in a window of its own."""

    def to_front(self, where: str) -> bool:
        """Bring the window to the front in which a file is open; returns whether there is one."""

    def show(self, document: Document, extras: dict[str, bytes] | None = None) -> Shown:
        """Show a document in a new window."""

    def quit(self) -> None:
        """Close every window, asking where there is unsaved work."""

    def set_look(self, look: Look) -> None:
        """Choose light, dark, or as the system has it."""

    def toggle_theme(self) -> None:
        """Change between light and dark."""

    def change_text(self, by: int) -> None:
        """Make all text one size bigger or smaller; 0 is the usual size."""
