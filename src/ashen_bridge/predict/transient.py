"""What the sensors show over time for a load pattern, and how long a test must run."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.geometry.region import Floats
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.model.bodies import Component, Plate
from ashen_bridge.model.build import OperatingPoint
from ashen_bridge.model.device import Sensor
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.quantity import q
from ashen_bridge.predict.course import SOAKED_K, Course
from ashen_bridge.predict.ledger import skin, skin_names
from ashen_bridge.predict.operating import Operating, come_about
from ashen_bridge.predict.readings import active_extremes, read_sensor
from ashen_bridge.thermal.from_scene import facing_name
from ashen_bridge.thermal.parts import HeatModel
from ashen_bridge.thermal.sheets import nominal_thickness
from ashen_bridge.thermal.steady import Accuracy, HeatField, SteadySolver
from ashen_bridge.thermal.surfaces import KELVIN
from ashen_bridge.thermal.transient import InsideAir, Moment, Stage, march

if TYPE_CHECKING:
    from ashen_bridge.thermal.resolution import Frame

_ACCURACY = Accuracy(residual=1e-6, settled=1e-2, energy=1e-4)
_MOST_STAGES = 1000
_MOST_S = 7 * 86400.0
_UNITS = {"s": 1.0, "sec": 1.0, "min": 60.0, "h": 3600.0}
_TIME = r"(\d+(?:\.\d+)?)\s*(s|sec|min|h)"


class PatternError(AshenError, ValueError):
    """A load pattern that cannot be read."""


@dataclass(frozen=True)
class Pattern:
    """A load over time: the share of power the device is soaked at before, then stages.

    start_c : temperature [°C] the whole device starts from instead of being soaked. own_s : how long to go on with the operating
    point's own cycle, in place of stages.
    """

    before: float
    stages: tuple[Stage, ...]
    start_c: float | None = None
    own_s: float = 0.0

    @property
    def seconds(self) -> float:
        """How long all of it takes."""
        return sum(stage.seconds for stage in self.stages) or self.own_s

    def at(self, point: OperatingPoint) -> Pattern:
        """Return the pattern with the operating point's own cycle written out. Raises `PatternError` if it has none."""
        if not self.own_s:
            return self
        if not point.cycle:
            raise PatternError(f"Operating point '{point.id}' has no cycle of its own to go through.")
        left, stages = self.own_s, list[Stage]()
        while left > 1e-9:
            for stretch in point.cycle:
                if left > 1e-9:
                    stages.append(Stage(min(stretch.seconds, left), stretch.share))
                    left -= stretch.seconds
            if len(stages) > _MOST_STAGES:
                raise PatternError(f"The cycle of '{point.id}' would come more than {_MOST_STAGES} times in that time.")
        return replace(self, stages=tuple(stages), own_s=0.0)


@dataclass(frozen=True)
class Watch:
    """What to look at while marching: output times that are met exactly [s], and the error allowed in a step [K]."""

    times: tuple[float, ...] = ()
    tolerance: float = 0.05

    def __post_init__(self) -> None:
        if not 1e-4 <= self.tolerance <= 5.0:
            raise PatternError(f"A step may be off by 0.0001 to 5 K, not by {self.tolerance:g} K.")
        if any(not 0 <= time <= _MOST_S for time in self.times):
            raise PatternError("Output times must be from 0 to 7 days.")


