"""A sensor log as it lies in memory: seconds and columns of numbers."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.arrays import Floats
from ashen_bridge.model.errors import AshenError


class LogError(AshenError, ValueError):
    """A file that is not a log this program can read."""


@dataclass(frozen=True)
class Column:
    """One column of a log: its name without the unit, its unit, and its values, NaN where there was no number."""

    name: str
    unit: str
    values: Floats


@dataclass(frozen=True)
class Log:
    """A log: seconds from its first line, columns, and in words what was put right on the way."""

    time_s: Floats
    columns: tuple[Column, ...]
    notes: tuple[str, ...] = ()

    def column(self, name: str) -> Column:
        """Return a column by name; `KeyError` if there is none."""
        for one in self.columns:
            if one.name == name:
                return one
        raise KeyError(name)
