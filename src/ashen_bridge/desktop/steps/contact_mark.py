"""What one contact of the open board shows."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.desktop.charts.outlines import Box


@dataclass(frozen=True)
class ContactMark:
    """A contact over its lower body: what is expected there, what was said, whether that surprises, a wedge's direction [°]."""

    joint: str
    lower: str
    name: str
    box: Box
    expected: str
    said: str
    odd: bool
    toward_deg: float | None
    selected: bool
