"""Live readings as lines of text: how they are written, and how they are read while they come in.

The first line names the columns, `time [s]` first, each with its unit, with semicolons between them. Every further line holds
the seconds since the start and one number per column, nothing where there is none. A line that starts with `#` is a remark;
`# end` says that no more will come. What was sent is itself a log that can be read from a file.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.logs.log import Column, Log, LogError

END = "# end"
MOST_COLUMNS = 500
_LONGEST = 1 << 20  # bytes of a line


def header_line(headings: Sequence[str]) -> str:
    """Return the first line; headings carry their unit in brackets.

    >>> header_line(["Die [°C]", "Power [W]"])
    'time [s];Die [°C];Power [W]'
    """
    return ";".join(["time [s]", *(one.replace(";", ",") for one in headings)])


def reading_line(second: float, row: Mapping[str, float]) -> str:
    """Return one reading as a line.

    >>> reading_line(3.0, {"Die [°C]": 61.5, "Power [W]": float("nan")})
    '3;61.5;'
    """
    return ";".join([f"{second:g}", *("" if value != value else f"{value:g}" for value in row.values())])


class LineReader:
    """Reads lines as they come, in pieces of any size. `wrong` counts lines that could not be read."""

    def __init__(self) -> None:
        self.columns: tuple[tuple[str, str], ...] = ()
        self.wrong = 0
        self.ended = False
        self._rest = b""
        self._rows = np.empty((0, 0))
        self._count = 0

    @property
    def count(self) -> int:
        """How many readings there are."""
        return self._count

    def feed(self, data: bytes) -> int:
        """Take in what has come and return how many readings that were. Raises `LogError` if it is not in this format."""
        before = self._count
        *lines, self._rest = (self._rest + data).split(b"\n")
        if len(self._rest) > _LONGEST:
            raise LogError("What comes in is not lines of readings: no line ends within a megabyte.")
        for raw in lines:
            self._take(raw.decode("utf-8", errors="replace").strip().lstrip("\ufeff"))
        return self._count - before

    def _take(self, line: str) -> None:
        if not line or self.ended:
            return
        if line.startswith("#"):
            self.ended = line == END
        elif not self.columns:
            self._head(line)
        else:
            self._row(line.split(";"))

    def _head(self, line: str) -> None:
        names = [one.strip() for one in line.split(";")]
        if len(names) < 2 or not names[0].lower().startswith("time"):
            raise LogError(f"The first line that came in names no columns after “time [s]”: “{line[:60]}”.")
        if len(names) > MOST_COLUMNS:
            raise LogError(f"{len(names)} columns come in; up to {MOST_COLUMNS} can be recorded.")
        found, used = [], set()
        for number, one in enumerate(names[1:], start=2):
            name, _, unit = one.removesuffix("]").rpartition(" [") if one.endswith("]") else (one, "", "")
            name = name or f"column {number}"
            while name in used:
                name += "′"
            used.add(name)
            found.append((name, unit))
        self.columns = tuple(found)
        self._rows = np.empty((1024, len(found) + 1))

    def _row(self, cells: list[str]) -> None:
        try:
            values = [float(cell) if cell.strip() else np.nan for cell in cells]
        except ValueError:
            values = []
        last = self._rows[self._count - 1, 0] if self._count else -np.inf
        if len(values) != len(self.columns) + 1 or not np.isfinite(values[0]) or values[0] < last:
            self.wrong += 1
            return
        if self._count == len(self._rows):
            self._rows = np.concatenate([self._rows, np.empty_like(self._rows)])
        self._rows[self._count] = values
        self._count += 1

    def log(self) -> Log:
        """Return what has come so far. Raises `LogError` for fewer than two readings."""
        if self._count < 2:
            raise LogError("Fewer than two readings came in, so there is nothing to keep.")
        rows: Floats = self._rows[: self._count]
        columns = tuple(Column(name, unit, rows[:, k + 1].copy()) for k, (name, unit) in enumerate(self.columns))
        notes = (f"{self.wrong} lines could not be read and were left out.",) if self.wrong else ()
        return Log(rows[:, 0] - rows[0, 0], columns, notes)
