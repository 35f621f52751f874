"""Evidence and readings of the record: what was seen and read, as it was written down."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from ashen_bridge.report.record.blocks import Block, rows
from ashen_bridge.words.numbers import percent, short


def evidence_chapter(known: Any) -> Iterator[Block]:
    """Yield signs before opening, and what old pads and pastes showed."""
    project = known.project
    labels = {body.id: body.label for body in project.all_bodies}
    if project.signs:
        body = [
            [one.says, labels.get(one.body or "", one.body or ""), one.taken.replace("T", " "), one.note] for one in project.signs
        ]
        yield rows(["Before opening", "At", "When", "Note"], body)
    seen = [one for one in project.evidence if not one.aside]
    if seen:
        body = [
            [one.closing, one.joint, labels.get(one.lower, one.lower), one.says, f"misread {percent(one.misread)}", one.note]
            for one in seen
        ]
        yield rows(["Closing", "Joint", "Over", "Shows", "Chance", "Note"], body)


def readings_chapter(known: Any) -> Iterator[Block]:
    """Yield every reading with its repeats and its instrument."""
    project = known.project
    instruments = {one.id: one.label for one in project.instruments}
    body = []
    for one in project.readings:
        said = one.model_dump(mode="json")
        about = " ".join(str(said[key]) for key in ("body", "plate", "landing", "joint", "lower", "path") if said.get(key))
        values = said.get("values_mm") or said.get("values")
        if values is None:
            ends = [said.get(key) for key in ("goes_mm", "stops_mm", "least_mm", "most_mm")]
            values = [value for value in ends if value is not None]
        aside = "aside" if one.aside else ""
        read = ", ".join(short(value, 4) for value in values)
        body.append([one.form, about, read, instruments.get(one.instrument or "", ""), one.taken.replace("T", " "), aside])
    if body:
        yield rows(["Method", "Of", "Read", "With", "When", ""], body)
    taken = [[one.path, f"{short(one.was.value, 4)} → {short(one.now.value, 4)}"] for one in project.taken_over]
    if taken:
        yield rows(["Taken over", "Was → is"], taken)
