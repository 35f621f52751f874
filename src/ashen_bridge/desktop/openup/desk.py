"""What Open up looks at beside what all workspaces do: page, side, step, contact, screw; and its questions."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from PyQt6.QtCore import QObject, pyqtSignal

from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.evidence import errands as evidence
from ashen_bridge.evidence.result import Looked, Seen
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.closings import Closing
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.procedures import Procedure, ProcedureStep
from ashen_bridge.planning.opening import Schools, Static, opening
from ashen_bridge.planning.tray import Tray, tray

Page = Literal["steps", "seen", "film"]


@dataclass(frozen=True)
class OpenView:
    """`step` is the one that is looked at, the next one while empty; `joint` and `lower` the contact; `screw` one of the tray."""

    page: Page = "steps"
    side: Side = Side.FRONT
    step: str = ""
    joint: str = ""
    lower: str = ""
    closing: str = ""
    screw: str = ""
    static: Static = "strap"


class OpenDesk(QObject):
    """Open up's own state. `changed` follows what is looked at and what was found."""

    changed = pyqtSignal()

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.view = OpenView()
        self.seen: Question[Seen] = Question(session.questions, "What was seen", self._now)
        self.seen.changed.connect(self.changed)

    def look(self, view: OpenView) -> None:
        """Look at something else; changed copies are made with `dataclasses.replace`."""
        if view != self.view:
            self.view = view
            self.changed.emit()

    # ---- steps

    @property
    def begun(self) -> Procedure | None:
        """The procedure by which this build is opened, if one was begun."""
        build = self.session.view.build
        found = [one for one in self.session.project.procedures if one.kind == "open up" and one.build in (build, None)]
        return found[-1] if found else None

    @property
    def procedure(self) -> Procedure | None:
        """The procedure that is looked at: begun, or as it would be; None where the build cannot be resolved."""
        if self.begun is not None or not self.session.project.builds:
            return self.begun
        try:
            return opening(self.session.project, self.session.view.build, Schools(self.view.static))
        except AshenError:
            return None

    @property
    def step(self) -> ProcedureStep | None:
        """The step that is looked at: the chosen one, else the next."""
        procedure = self.procedure
        if procedure is None:
            return None
        chosen = next((one for one in procedure.steps if one.id == self.view.step), None)
        return chosen or procedure.next or (procedure.steps[-1] if procedure.steps else None)

    @property
    def tray(self) -> Tray:
        """Where every screw is; none where the build cannot be resolved."""
        try:
            return tray(self.session.project, self.session.view.build) if self.session.project.builds else Tray(())
        except AshenError:
            return Tray(())

    def choose_step(self, step: ProcedureStep) -> None:
        """Look at a step, on its side of the board."""
        self.look(replace(self.view, step=step.id, side=step.side))

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
