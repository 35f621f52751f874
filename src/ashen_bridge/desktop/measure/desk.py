"""What Measure looks at beside what all workspaces do: the side of the board, and what is read next; and its question."""

from __future__ import annotations

from dataclasses import dataclass, replace

from PyQt6.QtCore import QObject, pyqtSignal

from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.evidence import errands as evidence
from ashen_bridge.evidence.result import Seen, SeenGap
from ashen_bridge.measuring import errands
from ashen_bridge.measuring.result import Found, Gap, Offered, Route
from ashen_bridge.model.bodies import Side

LABEL = "Gaps from readings"


@dataclass(frozen=True)
class MeasureView:
    """`form` and `of` (the fields of a reading) say what the next value is of; `instrument` with what it is taken."""

    side: Side = Side.FRONT
    form: str = "height"
    of: tuple[tuple[str, str], ...] = ()
    instrument: str = ""


class MeasureDesk(QObject):
    """Measure's own state. `changed` follows what is looked at and what was found."""

    changed = pyqtSignal()

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.view = MeasureView()
        self.question: Question[Found] = Question(session.questions, LABEL, self._now)
        self.question.changed.connect(self.changed)
        self.routing: Question[Route] = Question(session.questions, "A route of readings", self._route_now)
        self.routing.changed.connect(self.changed)
        self.seen: Question[Seen] = Question(session.questions, "What was seen", self._seen_now)

    def look(self, view: MeasureView) -> None:
        """Look at something else; changed copies are made with `dataclasses.replace`."""
        if view != self.view:
            self.view = view
            self.changed.emit()

    def choose(self, joint: str, lower: str, side: Side) -> None:
        """Look at a gap, on its side of the board."""
        self.look(replace(self.view, side=side))
        self.session.select(lower or joint)

    def _now(self) -> Asked | None:
        """All readings about the build that is looked at; a fit's numbers do not count, since lengths are measured here."""
        session = self.session
        project = session.project
        if not project.builds or session.scene() is None:
            return None
        key = key_of(
            session.keys.project(project, "readings", "instruments", "taken_over", "closings"),
            project.build(session.view.build).id,
        )
        return Asked(key, errands.gaps, (project, session.view.build))

    def _route_now(self) -> Asked | None:
        """What narrows the verdict: as the gaps, at the operating point that is looked at."""
        asked, session = self._now(), self.session
        if asked is None or not session.project.points:
            return None
        key = key_of(asked.key, session.view.point, session.keys.project(session.project, "aims"))
        return Asked(key, errands.route, (session.project, session.view.build, session.view.point))

    def _seen_now(self) -> Asked | None:
        """What marks and pictures say of the gaps besides: only where something was seen."""
        asked, project = self._now(), self.session.project
        if asked is None or not (project.evidence or project.pictures):
            return None
        key = key_of(asked.key, self.session.keys.project(project, "evidence", "pictures"))
        return Asked(key, evidence.seen, (project, self.session.view.build))

    @property
    def seen_gap(self) -> SeenGap | None:
        """The gap that is looked at with what was seen in it; None where nothing tells of it."""
        gap, found = self.gap, self.seen.value
        listed = found.gaps if found is not None and gap is not None and not found.problem else ()
        return next((one for one in listed if gap is not None and (one.joint, one.lower) == (gap.joint, gap.lower)), None)

    @property
    def route(self) -> Route | None:
        """What to read for the verdict, be it of a moment before."""
        return self.routing.value or (self.routing.last if self.routing.state in ("running", "stale") else None)

    @property
    def found(self) -> Found | None:
        """The latest answer that speaks of the build, be it of a moment before."""
        known = self.question.value or self.question.last
        return known if known is not None and known.build == self.session.view.build else None

    @property
    def gap(self) -> Gap | None:
        """The gap that is looked at; the least known one while none is chosen."""
        found, selected = self.found, self.session.view.selected
        if found is None or not found.gaps:
            return None
        for one in found.gaps:
            if selected in (one.lower, one.joint):
                return one
        return max(found.gaps, key=lambda one: one.now[1])

    @property
    def offered(self) -> tuple[Offered, ...]:
        """What can be read."""
        return self.found.offered if self.found is not None else ()

    @property
    def wanted(self) -> Offered | None:
        """What the next value is of."""
        alike = [one for one in self.offered if one.form == self.view.form]
        about = {self.gap.lower, self.gap.joint} if self.gap is not None else set()
        # What was chosen, else what belongs to the gap that is looked at.
        chosen = (one for one in alike if one.of == self.view.of)
        near = (one for one in alike if about & set(dict(one.of).values()))
        return next(chosen, None) or next(near, None) or next(iter(alike), None)
