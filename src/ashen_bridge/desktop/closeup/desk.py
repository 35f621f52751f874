"""What Close up looks at beside what every page of steps does; and its questions."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from PyQt6.QtCore import QObject

from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.desktop.steps.desk import StepsDesk, StepsView
from ashen_bridge.model.procedures import Procedure
from ashen_bridge.planning import errands

Agent = Literal["99", "70"]


@dataclass(frozen=True)
class CloseView(StepsView):
    """`agent` is what faces are cleaned with, two schools."""

    agent: Agent = "99"


class CloseDesk(StepsDesk):
    """Close up's own state."""

    kind = "close up"
    nothing = "There is nothing to close up yet."

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(session, CloseView(), parent)
        self.planned: Question[Procedure] = Question(session.questions, "Closing up", self._asked)
        self.planned.changed.connect(self.changed)

    def _asked(self) -> Asked | None:
        session = self.session
        if not session.project.builds or not session.project.points or session.scene() is None:
            return None
        key = key_of(session.keys.project(session.computed, "tray", "aims"), session.view.build, self.view.agent)
        return Asked(key, errands.closing_up, (session.computed, session.view.build, self.view.agent))

    def made(self) -> Procedure | None:
        """Return the procedure as it would be, once it is worked out."""
        known = self.planned.value or self.planned.last
        return known if known is not None and known.build == self.session.view.build else None