def read_pattern(text: str) -> Pattern:
    """Return the pattern that is written.

    `step 60min` full power from rest; `cool 30min` none, from full power; `burst 30s in 10min` full power for a while, then
    none; `duty 10s/20s 30min` on and off again and again; `stages 0.5 10min, 1.0 60min` any shares in turn; `cycle 30min` the
    operating point's own. `… from -10C` starts with the whole device at that temperature.

    >>> read_pattern("burst 30s in 10min").stages
    (Stage(seconds=30.0, factor=1.0), Stage(seconds=570.0, factor=0.0))
    """
    words = " ".join(text.lower().split())
    begin = re.fullmatch(r"(.*) from ([-−+]?\d+(?:\.\d+)?) ?°?c", words)
    if begin:
        start = float(begin[2].replace("−", "-"))
        if not -100 <= start <= 200:
            raise PatternError(f"“{text}”: a device cannot start from {start:g} °C (−100 to 200).")
        return replace(read_pattern(begin[1]), start_c=start)
    if found := re.fullmatch(rf"(step|cool) {_TIME}", words):
        seconds = _seconds(found[2], found[3])
        pattern = Pattern(*((0.0, (Stage(seconds, 1.0),)) if found[1] == "step" else (1.0, (Stage(seconds, 0.0),))))
    elif found := re.fullmatch(rf"burst {_TIME} in {_TIME}", words):
        on, total = _seconds(found[1], found[2]), _seconds(found[3], found[4])
        if on >= total:
            raise PatternError(f"“{text}”: the burst must be shorter than the whole.")
        pattern = Pattern(0.0, (Stage(on, 1.0), Stage(total - on, 0.0)))
    elif found := re.fullmatch(rf"duty {_TIME}/{_TIME} {_TIME}", words):
        on, off, total = (_seconds(found[n], found[n + 1]) for n in (1, 3, 5))
        count = round(total / (on + off))
        if not 1 <= count <= 500:
            raise PatternError(f"“{text}” has {count} cycles; from 1 to 500 can be computed.")
        pattern = Pattern(0.0, (Stage(on, 1.0), Stage(off, 0.0)) * count)
    elif found := re.fullmatch(rf"cycle {_TIME}", words):
        pattern = Pattern(0.0, (), own_s=_seconds(found[1], found[2]))
    elif re.fullmatch(rf"stages (?:\d+(?:\.\d+)? {_TIME}(?:, )?)+", words):
        parts = re.findall(rf"(\d+(?:\.\d+)?) {_TIME}", words)
        pattern = Pattern(0.0, tuple(Stage(_seconds(time, unit), float(share)) for share, time, unit in parts))
    else:
        raise PatternError(
            f"“{text}” is not a load pattern; write for example: step 60min, cool 30min, burst 30s in 10min, "
            "duty 10s/20s 30min, stages 0.5 10min, 1.0 60min, cycle 30min, and “from 5C” behind any of them."
        )
    if not 0 < pattern.seconds <= _MOST_S or any(stage.seconds <= 0 or stage.factor > 10 for stage in pattern.stages):
        raise PatternError(f"“{text}” must last from above 0 to 7 days, at up to ten times the power.")
    return pattern


def _seconds(number: str, unit: str) -> float:
    return float(number) * _UNITS[unit]


