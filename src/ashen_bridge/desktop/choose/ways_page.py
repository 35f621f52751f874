"""The page of other ways: what may be done beside choosing a material, what each would do here, and what it costs."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QPushButton, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from ashen_bridge.desktop.choose.desk import ChooseDesk
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.cards import Card
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.planning.interventions import Intervention, Kind
from ashen_bridge.words.numbers import number

_HEADS: dict[Kind, str] = {
    "closed": "Without opening it",
    "open": "Open, no new material",
    "bold": "For those who accept to lose the part",
}


class WaysPage(QWidget):
    """Interventions, one under another."""

    def __init__(self, desk: ChooseDesk, room: Room) -> None:
        super().__init__()
        self.desk, self._room = desk, room
        self.says = Words("What else may be done, and what it would do here")
        self.says.setObjectName("big")
        self.says.setWordWrap(True)
        self.state = Words()
        self.state.setObjectName("quiet")
        self.wrong = Words()
        self.wrong.setObjectName("wrong")
        self.wrong.setWordWrap(True)
        self.buttons: dict[str, QPushButton] = {}
        self._effects: dict[str, Words] = {}
        self._shown: tuple[tuple[str, str, str], ...] = ()
        self._rows = QWidget()
        self._grid = QGridLayout(self._rows)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(18)
        self._grid.setVerticalSpacing(7)
        self._grid.setColumnStretch(0, 3)
        self._grid.setColumnStretch(1, 2)
        area = QScrollArea()
        area.setWidget(self._rows)
        area.setWidgetResizable(True)
        card = Card((16, 12, 16, 12))
        for widget in (self.says, self.state, self.wrong):
            card.column.addWidget(widget)
        card.column.addWidget(area, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(card)

    def set_theme(self, theme: Theme) -> None:
        """Nothing here is painted by hand."""

    def refresh(self) -> None:
        """Take over what is known."""
        question = self.desk.ways
        question.ask_by_itself()
        found = question.value or question.last or ()
        about = "By differences of the coarse field. Each becomes a build or an operating point of its own."
        self.state.setText(standing(question, "Working out what each would do…") or about)
        self.wrong.setVisible(bool(self.wrong.text()))
        key = tuple((one.id, one.says, one.refused) for one in found)
        if key != self._shown:
            self._lay_out(found)
            self._shown = key
        for one in found:
            self._effects[one.id].setText(_effect(one))

    def _lay_out(self, found: tuple[Intervention, ...]) -> None:
        while (item := self._grid.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        self.buttons, self._effects = {}, {}
        row, kind = 0, ""
        for one in found:
            if one.kind != kind:
                head = Words(_HEADS[one.kind])
                head.setObjectName("section")
                self._grid.addWidget(head, row, 0, 1, 3)
                row, kind = row + 1, one.kind
            self._grid.addWidget(_words(one.title, one.says, one.costs), row, 0)
            effect = self._effects[one.id] = Words()
            effect.setWordWrap(True)
            self._grid.addWidget(effect, row, 1, Qt.AlignmentFlag.AlignTop)
            if one.edit is not None:
                go = QPushButton("Make it a build" if one.kind != "closed" else "Make it a point")
                go.setAccessibleName(f"{one.title}: {go.text().lower()}")
                go.clicked.connect(partial(self.take, one))
                self.buttons[one.id] = go
                self._grid.addWidget(go, row, 2, Qt.AlignmentFlag.AlignTop)
            row += 1
        self._grid.setRowStretch(row, 1)

    def take(self, one: Intervention, _: bool = False) -> None:
        """Make it a build or an operating point, and look at it."""
        session = self.desk.session
        if one.edit is None:
            return
        self.wrong.setText(session.attempt(one.edit))
        if not self.wrong.text():
            session.look(replace(session.view, build=one.build, point=one.point))
            self._room.notice.say(f"“{one.title}” is there now. Undo takes it back.")


def _words(title: str, says: str, costs: str) -> QWidget:
    made = QWidget()
    column = QVBoxLayout(made)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(1)
    for words, name in ((title, "title"), (says, ""), (costs and f"costs: {costs}", "quiet")):
        if words:
            label = Words(words)
            label.setObjectName(name)
            label.setWordWrap(True)
            column.addWidget(label)
    made.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
    return made


def _effect(one: Intervention) -> str:
    if one.refused:
        return one.refused
    takes = f"about {number(one.minutes)} min"
    return f"{one.effect.words}\n{takes}" if one.effect is not None else takes
