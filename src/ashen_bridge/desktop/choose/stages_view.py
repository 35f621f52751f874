"""A plan in stages: what is done after what, what has to be opened for it, and what a test would see of each."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from ashen_bridge.desktop.choose.desk import ChooseDesk
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.parts.rich import Rich, bold, table
from ashen_bridge.planning.choosing.stages import Stage
from ashen_bridge.words.numbers import number


class StagesView(QWidget):
    """The stages of the plan that is looked at."""

    def __init__(self, desk: ChooseDesk, take: Callable[[], None]) -> None:
        super().__init__()
        self.desk = desk
        self.state = Words()
        self.state.setObjectName("quiet")
        self.go = QPushButton("Make the stages builds")
        self.go.setToolTip("One build after every stage, to be tested one after another: one edit, undo takes it back")
        self.go.clicked.connect(take)
        self.rows = Words()
        self.rows.setTextFormat(Qt.TextFormat.RichText)
        self.rows.setAlignment(Qt.AlignmentFlag.AlignTop)
        area = QScrollArea()
        area.setWidget(self.rows)
        area.setWidgetResizable(True)
        head = QHBoxLayout()
        head.addWidget(self.state, 1)
        head.addWidget(self.go)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(head)
        column.addWidget(area, 1)

    def refresh(self) -> None:
        """Take over the stages of the plan."""
        question = self.desk.stages
        question.ask_by_itself()
        found = question.value or ()
        said = "One change at a time, the cheapest opening first, tested in between."
        self.state.setText(standing(question, "Working out the stages…", "There is no plan yet.") or said)
        self.rows.setText(_table(found))
        self.go.setEnabled(len(found) > 1 and question.state == "current")


def _table(found: tuple[Stage, ...]) -> Rich:
    head = [bold(words) for words in ("", "what is done", "what is opened", "min", "die °C", "to spare K", "a test would see")]
    return table([head, *(_row(n, one) for n, one in enumerate(found, 1))], right=(3, 4, 5), spacing=6, wide=False)


def _row(n: int, one: Stage) -> list[object]:
    die = "–" if one.die_c is None else number(one.die_c, 1)
    spare = "–" if one.margin_k is None else number(one.margin_k, 1)
    return [bold(str(n)), one.says, one.opens, number(one.minutes), die, spare, one.words]
