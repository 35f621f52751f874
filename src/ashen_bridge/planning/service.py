"""Service: the date at which ageing has used up a limit's margin, with its chances; a calendar of it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.model import paths
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Quantity
from ashen_bridge.model.sharing import replaced, with_each
from ashen_bridge.planning.known import measured, within
from ashen_bridge.predict.report import SensorRow
from ashen_bridge.thermal.steady import RunawayError
from ashen_bridge.words.numbers import number

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

YEARS = (0.0, 0.5, 1.0, 2.0, 3.0, 5.0, 7.0, 10.0)
CHANCES = (0.1, 0.5, 0.9)
_DAYS = 365.25
_RAN_AWAY_K = 100.0
_Z = 1.2816  # standard normal at nine in ten


@dataclass(frozen=True)
class Due:
    """When service is due: years until a limit is passed with 10, 50 and 90 % chance, None where not within ten years.

    `sensor` is the one that is first, `part` the joint whose ageing does most of it, `today_k` its margin now.
    """

    sensor: str
    part: str
    today_k: float
    years: tuple[float | None, float | None, float | None]

    @property
    def words(self) -> str:
        """It in words."""
        if self.today_k <= 0:
            return f"Due now: {self.sensor} is {number(-self.today_k, 1)} K over its limit; most of it by {self.part}."
        if self.years[1] is None:
            within = "" if self.years[0] is None else f"; with 10 % chance within {number(self.years[0], 1)} years"
            return f"Not within ten years: {self.sensor} keeps its limit{within}."
        low = (
            "under half a year" if self.years[0] is not None and self.years[0] < 0.5 else f"{number(self.years[0] or 0, 1)} years"
        )
        high = "over ten" if self.years[2] is None else f"{number(self.years[2], 1)}"
        return (
            f"{self.sensor} uses its margin of {number(self.today_k, 1)} K up in {number(self.years[1], 1)} years "
            f"(10 %: {low}, 90 %: {high} years); most of it by {self.part}."
        )

    def on(self, start: date, at: int = 1) -> date | None:
        """Return the date of one of the chances, None where it is not within ten years."""
        years = self.years[at]
        return None if years is None else start + timedelta(days=round(years * _DAYS))


def service_due(engine: Engine, project: Project, build: str | None = None, point: str | None = None) -> Due | None:
    """Return when service is due; None where no sensor has a limit. Raises `AshenError` for what cannot be computed.

    Every layer ages by its own law (`ageing_per_year`). How fast it does is taken low, as stated and high together with what
    is not known of the sensor today: nine in ten each way. Where a run of this build was kept, its margin today is the measured
    one; else it is the predicted one, with everything drawn that carries an uncertainty.
    """
    here, at = project.build(build).id, project.point(point).id
    if project.point(at).throttle_at_c:
        project = paths.set_values(project, {f"points.{at}.throttle_at_c": {}})
    courses = {sign: _margins(engine, project, here, at, sign) for sign in (1.0, 0.0, -1.0)}
    if courses[0.0] is None:
        return None
    rows, middle = courses[0.0]
    names = [row.name for row in rows]
    shift, sigma = _today(engine, project, here, at, rows)
    middle = middle + shift
    crossing = [
        tuple(_crosses(margins[:, n] + shift[n] - sign * _Z * sigma[n]) for sign, margins in _worst_first(courses))
        for n in range(len(names))
    ]
    first = min(range(len(names)), key=lambda n: (crossing[n][1] is None, crossing[n][1] or 0.0, float(middle[0, n])))
    return Due(names[first], _part(engine, project, here, at, names[first]), float(middle[0, first]), crossing[first])  # type: ignore[arg-type]


def margins_today(
    engine: Engine, project: Project, build: str | None = None, point: str | None = None
) -> list[tuple[str, float]]:
    """Return what is left to every sensor with a limit [K]: as its last run showed it, else as predicted."""
    here, at = project.build(build).id, project.point(point).id
    rows = [row for row in engine.shown(project, here, at)[0] if row.margin_k is not None]
    read = measured(engine, project, here, at)
    return [(row.name, (row.margin_k or 0.0) + (row.value_c - read[row.id][0] if row.id in read else 0.0)) for row in rows]


def _today(engine: Engine, project: Project, build: str, point: str, rows: Sequence[SensorRow]) -> tuple[Floats, Floats]:
    """Return by how much more is left to every sensor than predicted, by what was measured, and its standard uncertainty [K]."""
    read = measured(engine, project, build, point)
    missing = [row.id for row in rows if row.id not in read]
    pm = within(engine, project, build, point, missing) if missing else {}
    shift = np.array([row.value_c - read[row.id][0] if row.id in read else 0.0 for row in rows])
    return shift, np.array([read[row.id][1] if row.id in read else pm[row.id] for row in rows])


def _worst_first(courses: dict[float, tuple[list[SensorRow], Floats] | None]) -> Iterator[tuple[float, Floats]]:
    for sign in (1.0, 0.0, -1.0):
        found = courses[sign]
        assert found is not None  # all or none
        yield sign, found[1]


def _margins(engine: Engine, project: Project, build: str, point: str, sign: float) -> tuple[list[SensorRow], Floats] | None:
    """Return sensors with limits and what is left to them (n_year, n_sensor) [K], ageing as fast as `sign` says."""
    materials = tuple(replaced(one, ageing_per_year=_faster(one.ageing_per_year, sign)) for one in project.materials)
    project = replaced(project, materials=materials)
    now: list[SensorRow] = []
    rows: list[list[float]] = []
    for years in YEARS:
        try:
            shown = [row for row in engine.shown(_aged(project, build, years), build, point)[0] if row.margin_k is not None]
        except RunawayError:
            if not rows:
                raise
            rows.append([-_RAN_AWAY_K] * len(now))  # it would not even stay anywhere
            continue
        now = now or shown
        rows.append([row.margin_k or 0.0 for row in shown])
    return (now, np.array(rows)) if now else None


def _faster(rate: Quantity, sign: float) -> Quantity:
    return replaced(rate, value=max(rate.value + sign * _Z * rate.uncertainty, 0.0))


def _aged(project: Project, build: str, years: float, only: str | None = None) -> Project:
    """Return the project with the layers of a build older by some years, all or those of one joint."""

    def older(joint: object) -> object:
        if only is not None and getattr(joint, "id", "") != only:
            return joint
        return with_each(joint, "pieces", lambda piece: replaced(piece, age_days=min(piece.age_days + years * _DAYS, 40_000.0)))  # type: ignore[type-var]

    return with_each(project, "builds", lambda one: with_each(one, "joints", older), (build,))


def _crosses(margins: Floats) -> float | None:
    """Return after how many years a margin is used up, between the years that were looked at; None if it is not."""
    if margins[0] <= 0:
        return 0.0
    for n in range(1, len(YEARS)):
        if margins[n] <= 0:
            part = margins[n - 1] / (margins[n - 1] - margins[n])
            return float(YEARS[n - 1] + part * (YEARS[n] - YEARS[n - 1]))
    return None


def _part(engine: Engine, project: Project, build: str, point: str, sensor: str) -> str:
    """Return the joint whose ageing takes most from a sensor's margin."""
    now = {row.name: row.value_c for row in engine.shown(project, build, point)[0]}[sensor]
    found: list[tuple[float, str]] = []
    groups: dict[str, list[str]] = {}
    for joint in project.build(build).joints:
        group = project.group_of(joint.id)
        groups.setdefault(group.label if group is not None else joint.label, []).append(joint.id)
    for label, joints in groups.items():
        aged = project
        for name in joints:
            aged = _aged(aged, build, 5.0, name)
        try:
            then = {row.name: row.value_c for row in engine.shown(aged, build, point)[0]}[sensor]
        except AshenError:
            continue
        found.append((then - now, label))
    return max(found, default=(0.0, "nothing"))[1]


def calendar(dues: list[tuple[str, Due]], start: date) -> bytes:
    """Return a calendar file with the service of some devices, at the day that has an even chance."""
    from icalendar import Calendar, Event

    made, seen = Calendar(), Counter[str]()
    made.add("prodid", "-//Ashen Bridge//service//")
    made.add("version", "2.0")
    for name, due in dues:
        day = due.on(start)
        if day is None:
            continue
        event = Event()
        seen[name] += 1
        event.add("uid", f"service-{name}-{seen[name]}@ashen-bridge")
        event.add("summary", f"Service: {name}")
        event.add("description", due.words)
        event.add("dtstart", day)
        event.add("dtend", day + timedelta(days=1))
        made.add_component(event)
    return bytes(made.to_ical())
