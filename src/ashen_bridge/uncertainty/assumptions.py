"""Every number a prediction stands on, with origin and ±, and how much each one matters to the temperatures that have a limit."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Any

from ashen_bridge.model.bodies import Body
from ashen_bridge.model.build import OperatingPoint
from ashen_bridge.model.calibrated import told
from ashen_bridge.model.device import Sensor
from ashen_bridge.model.material import Material
from ashen_bridge.model.plays import Number, Plays, numbers
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Bounds, Origin
from ashen_bridge.uncertainty.circumstances import Root, circumstances, materials_of_build

_ANY_PART, _UNBOUNDED = Plays(heat=True, mechanics=True), Bounds(-math.inf, math.inf)


@dataclass(frozen=True)
class Assumption:
    """One number, or several alike that are one assumption (the height of eight packages of one kind).

    `plays` is which part it plays in a prediction, `bounds` the range in which it is believed at all.

    `effect_k` is by how much the temperature that moves most does so when all of them are off by one standard
    uncertainty, None until that has been computed; `sensor` is the one that moves. `effects`: by how much
    every sensor does, by id, with its sign. `told`: what a fit took of its uncertainty, along which directions (`together`).
    `shares`: by the cause, which part of its variance it has in common with others.
    """

    paths: tuple[str, ...]
    field: str
    owners: tuple[str, ...]
    value: float
    uncertainty: float
    origin: str
    note: str
    effect_k: float | None = None
    sensor: str = ""
    effects: tuple[tuple[str, float], ...] = ()
    plays: Plays = _ANY_PART
    bounds: Bounds = _UNBOUNDED
    told: tuple[float, ...] = ()
    shares: tuple[tuple[str, float], ...] = ()

    @property
    def assumed(self) -> bool:
        """Whether nobody measured it or looked it up."""
        return self.origin == "assumed"


def assumptions(project: Project, build_id: str, point_id: str) -> tuple[Assumption, ...]:
    """Return the numbers that a prediction of this build at this point stands on, alike ones together, in file order."""
    build, point = project.build(build_id), project.point(point_id)
    used = materials_of_build(project, build)
    roots: list[tuple[str, Root]] = [
        *((f"device.bodies.{one.id}", one) for one in project.device.bodies if one.id not in build.removed),
        *((f"builds.{build_id}.added.{one.id}", one) for one in build.added),
        *((f"device.fasteners.{one.id}", one) for one in project.device.fasteners),
        *((f"builds.{build_id}.joints.{one.id}", one) for one in build.joints),
        *((f"materials.{one.id}", one) for one in project.materials if one.id in used),
        (f"points.{point_id}", point),
        *((f"device.sensors.{one.id}", one) for one in project.device.sensors if one.body not in build.removed),
    ]
    holds = circumstances(project, build)
    bodies = {body.id: body for body in project.all_bodies}
    directions = told(project)
    found: dict[tuple[Any, ...], Assumption] = {}
    for root, owner in roots:
        for number in numbers(owner, root):
            if not _counts(number) or not holds(number.plays.when, owner.id):
                continue
            part = bodies.get(number.key)
            key = _alike(number, root, owner, part)
            old = found.get(key)
            label = part.label if part is not None and number.field == "powers_w" else owner.label
            if old is None:
                name = number.plays.each or _inner(number.path, root)
                one = number.quantity
                values = (one.value, one.uncertainty, one.origin.value, one.note)
                found[key] = Assumption((number.path,), name, (label,), *values, plays=number.plays, bounds=number.bounds)
                if number.path in directions:
                    found[key] = replace(found[key], told=directions[number.path])
            else:
                found[key] = replace(old, paths=(*old.paths, number.path), owners=(*old.owners, label))
    return _with_shares(project, tuple(found.values()))


def _with_shares(project: Project, listed: tuple[Assumption, ...]) -> tuple[Assumption, ...]:
    """Return assumptions with what they have in common with others: a tie between numbers of one assumption ties nothing."""
    shares: dict[int, list[tuple[str, float]]] = {}
    for tie in project.ties:
        members = [n for n, one in enumerate(listed) if not set(tie.paths).isdisjoint(one.paths)]
        for n in members if len(members) > 1 else ():
            shares.setdefault(n, []).append((tie.id, tie.share))
    return tuple(replace(one, shares=tuple(shares[n])) if n in shares else one for n, one in enumerate(listed))


def _counts(number: Number) -> bool:
    one = number.quantity
    if not (number.plays.heat or number.plays.mechanics or number.plays.reads):
        return False
    if one.uncertainty == 0 and one.origin is not Origin.ASSUMED:
        return False
    return one.uncertainty != 0 or one.value != 0  # nothing is assumed by "there is none"


def _alike(number: Number, root: str, owner: Root, part: Body | None) -> tuple[Any, ...]:
    """Return what numbers that are one assumption have in common."""
    one = number.quantity
    said = (one.value, one.uncertainty, one.origin, one.note)
    if number.field == "powers_w":
        return ("power", _kind_of(part if part is not None else owner), *said)
    own = (root,) if isinstance(owner, Material | OperatingPoint | Sensor) else ()  # two thermometers err each by itself
    return (_kind_of(owner), _inner(number.path, root), *said, *own)


def _inner(path: str, root: str) -> str:
    """Return the path inside its owner, ids of landings and pieces left out so that alike ones meet."""
    steps = path.removeprefix(root + ".").split(".")
    return ".".join(step for n, step in enumerate(steps) if n == 0 or steps[n - 1] not in ("landings", "pieces", "copper"))


def _kind_of(owner: Root | Body) -> tuple[Any, ...]:
    return tuple(getattr(owner, name, None) for name in ("kind", "role", "side"))
