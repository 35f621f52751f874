"""What a log alone says, in sentences: light to import for windows."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Remark:
    """One sentence: `about` what it is, and `state` good, watch, bad or unknown."""

    about: str
    state: str
    text: str


@dataclass(frozen=True)
class Triage:
    """What logs say by themselves; `readings` are what further questions may start from [°C, W, rpm]."""

    remarks: tuple[Remark, ...]
    readings: dict[str, float]
    columns: dict[str, str]
