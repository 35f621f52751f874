"""References between model objects: a record names what it refers to, the project looks whether all of it exists."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from enum import Enum
from typing import Any, NamedTuple


class Kind(Enum):
    """What can be referred to. A carrier or an end of a joint is looked for where the record stands, a body anywhere."""

    MATERIAL = "material"
    BODY = "body"
    DEVICE_BODY = "body of the device"
    BODY_HERE = "body of the device or this build"
    CARRIER = "what can carry here"
    HELD_END = "what a fastener can join"
    FASTENER = "fastener"
    SENSOR = "sensor"
    JOINT = "joint of any build"
    BUILD = "build"
    POINT = "operating point"
    RUN = "run"
    IMAGE = "image"
    CALIBRATION = "calibration"
    INSTRUMENT = "instrument"


_READ_AT_ONCE = 240  # letters
_MISSING = {
    Kind.MATERIAL: "which is not among the project's materials",
    Kind.JOINT: "which no build has",
    Kind.INSTRUMENT: "which is not among the project's instruments",
}


class Reference(NamedTuple):
    """Something named by its id. Read as a sentence: "<what> '<owner>'<of> <does> '<id>', which does not exist."."""

    what: str
    owner: str
    does: str
    kind: Kind
    id: str
    of: str = ""

    @property
    def problem(self) -> str:
        """The sentence that says that what is named does not exist."""
        return f"{self.what} '{self.owner}'{self.of} {self.does} '{self.id}', {_MISSING.get(self.kind, 'which does not exist')}"


def broken(
    references: Iterable[Reference], known: Mapping[Kind, Collection[str]], hints: Mapping[str, str] | None = None
) -> Iterator[str]:
    """Yield a sentence for every reference to something that is not known; `hints` by id are what it may be instead."""
    for one in references:
        if one.id not in known[one.kind]:
            yield f"{one.problem}{(hints or {}).get(one.id, '')}."


def repeated(lists: Mapping[str, Iterable[Any]]) -> Iterator[str]:
    """Yield a sentence for every id that two things of one list have."""
    for what, items in lists.items():
        seen: set[str] = set()
        for item in items:
            if item.id in seen:
                yield f"Two {what} have the id '{item.id}'."
            seen.add(item.id)


def in_short(problems: Sequence[str]) -> str:
    """Return all problems if they can be read at once, else the first of them and how many there are besides."""
    told = 1
    while told < len(problems) and len(" ".join(problems[: told + 1])) <= _READ_AT_ONCE:
        told += 1
    more = f" And {len(problems) - told} more like this." if len(problems) > told else ""
    return " ".join(problems[:told]) + more


def circles(parents: Mapping[str, str]) -> Iterator[str]:
    """Yield a sentence for every body that is carried by itself, over others or not."""
    for start in parents:
        seen, current = {start}, parents[start]
        while current in parents:
            if current in seen:
                yield f"Body '{start}' is carried by itself in a circle."
                break
            seen.add(current)
            current = parents[current]
