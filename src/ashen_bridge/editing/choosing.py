"""Edits that advice leads to: a plan taken as a build, wishes, stock and shop, findings switched off."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ashen_bridge.changes import plans as changes
from ashen_bridge.changes.edit import Edit, edit, merging
from ashen_bridge.changes.names import fresh_id, fresh_name, slug
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.model.wishes import Offer, Silenced, StockItem, Wishes
from ashen_bridge.planning.choosing.practice import checked
from ashen_bridge.planning.choosing.result import Plan
from ashen_bridge.planning.choosing.stages import Stage
from ashen_bridge.words.numbers import number, percent


def take_plan(project: Project, source: str, plan: Plan) -> tuple[str, Edit]:
    """Return the id of the build that a plan makes, and the edit that makes it."""
    name = fresh_name(plan.name, [one.name for one in project.builds])
    new = fresh_id(slug(name, "plan"), [one.id for one in project.builds])
    made = edit(
        f"Plan “{plan.name}” as a build", changes.make_plan, source, new, name, notes_of(plan), plan.fillings, plan.washers_mm
    )
    return new, made


def take_stages(project: Project, source: str, plan: Plan, stages: Sequence[Stage]) -> tuple[tuple[str, ...], Edit]:
    """Return the ids of the builds that the stages of a plan make, and the edit that makes them."""
    names, ids = [one.name for one in project.builds], [one.id for one in project.builds]
    made, new = [], []
    for one in stages:
        name = fresh_name(one.made.name, names)
        new.append(fresh_id(slug(name, "stage"), ids))
        names.append(name)
        ids.append(new[-1])
        made.append(one.made.model_copy(update={"name": name}))
    return tuple(new), edit(f"Plan “{plan.name}” in stages", changes.make_stages, source, tuple(new), tuple(made))


def notes_of(plan: Plan) -> str:
    """Return what a build that was a plan says of itself."""
    die = "" if plan.hottest_die_c is None else f" Die {number(plan.hottest_die_c)} °C as it was advised."
    chance = "" if plan.chance is None else f" Every limit with {percent(plan.chance)}."
    return f"{plan.name}: {plan.why}.{die}{chance}"[:200]


def wish(project: Project, **said: Any) -> Edit:
    """Say one thing of what advice may reckon with. Raises `ProjectError` for what cannot be."""
    wishes = Wishes.model_validate({**project.aims.wishes.model_dump(), **said})
    checked(wishes)
    return merging(f"wish {' '.join(said)}", edit("What advice may reckon with", changes.set_wishes, wishes))


def follow(project: Project, school: str, way: str) -> Edit:
    """Follow a way on which practitioners disagree."""
    return wish(project, schools={**project.aims.wishes.schools, school: way})


def spend(budget: float | None) -> Edit:
    """Say what may be spent."""
    return merging("budget", edit("Budget", changes.set_budget, budget))


def keep_stock(project: Project, item: StockItem) -> Edit:
    """Put something into the stock; what has its id takes its place."""
    kept = tuple(one for one in project.stock if one.id != item.id)
    return edit("Stock", changes.set_stock, (*kept, item))


def drop_stock(project: Project, item: str) -> Edit:
    """Take something out of the stock."""
    return edit("Out of stock", changes.set_stock, tuple(one for one in project.stock if one.id != item))


def offer(project: Project, one: Offer, currency: str | None = None) -> Edit:
    """Put a price on the list; what has its id takes its place."""
    kept = tuple(old for old in project.shop if old.id != one.id)
    return edit("Price list", changes.set_shop, (*kept, one), project.currency if currency is None else currency)


def withdraw(project: Project, name: str) -> Edit:
    """Take a price off the list."""
    return edit("Price list", changes.set_shop, tuple(one for one in project.shop if one.id != name), project.currency)


def silence(code: str, about: str, reason: str, since: str) -> Edit:
    """Switch a finding off. Raises `ProjectError` without a reason."""
    if not reason.strip():
        raise ProjectError("Say why it does not matter: the reason stays in the record.")
    return edit("Finding switched off", changes.silence, Silenced(code=code, about=about, reason=reason.strip(), since=since))


def speak_again(code: str, about: str) -> Edit:
    """Switch a finding on again."""
    return edit("Finding switched on again", changes.speak_again, code, about)
