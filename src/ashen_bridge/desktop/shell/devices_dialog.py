"""A folder of devices as a list: how each stands, what is nearest to its limit, when it is due; opens any."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QHeaderView, QPushButton, QTreeWidget, QTreeWidgetItem, QVBoxLayout

from ashen_bridge.desktop.parts.dialog import WorkDialog
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.files.atomic import write_atomically
from ashen_bridge.model.errors import AshenError
from ashen_bridge.planning import errands
from ashen_bridge.planning.devices import DeviceRow, device_files
from ashen_bridge.planning.service import calendar
from ashen_bridge.words.numbers import number

_PATH = Qt.ItemDataRole.UserRole
_HEADS = ("Device", "How it stands", "Last verdict", "Nearest to its limit", "Next service")
_WIDE = {0: 190, 1: 190, 3: 170, 4: 170}  # [px] at the usual text size
_OVERDUE, _TIGHT_K = "due now", 3.0


def _more(before: tuple[DeviceRow, ...] | None, row: DeviceRow | None) -> tuple[DeviceRow, ...]:
    return (*(before or ()), *(() if row is None else (row,)))


class DevicesDialog(WorkDialog):
    """The list. `open_file` is called with the file of the one that is chosen."""

    def __init__(self, room: Room, folder: str, open_file: Callable[[str], object]) -> None:
        super().__init__("Devices", room.over)
        self.room, self.folder, self._open = room, folder, open_file
        self.rows: Question[tuple[DeviceRow, ...]] = Question(room.session.questions, "Devices of a folder", self._asked, _more)
        self.said = Words()
        self.said.setObjectName("quiet")
        self.said.setWordWrap(True)
        self.list = QTreeWidget()
        self.list.setAccessibleName("Devices of the folder")
        self.list.setRootIsDecorated(False)
        self.list.setAlternatingRowColors(False)
        self.list.setHeaderLabels(list(_HEADS))
        self.list.setWordWrap(True)
        self.list.itemActivated.connect(lambda item: self._open(str(item.data(0, _PATH))))
        header = self.list.header()
        if header is not None:
            header.setStretchLastSection(False)
            header.setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
            for at, wide in _WIDE.items():
                header.resizeSection(at, round(room.theme().px(wide)))
        self.show_it = QPushButton("Open")
        self.show_it.clicked.connect(self.open_chosen)
        self.other = QPushButton("Another folder…")
        self.other.clicked.connect(self.choose_folder)
        self.dates = QPushButton("Save the dates…")
        self.dates.setToolTip("A calendar file with the day on which each device is due with an even chance")
        self.dates.clicked.connect(self.save_dates)
        foot = QHBoxLayout()
        foot.addWidget(self.other)
        foot.addWidget(self.dates)
        foot.addStretch(1)
        foot.addWidget(self.show_it)
        column = QVBoxLayout(self)
        column.addWidget(self.said)
        column.addWidget(self.list, 1)
        column.addLayout(foot)
        self.resize(1060, 460)
        self.rows.changed.connect(self.refresh)
        self.refresh()
        self.rows.ask()

    def _asked(self) -> Asked | None:
        try:
            files = [(str(one), one.stat().st_mtime_ns) for one in device_files(Path(self.folder))]
        except OSError:
            return None
        return Asked(key_of(self.folder, files), errands.folder, (self.folder,))

    def refresh(self) -> None:
        """Take over what is known so far."""
        found = self.rows.value or ()
        waits = standing(self.rows, "Looking at every device…") if self.rows.possible else "This folder cannot be read."
        told = f"{len(found)} device{'s' if len(found) != 1 else ''} in {self.folder}"
        none = "There are no device files (.ashb or .json) in this folder." if self.rows.state == "current" and not found else ""
        self.said.setText(waits or none or told)
        chosen = "" if self.rows.running else self._chosen()
        self.list.clear()
        for row in sorted(found, key=_urgency):
            self._add(row, chosen)
        if self.list.currentItem() is None and self.list.topLevelItemCount():
            self.list.setCurrentItem(self.list.topLevelItem(0))
        self.show_it.setEnabled(bool(found))
        self.dates.setEnabled(any(row.due is not None for row in found))

    def _add(self, row: DeviceRow, chosen: str) -> None:
        theme = self.room.theme()
        margin = "" if row.margin_k is None else f"{row.worst}: {number(row.margin_k, 1)} K"
        due = "" if row.due is None else _when(row)
        item = QTreeWidgetItem([row.name, row.problem or row.state, row.verdict, margin, due])
        item.setData(0, _PATH, str(row.path))
        item.setToolTip(0, f"{row.name}\n{row.path}")
        item.setToolTip(1, row.problem or row.state)
        item.setToolTip(2, row.verdict)
        item.setToolTip(4, row.due.words if row.due is not None else "")
        if row.problem:
            item.setForeground(1, theme.colour("bad"))
        if row.margin_k is not None:
            role = "bad" if row.margin_k < 0 else "warn" if row.margin_k < _TIGHT_K else "good"
            item.setForeground(3, theme.colour(role))
        self.list.addTopLevelItem(item)
        if str(row.path) == chosen:
            self.list.setCurrentItem(item)

    def _chosen(self) -> str:
        item = self.list.currentItem()
        return str(item.data(0, _PATH)) if item is not None else ""

    # ---- what is done

    def open_chosen(self) -> None:
        """Open the device that is chosen."""
        if self._chosen():
            self._open(self._chosen())

    def choose_folder(self) -> None:
        """Look at another folder."""
        folder = self.room.asker.folder("Devices of a folder", self.folder)
        if folder:
            self.folder = folder
            self.rows.ask()
            self.refresh()

    def save_dates(self) -> None:
        """Save a calendar of the service dates."""
        name = self.room.asker.save_file("Save the dates", f"{self.folder}/service.ics", "Calendar (*.ics)")
        if not name:
            return
        dues = [(row.name, row.due) for row in self.rows.value or () if row.due is not None]
        try:
            write_atomically(Path(name), calendar(dues, date.today()))
        except AshenError as error:
            self.room.notice.say(str(error))
        else:
            self.room.notice.say(f"The dates are in {Path(name).name}.")


def _urgency(row: DeviceRow) -> tuple[float, str]:
    """What is worst comes first; what cannot be read before all."""
    if row.problem:
        return -1e3, row.name.casefold()
    return (1e3 if row.margin_k is None else row.margin_k), row.name.casefold()


def _when(row: DeviceRow) -> str:
    """When a device is due: the year and month of an even chance, and the first of ten."""
    assert row.due is not None  # the caller has looked
    if row.due.today_k <= 0:
        return _OVERDUE
    day, early = row.due.on(date.today()), row.due.on(date.today(), 0)
    said = "not within ten years" if day is None else f"{day:%Y-%m}"
    return f"{said} (10 %: {early:%Y-%m})" if early is not None else said
