"""What may be done to a device beside other materials, as one change: a build of its own, and a point of its own where it is run
otherwise.
"""

from __future__ import annotations

from collections.abc import Callable

from pydantic import Field

from ashen_bridge.changes import plans, points
from ashen_bridge.changes.builds import copy_build
from ashen_bridge.changes.layers import in_build
from ashen_bridge.changes.materials import with_library
from ashen_bridge.model.base import Frozen, Id, Name
from ashen_bridge.model.bodies import Plate
from ashen_bridge.model.build import Build
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.fasteners import FastenerSetting
from ashen_bridge.model.joints import Joint, Piece, PieceState
from ashen_bridge.model.material import MaterialKind
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced, with_each, with_more


class Running(Frozen):
    """How a device is run otherwise without being opened: shares of its powers and fans, cooler air [K]."""

    power_share: float = Field(default=1.0, gt=0, le=1)
    fans_percent: float | None = Field(default=None, gt=0, le=100)
    cooler_k: float = Field(default=0.0, ge=0, le=60)


class Doing(Frozen):
    """What is done to a device when it is open.

    `overrides` are numbers of the device that hold in this build only. `lid` comes off, and `on_die` lies in place of it. Out of
    the joints `bare` all films and labels are taken; in `reseated` what flows is new. `bridges` are joints that lead to the case.
    """

    overrides: dict[str, float] = Field(default_factory=dict, max_length=200)
    lid: Id | None = None
    on_die: tuple[Piece, ...] = ()
    bare: tuple[Id, ...] = ()
    reseated: tuple[Id, ...] = ()
    bridges: tuple[Joint, ...] = ()


def intervene(project: Project, source: str, build: str, name: Name, notes: Name, doing: Doing) -> Project:
    """Make a build of another to which something was done. Raises `ProjectError` where a part of it is gone."""
    project = copy_build(project, source, build, name)
    project = with_each(project, "builds", lambda one: replaced(one, notes=notes), (build,))
    return _done(project, build, doing)


def run_otherwise(project: Project, source: str, point: str, name: Name, running: Running) -> Project:
    """Make an operating point of another at which the device is run otherwise."""
    return _run(points.copy_point(project, source, point, name), point, running)


def _run(project: Project, point: str, running: Running) -> Project:
    if running.power_share < 1:
        project = points.scale_load(project, point, running.power_share)
    if running.fans_percent is not None:
        project = points.set_fans(project, point, tuple(points.fanned_plates(project)), running.fans_percent)
    if running.cooler_k:
        project = points.set_ambient(project, point, project.point(point).ambient_c.value - running.cooler_k)
    return project


def _done(project: Project, build: str, doing: Doing) -> Project:
    if doing.overrides:
        project = in_build(project, build, lambda one: replaced(one, overrides={**one.overrides, **doing.overrides}))
    if doing.lid is not None:
        project = _lid_off(project, build, doing.lid, doing.on_die)
    known = {one.id: one.kind for one in project.materials}
    project = _in_joints(project, build, doing.bare, lambda joint: _bare(joint, known))
    project = _in_joints(project, build, doing.reseated, _fresh)
    if doing.bridges:
        project = with_library(project, [piece.material for joint in doing.bridges for piece in joint.pieces])
        project = in_build(project, build, lambda one: with_more(one, "joints", *doing.bridges))
    return project


def _in_joints(project: Project, build: str, joints: tuple[str, ...], change: Callable[[Joint], Joint]) -> Project:
    there = [joint.id for joint in project.build(build).joints if joint.id in joints]
    return in_build(project, build, lambda one: with_each(one, "joints", change, there))


def _bare(joint: Joint, known: dict[str, MaterialKind]) -> Joint:
    return replaced(joint, pieces=tuple(piece for piece in joint.pieces if known.get(piece.material) is not MaterialKind.FILM))


def _fresh(joint: Joint) -> Joint:
    """What flows is new and lies everywhere; sheets stay as they are."""

    def new(piece: Piece) -> Piece:
        if not piece.flows:
            return piece
        return replaced(piece, age_days=0.0, state=PieceState.BURNED_IN, voids=(), bare_share=q(0.0))

    return with_each(joint, "pieces", new)


def _lid_off(project: Project, build: str, lid: str, on_die: tuple[Piece, ...]) -> Project:
    """Take a lid off: what lay on it now lies on what was under it; washers under the sprung screws make up for its thickness."""
    project = with_library(project, [piece.material for piece in on_die])
    one = project.build(build)
    under = tuple(dict.fromkeys(low for joint in one.joints if joint.upper == lid for low in joint.lower))
    body = project.body(lid)
    if not isinstance(body, Plate):
        raise ProjectError(f"“{body.label}” is no lid.")

    def lowered(joint: Joint) -> Joint | None:
        if joint.upper == lid:
            return None
        if lid not in joint.lower:
            return joint
        return replaced(joint, lower=tuple(dict.fromkeys((*(x for x in joint.lower if x != lid), *under))), pieces=on_die)

    def inside(here: Build) -> Build:
        kept = tuple(joint for joint in map(lowered, here.joints) if joint is not None)
        return replaced(here, removed=(*here.removed, lid), joints=kept, fastener_settings=_without(project, here, lid))

    return plans.add_washers(in_build(project, build, inside), build, round(body.thickness_mm.value * 2) / 2)


def _without(project: Project, build: Build, lid: str) -> tuple[FastenerSetting, ...]:
    gone = {one.id for one in project.device.fasteners if lid in one.joins}
    return tuple(one for one in build.fastener_settings if one.fastener not in gone)
