"""Commands: everything a window can be told to do. Menus, palette, shortcuts and the overview of keys are read from them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QWidget


def always() -> bool:
    """Say that a command can be done at any time."""
    return True


@dataclass(frozen=True)
class Command:
    """One command, declared where it is done: name in code, words, keys, the group it is listed in, when it can be done."""

    name: str
    words: str
    keys: str
    group: str
    act: Callable[[], object]
    able: Callable[[], bool] = always


class Commands:
    """All commands of one window, each with its action."""

    def __init__(self, owner: QWidget) -> None:
        self._owner = owner
        self._actions: dict[str, QAction] = {}
        self.listed: tuple[Command, ...] = ()

    def add(self, *commands: Command) -> None:
        """Take commands in. `ValueError` for a name or keys that another one has."""
        for command in commands:
            taken = {one.keys for one in self.listed if one.keys} | self._actions.keys()
            if command.name in taken or command.keys in taken:
                raise ValueError(f"Two commands have the name or keys of '{command.name}' ({command.keys}).")
            self.listed += (command,)
            self._actions[command.name] = self._action(command)

    def _action(self, command: Command) -> QAction:
        action = QAction(command.words, self._owner)
        if command.keys:
            action.setShortcut(QKeySequence(command.keys))
        keys = f" ({shown_keys(action)})" if command.keys else ""
        action.setToolTip(f"{command.words.rstrip('…')}{keys}")
        action.triggered.connect(lambda _: command.act())
        self._owner.addAction(action)
        return action

    def __getitem__(self, name: str) -> QAction:
        return self._actions[name]

    def refresh(self) -> None:
        """Let only what can be done now be asked for."""
        for command in self.listed:
            self._actions[command.name].setEnabled(command.able())


def shown_keys(action: QAction) -> str:
    """Return an action's keys as people read them."""
    return action.shortcut().toString(QKeySequence.SequenceFormat.NativeText)
