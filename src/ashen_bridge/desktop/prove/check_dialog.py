"""The quick check: some minutes of a load, what was read beside what the record says, and whether to open."""

from __future__ import annotations

from datetime import datetime
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from ashen_bridge.changes.edit import Edit
from ashen_bridge.desktop.parts.dialog import WorkDialog
from ashen_bridge.desktop.parts.fields import NumberField, Wanted
from ashen_bridge.desktop.parts.keep_button import KeepButton
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.editing.keeping import keep_check
from ashen_bridge.model.errors import AshenError
from ashen_bridge.planning import errands
from ashen_bridge.planning.checked import Checked, QuickCheck
from ashen_bridge.words.numbers import number

_MOST_C = 250.0
_COLUMNS = ("Sensor", "by the record", "opened from", "read", "over it")


class CheckDialog(WorkDialog):
    """One check of the build at the operating point that are looked at when it is opened."""

    def __init__(self, room: Room) -> None:
        super().__init__("Quick check", room.over)
        self.room, self.session = room, room.session
        view = room.session.view
        self._at = (view.build, view.point)
        self._minutes = 10.0
        self._air: float | None = None
        self.read: dict[str, float] = {}
        self.check: Question[QuickCheck] = Question(self.session.questions, "Quick check", self._asked)
        self.said = Words()
        self.said.setObjectName("question")
        self.said.setWordWrap(True)
        self.state = Words()
        self.state.setObjectName("quiet")
        self.state.setWordWrap(True)
        caution = Words("Stay with it while it runs. A smell, a fan that stands or a sensor at its limit: power off at once.")
        caution.setObjectName("caution")
        caution.setWordWrap(True)
        self.minutes = NumberField(Wanted("Minutes of load", "min", 0.5, 1440.0), self._set_minutes)
        self.air = NumberField(Wanted("Air of the room", "°C", -60.0, 90.0), self._set_air)
        times = QHBoxLayout()
        for words, field in (("after minutes of load", self.minutes), ("air of the room [°C]", self.air)):
            label = Words(words)
            label.setObjectName("quiet")
            times.addWidget(label)
            field.setMaximumWidth(round(room.theme().px(90)))
            times.addWidget(field)
        times.addStretch(1)
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(18)
        self.grid.setVerticalSpacing(4)
        inside = QWidget()
        inside.setLayout(self.grid)
        area = QScrollArea()
        area.setWidget(inside)
        area.setWidgetResizable(True)
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.fields: dict[str, NumberField] = {}
        self._over: dict[str, Words] = {}
        self.keep = KeepButton(self.session, self._keeping)
        foot = QHBoxLayout()
        foot.addWidget(self.state, 1)
        foot.addWidget(self.keep)
        column = QVBoxLayout(self)
        column.addWidget(self.said)
        column.addWidget(caution)
        column.addLayout(times)
        column.addWidget(area, 1)
        column.addLayout(foot)
        self.resize(round(room.theme().px(640)), round(room.theme().px(560)))
        self.minutes.show_value(self._minutes)
        self.check.changed.connect(self.refresh)
        self.session.project_changed.connect(self.refresh)
        self.refresh()

    def _asked(self) -> Asked | None:
        session = self.session
        builds, points = {one.id for one in session.project.builds}, {one.id for one in session.project.points}
        if self._at[0] not in builds or self._at[1] not in points:
            return None
        key = key_of(session.keys.project(session.computed, "runs"), *self._at, self._minutes)
        return Asked(key, errands.quick_check, (session.computed, *self._at, self._minutes))

    def judged(self) -> Checked | None:
        """Return what was read comes to, if anything was."""
        check = self.check.value
        try:
            return check.judged(self.read, self._air) if check is not None and self.read else None
        except AshenError:
            return None

    def refresh(self) -> None:
        """Take over what is known and what was read."""
        self.check.ask_by_itself()
        check = self.check.value
        waits = standing(self.check, "Looking what the record says…") if self.check.possible else "This build is gone."
        self.state.setText(waits)
        if check is None:
            self.said.setText("Leave it shut, or open it?")
            self.keep.refresh()
            return
        if list(self.fields) != [row.sensor for row in check.rows]:
            self._make_rows(check)
        told = self.judged()
        if told is None:
            self.said.setText(f"Run the load for {number(check.minutes)} minutes, then read the sensors.")
        else:
            self.said.setText(f"{'✕' if told.opens else '✓'} {told.says}")
        roles = self.room.theme().roles
        role = "ink" if told is None else "bad" if told.opens else "good"
        self.said.setStyleSheet(f"color: {roles[role]};")
        self.state.setText(waits or f"Held against the record {check.source}, air of {number(check.air_c)} °C.")
        self.air.edit.setPlaceholderText(number(check.air_c))
        seen = {one.sensor: one for one in told.seen} if told is not None else {}
        for name, words in self._over.items():
            one = seen.get(name)
            words.setText("" if one is None else f"{number(one.over_k, 1, sign=True)} K{'  ✕' if one.opens else ''}")
            words.setStyleSheet(f"color: {roles['bad' if one is not None and one.opens else 'ink']};")
        self.keep.refresh()

    def _make_rows(self, check: QuickCheck) -> None:
        while (item := self.grid.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        self.fields, self._over = {}, {}
        for at, head in enumerate(_COLUMNS):
            label = Words(head)
            label.setObjectName("quiet")
            self.grid.addWidget(label, 0, at)
        for n, row in enumerate(check.rows, 1):
            field = NumberField(Wanted(f"{row.label}, read", "°C", -60.0, _MOST_C), partial(self._take, row.sensor))
            field.setMaximumWidth(round(self.room.theme().px(90)))
            field.show_value(self.read.get(row.sensor))
            self.fields[row.sensor], self._over[row.sensor] = field, Words()
            name = Words(row.label)
            name.setToolTip(row.label)
            cells = (name, Words(f"{number(row.expected_c, 1)} °C"), Words(f"+{number(row.more_k, 1)} K"))
            for at, cell in enumerate((*cells, field, self._over[row.sensor])):
                self.grid.addWidget(cell, n, at)
        self.grid.setRowStretch(len(check.rows) + 1, 1)
        self.grid.setColumnStretch(0, 1)

    def _take(self, sensor: str, value: float | None) -> str:
        if value is None:
            self.read.pop(sensor, None)
        else:
            self.read[sensor] = value
        self.refresh()
        return ""

    def _set_minutes(self, value: float | None) -> str:
        self._minutes = value or 10.0
        self.refresh()
        return ""

    def _set_air(self, value: float | None) -> str:
        self._air = value
        self.refresh()
        return ""

    def _keeping(self, who: str, now: datetime) -> Edit | None:
        check, told = self.check.value, self.judged()
        return keep_check(self.session.project, check, told, who=who, now=now) if check is not None and told is not None else None