def course(
    scene: Scene,
    point: OperatingPoint,
    model_of: Callable[[OperatingPoint, float | None], HeatModel],
    frame: Frame,
    pattern: Pattern,
    watch: Watch | None = None,
) -> Iterator[tuple[float, Course | None]]:
    """Yield (progress, None) while the course of all sensors for a load pattern is worked out, and (1, course) at the end.

    `model_of` gives the heat model of an operating point with its powers and inside air. What lies in joints stores heat, half of
    it at each face, unless it has cells of its own. A sink's fins are lumped on its base. Powers are made as told: a component
    that would throttle shows how hot it would get.
    """
    watch = watch or Watch()
    pattern = pattern.at(point)
    told = unthrottled(point)
    active = frame.slabs.active
    solver = SteadySolver()

    def settled(factor: float) -> Operating:
        def solve(actual: OperatingPoint, inside: float | None) -> HeatField:
            return solver.solve(model_of(actual, inside), _ACCURACY)

        return come_about(scene, _scaled(told, factor), active, solve)

    full = settled(1.0)
    model = model_of(full.point, full.inside)
    steady = full.field
    if pattern.start_c is None:
        begin = settled(pattern.before).field.temperature
    else:
        begin = np.full(steady.grid.n_cell, pattern.start_c + KELVIN)
    columns = columns_of_course(scene)
    times, rows, powers = [], [], []
    worst = 0.0

    def marched(stages: Sequence[Stage], stops: Sequence[float] = ()) -> Iterator[Moment]:
        extra = _fins(scene, steady) + stored_in_joints(scene, frame, steady)
        return march(
            model,
            steady,
            begin,
            stages,
            extra_capacity=extra,
            inside=_inside_air(point),
            tolerance=watch.tolerance,
            stops=stops,
        )

    idle = None
    if pattern.start_c is not None:
        # What it would do without power: only what is above that is brought to another field.
        seen_idle = [
            (one.time, _shown(scene, replace(steady, temperature=one.temperature), columns, active))
            for one in marched((Stage(pattern.seconds, 0.0),))
        ]
        idle = np.array([time for time, _ in seen_idle]), np.array([row for _, row in seen_idle])
    for moment in marched(pattern.stages, watch.times):
        yield 0.98 * moment.time / pattern.seconds, None
        seen = replace(steady, temperature=moment.temperature)
        times.append(moment.time)
        powers.append(moment.power)
        rows.append(_shown(scene, seen, columns, active))
        worst = max(worst, moment.error)
    names = columns.names
    values = np.array(rows).reshape(len(times), len(names))
    final = np.array(_shown(scene, steady, columns, active))
    first = columns.n_sensor
    soak = None
    if len(pattern.stages) == 1:
        # What a constant load comes to in the end: full power, or none.
        end = settled(pattern.stages[0].factor).field
        soak = _soak(np.array(times), values[:, :first], np.array(_shown(scene, end, columns, active))[:first])
    yield (
        1.0,
        Course(
            np.array(times),
            names[:first],
            values[:, :first],
            np.array(powers),
            final[:first],
            soak,
            others=names[first:],
            others_c=values[:, first:],
            others_steady_c=final[first:],
            output_s=tuple(time for time in watch.times if time <= pattern.seconds + 1e-9),
            step_error_k=worst,
            idle_c=None if idle is None else np.stack([np.interp(times, idle[0], column) for column in idle[1].T], axis=1),
        ),
    )


def _scaled(point: OperatingPoint, factor: float) -> OperatingPoint:
    """Return an operating point with all that is told multiplied."""
    powers = {name: q(power.value * factor) for name, power in point.powers_w.items()}
    board = q(point.board_w.value * factor) if point.board_w is not None else None
    return point.model_copy(update={"powers_w": powers, "board_w": board})


def unthrottled(point: OperatingPoint) -> OperatingPoint:
    """Return an operating point at its full power at which nothing throttles: what would shows how hot it would get."""
    return point.model_copy(update={"throttle_at_c": {}, "cycle": ()})


def brought_to(found: Course, scene: Scene, steady: HeatField, active: dict[str, tuple[int, ...]], ambient_c: float) -> Course:
    """Return a course of a coarse field with its rises brought to what a finer one settles to, column by column."""
    fine = np.array(_shown(scene, steady, columns_of_course(scene), active))
    first = len(found.sensors)
    values = np.hstack([found.values_c, found.others_c])
    coarse = np.concatenate([found.steady_c, found.others_steady_c])
    little = np.abs(coarse - ambient_c) < 1.0  # too little to make a proportion of
    ratio = np.where(little, 1.0, (fine - ambient_c) / np.where(little, 1.0, coarse - ambient_c))
    without = found.idle_c if found.idle_c is not None else ambient_c
    values, ends = without + (values - without) * ratio, ambient_c + (coarse - ambient_c) * ratio
    return replace(
        found,
        values_c=values[:, :first],
        steady_c=ends[:first],
        others_c=values[:, first:],
        others_steady_c=ends[first:],
    )


@dataclass(frozen=True)
class Columns:
    """What a course shows: sensors and skins first, then components that no sensor reads, and both faces of plates."""

    sensors: tuple[Sensor, ...]
    skins: tuple[str, ...]
    components: tuple[tuple[str, str], ...]
    plates: tuple[tuple[str, str], ...]

    @property
    def names(self) -> tuple[str, ...]:
        """One name per column."""
        faces = [f"{label}, {face} face" for _, label in self.plates for face in ("near", "outer")]
        return (*(one.label for one in self.sensors), *self.skins, *(label for _, label in self.components), *faces)

    @property
    def n_sensor(self) -> int:
        """How many of the columns are sensors and skins."""
        return len(self.sensors) + len(self.skins)


