"""What is said between a window and its worker: requests in lanes, and what comes of them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from enum import IntEnum
from typing import Any, Literal, Protocol

Errand = Callable[..., Iterator[tuple[float, Any]]]
"""A public generator function of (tools, *arguments) that yields (progress 0 to 1, value) pairs."""


class Lane(IntEnum):
    """What goes first. A new prediction makes older predictions and strips pointless, a new strip older strips.

    Of questions only one of the same kind is replaced; they are worked on step by step, in the order in which they were asked,
    whenever nothing else is wanted.
    """

    PREDICTION = 0
    STRIP = 1
    QUESTION = 2


class Tools(Protocol):
    """What errands work with. `called_off` is asked now and then while they do, and ends them by `Cancelled`."""

    called_off: Callable[[], bool]


@dataclass(frozen=True)
class Request:
    """One errand with its arguments. `kind` says which earlier question it takes the place of."""

    lane: Lane
    number: int
    errand: Errand
    arguments: tuple[Any, ...] = ()
    kind: str = ""


@dataclass(frozen=True)
class Cancel:
    """Call a request off."""

    number: int


@dataclass(frozen=True)
class Answer:
    """What came of a request: a `step` with its value, `done` after the last, or `error` with its sentence.

    `replaced`: a newer request took its place. `idle`: nothing is left to do (the number is that of the last request).
    """

    number: int
    stage: Literal["step", "done", "error", "replaced", "idle"]
    value: Any = None
    progress: float = 0.0
    about: tuple[str, ...] = ()
