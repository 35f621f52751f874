"""Operating points: powers, air, fans; several per project, the load scaled with one number."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from ashen_bridge.assess import errands
from ashen_bridge.assess.result import Answer, What
from ashen_bridge.desktop.parts.asking import Asker
from ashen_bridge.desktop.parts.dialog import WorkDialog
from ashen_bridge.desktop.parts.field_form import FieldForm
from ashen_bridge.desktop.parts.fields import NumberField, TextField, Wanted
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.points.part_rows import PartRows
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.editing import points
from ashen_bridge.model.errors import AshenError, ProjectError
from ashen_bridge.words.numbers import number

_DECIDES = "Everything else stays as it is; the sensor with the least margin decides."


class PointsDialog(WorkDialog):
    """Not modal: the prediction behind it follows every change."""

    def __init__(self, session: Session, asker: Asker, parent: QWidget | None = None) -> None:
        super().__init__("Operating points", parent)
        self.session, self.asker = session, asker
        self._base: dict[str, float] = {}
        self._margin_k = 5.0
        self._what: What = "fan"
        self.asked: Question[Answer] = Question(session.questions, "Asking", self._now)
        self.asked.changed.connect(self._show_answer)
        self.which = QComboBox()
        self.which.setAccessibleName("Operating point")
        self.which.activated.connect(lambda at: session.look(replace(session.view, point=self.which.itemData(at))))
        self.scale = NumberField(Wanted("Load of what it was when this was opened", "%", low=0.0, high=1000.0), self._scale)
        self.total = Words()
        self.air = FieldForm(session)
        self.cycle = TextField(self._set_cycle, name="Load over time")
        self.cycle.setPlaceholderText("steady; or shares with their times: 1 10s, 0.2 5min")
        self.wrong_cycle = Words()
        self.wrong_cycle.setObjectName("wrong")
        self.wrong_cycle.setWordWrap(True)
        self.rows = PartRows(session)
        self._lay_out()
        session.project_changed.connect(self.refresh)
        session.view_changed.connect(self._other_point)
        self.resize(960, 660)
        self._remember()
        self.refresh()

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        head.addWidget(self.which, 1)
        for words, act in (("New from this…", self._new), ("Remove", self._remove)):
            button = QPushButton(words)
            button.clicked.connect(act)
            head.addWidget(button)
        load = QHBoxLayout()
        label = Words("Whole load at [%]")
        label.setBuddy(self.scale)
        load.addWidget(label)
        load.addWidget(self.scale)
        for percent in (50, 75, 100, 120):
            button = QPushButton(f"{percent} %")
            button.clicked.connect(partial(self._scale, float(percent)))
            load.addWidget(button)
        load.addStretch(1)
        load.addWidget(self.total)
        left, right = QWidget(), QWidget()
        left_column, right_column = QVBoxLayout(left), QVBoxLayout(right)
        powers = Words("Power of each part")
        powers.setObjectName("section")
        over_time = Words("Load over time, again and again")
        over_time.setObjectName("section")
        over_time.setBuddy(self.cycle)
        for widget in (over_time, self.cycle, self.wrong_cycle, powers):
            left_column.addWidget(widget)
        left_column.addWidget(self.rows)
        left_column.addStretch(1)
        note = Words("Air that is not given is at ambient. Films hold for the stated orientation.")
        note.setObjectName("quiet")
        note.setWordWrap(True)
        right_column.addWidget(self.air)
        right_column.addWidget(note)
        right_column.addStretch(1)
        row = QHBoxLayout()
        for side, share in ((left, 11), (right, 9)):
            area = QScrollArea()
            area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            area.setWidget(side)
            area.setWidgetResizable(True)
            area.setFrameShape(QFrame.Shape.NoFrame)
            area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
            row.addWidget(area, share)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 12, 12, 12)
        for layout in (head, load):
            column.addLayout(layout)
        column.addLayout(row, 1)
        column.addLayout(self._asking())

    def _asking(self) -> QVBoxLayout:
        """Ask instead of tell: the value that just keeps all limits by a margin."""
        line = QHBoxLayout()
        self.margin = NumberField(Wanted("Margin to keep", "K", low=0.0, high=100.0), lambda value: self._keep_margin(value))
        self.margin.show_value(5.0)
        label = Words("To keep a margin of [K]")
        label.setBuddy(self.margin)
        line.addWidget(label)
        line.addWidget(self.margin)
        self.asks: dict[str, QPushButton] = {}
        questions: tuple[tuple[What, str], ...] = (
            ("fan", "Which fan speed?"),
            ("power", "How much power?"),
            ("ambient", "How warm a room?"),
        )
        for what, words in questions:
            button = QPushButton(words)
            button.clicked.connect(partial(self._ask, what))
            line.addWidget(button)
            self.asks[what] = button
        self.answer = Words(_DECIDES)
        self.answer.setWordWrap(True)
        line.addStretch(1)
        both = QVBoxLayout()
        both.addLayout(line)
        both.addWidget(self.answer)
        return both

    def _keep_margin(self, value: float | None) -> str:
        if value is None:
            return "A margin is needed here."
        self._margin_k = value
        return ""

    def _ask(self, what: What, _: bool = False) -> None:
        self._what = what
        self.asked.ask()

    def _now(self) -> Asked | None:
        """The value that was asked for last, about what is looked at now."""
        session = self.session
        if not session.project.points or not session.project.builds:
            return None
        asked = (session.computed, session.view.build, session.view.point, self._what, self._margin_k)
        return Asked(key_of(session.keys.project(session.computed), asked[1:]), errands.answer, asked)

    def _show_answer(self) -> None:
        found = self.asked.value
        self.answer.setText(standing(self.asked, explain=_DECIDES) or (found.text if found is not None else _DECIDES))

    # ---- what is shown

    def _remember(self) -> None:
        """Keep the powers that 100 % stands for."""
        if self.session.project.points:
            point = self.session.point
            board = {"": point.board_w.value} if point.board_w is not None else {}
            self._base = {name: power.value for name, power in point.powers_w.items()} | board

    def _other_point(self) -> None:
        if self.which.currentData() != self.session.view.point:
            self._remember()
            self.refresh()

    def refresh(self) -> None:
        """Take over the project."""
        session = self.session
        if not session.project.points:
            return
        self._show_answer()
        listed = [(point.label, point.id) for point in session.project.points]
        if listed != [(self.which.itemText(n), self.which.itemData(n)) for n in range(self.which.count())]:
            self.which.clear()
            for label, name in listed:
                self.which.addItem(label, name)
        self.which.setCurrentIndex(self.which.findData(session.view.point))
        point = session.point
        self.rows.refresh()
        self.cycle.show_text(points.cycle_words(point))
        self.wrong_cycle.setVisible(bool(self.wrong_cycle.text()))
        self.air.show_path(f"points.{point.id}")
        total = sum(power.value for power in point.powers_w.values())
        base = self._base.get("", sum(self._base.values()))
        whole = point.board_w.value if point.board_w is not None else total
        mean = f", {number(whole * point.mean_share, 1)} W on average" if point.cycle else ""
        self.total.setText(f"{number(whole, 1)} W in all{mean}")
        self.scale.show_value(round(100 * whole / base, 2) if base else 100.0)

    # ---- what is changed

    def _set_cycle(self, text: str) -> str:
        try:
            problem = self.session.attempt(points.set_cycle(self.session.view.point, text))
        except ProjectError as error:
            problem = str(error)
        self.wrong_cycle.setText(problem)
        self.wrong_cycle.setVisible(bool(problem))
        return problem

    def _scale(self, percent: float | None, _: bool = False) -> str:
        if percent is None:
            return "A percentage is needed here."
        try:
            return self.session.attempt(points.scale_load(self.session.view.point, percent / 100, self._base))
        except ProjectError as error:
            return str(error)

    def _new(self) -> None:
        name = self.asker.text("New operating point", "Name:", f"{self.session.point.label}, changed")
        if name:
            edit, new_id = points.new_point(self.session.project, self.session.view.point, name)
            if self.session.apply(edit):
                self.session.look(replace(self.session.view, point=new_id))

    def _remove(self) -> None:
        try:
            edit = points.remove_point(self.session.project, self.session.view.point)
        except AshenError as error:
            self.asker.tell("This operating point stays", str(error))
            return
        self.session.apply(edit)
