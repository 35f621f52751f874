"""What is wrong and what is wanted: every later verdict is held against it."""

from __future__ import annotations

from functools import partial
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QCheckBox, QFormLayout, QFrame, QGridLayout, QLabel, QVBoxLayout, QWidget

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.fields import NumberField, Wanted
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.text_fields import ChoiceField, StoryField
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing import runs as edits
from ashen_bridge.words.numbers import short

_OPENING = (("gladly", "gladly"), ("if it pays", "if it pays"), ("never", "never"))


class AimsPanel(QFrame):
    """Complaint, goals per sensor, and what else counts."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("card")
        self.session, self.theme = session, theme
        self._rows: dict[str, tuple[QCheckBox, NumberField, QLabel]] = {}
        title = Words("Complaint and goals")
        title.setObjectName("title")
        self.complaint = StoryField("What is wrong", partial(self._aim, "complaint"), lines=2)
        self.complaint.setPlaceholderText("What is wrong, in your own words")
        self.noise = NumberField(
            Wanted("Noise, at most", "", optional=True, low=0, high=120), partial(self._quantity, "noise_db")
        )
        self.power = NumberField(
            Wanted("Power, at least", "W", optional=True, low=0, high=5000), partial(self._quantity, "power_w")
        )
        self.skin = NumberField(Wanted("Skin, at most", "°C", optional=True, low=0, high=150), partial(self._quantity, "skin_c"))
        self.budget = NumberField(Wanted("Budget", "", optional=True, low=0, high=1e6), self._budget)
        self.opening = ChoiceField("Opened", partial(self._aim, "opening"))
        self.warranty = StoryField("Warranty", partial(self._aim, "warranty"), lines=2)
        self.warranty.setPlaceholderText("What was written back about opening it")
        form = QFormLayout()
        form.setVerticalSpacing(5)
        for words, field in (
            ("Noise ≤ [dB]", self.noise),
            ("Power ≥ [W]", self.power),
            ("Skin ≤ [°C]", self.skin),
            ("Budget", self.budget),
            ("Open it", self.opening),
            ("Warranty", self.warranty),
        ):
            label = Words(words)
            label.setObjectName("quiet")
            form.addRow(label, field)
        goals = Words("Wanted of each sensor; tick those that matter most")
        goals.setObjectName("section")
        self.grid = QGridLayout()
        self.grid.setVerticalSpacing(3)
        self.grid.setColumnStretch(0, 1)
        inside = QWidget()
        inside.setLayout(self.grid)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 9)
        column.setSpacing(7)
        column.addWidget(title)
        column.addWidget(self.complaint)
        column.addLayout(form)
        column.addWidget(goals)
        column.addWidget(inside)
        column.addStretch(1)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = theme

    def refresh(self) -> None:
        """Take over the project."""
        project = self.session.project
        aims = project.aims
        self.complaint.show_words(aims.complaint)
        for field, value in ((self.noise, aims.noise_db), (self.power, aims.power_w), (self.skin, aims.skin_c)):
            field.show_value(value.value if value is not None else None)
        self.budget.show_value(aims.budget)
        self.opening.show_choice(_OPENING, aims.opening)
        self.warranty.show_words(aims.warranty)
        sensors = project.device.sensors
        if list(self._rows) != [one.id for one in sensors]:
            self._build_rows()
        goals = {goal.sensor: goal.at_most_c.value for goal in project.goals}
        limits = project.device.limits_c()
        for one in sensors:
            box, number, limit = self._rows[one.id]
            box.setText(one.label)
            box.setChecked(one.id in aims.sensors)
            number.show_value(goals.get(one.id))
            limit.setText(f"limit {short(limits[one.id])}" if one.id in limits else "no limit")

    def _build_rows(self) -> None:
        while self.grid.count():
            item = self.grid.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.deleteLater()
        self._rows = {}
        for n, one in enumerate(self.session.project.device.sensors):
            box = QCheckBox(one.label)
            box.clicked.connect(partial(self._matters, one.id))
            number = NumberField(
                Wanted(f"{one.label}, at most", "°C", optional=True, low=-60, high=300), partial(self._goal, one.id)
            )
            number.setFixedWidth(90)
            number.edit.setPlaceholderText("at most")
            limit = Words()
            limit.setObjectName("quiet")
            self._rows[one.id] = (box, number, limit)
            self.grid.addWidget(box, n, 0)
            self.grid.addWidget(limit, n, 1, Qt.AlignmentFlag.AlignRight)
            self.grid.addWidget(number, n, 2)

    def _aim(self, field: str, value: Any) -> None:
        self.session.apply(edits.set_aim(field, value))

    def _quantity(self, field: str, value: float | None) -> str:
        return self.session.attempt(edits.set_aim(field, None if value is None else {"value": value}))

    def _budget(self, value: float | None) -> str:
        return self.session.attempt(edits.set_aim("budget", value))

    def _goal(self, sensor: str, value: float | None) -> str:
        return self.session.attempt(edits.set_goal(sensor, value))

    def _matters(self, sensor: str, on: bool) -> None:
        present = self.session.project.aims.sensors
        self._aim("sensors", [*present, sensor] if on else [one for one in present if one != sensor])
