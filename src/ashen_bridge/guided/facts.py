"""What follows at once from the answers and is needed everywhere: layout, heights, names. And numbers as plain data."""

from __future__ import annotations

from typing import Any

from ashen_bridge.changes.boxes import Box, rect_of
from ashen_bridge.guided.answers import Answers, DeviceKind
from ashen_bridge.guided.layout import Layout, lay_out
from ashen_bridge.library.typical import typical
from ashen_bridge.model.quantity import q

Plain = dict[str, Any]
FILM_MM = 0.04
SQUEEZE = 0.8  # a pad that was right is closed to about four fifths
BOX_PAD_MM = 1.5
_UNKNOWN_PAD_MM = 1.0


def typed(value: float, uncertainty: float, note: str = "as answered") -> Plain:
    """Return an answered number as plain data."""
    return q(value, uncertainty, "measured", note).model_dump(mode="json")


def assumed(key: str, **changes: Any) -> Plain:
    """Return a typical number as plain data, perhaps with another value or note."""
    return {**typical(key).model_dump(mode="json"), **changes}


def outline(box: Box) -> Plain:
    """Return a box as a footprint."""
    return {"rects": [rect_of(box).model_dump()]}


class Facts:
    """One described device."""

    def __init__(self, answers: Answers) -> None:
        self.answers = answers
        self.layout: Layout = lay_out(answers)
        self.kind = answers.kind
        self.pad_mm = answers.pad_now_mm or _UNKNOWN_PAD_MM
        self.die_top = typical("substrate_thickness_mm").value + typical("die_height_mm").value
        self.lid_mm = typical("lid_thickness_mm").value if self.kind is DeviceKind.LIDDED else 0.0
        self.plate_id = "spreader" if self.kind is DeviceKind.BOX else "cooler"
        # Where the plate's reference plane comes to rest above the board.
        self.rest = round(self.die_top + FILM_MM + (self.lid_mm + FILM_MM if self.lid_mm else 0.0), 3)
        self.memory = {f"mem_{name.lower()}": (name, side, box) for name, (side, box) in self.layout.parts.items()}
        self.rear = {f"mem_{name.replace(' ', '_')}": (name, box) for name, box in self.layout.rear.items()}
