"""What a workspace is: one step of the job, with its page, its commands, its guide page and the files it takes."""

from __future__ import annotations

import sys
from abc import ABCMeta, abstractmethod
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from importlib import resources

from PyQt6.QtCore import QByteArray, QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.asking import Asker
from ashen_bridge.desktop.parts.notice import Notice
from ashen_bridge.desktop.state.commands import Command, Commands
from ashen_bridge.desktop.state.session import Session


@dataclass(frozen=True)
class Spec:
    """A workspace in words: its name in code and on the rail, what it is for, its keys and symbol.

    `findings`: whether what is wrong with the build is listed below; `runs`: whether measured values stand beside predicted ones;
    `takes_anything`: it takes dropped files that no other one takes.
    """

    name: str
    words: str
    purpose: str
    keys: str
    symbol: str
    findings: bool = False
    runs: bool = False
    takes_anything: bool = False


@dataclass(frozen=True)
class Room:
    """What a window gives its workspaces: what they share, how to ask and tell, and where dialogs are shown over."""

    session: Session
    commands: Commands
    asker: Asker
    notice: Notice
    over: QWidget
    theme: Callable[[], Theme]
    folder: Callable[[], str]


class _Meta(type(QObject), ABCMeta):  # type: ignore[misc]
    """Lets a Qt object have abstract methods."""


class Workspace(QObject, metaclass=_Meta):
    """One workspace of one window. Light until its page is first wanted; the shell walks a list of these classes.

    `changed` tells that what can be done may have changed.
    """

    spec: Spec
    changed = pyqtSignal()

    def __init__(self, room: Room) -> None:
        super().__init__(room.over)
        self.room = room
        self.session = room.session

    @property
    def shown(self) -> bool:
        """Whether it is the one that is looked at."""
        return self.session.view.workspace == self.spec.name

    def show(self) -> None:
        """Be the one that is looked at."""
        self.session.look(replace(self.session.view, workspace=self.spec.name))

    @abstractmethod
    def page(self) -> QWidget:
        """Return its page, made when it is first wanted."""

    def commands(self) -> tuple[Command, ...]:
        """Return what it can be told to do; asked once, before its page is made."""
        return ()

    def guide(self) -> str:
        """Return its guide page in Markdown: `guide.md` beside its class."""
        package = sys.modules[type(self).__module__].__package__ or ""
        return resources.files(package).joinpath("guide.md").read_text(encoding="utf-8")

    def take(self, paths: Sequence[str]) -> Sequence[str]:
        """Do the expected thing with dropped files that are its own; returns the others."""
        return paths

    def refresh(self) -> None:
        """Bring the page up to date; called when it comes to be looked at."""

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme, if the page is there."""

    @property
    def can_go_on(self) -> bool:
        """Whether there is a step to be ticked: one key goes on, wherever steps are worked by."""
        return False

    def go_on(self) -> None:
        """Tick the step that is shown, and show the next."""

    def may_leave(self) -> bool:
        """Ask about work that closing the window would lose; returns whether it may close."""
        return True

    def leave(self) -> None:
        """The window goes: listen to nothing any more."""

    def layout_state(self) -> QByteArray | None:
        """Return how the page is laid out, to be remembered."""
        return None

    def restore_layout(self, state: QByteArray) -> None:
        """Lay the page out as it was remembered."""
