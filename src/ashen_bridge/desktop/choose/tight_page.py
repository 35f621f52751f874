"""The page of tolerances: how wide every ± may be for all limits to hold, and what is not worth tightening."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from ashen_bridge.desktop.choose.desk import ChooseDesk
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.cards import Card
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.parts.rich import Rich, bold, coloured, table
from ashen_bridge.desktop.parts.text_fields import ChoiceField
from ashen_bridge.desktop.parts.workspace import Room
from ashen_bridge.planning.allowed import Allowed, Tolerances
from ashen_bridge.words.numbers import percent, short

_CHANCES = ((0.8, "80 %"), (0.9, "90 %"), (0.95, "95 %"), (0.99, "99 %"))
_ROLES = {"tighten": "ember", "may be wider": "good", "not worth tightening": "quiet", "as it is": "ink"}


class TightPage(QWidget):
    """Tolerances backwards."""

    def __init__(self, desk: ChooseDesk, room: Room) -> None:
        super().__init__()
        self.desk, self.theme = desk, room.theme()
        self.says = Words()
        self.says.setObjectName("big")
        self.says.setWordWrap(True)
        self.state = Words()
        self.state.setObjectName("quiet")
        self.state.setWordWrap(True)
        self.chance = ChoiceField("Wanted chance of all limits", lambda one: desk.look(replace(desk.view, chance=one)))
        self.again = QPushButton("Work it out")
        self.again.clicked.connect(desk.tight.ask)
        self.rows = Words()
        self.rows.setTextFormat(Qt.TextFormat.RichText)
        self.rows.setAlignment(Qt.AlignmentFlag.AlignTop)
        area = QScrollArea()
        area.setWidget(self.rows)
        area.setWidgetResizable(True)
        head = QHBoxLayout()
        head.addWidget(self.says, 1)
        label = Words("all limits with")
        label.setObjectName("quiet")
        for widget in (label, self.chance, self.again):
            head.addWidget(widget, 0, Qt.AlignmentFlag.AlignTop)
        card = Card((12, 10, 12, 10))
        card.column.addLayout(head)
        card.column.addWidget(self.state)
        card.column.addWidget(area, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(card)

    def set_theme(self, theme: Theme) -> None:
        """Follow the theme."""
        self.theme = theme

    def refresh(self) -> None:
        """Take over what may be how wide."""
        question = self.desk.tight
        question.ask_by_itself()
        self.chance.show_choice([(words, value) for value, words in _CHANCES], self.desk.view.chance)
        found = question.value or question.last
        self.says.setText(found.says if found is not None else "How tight must it be made?")
        said = standing(question, "Working out what every ± does…", "Asked as soon as this page is looked at.")
        about = "Each is two standard uncertainties wide, and dearer the narrower it is. Worst case: all at their ends at once."
        self.state.setText(said or about)
        self.again.setVisible(question.state in ("absent", "stale", "refused"))
        self.rows.setText(_table(found, self.theme) if found is not None else "")


def _table(found: Tolerances, theme: Theme) -> Rich:
    head = [bold(words) for words in ("number", "± now", "± may be", "± worst case", f"share at {found.binding}", "")]
    return table([head, *(_row(one, theme) for one in found.rows)], right=(1, 2, 3, 4), spacing=7, wide=False)


def _row(one: Allowed, theme: Theme) -> list[object]:
    worst = "–" if one.worst_case is None else f"{short(one.worst_case, 3)} {one.unit}"
    share = percent(one.share) if one.share >= 0.005 else "under 1 %"
    role = theme.colour(_ROLES[one.advice]).name()
    may_be = bold(f"{short(one.statistical, 3)} {one.unit}")
    return [one.words, f"{short(one.now, 3)} {one.unit}", may_be, worst, share, coloured(role, one.advice)]
