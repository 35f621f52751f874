"""What people see and what it speaks for, as data beside this module."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Any


@dataclass(frozen=True)
class Band:
    """What a mark stands for: a range of squash (share of the free thickness) or of bond line [mm], and whether it is uneven.

    `uneven` is the difference between opposite edges, as a share of the free thickness or of the bond line. None: open on that
    side.
    """

    of: str
    low: float | None
    high: float | None
    uneven: float
    says: str


@dataclass(frozen=True)
class Practice:
    """Bands by kind of layer and mark, how blurred their edges are, and by how much marks and signs speak for kinds of faults."""

    bands: dict[str, dict[str, Band]]
    blur: dict[str, float]
    bearing: dict[str, dict[str, float]]
    signs: dict[str, dict[str, float]]


@cache
def practice() -> Practice:
    """Return what practice says of marks."""
    data: dict[str, Any] = json.loads(resources.files(__package__).joinpath("seen.json").read_text(encoding="utf-8"))
    bands = {kind: {mark: _band(said) for mark, said in data[kind].items()} for kind in ("pad", "paste")}
    return Practice(bands, data["blur"], data["bearing"], data["signs"])


def _band(said: dict[str, Any]) -> Band:
    of = "squash" if "squash" in said else "bond_mm"
    low, high = said[of]
    return Band(of, low, high, float(said.get("uneven", 0.0)), said["says"])
