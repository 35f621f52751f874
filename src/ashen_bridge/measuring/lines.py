"""What a caliper says, line by line: lengths with their unit, that it was set to zero, that its display is held; rubbish is told.

12.34 mm
0.4858 in
hold 12.34 mm
zero
# a remark
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

_LONGEST, _WAITING = 80, 4096  # letters of a line, and bytes without an end of line, from which it is rubbish
_MM = {"mm": 1.0, "in": 25.4}
_LINE = re.compile(r"(hold\s+)?([+-]?\d+(?:[.,]\d+)?)\s*(mm|in)", re.IGNORECASE)
_WIDEST_MM = 500.0


@dataclass(frozen=True)
class Said:
    """One line: a value [mm], perhaps with the display held; that zero was set; or rubbish, as it stood."""

    kind: Literal["value", "zero", "rubbish"]
    value_mm: float = 0.0
    held: bool = False
    text: str = ""


class CaliperLines:
    """Makes lines of bytes as they come, in pieces of any size."""

    def __init__(self) -> None:
        self._waiting = b""

    def feed(self, data: bytes) -> list[Said]:
        """Return what came of some more bytes; what has no end yet waits."""
        *lines, self._waiting = (self._waiting + data).replace(b"\r", b"\n").split(b"\n")
        found = [said for line in lines if (said := read_line(line)) is not None]
        if len(self._waiting) > _WAITING:
            found.append(Said("rubbish", text=self._waiting[:_LONGEST].decode("utf-8", "replace")))
            self._waiting = b""
        return found


def read_line(line: bytes) -> Said | None:
    """Return what a line says; None for an empty one or a remark."""
    text = line.decode("utf-8", "replace").strip()
    if not text or text.startswith("#"):
        return None
    if text.lower() == "zero":
        return Said("zero")
    found = _LINE.fullmatch(text) if len(text) <= _LONGEST else None
    if found is not None:
        value = float(found[2].replace(",", ".")) * _MM[found[3].lower()]
        if abs(value) <= _WIDEST_MM:
            return Said("value", round(value, 6), found[1] is not None)
    return Said("rubbish", text=text[:_LONGEST])
