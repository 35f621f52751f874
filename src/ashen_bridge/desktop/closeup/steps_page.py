"""The page of steps of Close up: what is worked out, and by which school faces are cleaned, stand under them."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from ashen_bridge.desktop.closeup.desk import CloseDesk
from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.parts.text_fields import ChoiceField
from ashen_bridge.desktop.steps.steps_page import StepsPage
from ashen_bridge.editing.edits import as_built
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
        self.otherwise = QPushButton("It was built otherwise…")
        self.otherwise.setToolTip("What was built differs from the plan: it becomes a build of its own, where that is said")
        self.otherwise.clicked.connect(self.built_otherwise)
        for widget in (head, self.agent, self.stands, self.otherwise):
            column.addWidget(widget)
        column.addStretch(1)
        return known

    def built_otherwise(self) -> None:
        """Make what was built a build of its own, and go where it is said what differs."""
        session = self.desk.session
        made, new = as_built(session.project, session.view.build)
        if session.apply(made):
            session.look(replace(session.view, build=new, workspace="stack"))
            said = f"“{session.build.label}” is a build of its own: say here what differs. Choose tells the difference in words."
            self.room.notice.say(said)

    def refresh_beside(self) -> None:
        """Take over how it stands."""
        desk = self.desk
        self.agent.show_choice(_AGENTS, desk.view.agent)
        self.agent.setEnabled(desk.begun is None)
        self.otherwise.setVisible(desk.begun is not None)
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
