"""The page of steps of Close up: what is worked out, and by which school faces are cleaned, stand under them."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from ashen_bridge.desktop.closeup.desk import CloseDesk
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.parts.text_fields import ChoiceField
from ashen_bridge.desktop.steps.steps_page import StepsPage
from ashen_bridge.words.numbers import number

_AGENTS = (("alcohol, 99 %: no trace", "99"), ("alcohol, 70 %: gentler to plastics", "70"))


class CloseStepsPage(StepsPage):
    """Closing up, step by step."""

    desk: CloseDesk

    def beside(self) -> QWidget:
        """Return by which school it is cleaned, and how long it takes."""
        self.agent = ChoiceField("What faces are cleaned with", lambda one: self.desk.look(replace(self.desk.view, agent=one)))
        self.stands = Words()
        self.stands.setObjectName("quiet")
        self.stands.setWordWrap(True)
        known = QWidget()
        column = QVBoxLayout(known)
        column.setContentsMargins(12, 6, 12, 8)
        head = Words("Cleaned with")
        head.setObjectName("section")
        for widget in (head, self.agent, self.stands):
            column.addWidget(widget)
        column.addStretch(1)
        return known

    def refresh_beside(self) -> None:
        """Take over how it stands."""
        desk = self.desk
        self.agent.show_choice(_AGENTS, desk.view.agent)
        self.agent.setEnabled(desk.begun is None)
        said = (
            standing(desk.planned, "Working out the steps…", "A build with an operating point is needed.")
            if desk.begun is None
            else ""
        )
        procedure = desk.procedure
        if not said and procedure is not None:
            left = sum(one.minutes for one in procedure.steps if not one.done)
            said = f"About {number(left)} minutes are left. Everything on paper too: Print sheet…"
        self.stands.setText(said)
