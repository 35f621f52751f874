"""What Open up looks at beside what every page of steps does: page, contact; and its questions."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from PyQt6.QtCore import QObject

from ashen_bridge.desktop.charts.outlines import Box
from ashen_bridge.desktop.openup.contacts import contact_marks
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.desktop.steps.contact_mark import ContactMark
from ashen_bridge.desktop.steps.desk import StepsDesk, StepsView
from ashen_bridge.evidence import errands as evidence
from ashen_bridge.evidence.result import Looked, Seen
from ashen_bridge.model.closings import Closing
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.procedures import Procedure
from ashen_bridge.planning.opening import Schools, Static, opening

Page = Literal["steps", "seen", "film"]


@dataclass(frozen=True)
class OpenView(StepsView):
    """`joint` and `lower` are the contact that is looked at."""

    page: Page = "steps"
    joint: str = ""
    lower: str = ""
    closing: str = ""
    static: Static = "strap"


class OpenDesk(StepsDesk):
    """Open up's own state."""

    kind = "open up"
    nothing = "There is nothing to open up yet."

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(session, OpenView(), parent)
        self.seen: Question[Seen] = Question(session.questions, "What was seen", self._now)
        self.seen.changed.connect(self.changed)

    def made(self) -> Procedure | None:
        """Return the procedure as it would be; None where the build cannot be resolved."""
        try:
            return opening(self.session.project, self.session.view.build, Schools(self.view.static))
        except AshenError:
            return None

    @property
    def at_steps(self) -> bool:
        """Whether steps are looked at, not what contacts show."""
        return bool(self.view.page != "seen")

    def contacts(self, boxes: Mapping[str, Box]) -> Sequence[ContactMark]:
        """Return what contacts show."""
        found, closing = self.found, self.closing
        if found is None or closing is None:
            return ()
        return contact_marks(found, self.session.project, closing.id, (self.view.joint, self.view.lower), boxes)

    # ---- what is seen

    @property
    def closing(self) -> Closing | None:
        """The closing that is spoken of: the chosen one, else the last that covers the build."""
        closings = self.session.project.closings
        chosen = next((one for one in closings if one.id == self.view.closing), None)
        own = [one for one in closings if self.session.view.build in one.builds]
        return chosen or (own[-1] if own else None)

    def _now(self) -> Asked | None:
        """Everything that was seen and read, about the build that is looked at."""
        session = self.session
        project = session.project
        if not project.builds or session.scene() is None or not project.points:
            return None
        said = ("readings", "instruments", "taken_over", "closings", "evidence", "pictures")
        key = key_of(session.keys.project(project, *said), session.view.build)
        return Asked(key, evidence.seen, (project, session.view.build))

    @property
    def found(self) -> Seen | None:
        """The latest answer that speaks of the build, be it of a moment before."""
        known = self.seen.value or self.seen.last
        return known if known is not None and known.build == self.session.view.build else None

    @property
    def contact(self) -> Looked | None:
        """The contact that is spoken of."""
        view = self.view
        listed = self.found.looked if self.found is not None else ()
        return next((one for one in listed if (one.joint, one.lower) == (view.joint, view.lower)), None)
