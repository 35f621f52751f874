"""What practice knows of the work: minutes, rounds, cautions, as data beside this module."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Any

from ashen_bridge.model.hardware import Hazards


@dataclass(frozen=True)
class Practice:
    """Figures of hands: `minutes` by kind of work, `rounds` in which sprung screws come off, how wide a tray is."""

    minutes: dict[str, float]
    rounds: int
    turns_each_round: float
    warm_s: float
    tray_columns: int


@dataclass(frozen=True)
class Caution:
    """A caution: where it stands, which hazard it goes with, and whether that stops everything."""

    id: str
    at: str
    text: str
    hazard: str = ""
    stops: bool = False

    def applies(self, hazards: Hazards) -> bool:
        """Return whether it is to be shown: where it is not known whether it applies, it is."""
        if not self.hazard:
            return True
        known = getattr(hazards, self.hazard)
        if self.stops:
            return known in ("yes", "swollen or pierced")
        return bool(known != "no")


@cache
def practice() -> Practice:
    """Return what hands usually take."""
    data = _read("practice.json")
    return Practice(**{key: value for key, value in data.items() if key != "source"})


@cache
def cautions() -> tuple[Caution, ...]:
    """Return all cautions, in their order."""
    return tuple(Caution(**one) for one in _read("cautions.json")["cautions"])


def cautions_at(place: str, hazards: Hazards) -> str:
    """Return what is warned of at a place of a procedure, in sentences."""
    return " ".join(one.text for one in cautions() if one.at == place and one.applies(hazards))


def _read(name: str) -> dict[str, Any]:
    found: dict[str, Any] = json.loads(resources.files(__package__).joinpath(name).read_text(encoding="utf-8"))
    return found