def columns_of_course(scene: Scene) -> Columns:
    """Return the columns of a course."""
    sensors = tuple(one for one in scene.resolved.device.sensors if one.body in scene.bodies)
    read = {body for one in sensors for body in (one.body, *one.also)}
    parts = {name: body.model for name, body in scene.bodies.items()}
    skins = tuple(f"Skin of {name}" for name in skin_names(scene))
    components = [(n, model.label) for n, model in parts.items() if isinstance(model, Component) and n not in read]
    plates = [(name, model.label) for name, model in parts.items() if isinstance(model, Plate)]
    return Columns(sensors, skins, tuple(components), tuple(plates))


def _shown(scene: Scene, field: HeatField, columns: Columns, active: dict[str, tuple[int, ...]]) -> list[float]:
    """Return what every column shows in a field [°C]."""
    found = [read_sensor(field, one, active) for one in columns.sensors]
    found += [row.t_max_c for row in skin(scene, field)]
    found += [active_extremes(field, name, active[name])[0] for name, _ in columns.components]
    for name, _ in columns.plates:
        cells = field.grid.slabs[name]
        for number in (0, -1):
            area = cells.columns[number].area
            found.append(float(field.temperature[cells.layer(number)] @ area / area.sum()) - KELVIN)
    return found


def stored_in_joints(scene: Scene, frame: Frame, field: HeatField) -> Floats:
    """Return the heat capacity of what lies in joints on the cells of the faces it touches [J/K]."""
    extra = np.zeros(field.grid.n_cell)
    sheets = {(one.joint, one.piece) for one in frame.sheets}
    contacts = {one.contact.name: one for one in field.contacts}
    for facing in scene.plan.facings:
        contact = contacts.get(facing_name(facing))
        if facing.joint is None or contact is None or not len(contact.area):
            continue
        joint = scene.joints[facing.joint]
        stored = 0.0
        for patch in facing.patches:
            for piece in scene.pieces(facing, patch):
                if (joint.id, piece.id) not in sheets:
                    material = scene.resolved.materials[piece.material]
                    stored += patch.region.area * nominal_thickness(scene, joint, piece) * material.capacity_j_m3k
        share = stored / 2 * contact.area / contact.area.sum()
        for ends in (field.edges.i, field.edges.j):
            np.add.at(extra, ends[contact.edges], share)
    return extra


def _inside_air(point: OperatingPoint) -> InsideAir | None:
    if point.inside == "given":
        return None
    vent = 1 / point.vent_k_w.value if point.inside == "vented" and point.vent_k_w else 0.0
    return InsideAir(point.ambient_c.value + KELVIN, vent)


def _fins(scene: Scene, field: HeatField) -> Floats:
    """Return the heat capacity of sinks' fins on the cells under them [J/K]."""
    extra = np.zeros(field.grid.n_cell)
    for film in field.films:
        body = scene.bodies.get(film.film.slab)
        if body is not None and isinstance(body.model, Plate) and body.model.sink and film.film.name == f"sink:{body.id}":
            extra[film.cells] += body.model.sink.heat_capacity_j_k.value * film.area / film.area.sum()
    return extra


def _soak(times: Floats, values: Floats, heading: Floats) -> tuple[float, ...]:
    """Return when each sensor comes, and stays, within 1 K of what it is heading for; infinite if not by the end."""
    found = []
    for column, end in zip(values.T, heading, strict=True):
        away = np.abs(column - end)
        outside = np.flatnonzero(away > SOAKED_K)
        if not len(outside):
            found.append(0.0)
        elif outside[-1] + 1 == len(times):
            found.append(float("inf"))
        else:
            a, b = outside[-1], outside[-1] + 1
            share = (away[a] - SOAKED_K) / max(away[a] - away[b], 1e-12)
            found.append(float(times[a] + share * (times[b] - times[a])))
    return tuple(found)
