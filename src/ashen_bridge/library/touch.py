"""Touch temperature limits by surface and contact time."""

from __future__ import annotations

import json
from functools import lru_cache
from importlib import resources
from typing import Literal

from ashen_bridge.model.material import Material

Surface = Literal["metal", "glass", "plastic", "wood"]
CONTACT_TIMES = ("over_1_min", "10_s_to_1_min", "1_s_to_10_s", "under_1_s")
"""From held in the hand to brushed against, the longest first."""

WORDS = {
    "over_1_min": "held for longer than a minute",
    "10_s_to_1_min": "held for 10 s to a minute",
    "1_s_to_10_s": "touched for 1 to 10 s",
    "under_1_s": "brushed against",
}


@lru_cache(maxsize=1)
def _table() -> dict[str, dict[str, float]]:
    content = json.loads(resources.files("ashen_bridge.library").joinpath("touch_limits.json").read_text(encoding="utf-8"))
    return {time: content[time] for time in CONTACT_TIMES}


def touch_limits(surface: Surface) -> dict[str, float]:
    """Return the highest surface temperature [°C] for each contact time.

    >>> touch_limits("metal")["over_1_min"]
    48
    """
    return {time: _table()[time][surface] for time in CONTACT_TIMES}


def surface_of(material: Material) -> Surface:
    """Return how a bare surface of a material feels: metals lead heat into the finger, all else is taken as plastic."""
    return "metal" if material.electrically_conductive else "plastic"


def longest_contact(temperature_c: float, surface: Surface) -> str | None:
    """Return the longest contact time that a surface of this temperature allows, None if not even a brush.

    >>> longest_contact(55.0, "metal"), longest_contact(90.0, "metal")
    ('1_s_to_10_s', None)
    """
    limits = touch_limits(surface)
    return next((time for time in CONTACT_TIMES if temperature_c <= limits[time]), None)
