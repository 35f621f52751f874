"""What is known of the first minutes under load: what is expected, what was read when, and what that says."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from ashen_bridge.bench import errands
from ashen_bridge.bench.first_power.beginning import from_start, power_on
from ashen_bridge.bench.first_power.result import Expected, Judged
from ashen_bridge.bench.recording import remembered
from ashen_bridge.desktop.state.feed import Feed
from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.logs.mapping import propose
from ashen_bridge.logs.scales import celsius

TOGETHER_S = 45.0
"""Readings that lie no further apart than that are judged together [s]."""
_MEAN_S = 5.0


@dataclass(frozen=True)
class Read:
    """A reading of a sensor [°C], so long after full power [s]."""

    sensor: str
    at_s: float
    value_c: float


class FirstDesk(QObject):
    """State of the page of the first minutes. `changed` follows what is read and what was found.

    A stop that readings of a live source brought about holds until it is begun anew; typed readings may be typed better.
    """

    changed = pyqtSignal()

    def __init__(self, session: Session, parent: QObject | None = None, clock: Callable[[], float] = time.monotonic) -> None:
        super().__init__(parent)
        self.session, self._clock = session, clock
        self.sensor = ""
        self.typed_s = 180.0
        self.read: tuple[Read, ...] = ()
        self.stopped: Judged | None = None
        self.log = ""
        self.problem = ""
        self._since: float | None = None
        self._on_s: float | None = None  # when full power came, on the clock of the live source
        self._run: tuple[str, str, str, Expected] | None = None  # key, build, point and what was expected of what was switched on
        self.expected: Question[Expected] = Question(session.questions, "The first minutes", self._asked)
        self.judged: Question[Judged] = Question(session.questions, "What the first minutes say", self._judged)
        for question in (self.expected, self.judged):
            question.changed.connect(self._found)
        self.feed = Feed(self)
        self.feed.looked.connect(self._look)
        self.feed.over.connect(self._ended)

    # ---- questions

    def _asked(self) -> Asked | None:
        session = self.session
        if not session.project.builds or not session.project.points or session.scene() is None:
            return None
        at = session.view.build, session.view.point
        return Asked(key_of(session.keys.project(session.computed), *at), errands.first_minutes, (session.computed, *at))

    def _judged(self) -> Asked | None:
        if self._run is None:
            return None
        run, _, _, expected = self._run
        if self.log:
            return Asked(key_of(run, self.log), errands.first_log, (expected, self.session.computed, self.log))
        now = self.latest()
        if not now:
            return None
        readings = {one.sensor: one.value_c for one in now}
        at_s = max(one.at_s for one in now)
        return Asked(key_of(run, at_s, readings), errands.first_judged, (expected, at_s, readings))

    def _pin(self) -> None:
        """Hold on to what is expected of the device that is switched on, whatever is looked at or edited meanwhile."""
        asked, expected, view = self._asked(), self.expected.value, self.session.view
        if self._run is None and asked is not None and expected is not None:
            self._run = (asked.key, view.build, view.point, expected)

    @property
    def shown(self) -> Expected | None:
        """What is expected: of the run that goes on, else of the build that is looked at."""
        return self._run[3] if self._run is not None else self.expected.value

    @property
    def elsewhere(self) -> str:
        """Of which build the readings are, where another build or operating point is looked at."""
        view, project = self.session.view, self.session.project
        if self._run is None or self._run[1:3] == (view.build, view.point):
            return ""
        builds, points = ({one.id: one.label for one in listed} for listed in (project.builds, project.points))
        return f"These readings are of “{builds.get(self._run[1], self._run[1])}” at “{points.get(self._run[2], self._run[2])}”."

    def _found(self) -> None:
        if self._run is None and (self.log or self.read) and self.expected.value is not None:
            # What was read before it was known what to expect is judged now.
            self._pin()
            self.judged.ask()
        judged = self.judged.value
        if judged is not None and judged.stop and self.following:
            self.stopped = self.stopped or judged
        self.changed.emit()

    @property
    def says(self) -> Judged | None:
        """What is to be said: the stop that holds, else what the latest readings say."""
        return self.stopped or (self.judged.value or self.judged.last if self.read or self.log else None)

    # ---- the clock

    @property
    def running(self) -> bool:
        """Whether the clock runs."""
        return self._since is not None

    @property
    def now_s(self) -> float:
        """The time that a reading is of: by the clock, by the live source, else as it was typed [s]."""
        if self._since is not None:
            return self._clock() - self._since
        return max((one.at_s for one in self.read), default=0.0) if self.following else self.typed_s

    def power_on(self) -> None:
        """Start the clock: full power from now."""
        self.begin_anew()
        self._pin()
        self._since = self._clock()
        self.changed.emit()

    def begin_anew(self) -> None:
        """Forget what was read."""
        self.stop_following()
        self._run = self._on_s = None
        self._since, self.read, self.stopped, self.log, self.problem = None, (), None, "", ""
        self.changed.emit()

    def typed_at(self, seconds: float) -> None:
        """Say of which time the readings are that are typed next [s]."""
        self.typed_s = seconds
        self.changed.emit()

    # ---- readings

    def type(self, sensor: str, value_c: float | None) -> None:
        """Take in a typed reading, of now; None takes it back."""
        self._pin()
        now_s = self.now_s
        rest = tuple(one for one in self.read if one.sensor != sensor or abs(one.at_s - now_s) > TOGETHER_S)
        self.read = rest if value_c is None else (*rest, Read(sensor, now_s, value_c))
        self.log, self.problem = "", ""
        self.judged.ask()
        self.changed.emit()

    def latest(self) -> tuple[Read, ...]:
        """Return the readings that are judged: those near the time of the latest, the last of each sensor."""
        if not self.read:
            return ()
        now_s = self.read[-1].at_s
        return tuple({one.sensor: one for one in self.read if abs(one.at_s - now_s) <= TOGETHER_S}.values())

    def take_log(self, path: str) -> None:
        """Judge a log from a file."""
        self.begin_anew()
        self._pin()
        self.log = path
        self.judged.ask()
        self.changed.emit()

    # ---- a live source

    def follow(self, address: str) -> None:
        """Follow a source: a simulated device where no address is given."""
        self.begin_anew()
        view, session = self.session.view, self.session
        self.problem = (
            self.feed.connect_to(address)
            if address
            else self.feed.simulate(session.computed, view.build, view.point, speed=10.0, minutes=6.0)
        )
        self.changed.emit()

    @property
    def waiting(self) -> bool:
        """Whether a live source is followed that has no full power yet."""
        return self.feed.following and self._on_s is None

    @property
    def following(self) -> bool:
        """Whether a live source is followed."""
        return self.feed.following

    def stop_following(self) -> None:
        """Listen no more."""
        self.feed.stop()

    def _ended(self, reason: str) -> None:
        self.problem = reason
        self.changed.emit()

    def _look(self) -> None:
        """Take over the mean of the last few seconds, and have it judged."""
        self._pin()
        log, project = self.feed.log(), self.session.project
        if log is None or self._run is None:
            return
        if self._on_s is None:
            self._on_s = power_on(log, project, self._run[2])
            if self._on_s is None:
                self.changed.emit()
                return
            # From now on it is held against a device that began as warm as this one, in this room.
            key, build, point, expected = self._run
            expected = from_start(expected, log, project, self._on_s)
            self._run = (key_of(key, expected.healthy_c.tolist()), build, point, expected)
        now_s = float(log.time_s[-1])
        late = log.time_s > now_s - _MEAN_S
        for one in propose(log, project.device, remembered(project)):
            if one.sensor is None or one.role != "temperature":
                continue
            values = celsius(one, log.column(one.column).values[late])
            if np.isfinite(values).any():
                self.read = (*self.read, Read(one.sensor, now_s - self._on_s, float(np.nanmean(values))))
        self.judged.ask()
        self.changed.emit()
