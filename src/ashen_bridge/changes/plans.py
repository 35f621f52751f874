"""Changes that a plan is made of: many joints filled at once, washers under all sprung screws, and a build made of them."""

from __future__ import annotations

from ashen_bridge.changes.builds import copy_build
from ashen_bridge.changes.layers import in_build
from ashen_bridge.changes.materials import with_library
from ashen_bridge.model.base import Frozen, Id, Name, Text
from ashen_bridge.model.build import Build
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.fasteners import FastenerSetting
from ashen_bridge.model.joints import Joint, Piece
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.records import Aims
from ashen_bridge.model.sharing import replaced, with_each
from ashen_bridge.model.wishes import Offer, Silenced, StockItem, Wishes


class Filling(Frozen):
    """What shall lie in some joints: the same pieces in each, lower face first."""

    joints: tuple[Id, ...]
    pieces: tuple[Piece, ...] = ()


def fill_joints(project: Project, build: str, fillings: tuple[Filling, ...]) -> Project:
    """Put other pieces into some joints of a build; materials of the library are copied into the project."""
    wanted = {name: filling.pieces for filling in fillings for name in filling.joints}
    missing = set(wanted) - {joint.id for joint in project.build(build).joints}
    if missing:
        raise ProjectError(f"Build '{build}' has no joint '{min(missing)}' any more.")
    project = with_library(project, [piece.material for filling in fillings for piece in filling.pieces])

    def inside(joint: Joint) -> Joint:
        pieces = wanted.get(joint.id, joint.pieces)
        return joint if pieces == joint.pieces else replaced(joint, pieces=pieces, stated_mm2k_w=None)

    return in_build(project, build, lambda one: replaced(one, joints=tuple(map(inside, one.joints))))


def add_washers(project: Project, build: str, more_mm: float, material: str = "plastic") -> Project:
    """Put washers under the heads of all sprung screws, over what is there [mm]."""
    sprung = [one.id for one in project.device.fasteners if one.kind == "sprung"]

    def inside(one: Build) -> Build:
        kept = [old for old in one.fastener_settings if old.fastener not in sprung]
        made = [
            replaced(old, washers_mm=q(round(old.washers_mm.value + more_mm, 4), 0.05), washer_material=material)
            for old in map(one.setting_of, sprung)
        ]
        return replaced(one, fastener_settings=(*kept, *(FastenerSetting.model_validate(dict(old)) for old in made)))

    return in_build(project, build, inside) if more_mm else project


def make_plan(
    project: Project,
    source: str,
    build: str,
    name: Name,
    notes: Text,
    fillings: tuple[Filling, ...],
    washers_mm: float = 0.0,
) -> Project:
    """Make a plan a build: a copy of another with its joints filled and its washers put in."""
    project = with_each(copy_build(project, source, build, name), "builds", lambda one: replaced(one, notes=notes), (build,))
    return add_washers(fill_joints(project, build, fillings), build, washers_mm)


class StageOfPlan(Frozen):
    """How far a plan has come after one of its stages: the name of the build, and all that was done until then."""

    name: Name
    fillings: tuple[Filling, ...] = ()
    washers_mm: float = 0.0


def make_stages(project: Project, source: str, builds: tuple[Id, ...], stages: tuple[StageOfPlan, ...]) -> Project:
    """Make every stage of a plan a build."""
    for build, stage in zip(builds, stages, strict=True):
        project = make_plan(project, source, build, stage.name, "", stage.fillings, stage.washers_mm)
    return project


def set_wishes(project: Project, wishes: Wishes) -> Project:
    """Say what advice may reckon with."""
    return replaced(project, aims=_with(project.aims, wishes))


def _with(aims: Aims, wishes: Wishes) -> Aims:
    return replaced(aims, wishes=wishes)


def set_budget(project: Project, budget: float | None) -> Project:
    """Say what may be spent, in the project's currency."""
    return replaced(project, aims=replaced(project.aims, budget=budget))


def set_stock(project: Project, stock: tuple[StockItem, ...]) -> Project:
    """Say what is at hand; materials of the library are copied into the project."""
    return replaced(with_library(project, [one.material for one in stock]), stock=stock)


def set_shop(project: Project, offers: tuple[Offer, ...], currency: Name) -> Project:
    """Say what can be bought, at which prices in which currency."""
    return replaced(project, shop=offers, currency=currency)


def silence(project: Project, silenced: Silenced) -> Project:
    """Switch a finding off, with a reason; one that says the same takes its place."""
    kept = tuple(one for one in project.silenced if (one.code, one.about) != (silenced.code, silenced.about))
    return replaced(project, silenced=(*kept, silenced))


def speak_again(project: Project, code: str, about: str) -> Project:
    """Switch a finding on again."""
    kept = tuple(one for one in project.silenced if (one.code, one.about) != (code, about))
    return replaced(project, silenced=kept)
