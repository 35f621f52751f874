"""How a running test stands, as a plain result."""

from __future__ import annotations

from dataclasses import dataclass

WANTED_S = 60.0  # a settled window worth measuring; common practice, no source


@dataclass(frozen=True)
class Ahead:
    """How a test stands: settled for how long [s], else the time left until within 1 K of its end [s], None if not told.

    `slowest` is the column that decides.
    """

    settled_s: float
    left_s: float | None
    slowest: str

    @property
    def enough(self) -> bool:
        """Whether it can be stopped."""
        return self.settled_s >= WANTED_S
