"""Burn-in as steps with timers: hot and cold cycles, begun as a procedure of its own."""

from __future__ import annotations

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from ashen_bridge.desktop.parts.plain import Words
from ashen_bridge.desktop.parts.question_panel import standing
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.desktop.steps.desk import StepsDesk, StepsView
from ashen_bridge.desktop.steps.steps_page import StepsPage
from ashen_bridge.model.procedures import Procedure
from ashen_bridge.planning import errands
from ashen_bridge.words.numbers import number


class BurnDesk(StepsDesk):
    """Burn-in's own state."""

    kind = "burn in"
    nothing = "There is nothing to burn in yet."

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(session, StepsView(), parent)
        self.planned: Question[Procedure] = Question(session.questions, "Burn-in", self._asked)
        self.planned.changed.connect(self.changed)

    def _asked(self) -> Asked | None:
        session = self.session
        if not session.project.builds or not session.project.points or session.scene() is None:
            return None
        at = session.view.build, session.view.point
        return Asked(key_of(session.keys.project(session.computed), *at), errands.burning_in, (session.computed, *at))

    def made(self) -> Procedure | None:
        """Return the procedure as it would be, once it is worked out."""
        known = self.planned.value or self.planned.last
        return known if known is not None and known.build == self.session.view.build else None


class BurnPage(StepsPage):
    """Burning in, cycle by cycle."""

    desk: BurnDesk

    def beside(self) -> QWidget:
        """Return what burn-in is for, and how long it takes."""
        self.stands = Words()
        self.why = Words("Phase-change sheets melt and wet both faces, pastes settle; the device then is what the model says.")
        known = QWidget()
        column = QVBoxLayout(known)
        column.setContentsMargins(12, 6, 12, 8)
        head = Words("Burn-in")
        head.setObjectName("section")
        for widget in (head, self.stands, self.why):
            widget.setWordWrap(True)
            column.addWidget(widget)
        self.why.setObjectName("quiet")
        column.addStretch(1)
        return known

    def refresh_beside(self) -> None:
        """Take over how it stands."""
        desk = self.desk
        waiting = "Running hot and cold by the model over time…"
        said = standing(desk.planned, waiting, "A build with an operating point is needed.") if desk.begun is None else ""
        procedure = desk.procedure
        if not said and procedure is not None:
            said = f"About {number(sum(one.minutes for one in procedure.steps if not one.done))} minutes are left."
        self.stands.setText(said)
