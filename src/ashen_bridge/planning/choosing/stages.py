"""A plan split into stages, so that a test between them tells each change apart: the cheapest opening first."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

from ashen_bridge.changes.plans import Filling, StageOfPlan, add_washers, fill_joints
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.planning.choosing.practice import practice
from ashen_bridge.planning.choosing.result import Plan
from ashen_bridge.planning.interventions import figures
from ashen_bridge.planning.remedies import Standing, standing_of
from ashen_bridge.words.numbers import number, short

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

_OPENS = ("the screws only", "the rear", "the cooler")


@dataclass(frozen=True)
class Stage:
    """One stage: what is changed in it, what has to be opened for it, the build it leads to, and how that stands.

    `moved` names the sensor that a test would see move most, by `moved_k`; `told` says whether that is more than runs differ by
    themselves. `problem` is why it cannot be computed.
    """

    says: str
    opens: str
    minutes: float
    made: StageOfPlan
    die_c: float | None = None
    margin_k: float | None = None
    moved: str = ""
    moved_k: float | None = None
    told: bool = False
    problem: str = ""

    @property
    def words(self) -> str:
        """What comes of it, in words."""
        if self.problem:
            return self.problem
        if self.moved_k is None:
            return ""
        by = f"{self.moved} {'−' if self.moved_k < 0 else '+'}{number(abs(self.moved_k), 1)} K"
        return by if self.told else f"{by}: no more than runs differ by"


def staging(engine: Engine, project: Project, build: str, point: str, plan: Plan) -> Iterator[tuple[float, tuple[Stage, ...]]]:
    """Yield (progress, the stages of a plan so far), by differences of the coarse field."""
    found: list[Stage] = []
    before = standing_of(engine, project, build, point)
    steps = _steps(project, build, plan)
    yield 0.1, ()
    for n, one in enumerate(steps):
        after_project = fill_joints(add_washers(project, build, one.made.washers_mm), build, one.made.fillings)
        try:
            after = standing_of(engine, after_project, build, point)
            found.append(_stood(one, before, after))
            before = after
        except AshenError as error:
            found.append(Stage(one.says, one.opens, one.minutes, one.made, problem=str(error)))
        yield (n + 1) / len(steps), tuple(found)
    if not steps:
        yield 1.0, ()


def _steps(project: Project, build: str, plan: Plan) -> list[Stage]:
    """Return what is done after what, each with all that was done before: screws, rear, then the cooler with its die last."""
    bodies, here = project.bodies_known(project.build(build)), project.build(build)
    p = practice()
    minutes = {one.place: p.minutes[one.kind] for one in plan.chosen}
    named = {one.place: one for one in plan.chosen if one.changed}

    def order(filling: Filling) -> tuple[int, bool]:
        rear = getattr(bodies[here.joint(filling.joints[0]).upper], "side", Side.FRONT) is Side.REAR
        over_die = any(getattr(bodies[low], "role", "") == "die" for name in filling.joints for low in here.joint(name).lower)
        return (1 if rear else 2), over_die

    steps: list[Stage] = []
    done: list[Filling] = []
    if plan.washers_mm:
        washers = f"{short(plan.washers_mm)} mm of washers under the sprung screws"
        made = StageOfPlan(name=_name(plan, 1), fillings=(), washers_mm=plan.washers_mm)
        steps.append(Stage(washers, _OPENS[0], 4 * p.minutes["washer"], made))
    for filling in sorted(plan.fillings, key=order):
        done.append(filling)
        opens = _OPENS[order(filling)[0]]
        chosen = named.get(filling.joints[0])
        says = f"{chosen.says} on {chosen.label}" if chosen is not None else here.joint(filling.joints[0]).label
        each = minutes.get(filling.joints[0], p.minutes["pad"]) * len(filling.joints) + p.minutes["clean"]
        made = StageOfPlan(name=_name(plan, len(steps) + 1), fillings=tuple(done), washers_mm=plan.washers_mm)
        steps.append(Stage(says, opens, p.minutes["open"] + each, made))
    return steps


def _name(plan: Plan, n: int) -> str:
    return f"{plan.name}, stage {n}"


def _stood(stage: Stage, before: Standing, after: Standing) -> Stage:
    was = {row.id: row.value_c for row in before.sensors}
    moved = [(row.value_c - was[row.id], row.name) for row in after.sensors if row.id in was]
    by, name = max(moved, key=lambda one: abs(one[0]), default=(None, ""))
    margins = [row.margin_k for row in after.sensors if row.margin_k is not None]
    told = by is not None and abs(by) >= figures()["tells_apart_k"]
    return Stage(
        stage.says, stage.opens, stage.minutes, stage.made, after.die_c, min(margins, default=None), name, by, bool(told)
    )
