"""Projects as plain data, where edits are made before the whole is validated again."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from ashen_bridge.model.project import Project

Plain = dict[str, Any]


@dataclass(frozen=True)
class Edit:
    """A named change of a project. Edits with an equal, non-empty `merge_key` that follow each other count as one."""

    name: str
    change: Callable[[Project], Project]
    merge_key: str = ""


def edit_project(name: str, change: Callable[[Plain], None], merge_key: str = "") -> Edit:
    """Return an edit that changes plain project data in place; the result is validated."""

    def apply(project: Project) -> Project:
        data = project.model_dump(mode="json")
        change(data)
        return Project.parse(data)

    return Edit(name, apply, merge_key)


def edit_build(name: str, build_id: str, change: Callable[[Plain], None], merge_key: str = "") -> Edit:
    """Return an edit of one build's plain data."""
    return edit_project(name, lambda data: change(item(data["builds"], build_id)), merge_key)


def item(items: Iterable[Plain], wanted: str) -> Plain:
    """Return the item of that id; `KeyError` if there is none."""
    for one in items:
        if one["id"] == wanted:
            return one
    raise KeyError(wanted)


def all_bodies(data: Plain) -> Iterator[Plain]:
    """Yield the bodies of the device and those that builds add."""
    yield from data["device"]["bodies"]
    for build in data["builds"]:
        yield from build["added"]


def slug(name: str, fallback: str) -> str:
    """Return an id made of a name: ASCII letters and digits, starting with a letter.

    >>> slug("Memory R2", "part"), slug("2.0 mm", "plan"), slug("–", "plan")
    ('memory_r2', 'plan_2_0_mm', 'plan')
    """
    stem = re.sub(r"[^a-z0-9]+", "_", name.lower()).strip("_")[:40].rstrip("_")
    if not stem:
        return fallback
    return stem if stem[0].isalpha() else f"{fallback}_{stem}"[:40].rstrip("_")


def fresh_id(stem: str, used: Iterable[str]) -> str:
    """Return `stem`, or `stem_2`, `stem_3`… if that is taken. A number at the stem's end counts on.

    >>> fresh_id("mem_3", ["mem_3"]), fresh_id("die", []), fresh_id("die", ["die"])
    ('mem_4', 'die', 'die_2')
    """
    taken = set(used)
    if stem not in taken:
        return stem
    found = re.fullmatch(r"(.*?)_?(\d+)", stem)
    base, start = (found[1], int(found[2]) + 1) if found and found[1] else (stem, 2)
    n = start
    while f"{base[:42]}_{n}" in taken:
        n += 1
    return f"{base[:42]}_{n}"


def fresh_name(name: str, used: Iterable[str]) -> str:
    """Return a name for people that is not taken yet: a number at its end counts on.

    >>> fresh_name("Memory 3", ["Memory 3", "Memory 4"]), fresh_name("Die", ["Die"])
    ('Memory 5', 'Die 2')
    """
    taken = set(used)
    if name not in taken:
        return name
    found = re.fullmatch(r"(.*?)\s*(\d+)", name)
    base, n = (found[1], int(found[2]) + 1) if found and found[1] else (name, 2)
    while f"{base} {n}" in taken:
        n += 1
    return f"{base} {n}"[:200]
