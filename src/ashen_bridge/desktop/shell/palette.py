"""The palette: type a few letters to find any command, part, build or recent file."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHeaderView, QLineEdit, QTreeWidget, QTreeWidgetItem, QWidget

from ashen_bridge.desktop.parts.sheet import Sheet
from ashen_bridge.desktop.state.commands import Commands, shown_keys
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing.targets import targets
from ashen_bridge.files.recent import recent_files

_MOST = 60


@dataclass(frozen=True)
class Entry:
    """One thing that can be found: what it is called, what it is, its keys, what choosing it does."""

    words: str
    kind: str
    keys: str
    act: Callable[[], object]


def score(typed: str, words: str) -> int | None:
    """Return how badly `words` fit what was typed (0 is best), None if they do not: its letters must occur in order.

    >>> score("mat", "Materials…"), score("bgr", "Bigger text") is not None, score("xq", "Save")
    (0, True, None)
    """
    text, wanted = words.lower(), typed.lower().strip()
    if not wanted:
        return 0
    if all(part in text for part in wanted.split()):
        return min(text.find(part) for part in wanted.split())
    at, cost = 0, 50
    for letter in wanted.replace(" ", ""):
        found = text.find(letter, at)
        if found < 0:
            return None
        cost += found - at
        at = found + 1
    return cost


class Palette(Sheet):
    """Everything by name."""

    def __init__(self, over: QWidget, entries: list[Entry]) -> None:
        super().__init__(over, (0.5, 0.62), "Find a command, part or file")
        self._entries = entries
        self.line = QLineEdit()
        self.line.setPlaceholderText("Type what you want to do, or the name of a part, build or file")
        self.line.setAccessibleName("What to find")
        self.line.textChanged.connect(self._fill)
        self.line.installEventFilter(self)
        self.found = QTreeWidget()
        self.found.setHeaderHidden(True)
        self.found.setRootIsDecorated(False)
        self.found.setColumnCount(3)
        self.found.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        header = self.found.header()
        if header is not None:
            header.setStretchLastSection(False)
            for column, mode in enumerate((QHeaderView.ResizeMode.Stretch, *[QHeaderView.ResizeMode.ResizeToContents] * 2)):
                header.setSectionResizeMode(column, mode)
        self.found.setAccessibleName("Found")
        self.found.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.found.itemClicked.connect(lambda item: self._run(item))
        self.column.addWidget(self.line)
        self.column.addWidget(self.found, 1)
        self.setFocusProxy(self.line)
        self._fill("")

    def _fill(self, typed: str) -> None:
        rated = [(score(typed, entry.words), n, entry) for n, entry in enumerate(self._entries)]
        fitting = sorted((rate, n, entry) for rate, n, entry in rated if rate is not None)
        self.found.clear()
        for _, _, entry in fitting[:_MOST]:
            item = QTreeWidgetItem([entry.words, entry.kind, entry.keys])
            item.setData(0, Qt.ItemDataRole.UserRole, entry)
            item.setTextAlignment(2, Qt.AlignmentFlag.AlignRight)
            self.found.addTopLevelItem(item)
        self.found.setCurrentItem(self.found.topLevelItem(0))

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Arrows move in the list while typing goes on; Enter does what is marked."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: 10, Qt.Key.Key_PageUp: -10}.get(
                Qt.Key(event.key())
            )
            if step is not None:
                at = self.found.indexOfTopLevelItem(self.found.currentItem()) + step
                self.found.setCurrentItem(self.found.topLevelItem(min(max(at, 0), self.found.topLevelItemCount() - 1)))
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._run(self.found.currentItem())
                return True
        return super().eventFilter(watched, event)

    def _run(self, item: QTreeWidgetItem | None) -> None:
        entry = item.data(0, Qt.ItemDataRole.UserRole) if item is not None else None
        self.close()
        if isinstance(entry, Entry):
            entry.act()


def entries(
    session: Session, commands: Commands, go: Callable[[str, str], object], open_file: Callable[[str], object]
) -> list[Entry]:
    """Return everything there is to find. `go` gets the path and id of a part, `open_file` the name of a file."""
    found = [
        Entry(one.words.rstrip("…"), one.group, shown_keys(commands[one.name]), commands[one.name].trigger)
        for one in commands.listed
        if commands[one.name].isEnabled() and one.name != "palette"
    ]
    shown = ("component", "plate", "substrate", "fastener")
    found += [
        Entry(target.label, target.kind.capitalize(), "", partial(go, target.path, target.id))
        for target in targets(session.project, session.view.build)
        if target.kind in shown
    ]
    for build in session.project.builds:
        found.append(Entry(build.label, "Build", "", partial(_look, session, build=build.id)))
    for point in session.project.points:
        found.append(Entry(point.label, "Operating point", "", partial(_look, session, point=point.id)))
    for path in recent_files():
        found.append(Entry(path.name, "Recent file", _shortened(path), partial(open_file, str(path))))
    return found


def _look(session: Session, build: str = "", point: str = "") -> None:
    view = session.view
    session.look(replace(view, build=build or view.build, point=point or view.point))


def _shortened(path: Path) -> str:
    home = str(Path.home())
    text = str(path.parent)
    return text.replace(home, "~", 1) if text.startswith(home) else text
