"""What was done to this file, by day: who did what when, as far as it is kept; and the name that stands there from now on."""

from __future__ import annotations

from datetime import date
from pathlib import Path

from PyQt6.QtWidgets import QHBoxLayout, QHeaderView, QPushButton, QTreeWidget, QTreeWidgetItem

from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.sheet import Sheet
from ashen_bridge.desktop.parts.text_fields import WordsField
from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.editing.history import by_day
from ashen_bridge.files.atomic import write_atomically
from ashen_bridge.files.everything import history_csv
from ashen_bridge.files.who import set_who, who
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.history import Note

_OPEN_DAYS = 3


class HistorySheet(Sheet):
    """The history of the open file, what is not saved yet included; the day noted last comes first."""

    def __init__(self, room: Room) -> None:
        super().__init__(room.over, (0.56, 0.72), "History of this file")
        self.room = room
        title = Words("History of this file")
        title.setObjectName("title")
        self.name = WordsField("Your name", self._named, most=80)
        self.name.setPlaceholderText("none")
        self.name.setToolTip("Stands beside what you do from now on, in every file; kept on this computer only. Empty: no name.")
        self.name.show_words(who())
        self.said = Words()
        self.said.setObjectName("quiet")
        self.said.setWordWrap(True)
        self.tree = QTreeWidget()
        self.tree.setAccessibleName("What was done, by day")
        self.tree.setHeaderLabels(["When", "What", "Who"])
        self.tree.setRootIsDecorated(True)
        header = self.tree.header()
        if header is not None:
            header.setStretchLastSection(False)
            header.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
            header.resizeSection(0, round(room.theme().px(150)))
            header.resizeSection(2, round(room.theme().px(140)))
        self.export = QPushButton("Save as a table…")
        self.export.clicked.connect(self.save_table)
        top = QHBoxLayout()
        top.addWidget(title, 1)
        label = Words("Your name")
        label.setObjectName("quiet")
        top.addWidget(label)
        self.name.setFixedWidth(round(room.theme().px(200)))
        top.addWidget(self.name)
        foot = QHBoxLayout()
        foot.addWidget(self.said, 1)
        foot.addWidget(self.export)
        self.column.addLayout(top)
        self.column.addWidget(self.tree, 1)
        self.column.addLayout(foot)
        self.setFocusProxy(self.tree)
        self.refresh()

    @property
    def _notes(self) -> tuple[Note, ...]:
        return self.room.session.document.history()

    def refresh(self) -> None:
        """Show the notes as they are now."""
        notes = self._notes
        self.tree.clear()
        for n, (day, some) in enumerate(by_day(notes)):
            names = ", ".join(dict.fromkeys(one.who for one in some if one.who))
            top = QTreeWidgetItem([_day(day), _count(some), names])
            for one in reversed(some):
                often = f"  × {one.times}" if one.times > 1 else ""
                line = QTreeWidgetItem([one.at[11:], f"{one.what}{often}", one.who])
                line.setToolTip(1, one.what)
                top.addChild(line)
            self.tree.addTopLevelItem(top)
            top.setExpanded(n < _OPEN_DAYS)
        unsaved = len(notes) != len(self.room.session.document.project.history) or self.room.session.document.modified
        kept = "Kept in the file when it is saved." if unsaved else "Kept in the file."
        self.said.setText(kept if notes else "Nothing was done to this file yet.")
        self.export.setEnabled(bool(notes))

    def _named(self, name: str) -> None:
        try:
            set_who(name)
        except AshenError as error:
            self.room.notice.say(str(error))
        self.refresh()

    def save_table(self) -> None:
        """Save the history as CSV."""
        name = self.room.asker.save_file("Save the history", str(Path(self.room.folder()) / "history.csv"), "Table (*.csv)")
        if not name:
            return
        try:
            write_atomically(Path(name), history_csv(self._notes))
        except AshenError as error:
            self.room.notice.say(str(error))
        else:
            self.room.notice.say(f"The history is in {Path(name).name}.")


def _day(day: str) -> str:
    try:
        return f"{date.fromisoformat(day):%a %Y-%m-%d}"
    except ValueError:
        return day


def _count(some: list[Note]) -> str:
    edits = sum(one.times for one in some if one.kind in ("edit", "undone"))
    said = [f"{edits} change{'s' if edits != 1 else ''}"] if edits else []
    for kind, word in (("build", "build"), ("run", "run"), ("reading", "reading"), ("step", "step")):
        count = sum(one.times for one in some if one.kind == kind)
        said += [f"{count} {word}{'s' if count != 1 else ''}"] if count else []
    return ", ".join(said) or f"{len(some)} noted"
