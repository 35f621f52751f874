"""What a quick check is and what it comes to, as plain values that are light to import."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ashen_bridge.model.errors import ProjectError
from ashen_bridge.words.numbers import number


@dataclass(frozen=True)
class Remembered:
    """One sensor: what it shows after the minutes [°C] in the air of the check, and by how much more it is opened [K].

    `limit_c` is what it must not pass, None without a limit.
    """

    sensor: str
    label: str
    expected_c: float
    more_k: float
    limit_c: float | None

    @property
    def words(self) -> str:
        """It in words."""
        return f"{self.label} comes to {number(self.expected_c, 1)} °C; more than {number(self.more_k, 1)} K over that: open it."


@dataclass(frozen=True)
class Seen:
    """A sensor of a check: what was read, brought to the air of the record [°C], and by how much that is over it [K]."""

    sensor: str
    label: str
    read_c: float
    over_k: float
    more_k: float

    @property
    def opens(self) -> bool:
        """Whether it is a reason to open."""
        return self.over_k > self.more_k


@dataclass(frozen=True)
class Checked:
    """What a check comes to: whether to open, in a sentence, sensor by sensor, the furthest over first."""

    opens: bool
    says: str
    seen: tuple[Seen, ...]


@dataclass(frozen=True)
class QuickCheck:
    """The check of a build at a load: minutes, the air it counts for [°C], where its numbers come from, nearest limits first."""

    build: str
    point: str
    minutes: float
    air_c: float
    source: str
    rows: tuple[Remembered, ...]

    @property
    def words(self) -> str:
        """How it is done, in words."""
        first = self.rows[0].words if self.rows else "no sensor is known."
        return f"{number(self.minutes)} minutes of this load in air of {number(self.air_c)} °C: {first}"

    def judged(self, readings: Mapping[str, float], air_c: float | None = None) -> Checked:
        """Return what readings [°C, by sensor id] say, the air being as it was in the record or as stated.

        Raises `ProjectError` where none of them is of a sensor of this check.
        """
        warmer = 0.0 if air_c is None else air_c - self.air_c
        seen = [
            Seen(row.sensor, row.label, value - warmer, value - warmer - row.expected_c, row.more_k)
            for row in self.rows
            if (value := readings.get(row.sensor)) is not None
        ]
        unknown = [name for name in readings if all(name != row.sensor for row in self.rows)]
        if unknown or not seen:
            known = ", ".join(row.sensor for row in self.rows)
            what = f"There is no sensor '{unknown[0]}' in this check" if unknown else "Nothing was read"
            raise ProjectError(f"{what}; it has {known or 'none'}.")
        seen.sort(key=lambda one: one.more_k - one.over_k)
        limits = {row.sensor: row.limit_c for row in self.rows}
        close = next((one for one in seen if _reaches(readings[one.sensor], limits[one.sensor])), None)
        if close is not None:
            return Checked(True, f"{close.label} is at its limit of {number(limits[close.sensor] or 0)} °C: stop.", tuple(seen))
        over = [one for one in seen if one.opens]
        if over:
            rest = f", and {len(over) - 1} more" if len(over) > 1 else ""
            first = over[0]
            says = f"{first.label} is {number(first.over_k, 1)} K over the record, more than chance ({number(first.more_k, 1)} K)"
            return Checked(True, f"Open it: {says}{rest}.", tuple(seen))
        first = seen[0]
        word = f"{number(abs(first.over_k), 1)} K {'over' if first.over_k >= 0 else 'under'} the record"
        return Checked(False, f"Leave it shut: {first.label} is {word}, within {number(first.more_k, 1)} K.", tuple(seen))


def _reaches(read_c: float, limit_c: float | None) -> bool:
    return limit_c is not None and read_c >= limit_c
