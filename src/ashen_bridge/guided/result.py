"""What comes out of the answers, as plain values: light to import, since windows pass it around."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.model.project import Project


@dataclass(frozen=True)
class SeenBeside:
    """One reading [°C]: as it was seen, and as the device described shows it before and after the fit."""

    name: str
    seen_c: float
    before_c: float
    after_c: float
    uncertainty_k: float

    @property
    def met(self) -> bool:
        """Whether the fit explains it."""
        return abs(self.after_c - self.seen_c) <= max(2 * self.uncertainty_k, 1.0)


@dataclass(frozen=True)
class Next:
    """A number whose measuring would help: what, with what, and by how much [K] the answer's ± falls, from what."""

    what: str
    by: str
    path: str
    before_k: float
    after_k: float


@dataclass(frozen=True)
class Described:
    """A described device: its project, and what there is to say about it."""

    project: Project
    assumed: str
    fitted: str
    seen: tuple[SeenBeside, ...]
    misfits: tuple[str, ...]
    measure: tuple[Next, ...] = ()
    instead: tuple[str, ...] = ()
    about: str = ""
    shown_c: float | None = None
    goal_c: float | None = None
    """The sensor that all is about: its name, what it shows [°C], what is wanted of it."""
