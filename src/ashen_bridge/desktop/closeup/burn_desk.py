"""Burn-in's own state: its procedure, a live source that says how far the present step is, and what the cycles gained."""

from __future__ import annotations

from datetime import datetime

from PyQt6.QtCore import QObject

from ashen_bridge.bench.recording import remembered
from ashen_bridge.changes.edit import Edit
from ashen_bridge.desktop.state.feed import Feed
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.desktop.steps.desk import StepsDesk, StepsView
from ashen_bridge.editing.keeping import keep_burn_in
from ashen_bridge.logs.log import Log
from ashen_bridge.logs.mapping import propose
from ashen_bridge.logs.scales import celsius
from ashen_bridge.model.procedures import Procedure
from ashen_bridge.model.project import Project
from ashen_bridge.planning import errands
from ashen_bridge.planning.burn_follow import Gained, Heard, Stands, Warm, gained, is_cold, is_hot, stands, warm

_SPEED, _LEAST_MIN = 60.0, 1.0


class BurnDesk(StepsDesk):
    """State of the page of burn-in. The feed belongs to the build at the point it was begun with, whatever is looked at."""

    kind = "burn in"
    nothing = "There is nothing to burn in yet."

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(session, StepsView(), parent)
        self.planned: Question[Procedure] = Question(session.questions, "Burn-in", self._asked)
        self.planned.changed.connect(self.changed)
        self.feed = Feed(self)
        self.feed.looked.connect(self._look)
        self.feed.over.connect(self._over)
        self.stands: Stands | None = None
        self.stretches: tuple[Warm, ...] = ()
        self.problem = ""
        self._of: tuple[str, str] | None = None  # build and point that are heard
        self._heard: Heard | None = None
        self._step, self._began_s = "", 0.0
        session.project_changed.connect(self._went_on)

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

    # ---- a live source

    @property
    def heard_here(self) -> bool:
        """Whether what is heard is of the build and operating point that are looked at."""
        view = self.session.view
        return self._of == (view.build, view.point)

    def follow(self, address: str) -> None:
        """Follow a source: a simulated device where no address is given, hot and cold as the procedure wants it."""
        session, view = self.session, self.session.view
        if self.begun is None:
            return
        self.stands, self.stretches, self._heard, self._began_s = None, (), None, 0.0
        self._of = view.build, view.point
        self._step = self._now()
        if address:
            self.problem = self.feed.connect_to(address)
        else:
            hot, cold = self._minutes()
            total = 3.0 * (hot + cold) + 10.0
            self.problem = self.feed.simulate(session.computed, *self._of, speed=_SPEED, minutes=total, cycle=(hot, cold))
        self.changed.emit()

    def stop_following(self) -> None:
        """Listen no more."""
        self.feed.stop()
        self.changed.emit()

    def _minutes(self) -> tuple[float, float]:
        steps = self.begun.steps if self.begun is not None else ()
        hot = next((one.minutes for one in steps if is_hot(one)), 20.0)
        cold = next((one.minutes for one in steps if is_cold(one)), 0.0)
        return max(hot, _LEAST_MIN), cold

    def _now(self) -> str:
        following = self._followed()
        return following.next.id if following is not None and following.next is not None else ""

    def _followed(self) -> Procedure | None:
        """The procedure of the build that is heard."""
        build = self._of[0] if self._of is not None else ""
        found = [one for one in self.session.project.procedures if one.kind == self.kind and one.build == build]
        return found[-1] if found else None

    def _look(self) -> None:
        log, procedure = self.feed.log(), self._followed()
        if log is None or self._of is None or procedure is None:
            return
        project = self.session.project
        self._heard = heard_since(log, project, self._began_s)
        step = procedure.next
        known = {one.id for one in project.builds} >= {self._of[0]} and {one.id for one in project.points} >= {self._of[1]}
        self.stands = stands(project, *self._of, step, self._heard) if step is not None and known else None
        self.changed.emit()

    def _over(self, reason: str) -> None:
        self.problem = reason
        self.changed.emit()

    def _went_on(self) -> None:
        """A step was ticked: what a hot one came to is kept, and the next is heard from now on."""
        if self._of is None or self._now() == self._step:
            return
        procedure, heard = self._followed(), self._heard
        before = next((one for one in procedure.steps if one.id == self._step), None) if procedure is not None else None
        if before is not None and before.done and is_hot(before) and heard is not None and len(heard.seconds):
            self.stretches = (*self.stretches, warm(self.session.project, self._of[1], heard))
        log = self.feed.log()
        self._step, self._heard, self.stands = self._now(), None, None
        self._began_s = float(log.time_s[-1]) if log is not None else 0.0

    # ---- what it gained

    @property
    def gains(self) -> tuple[Gained, ...]:
        """Rise over power before and after, as far as cycles were heard."""
        return gained(self.session.project, self.stretches)

    def keeping(self, who: str, now: datetime) -> Edit | None:
        """Return the edit that keeps what burn-in did, None where nothing was heard."""
        found, of = self.gains, self._of
        builds = {one.id for one in self.session.project.builds}
        if not found or of is None or of[0] not in builds:
            return None
        return keep_burn_in(self.session.project, of[0], found, who=who, now=now)


def heard_since(log: Log, project: Project, since_s: float) -> Heard:
    """Return what a log says of sensors, power and air from a moment on."""
    late = log.time_s >= since_s
    sensors, power, air = {}, None, None
    for one in propose(log, project.device, remembered(project)):
        values = log.column(one.column).values[late]
        if one.role == "temperature" and one.sensor is not None:
            sensors[one.sensor] = celsius(one, values)
        elif one.role == "ambient":
            air = celsius(one, values)
        elif one.role == "power" and one.body is None:
            power = values
    return Heard(log.time_s[late], sensors, power, air)
