"""Numbers that share a cause."""

from __future__ import annotations

from pydantic import Field

from ashen_bridge.model.base import Frozen, Id, Name


class Tie(Frozen):
    """Numbers, by their paths, whose errors have a common part: one instrument's zero, one batch of pads.

    `share` is which part of each number's variance is common. A path that leads nowhere any more ties nothing.
    """

    id: Id
    name: Name = ""
    paths: tuple[Name, ...] = Field(min_length=2, max_length=1000)
    share: float = Field(gt=0, le=1)

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.name or self.id
