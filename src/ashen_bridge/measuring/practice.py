"""What practice says of measuring where nobody says better: data with wide ±, in `practice.json`."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from typing import Any


@dataclass(frozen=True)
class Form:
    """A form of reading: the method it belongs to, minutes of work, and the error of the method itself [mm]."""

    name: str
    minutes: float
    own_mm: float


@dataclass(frozen=True)
class Practice:
    """What practice says.

    alike_share : part of the variance of numbers from one look that they have in common. hand_mm : scatter of repeats by hand,
    worth so many repeats (`hand_worth`). jaw_area_mm2 : of a caliper's jaws on something soft. recovered : by kind of material,
    which share of its compression it gets back before it is measured, and the ± of that. set_share : by kind, which share of its
    thickness an old sheet has lost at its free edge, and the ± of that.
    """

    alike_share: float
    hand_mm: float
    hand_worth: float
    jaw_area_mm2: float
    recovered: dict[str, tuple[float, float]]
    set_share: dict[str, tuple[float, float]]
    forms: dict[str, Form]


@lru_cache(maxsize=1)
def practice() -> Practice:
    """Return what practice says."""
    data: dict[str, Any] = json.loads((files(__package__) / "practice.json").read_text("utf-8"))

    def pairs(name: str) -> dict[str, tuple[float, float]]:
        return {kind: (float(pair[0]), float(pair[1])) for kind, pair in data[name].items()}

    return Practice(
        data["alike_share"],
        data["hand_mm"],
        data["hand_worth"],
        data["jaw_area_mm2"],
        pairs("recovered"),
        pairs("set"),
        {name: Form(**one) for name, one in data["forms"].items()},
    )
