"""What may be done beside choosing a material: without opening, open, and for the bold; each with what it would do here.

What an intervention is, costs and risks stands in interventions.json; here it is worked out what it means for one build.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import cache
from importlib import resources
from typing import TYPE_CHECKING, Any, Literal

import numpy as np

from ashen_bridge.changes import interventions as changes
from ashen_bridge.changes.edit import Edit, edit
from ashen_bridge.changes.interventions import Doing, Running
from ashen_bridge.changes.names import fresh_id, fresh_name, slug
from ashen_bridge.changes.points import fanned_plates
from ashen_bridge.library import materials as library
from ashen_bridge.model import paths
from ashen_bridge.model.amounts import FilmAmount
from ashen_bridge.model.bodies import Board, Component, ComponentRole, Plate, PlateRole
from ashen_bridge.model.build import Build
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.inner import BaseKind
from ashen_bridge.model.joints import Joint, Piece
from ashen_bridge.model.material import MaterialKind
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.planning.choosing.practice import way
from ashen_bridge.planning.remedies import Effect, effect_of, standing_of
from ashen_bridge.predict.bow import bow_row
from ashen_bridge.words.numbers import number, percent, short

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

Kind = Literal["closed", "open", "bold"]
_SOFT, _PUTTY, _PASTE, _METAL = "pad_soft", "putty_soft", "paste_filled", "liquid_metal"


@dataclass(frozen=True)
class Practised:
    """What is known of one intervention in general: common practice, no source."""

    id: str
    title: str
    says: str
    kind: Kind
    minutes: float
    costs: str


@dataclass(frozen=True)
class Intervention:
    """One for a build: the edit that makes it a build, or an operating point, of its own; or why it is out of the question.

    `effect` is what it would do, None where nothing can be computed of it.
    """

    id: str
    title: str
    says: str
    kind: Kind
    minutes: float
    costs: str
    edit: Edit | None = None
    build: str = ""
    point: str = ""
    refused: str = ""
    effect: Effect | None = None


@cache
def figures() -> dict[str, Any]:
    """Return the figures that ship."""
    found: dict[str, Any] = json.loads(resources.files(__package__).joinpath("interventions.json").read_text("utf-8"))
    return found


@cache
def practised() -> tuple[Practised, ...]:
    """Return all that are known, in their order: what needs no opening first, what may cost the part last."""
    return tuple(Practised(**one) for one in figures()["ways"])


def interventions(engine: Engine, project: Project, build: str, point: str) -> tuple[Intervention, ...]:
    """Return those that mean something for a build; what does not apply to it is left out."""
    here = _Here(engine, project, project.build(build), point)
    found = []
    for one in practised():
        made = _MAKERS[one.id](here)
        if made is not None:
            found.append(_named(here, one, made))
    return tuple(found)


def weighing(engine: Engine, project: Project, build: str, point: str) -> Iterator[tuple[float, tuple[Intervention, ...]]]:
    """Yield (progress, interventions with their effects so far), by differences of the coarse field."""
    if project.point(point).throttle_at_c:
        project = paths.set_values(project, {f"points.{point}.throttle_at_c": {}})  # what is gained must not hide in more power
    found = list(interventions(engine, project, build, point))
    before = standing_of(engine, project, build, point)
    yield 0.05, tuple(found)
    for n, one in enumerate(found):
        if one.edit is not None:
            try:
                after = standing_of(engine, one.edit.applied(project), one.build, one.point)
                found[n] = replace(one, effect=effect_of(one.title, before, after))
            except AshenError as error:
                found[n] = replace(one, effect=Effect(one.title, None, None, "", None, None, str(error)))
        yield 0.05 + 0.95 * (n + 1) / len(found), tuple(found)


# -- what each means here


@dataclass(frozen=True)
class _Meant:
    """What an intervention means: what is done, or how it is run; words of its own; or why not."""

    doing: Doing | None = None
    running: Running | None = None
    says: str = ""
    refused: str = ""


@dataclass(frozen=True)
class _Here:
    engine: Engine
    project: Project
    build: Build
    point: str

    @property
    def plates(self) -> list[Plate]:
        return [one for one in self.project.bodies_known(self.build).values() if isinstance(one, Plate)]

    @property
    def dies(self) -> list[Component]:
        known = self.project.bodies_known(self.build).values()
        return [one for one in known if isinstance(one, Component) and one.role is ComponentRole.DIE]

    def now(self, path: str, stated: float) -> float:
        """Return a number as it holds in the build."""
        return self.build.overrides.get(path, stated)


def _named(here: _Here, one: Practised, meant: _Meant) -> Intervention:
    says = meant.says or one.says
    made = Intervention(one.id, one.title, says, one.kind, one.minutes, one.costs, refused=meant.refused)
    if meant.refused:
        return made
    if one.kind != "closed" and here.project.aims.opening == "never":
        return replace(made, refused="It shall not be opened.")
    if one.kind == "bold" and here.project.aims.wishes.skill != "bold":
        return replace(made, refused="It is for those who accept to lose the part.")
    if meant.doing is not None:
        name = fresh_name(f"{here.build.label}, {one.title.lower()}", [b.name for b in here.project.builds])
        new = fresh_id(slug(name, "build"), [b.id for b in here.project.builds])
        done = edit(f"{one.title} as a build", changes.intervene, here.build.id, new, name, says[:200], meant.doing)
        return replace(made, edit=done, build=new, point=here.point)
    if meant.running is not None:
        name = fresh_name(f"{here.project.point(here.point).label}, {one.title.lower()}", [p.name for p in here.project.points])
        new = fresh_id(slug(name, "point"), [p.id for p in here.project.points])
        done = edit(f"{one.title} as an operating point", changes.run_otherwise, here.point, new, name, meant.running)
        return replace(made, edit=done, build=here.build.id, point=new)
    return made


def _powered(here: _Here, share: float) -> _Meant:
    return _Meant(running=Running(power_share=share))


def _fan(here: _Here) -> _Meant | None:
    plates, point = fanned_plates(here.project), here.project.point(here.point)
    if not plates or point.fans_rpm or point.noise_db is not None:
        return None
    slowest = min(point.fans_percent[name].value if name in point.fans_percent else 100.0 for name in plates)
    if slowest >= 100:
        return _Meant(refused="They turn at full speed.")
    return _Meant(running=Running(fans_percent=100.0), says=f"all fans at 100 % in place of {number(slowest)} %")


def _warranty(here: _Here) -> _Meant:
    said = here.project.aims.warranty
    return _Meant(says=f"what is written: {said}" if said else "")


def _reseat(here: _Here) -> _Meant | None:
    old = [
        joint.id
        for joint in here.build.joints
        if any(piece.flows and (piece.age_days > 30 or piece.voids or piece.bare_share.value > 0) for piece in joint.pieces)
    ]
    return _Meant(doing=Doing(reseated=tuple(old))) if old else None


def _label(here: _Here) -> _Meant | None:
    kinds = {one.id: one.kind for one in here.project.materials}
    films = [j for j in here.build.joints if any(kinds.get(p.material) is MaterialKind.FILM for p in j.pieces)]
    if not films:
        return None
    where = ", ".join(joint.label for joint in films[:3])
    return _Meant(doing=Doing(bare=tuple(joint.id for joint in films)), says=f"labels and films taken off: {where}")


def _air_guide(here: _Here) -> _Meant | None:
    sealed, leaking = figures()["sealed_share"], {}
    for plate in here.plates:
        if plate.sink is not None and plate.sink.fanned:
            path = f"device.bodies.{plate.id}.sink.air_lost"
            share = here.now(path, plate.sink.air_lost.value)
            if share >= figures()["leaks_from"]:
                leaking[path] = share
    if not leaking:
        return None
    worst = percent(max(leaking.values()))
    return _Meant(
        doing=Doing(overrides=dict.fromkeys(leaking, sealed)), says=f"{worst} of the air is lost now; {percent(sealed)} after"
    )


def _flatten(here: _Here) -> _Meant | None:
    bowed: dict[str, float] = {}
    for plate in here.plates:
        forms = {f"device.bodies.{plate.id}.form.crown_um": plate.form.crown_um.value}
        forms |= {f"device.bodies.{plate.id}.landings.{one.id}.form.crown_um": one.form.crown_um.value for one in plate.landings}
        if plate.base is BaseKind.SOLID and not plate.heat_pipes:
            bowed |= {path: here.now(path, value) for path, value in forms.items()}
    bowed = {path: value for path, value in bowed.items() if abs(value) >= figures()["bowed_from_um"]}
    if not bowed:
        return None
    left = figures()["flattened_um"]
    made = {path: left if value > 0 else -left for path, value in bowed.items()}
    return _Meant(
        doing=Doing(overrides=made), says=f"{number(max(map(abs, bowed.values())))} µm of bow bent back to {number(left)}"
    )


def _brace(here: _Here) -> _Meant | None:
    boards = [one for one in here.project.bodies_known(here.build).values() if isinstance(one, Board) and one.bends]
    rigid = {f"device.bodies.{one.id}.bends": 0.0 for one in boards}
    if not rigid or all(path in here.build.overrides for path in rigid):
        return None
    half = here.engine.rest(here.project, here.build.id, None)
    bow = bow_row(half.scene, half.assembly, half.coordinates)
    if bow is None or bow.board_um < figures()["braced_from_um"]:
        return None
    said = f"a brace behind the die in place of {number(bow.board_um)} µm of bow between the screws"
    return _Meant(doing=Doing(overrides=rigid), says=said)


def _bridge(here: _Here) -> _Meant | None:
    walls = {one.id: one for one in here.plates if one.role is PlateRole.CASE_WALL}
    if not walls:
        return None
    half = here.engine.rest(here.project, here.build.id, None)
    low, high = figures()["bridge_from_mm"], figures()["bridge_to_mm"]
    bodies = here.project.bodies_known(here.build)
    found: list[tuple[float, str, str, float]] = []
    for contact in half.assembly.contacts:
        facing, part = contact.facing, contact.points
        if facing.joint is not None or facing.upper not in walls or isinstance(bodies[facing.lower], Board):
            continue
        weight = half.assembly.weight[part]
        each = half.assembly.free_gap[part] + half.assembly.jacobian[part] @ half.coordinates
        gap = float(np.average(each, weights=weight)) * 1e3
        if low <= gap <= high:
            found.append((float(weight.sum()), facing.upper, facing.lower, gap))
    if not found:
        return None
    _, wall, lower, gap = max(found)
    piece = _filler(gap)
    name = fresh_id("bridge", [joint.id for one in here.project.builds for joint in one.joints])
    joint = Joint(id=name, name=f"{bodies[lower].label} to {walls[wall].label}", upper=wall, lower=(lower,), pieces=(piece,))
    thick = "putty" if piece.thickness_mm is None else f"{short(piece.thickness_mm.value)} mm of soft pad"
    said = f"{thick} in the {number(gap, 1)} mm between {bodies[lower].label} and {walls[wall].label}"
    return _Meant(doing=Doing(bridges=(joint,)), says=said)


def _filler(gap: float) -> Piece:
    stock = [one for one in sorted(library()[_SOFT].stock_thicknesses_mm) if one >= 1.1 * gap]
    if not stock:
        return Piece(id="putty", material=_PUTTY, amount=FilmAmount(film_mm=q(1.25 * gap, 0.15 * gap, "assumed")))
    return Piece(id="pad", material=_SOFT, thickness_mm=q(stock[0], 0.05 * stock[0], "assumed"))


def _lid(here: _Here) -> _Meant | None:
    lids = [one.id for one in here.plates if one.role is PlateRole.LID and any(j.upper == one.id for j in here.build.joints)]
    if not lids:
        return None
    if way(here.project.aims.wishes, "lid") != "off":
        return _Meant(refused="Not asked for: the way “lid off” is not taken.")
    material = _METAL if here.project.aims.wishes.liquid_metal else _PASTE
    film = 0.06 if material == _METAL else 0.2
    piece = Piece(id="fill", material=material, amount=FilmAmount(film_mm=q(film, film / 2, "assumed", "common practice")))
    said = f"the lid is taken off, {library()[material].name.lower()} lies on the die; washers make up for the lid"
    return _Meant(doing=Doing(lid=lids[0], on_die=(piece,)), says=said)


def _lapping(here: _Here) -> _Meant | None:
    topped = {low for joint in here.build.joints for low in joint.lower}
    p, made = figures(), {}
    for die in here.dies:
        path = f"device.bodies.{die.id}.height_mm"
        height = here.now(path, die.height_mm.value)
        if die.id in topped and height - p["lapped_mm"] >= p["least_die_mm"]:
            made[path] = round(height - p["lapped_mm"], 3)
    if not made:
        return None
    if way(here.project.aims.wishes, "lapping") != "pays":
        return _Meant(refused="Not asked for: the way “lapping, if it pays” is not taken.")
    return _Meant(doing=Doing(overrides=made))


_MAKERS: dict[str, Callable[[_Here], _Meant | None]] = {
    "power limit": lambda here: _powered(here, figures()["power_share"]),
    "undervolt": lambda here: _powered(here, figures()["undervolt_share"]),
    "fan": _fan,
    "air": lambda here: _Meant(running=Running(cooler_k=figures()["cooler_k"])),
    "warranty": _warranty,
    "reseat": _reseat,
    "label": _label,
    "air guide": _air_guide,
    "flatten": _flatten,
    "brace": _brace,
    "bridge": _bridge,
    "lid": _lid,
    "lapping": _lapping,
}
