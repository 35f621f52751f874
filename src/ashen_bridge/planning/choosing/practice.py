"""Figures of the trade for choosing, and the ways on which practitioners disagree, as data."""

from __future__ import annotations

from functools import lru_cache
from importlib import resources

from pydantic import TypeAdapter

from ashen_bridge.model.base import Frozen, Id, Name, Text
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.wishes import Wishes


class Practice(Frozen):
    """Figures of the trade; common practice, no source."""

    source: Text
    stock_sd: float
    stock_note: Text
    film_mm: dict[str, float]
    film_pm: float
    putty_over_gap: float
    paste_fills_mm: float
    shim_from_mm: float
    shims_mm: tuple[float, ...]
    pads_per_material: int
    thinned_over: float
    thinned_most: float
    thinned_least_mm: float
    thinned_sd: float
    washers_mm: tuple[float, ...]
    least_compression: float
    most_compression: float
    touch_surely: float
    part_pressure_kpa: float
    minutes: dict[str, float]
    years: dict[str, float]
    years_note: Text
    reusable: tuple[str, ...]


class Way(Frozen):
    """One of the ways in which something is done, and what it costs."""

    id: Id
    says: Name
    costs: Text = ""


class School(Frozen):
    """A question on which practitioners disagree, the default and why."""

    id: Id
    title: Name
    default: Id
    why: Text
    ways: tuple[Way, ...]


@lru_cache(maxsize=1)
def practice() -> Practice:
    """Return the figures that ship."""
    return Practice.model_validate_json(resources.files(__package__).joinpath("practice.json").read_bytes())


@lru_cache(maxsize=1)
def schools() -> tuple[School, ...]:
    """Return the questions that ship."""
    found = resources.files(__package__).joinpath("schools.json").read_bytes()
    return TypeAdapter(tuple[School, ...]).validate_json(found)


def way(wishes: Wishes, school: str) -> str:
    """Return which way is followed. Raises `ProjectError` for one that is not known."""
    one = next(known for known in schools() if known.id == school)
    said = wishes.schools.get(school, one.default)
    if said not in {known.id for known in one.ways}:
        ways = ", ".join(f"'{known.id}'" for known in one.ways)
        raise ProjectError(f"Wishes: “{one.title}” can be {ways}, not '{said}'.")
    return said


def checked(wishes: Wishes) -> None:
    """Raise `ProjectError` for a school or a way that is not known."""
    known = {one.id for one in schools()}
    for name in wishes.schools:
        if name not in known:
            raise ProjectError(f"Wishes: there is no question '{name}'; there is {', '.join(sorted(known))}.")
        way(wishes, name)
