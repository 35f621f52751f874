"""By how much what was seen speaks for or against kinds of faults; one more term of the diagnosis' likelihood.

A statement speaks for a fault only where the model did not expect it anyway, and never by more than its chance of being misread
lets it: one wrong click does not decide. Faults of a whole plate are spoken of by many statements that have one cause, so that
only the strongest for and the strongest against count.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.evidence.contacts import Contact, Where, contacts_of
from ashen_bridge.evidence.likelihood import fitting, tells_length
from ashen_bridge.evidence.practice import practice
from ashen_bridge.measuring.expected import UnusedError, closing_build
from ashen_bridge.measuring.pushed import Pushed
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.evidence import Evidence
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

_EXPECTED = 0.5  # fit from which a mark was to be expected
_OF_JOINTS = ("touch", "worn", "film", "voids")
_OF_GROUPS = ("thick", "oneside")


@dataclass(frozen=True)
class Spoken:
    """A statement that may bear on faults: its joint, that joint's plate and groups, and the runs of its closing (None: any).

    `expected`: the model expects it anyway.
    """

    says: str
    misread: float
    expected: bool
    joint: str
    plate: str
    groups: frozenset[str]
    runs: frozenset[str] | None


def spoken(engine: Engine, project: Project) -> tuple[Spoken, ...]:
    """Return the statements of a project that can be used, and signs of before opening."""
    found = [_spoken(project, *each) for each in _usable(engine, project)]
    signs = (Spoken(one.says, one.misread, False, "", one.body or "", frozenset(), None) for one in project.signs)
    return (*found, *signs)


def log_ratio(said: Collection[Spoken], kind: str, about: str, plates: Collection[str], runs: Collection[str]) -> float:
    """Return the logarithm of how much likelier what was seen is with a fault than without.

    kind, about, plates : of the fault, as hypotheses have them. runs : in which it holds.
    """
    table, signs = practice().bearing, practice().signs
    logs = []
    for one in said:
        ratio = (signs if one.says in signs else table).get(one.says, {}).get(kind, 1.0)
        if ratio != 1.0 and not (one.expected and ratio > 1) and _meets(one, kind, about, plates, runs):
            logs.append(math.log((1 - one.misread) * ratio + one.misread))
    if kind in _OF_JOINTS:
        return sum(logs)
    return max(0.0, *logs, 0.0) + min(0.0, *logs, 0.0)


def _meets(one: Spoken, kind: str, about: str, plates: Collection[str], runs: Collection[str]) -> bool:
    if one.runs is not None and not one.runs & set(runs):
        return False
    if not one.joint:
        return True
    if kind in _OF_JOINTS:
        return about.endswith(f".joints.{one.joint}")
    if kind in _OF_GROUPS:
        return about.removeprefix("groups.") in one.groups
    return one.plate in plates or f".{one.plate}" in about


def _spoken(project: Project, one: Evidence, where: Where, expected: bool) -> Spoken:
    closing = next(each for each in project.closings if each.id == one.closing)
    runs = frozenset((*closing.runs, *(run.id for run in project.runs if run.build in closing.builds)))
    plate = project.build(where.build).joint(one.joint).upper
    groups = frozenset(group.id for group in project.groups if one.joint in group.joints)
    return Spoken(one.says, one.misread, expected, one.joint, plate, groups, runs)


def _usable(engine: Engine, project: Project) -> Iterator[tuple[Evidence, Where, bool]]:
    """Yield the statements that can be used, where, and whether they were to be expected."""
    nominal: dict[str, dict[Where, Contact]] = {}
    for one in project.evidence:
        try:
            if one.aside:
                continue
            where = Where(closing_build(project, one.closing, one.joint), one.joint, one.lower)
        except UnusedError:
            continue
        if where.build not in nominal:
            nominal[where.build] = _nominal(engine, project, where.build)
        contact = nominal[where.build].get(where)
        telling = contact is not None and tells_length(contact.shape.kind, one.says)
        fits = float(fitting(contact.shape, one.says, one.toward_deg)[0]) if contact is not None and telling else 0.0
        yield one, where, fits > _EXPECTED


def _nominal(engine: Engine, project: Project, build: str) -> dict[Where, Contact]:
    """Return the contacts of a build as it is said to be; none where it cannot be assembled."""
    try:
        pushed = Pushed(engine, project, build, ())
        for _ in pushed.prepare():
            pass
        return contacts_of(project, {build: pushed}, np.zeros((1, 0)))
    except AshenError:
        return {}
