"""What a study is: cases with keys, a line about each, and what they tell together."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

Plain = dict[str, Any]


@dataclass(frozen=True)
class Case:
    """One case: its name, the key of all that it stands on, and what does it; the result must go into JSON."""

    name: str
    key: str
    run: Callable[[], Plain]


@dataclass(frozen=True)
class Study:
    """One study. `about` says in a sentence or two what is done; `line` sums up a case, `tell` all of them."""

    name: str
    title: str
    about: str
    cases: Callable[[], Iterator[Case]]
    line: Callable[[Plain], str]
    tell: Callable[[Mapping[str, Plain]], str]
