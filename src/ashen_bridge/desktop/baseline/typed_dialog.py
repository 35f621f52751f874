"""Readings of a thermometer, typed in: for the run that is looked at, or as a run of their own."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFormLayout, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from ashen_bridge.changes.edit import Edit
from ashen_bridge.desktop.baseline.desk import BaselineDesk
from ashen_bridge.desktop.parts.dialog import WorkDialog
from ashen_bridge.desktop.parts.fields import NumberField, Wanted
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.text_fields import ChoiceField, WordsField
from ashen_bridge.editing import runs as edits
from ashen_bridge.editing.typed import TypedError

_SPREAD_K = 1.0  # of a thermometer held by hand; common practice, no source


class TypedDialog(WorkDialog):
    """One field per sensor; those left empty were not read."""

    def __init__(self, desk: BaselineDesk, over: QWidget | None) -> None:
        super().__init__("Type readings", over)
        session = desk.session
        self.desk, self.session = desk, session
        self._run_id = session.run.id if session.run is not None else ""
        self.where = ChoiceField("Which run they belong to", self._choose)
        self.name = WordsField("Name of the new run", lambda _: None)
        self.name.setText("Read by hand")
        self.how = WordsField("What they were read with", lambda _: None)
        self.how.setPlaceholderText("thermometer, infrared camera, …")
        self.spread = NumberField(Wanted("± of a reading", "K", low=0.0, high=50), self._hold)
        self.spread.show_value(_SPREAD_K)
        self.fields = {
            sensor.id: NumberField(Wanted(sensor.label, "°C", optional=True, low=-100, high=400), self._hold)
            for sensor in session.project.device.sensors
        }
        self.problem = Words()
        self.problem.setObjectName("wrong")
        self.problem.setWordWrap(True)
        self.keep = QPushButton("Keep them")
        self.keep.clicked.connect(self.take)
        self._lay_out()
        self._choose(self._run_id)
        self.resize(430, 560)

    def _lay_out(self) -> None:
        labels = {sensor.id: sensor.label for sensor in self.session.project.device.sensors}
        top = QFormLayout()
        for words, field in (("For", self.where), ("Name", self.name), ("Read with", self.how), ("± [K]", self.spread)):
            top.addRow(words, field)
        inside = QWidget()
        form = QFormLayout(inside)
        form.setVerticalSpacing(4)
        for name, field in self.fields.items():
            form.addRow(f"{labels[name]} [°C]", field)
        area = QScrollArea()
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        area.setWidget(inside)
        area.setWidgetResizable(True)
        leave = QPushButton("Leave")
        leave.clicked.connect(self.close)
        row = QHBoxLayout()
        row.addWidget(leave)
        row.addWidget(self.keep, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 12, 14, 12)
        column.setSpacing(8)
        column.addLayout(top)
        column.addWidget(area, 1)
        column.addWidget(self.problem)
        column.addLayout(row)

    def _hold(self, value: float | None) -> str:
        """Nothing is changed before all is kept."""
        return ""

    def _choose(self, run_id: str) -> None:
        self._run_id = run_id
        runs = [(run.label, run.id) for run in self.session.project.runs]
        self.where.show_choice([("a new run", ""), *runs], run_id)
        self.name.setEnabled(not run_id)

    def take(self) -> None:
        """Keep what was typed."""
        try:
            spread = self.spread.typed() or 0.0
            typed = {name: field.typed() for name, field in self.fields.items()}
        except TypedError as error:
            self.problem.setText(str(error))
            return
        spots = [
            {"sensor": name, "value_c": {"value": value, "uncertainty": spread, "origin": "measured"}, "how": self.how.text()}
            for name, value in typed.items()
            if value is not None
        ]
        if not spots:
            self.problem.setText("Nothing was typed yet: at least one sensor needs a reading.")
            return
        session, run_id = self.session, self._run_id
        edit: Edit
        if run_id:
            edit = edits.add_spots(run_id, spots)
        else:
            name = self.name.text().strip() or "Read by hand"
            edit, run_id = edits.add_typed_run(session.project, name, spots, session.view.build, session.view.point)
        refused = session.attempt(edit)
        self.problem.setText(refused)
        if not refused:
            self.desk.choose_run(run_id)
            self.close()
