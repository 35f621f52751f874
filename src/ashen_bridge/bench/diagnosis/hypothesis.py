"""One thing that may be wrong with a device: it moves one number, says so in words, and names what would confirm it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from ashen_bridge.model.project import Project


@dataclass(frozen=True)
class Hypothesis:
    """One thing that may be wrong. `change` makes it so, by a number from `healthy` to `worst`.

    `says` puts the number in words; `about` is the path of what it speaks of; `confirm` the look or measurement that would tell.
    A hypothesis about a sensor changes nothing in the model but what that `sensor` reads. `all_or_nothing`: no number between
    healthy and worst. `of`: whether it belongs to one closing of the device or to the device; `plates` are those that must be
    lifted to bring it about.
    """

    id: str
    title: str
    about: str
    healthy: float
    worst: float
    says: Callable[[float], str]
    confirm: str
    change: Callable[[Project, float], Project]
    sensor: str = ""
    all_or_nothing: bool = False
    of: Literal["closing", "device"] = "device"
    plates: frozenset[str] = frozenset()

    @property
    def kind(self) -> str:
        """What kind of fault it is, by which its odds are known."""
        return self.id.partition("-")[0].partition("@")[0]

    def applied(self, project: Project, value: float) -> Project:
        """Return the project as it would be. Raises `ProjectError` where that cannot be."""
        return self.change(project, value)
