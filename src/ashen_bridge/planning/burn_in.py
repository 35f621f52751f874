"""Burn-in: hot and cold cycles until phase-change sheets have melted everywhere, or paste has settled; by the model over time."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.changes.names import fresh_id
from ashen_bridge.model.build import Build
from ashen_bridge.model.material import MaterialKind
from ashen_bridge.model.procedures import Procedure
from ashen_bridge.model.project import Project
from ashen_bridge.planning.burn_follow import COLD_K, HOLD_MIN, MELTS_C
from ashen_bridge.planning.practice import cautions_at
from ashen_bridge.planning.step_writer import StepWriter
from ashen_bridge.predict.patterns import read_pattern
from ashen_bridge.words.numbers import number

if TYPE_CHECKING:
    from ashen_bridge.predict.course import Course
    from ashen_bridge.predict.engine import Engine

_STEPS = (0.5, 0.75, 1.0)  # shares of the power, so that nothing is shocked; common practice, no source
_CYCLES, _SETTLE_MIN = 3, 120.0  # common practice, no source
_LAST_K = 1.0  # over where it stays without power
_HOT, _COOL = "step 90min", "cool 90min"
_MOST_ABOUT = 64


@dataclass(frozen=True)
class Melting:
    """How a joint gets hot at full power: after how many minutes it is melted everywhere, None where it never is."""

    joint: str
    label: str
    minutes: float | None
    end_c: float


@dataclass(frozen=True)
class BurnIn:
    """What burn-in takes: cycles at shares of the power, minutes hot and minutes until it is cold again; `says` it in words."""

    build: str
    point: str
    cycles: int
    shares: tuple[float, ...]
    hot_min: float
    cold_min: float
    melting: tuple[Melting, ...]
    says: str

    @property
    def minutes(self) -> float:
        """How long all of it takes."""
        return self.cycles * (self.hot_min + self.cold_min)


def burn_in(engine: Engine, project: Project, build: str | None = None, point: str | None = None) -> BurnIn:
    """Return the burn-in of a build. Raises `AshenError` for what cannot be computed."""
    here, at = project.build(build), project.point(point)
    kinds = {one.id: one.kind for one in project.materials}
    sheets = [
        (joint.id, joint.label, joint.lower)
        for joint in here.joints
        if any(kinds.get(piece.material) is MaterialKind.PHASE_CHANGE for piece in joint.pieces)
    ]
    flows = any(piece.flows for joint in here.joints for piece in joint.pieces)
    if not sheets and not flows:
        return BurnIn(here.id, at.id, 0, (), 0.0, 0.0, (), "Nothing melts or settles here: no burn-in is needed.")
    if not sheets:
        said = f"Paste settles: {number(_SETTLE_MIN)} minutes at full power, or some hours of ordinary use; then test."
        return BurnIn(here.id, at.id, 1, (1.0,), _SETTLE_MIN, 0.0, (), said)
    hot = engine.transient(project, here.id, at.id, read_pattern(_HOT))
    cold = engine.transient(project, here.id, at.id, read_pattern(_COOL))
    melting = tuple(_melted(project, hot, *one) for one in sheets)
    never = [one for one in melting if one.minutes is None]
    hot_min = max((one.minutes for one in melting if one.minutes is not None), default=float(hot.time_s[-1]) / 60) + HOLD_MIN
    cold_min = _cooled(cold, at.ambient_c.value + COLD_K)
    if never:
        names = ", ".join(f"{one.label} ({number(one.end_c)} °C)" for one in never)
        said = f"At full power {names} does not get to {number(MELTS_C)} °C: warm the air at the inlet, watching every limit."
    else:
        said = f"{_CYCLES} cycles: {number(hot_min)} minutes hot, {number(cold_min)} minutes cold; the first at half power."
    return BurnIn(here.id, at.id, _CYCLES, _STEPS, hot_min, cold_min, melting, said)


def _melted(project: Project, course: Course, joint: str, label: str, lower: tuple[str, ...]) -> Melting:
    """Return when the coolest part under a joint is beyond melting: its own sensor, else its own column."""
    labels = {body.id: body.label for body in project.all_bodies}
    sensors = {one.label: one.body for one in project.device.sensors}
    columns: list[Floats] = [course.values_c[:, n] for n, name in enumerate(course.sensors) if sensors.get(name) in lower]
    columns += [course.others_c[:, n] for n, name in enumerate(course.others) if name in {labels.get(low) for low in lower}]
    if not columns:
        return Melting(joint, label, None, float("nan"))
    coolest = np.min(columns, axis=0)
    beyond = np.flatnonzero(coolest >= MELTS_C)
    minutes = float(course.time_s[beyond[0]]) / 60 if len(beyond) else None
    return Melting(joint, label, minutes, float(coolest[-1]))


def _cooled(course: Course, below_c: float) -> float:
    """Return after how many minutes without power everything that is read is below a temperature, or as cold as it gets."""
    hottest = course.values_c.max(axis=1) if course.values_c.size else np.array([below_c])
    under = np.flatnonzero(hottest <= max(below_c, float(hottest[-1]) + _LAST_K))
    return float(course.time_s[under[0] if len(under) else -1]) / 60


def burn_in_steps(project: Project, plan: BurnIn) -> Procedure:
    """Return a burn-in as a procedure with timers. Raises `AshenError` for a build that is gone."""
    build = project.build(plan.build)
    hazards, steps = project.device.hazards, StepWriter()
    hot = _heated(project, build)
    steps.add("look", plan.says, caution=cautions_at("start", hazards))
    for n in range(plan.cycles):
        share = plan.shares[min(n, len(plan.shares) - 1)]
        text = f"Cycle {n + 1} of {plan.cycles}: {number(100 * share)} % of the power, {number(plan.hot_min)} minutes."
        steps.add("wait", text, hot, minutes=plan.hot_min, timer_s=round(plan.hot_min * 60))
        if plan.cold_min:
            text = f"Switched off for {number(plan.cold_min)} minutes, until it is cold."
            steps.add("wait", text, minutes=plan.cold_min, timer_s=round(plan.cold_min * 60))
    steps.add("look", "Run the test of the baseline again, the same windows; compare before and after under Prove.")
    name = fresh_id(f"burn_in_{build.id}"[:48], [one.id for one in project.procedures])
    return Procedure(id=name, name=f"Burn-in of {build.label}", kind="burn in", build=build.id, steps=tuple(steps.made))


def _heated(project: Project, build: Build) -> tuple[str, ...]:
    """Return the bodies under sheets that melt, else under what flows: what has to get hot."""
    kinds = {one.id: one.kind for one in project.materials}
    melting = [one for one in build.joints if any(kinds.get(p.material) is MaterialKind.PHASE_CHANGE for p in one.pieces)]
    flowing = [one for one in build.joints if any(piece.flows for piece in one.pieces)]
    return tuple(dict.fromkeys(low for joint in melting or flowing for low in joint.lower))[:_MOST_ABOUT]


def plain(plan: BurnIn) -> dict[str, object]:
    """Return a burn-in as plain data."""
    melting = [{"joint": m.joint, "minutes": m.minutes, "end_c": None if np.isnan(m.end_c) else m.end_c} for m in plan.melting]
    return {**vars(plan), "melting": melting, "minutes": plan.minutes}
