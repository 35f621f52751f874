"""What Choose looks at beside what all workspaces do: page, plan, place; and its questions."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from PyQt6.QtCore import QObject, pyqtSignal

from ashen_bridge.desktop.state.keys import key_of
from ashen_bridge.desktop.state.question import Asked, Question
from ashen_bridge.desktop.state.session import Session
from ashen_bridge.model.project import Project
from ashen_bridge.planning import errands
from ashen_bridge.planning.allowed import Tolerances
from ashen_bridge.planning.choosing.candidates import known_materials
from ashen_bridge.planning.choosing.result import Advice, Plan, ShelfCurve, WhyNot
from ashen_bridge.planning.choosing.stages import Stage
from ashen_bridge.planning.comparing import Compared, at_equal_power
from ashen_bridge.planning.interventions import Intervention
from ashen_bridge.planning.sliding import Slid, Slider, sliders

Page = Literal["plans", "ways", "compare", "slide", "tight", "shelf"]
Below = Literal["bears", "instead", "stages"]
SAID = ("aims", "goals", "stock", "shop", "groups")
"""What of a project counts for advice, beside what a prediction stands on."""


@dataclass(frozen=True)
class ChooseView:
    """`plan` is the number of the one that is looked at, `place` the joints whose candidates are; `below` is what is told under
    the plans.

    `builds` and `points` are compared, all builds at the present point while none is named.
    """

    page: Page = "plans"
    plan: int = 0
    place: str = ""
    below: Below = "bears"
    builds: tuple[str, ...] = ()
    points: tuple[str, ...] = ()
    equal_power: bool = False
    chance: float = 0.9
    slid: tuple[tuple[str, float], ...] = ()
    kpa: float = 100.0
    mm: float = 1.0


class ChooseDesk(QObject):
    """Choose's own state. `changed` follows what is looked at and what was found."""

    changed = pyqtSignal()

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.view = ChooseView()
        self.advice: Question[Advice] = Question(session.questions, "Advice", self._advised)
        self.ways: Question[tuple[Intervention, ...]] = Question(session.questions, "Other ways", self._ways)
        self.stages: Question[tuple[Stage, ...]] = Question(session.questions, "Stages", self._staged)
        self.compared: Question[tuple[Compared, ...]] = Question(session.questions, "Builds compared", self._compared)
        self.other: tuple[str, Project] | None = None
        self.beside: Question[tuple[Compared, ...]] = Question(session.questions, "Another file", self._beside)
        self.tight: Question[Tolerances] = Question(session.questions, "Tolerances", self._tight)
        self.slide: Question[Slid] = Question(session.questions, "What if", self._slide)
        self.shelf: Question[tuple[ShelfCurve, ...]] = Question(session.questions, "Shelf", self._shelved)
        for question in (self.advice, self.ways, self.stages, self.compared, self.beside, self.tight, self.slide, self.shelf):
            question.changed.connect(self.changed)

    def look(self, view: ChooseView) -> None:
        """Look at something else; changed copies are made with `dataclasses.replace`."""
        if view != self.view:
            self.view = view
            self.changed.emit()

    # ---- advice

    def _advised(self) -> Asked | None:
        session = self.session
        if not session.project.builds or not session.project.points or session.scene() is None:
            return None
        key = key_of(session.keys.project(session.computed, *SAID), session.view.build, session.view.point)
        return Asked(key, errands.advice, (session.computed, session.view.build, session.view.point))

    @property
    def found(self) -> Advice | None:
        """The latest advice that speaks of the build, be it of a moment before."""
        known = self.advice.value or self.advice.last
        return known if known is not None and known.build == self.session.view.build else None

    @property
    def columns(self) -> tuple[Plan, ...]:
        """The plans as they stand beside each other: as it is, then what is advised."""
        found = self.found
        if found is None:
            return ()
        return (*((found.present,) if found.present is not None else ()), *found.plans)

    @property
    def plan(self) -> Plan | None:
        """The plan that is looked at."""
        found = self.found
        return found.plans[min(self.view.plan, len(found.plans) - 1)] if found is not None and found.plans else None

    @property
    def place(self) -> WhyNot | None:
        """The place whose candidates are looked at."""
        found = self.found
        return next((one for one in found.why_not if one.place == self.view.place), None) if found is not None else None

    def _ways(self) -> Asked | None:
        session = self.session
        if not session.project.builds or not session.project.points or session.scene() is None:
            return None
        at = session.view.build, session.view.point
        key = key_of(session.keys.project(session.computed, *SAID), *at)
        return Asked(key, errands.other_ways, (session.computed, *at))

    def _staged(self) -> Asked | None:
        plan, session = self.plan, self.session
        if plan is None or self.found is None or session.scene() is None:
            return None
        at = session.view.build, session.view.point
        key = key_of(session.keys.project(session.computed, *SAID), *at, plan.id)
        return Asked(key, errands.staged, (session.computed, *at, plan))

    def _tight(self) -> Asked | None:
        session = self.session
        if not session.project.builds or not session.project.points or session.scene() is None:
            return None
        at = session.view.build, session.view.point
        key = key_of(session.keys.project(session.computed, *SAID), *at, self.view.chance)
        return Asked(key, errands.tolerances, (session.computed, *at, self.view.chance))

    # ---- what if

    def sliders(self) -> tuple[Slider, ...]:
        """Return the numbers that may be slid; none where nothing can be computed."""
        session = self.session
        if not session.project.builds or not session.project.points:
            return ()
        return sliders(session.project, session.view.build, session.view.point)

    def slid_paths(self) -> tuple[str, ...]:
        """Return the numbers that are slid: those that were chosen, else air, fan and the largest power."""
        if self.view.slid:
            return tuple(path for path, _ in self.view.slid)
        return tuple(one.path for one in self.sliders()[:3])

    def slid_values(self) -> dict[str, float]:
        """Return the values that differ from what they are."""
        now = {one.path: one.now for one in self.sliders()}
        return {path: value for path, value in self.view.slid if path in now and abs(value - now[path]) > 1e-9}

    def slide_to(self, path: str, value: float) -> None:
        """Slide a number."""
        now = {one.path: one.now for one in self.sliders()}
        values = dict(self.view.slid) or {one: now[one] for one in self.slid_paths()}
        self.look(replace(self.view, slid=tuple({**values, path: value}.items())))

    def slide_no_more(self, path: str) -> None:
        """Slide a number no more; the last one stays."""
        now = {one.path: one.now for one in self.sliders()}
        values = dict(self.view.slid) or {one: now[one] for one in self.slid_paths()}
        values.pop(path, None)
        if values:
            self.look(replace(self.view, slid=tuple(values.items())))

    def _slide(self) -> Asked | None:
        session = self.session
        if not session.project.builds or not session.project.points or session.scene() is None:
            return None
        at, values = (session.view.build, session.view.point), self.slid_values()
        key = key_of(session.keys.project(session.computed, *SAID), *at, tuple(values.items()))
        return Asked(key, errands.slid, (session.computed, *at, values))

    def _shelved(self) -> Asked | None:
        materials = tuple(known_materials(self.session.project).values())
        key = key_of([one.model_dump_json() for one in materials], self.view.kpa, self.view.mm)
        return Asked(key, errands.shelved, (materials, self.view.kpa, self.view.mm))

    # ---- builds beside each other

    def _compared(self) -> Asked | None:
        session = self.session
        if len(session.project.builds) < (2 if self.other is None else 1) or not session.project.points:
            return None
        builds = [one.id for one in session.project.builds if not self.view.builds or one.id in self.view.builds]
        points = [one.id for one in session.project.points if one.id in self.view.points] or [session.view.point]
        if not builds:
            return None
        key = key_of(session.keys.project(session.computed, *SAID), tuple(builds), tuple(points))
        return Asked(key, errands.compared, (session.computed, tuple(builds), tuple(points)))

    def _beside(self) -> Asked | None:
        if self.other is None:
            return None
        name, project = self.other
        return Asked(key_of(self.session.keys.project(project), name), errands.compared_file, (project, name))

    def hold_against(self, name: str, project: Project | None) -> None:
        """Set another file beside the builds of this one; None takes it away again."""
        self.other = None if project is None else (name, project)
        self.changed.emit()

    @property
    def compared_rows(self) -> tuple[Compared, ...]:
        """All that stands beside each other, as far as it is known."""
        known = self.compared.value or ((self.compared.last or ()) if self.compared.state != "refused" else ())
        rows = (*known, *(self.beside.value or ())) if self.other is not None else known
        return at_equal_power(rows) if self.view.equal_power else rows

    def toggle_build(self, build: str) -> None:
        """Compare a build, or leave it out; the last one stays."""
        every = tuple(one.id for one in self.session.project.builds)
        now = self.view.builds or every
        new = tuple(one for one in every if (one in now) != (one == build))
        if new:
            self.look(replace(self.view, builds=new))

    def toggle_point(self, point: str) -> None:
        """Compare at an operating point as well, or no more; the last one stays."""
        every = tuple(one.id for one in self.session.project.points)
        now = self.view.points or (self.session.view.point,)
        new = tuple(one for one in every if (one in now) != (one == point))
        if new:
            self.look(replace(self.view, points=new))
