"""The numbers that readings of lengths are about: each part's own, with what alike ones have in common.

A prediction moves alike assumptions together, since they came from one look. A caliper looks at one part: so each is a number of
its own here, most of whose variance it shares with its likes.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ashen_bridge.measuring.practice import practice
from ashen_bridge.model.project import Project
from ashen_bridge.uncertainty.assumptions import Assumption, assumptions

ALIKE = "alike "
"""What the name of a cause begins with that is no tie of the file: one look at several parts."""


def separate_numbers(project: Project, builds: Sequence[str]) -> tuple[Assumption, ...]:
    """Return every uncertain number that mechanics of some builds stand on, one for each path."""
    point = project.points[0].id if project.points else ""
    found: dict[str, Assumption] = {}
    for build in builds:
        for one in assumptions(project, build, point):
            if one.uncertainty > 0 and one.plays.mechanics and not one.paths[0].startswith("points."):
                for path in one.paths:
                    found.setdefault(path, _separate(one, path))
    return tuple(found.values())


def _separate(one: Assumption, path: str) -> Assumption:
    if len(one.paths) == 1:
        return one
    left = 1 - sum(share for _, share in one.shares)
    alike = (f"{ALIKE}{one.paths[0]}", max(left, 0.0) * practice().alike_share)
    at = one.paths.index(path)
    owners = (one.owners[at],) if len(one.owners) == len(one.paths) else one.owners
    return replace(one, paths=(path,), owners=owners, shares=(*one.shares, alike))
