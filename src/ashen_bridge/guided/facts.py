"""What follows at once from the answers and is needed everywhere: layout, heights, names. And numbers as plain data."""

from __future__ import annotations

from typing import Any

from ashen_bridge.changes.boxes import Box, rect_of
from ashen_bridge.guided.answers import Answers, DeviceKind
from ashen_bridge.guided.layout import FILM_MM, Layout, lay_out, stack_mm
from ashen_bridge.guided.questions import has_memory, has_pads, has_rear_plate, has_spreader, memory_padded
from ashen_bridge.guided.usual import value_of
from ashen_bridge.library.typical import typical
from ashen_bridge.model.quantity import q

Plain = dict[str, Any]
_SQUEEZE = {"too thin": 1.0, "right": 0.8, "too thick": 0.68}
"""What is left of a pad's thickness where it was too thin, right, or so thick that it held the cooler off; common practice."""


def typed(value: float, uncertainty: float, note: str = "as answered") -> Plain:
    """Return an answered number as plain data."""
    return q(value, uncertainty, "measured", note).model_dump(mode="json")


def assumed(key: str, **changes: Any) -> Plain:
    """Return a typical number as plain data, perhaps with another value or note."""
    return {**typical(key).model_dump(mode="json"), **changes}


def guess(value: float, uncertainty: float, note: str) -> Plain:
    """Return a number that follows from answers without being one of them."""
    return q(round(value, 4), round(uncertainty, 4), "assumed", note).model_dump(mode="json")


def seated(key: str) -> Plain:
    """Return a typical height from which a landing's step or a seat was derived: how far it may be off is in that number's ±."""
    usual = typical(key)
    note = f"{usual.note.removesuffix(')')}; its ± is in the steps and seats derived from it)"
    return {**usual.model_dump(mode="json"), "uncertainty": round(0.1 * usual.uncertainty, 4), "note": note}


def outline(box: Box) -> Plain:
    """Return a box as a footprint."""
    return {"rects": [rect_of(box).model_dump()]}


class Facts:
    """One described device."""

    def __init__(self, answers: Answers) -> None:
        self.answers = answers
        self.kind = answers.kind
        self.layout: Layout = lay_out(answers)
        self.box, self.lidded = self.kind is DeviceKind.BOX, self.kind is DeviceKind.LIDDED
        self.spreader = has_spreader(answers)
        self.backplate = has_rear_plate(answers)
        self.pads, self.remembers = has_pads(answers), has_memory(answers)
        self.memory_padded = memory_padded(answers)
        self.pad_mm = float(self.of("pad_now_mm"))
        self.chip_pad = self.spreader and self.of("on_chip") == "pad"
        self.memory_height = "thin_memory_height_mm" if self.box else "memory_height_mm"
        chip, carrier = ("thin_chip_height_mm", "thin_substrate_thickness_mm") if self.box else _CHIP
        self.chip_keys = chip, carrier
        self.die_top = typical(carrier).value + typical(chip).value
        self.lid_mm = typical("lid_thickness_mm").value if self.lidded else 0.0
        self.under_mm = typical("solder_thickness_mm").value if self.of("under_lid") == "solder" else FILM_MM
        # What lies on the chip: a cooler, a sheet under the cover, or the cover itself.
        self.plate_id = "spreader" if self.spreader else "case_wall" if self.box else "cooler"
        on_chip = self.gap_mm if self.chip_pad else FILM_MM
        self.rest = round(self.die_top + on_chip + (self.lid_mm + self.under_mm if self.lidded else 0.0), 3)
        """Where the plate's reference plane comes to rest above the board [mm]."""
        self.cover_height = round(stack_mm(answers)[1], 3) if self.box else 0.0
        self.memory = {f"mem_{name.lower()}": (name, side, box) for name, (side, box) in self.layout.parts.items()}
        self.regulators = {f"reg_{name.lower()}": (name, box) for name, box in self.layout.regulators.items()}
        self.rear = {f"mem_{name.replace(' ', '_')}": (name, box) for name, box in self.layout.rear.items()}
        self.all_memory = (*self.memory, *self.rear)

    def of(self, field: str) -> Any:
        """Return an answer, or what is usual."""
        return value_of(self.answers, field)

    def said(self, field: str) -> bool:
        """Whether a question was answered."""
        return getattr(self.answers, field) is not None

    @property
    def gap_mm(self) -> float:
        """What is left of the pads that are there [mm]: by what became worse when they were changed."""
        changed, worse = self.of("changed"), self.of("worse")
        if "pads" in changed and worse in ("the die", "both"):
            return _SQUEEZE["too thick"] * self.pad_mm
        if "pads" in changed and worse == "memory":
            return _SQUEEZE["too thin"] * self.pad_mm
        return _SQUEEZE["right"] * self.pad_mm

    def known(self, field: str, spread: float, share: float) -> Plain:
        """Return a number as plain data: as answered ± `spread`, else the usual one ± a share of it."""
        value = float(self.of(field))
        return typed(value, spread) if self.said(field) else guess(value, share * value, "usual, not answered")


_CHIP = ("die_height_mm", "substrate_thickness_mm")
