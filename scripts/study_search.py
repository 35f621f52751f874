"""The search of advice against trying every plan, both scored on the full field."""

from __future__ import annotations

import sys
from collections.abc import Iterator, Mapping
from dataclasses import asdict
from functools import partial
from pathlib import Path

from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import replaced
from ashen_bridge.predict.report import PHYSICS_VERSION
from study import Case, Plain, Study

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))
from devices import FOUR, Card
from devices import project as card
from enumerated import against_all

_SPRUNG = (0.0, 0.5, 1.0)


def _apart(one: Project) -> Project:
    """Let every joint be decided by itself."""
    return replaced(one, groups=())


CASES: tuple[tuple[str, Project, tuple[int, ...], tuple[float, ...]], ...] = (
    ("one group, washers", card(Card(parts=FOUR, die_power=120.0)), (6, 10), _SPRUNG),
    ("weak springs", card(Card(parts=FOUR, die_power=120.0, rate=5.0)), (6, 10), _SPRUNG),
    ("strong die", card(Card(parts=FOUR, die_power=200.0)), (6, 10), _SPRUNG),
    ("board that bends", card(Card(parts=FOUR, die_power=120.0, bends=True)), (5, 8), _SPRUNG),
    ("hollow plate", card(Card(parts=FOUR, die_power=120.0, plate_crown_um=-60.0)), (6, 10), _SPRUNG),
    ("every pad by itself", _apart(card(Card(parts=FOUR, die_power=120.0))), (4, 4, 4, 4, 4), (0.0,)),
    ("every pad by itself, all of 4,096", _apart(card(Card(parts=FOUR, die_power=150.0))), (4, 8, 8, 4, 4), (0.0,)),
)


def _cases() -> Iterator[Case]:
    for name, project, each, washers in CASES:
        key = f"{PHYSICS_VERSION} {each} {washers}"
        yield Case(name, key, partial(_run, project, each, washers))


def _run(project: Project, each: tuple[int, ...], washers: tuple[float, ...]) -> Plain:
    return asdict(against_all(project, each, washers))


def _line(found: Plain) -> str:
    same = "the same plan" if found["same"] else f"{found['apart_k']:.3f} K worse, die {found['die_apart_k']:+.3f} K"
    return f"{found['tried']} of {found['plans']} plans tried: {same}"


def _tell(results: Mapping[str, Plain]) -> str:
    rows = [f"| {name} | {one['plans']} | {one['tried']} | {_line(one).split(': ')[1]} |" for name, one in results.items()]
    worst = max((one["apart_k"] for one in results.values()), default=0.0)
    return "\n".join(
        [
            "| case | plans in all | tried by the search | against the best of all |",
            "|---|---|---|---|",
            *rows,
            "",
            f"Worst: {worst:.3f} K of the score that is searched by (the die's temperature, margins, spread).",
        ]
    )


STUDY = Study(
    "search",
    "The search against trying everything",
    "Cards whose plans are few enough to be tried all: each is predicted on the refined field, by the one door that users have. "
    "The search knows only its fast fields; what it finds is scored as the best of all is.",
    _cases,
    _line,
    _tell,
)
