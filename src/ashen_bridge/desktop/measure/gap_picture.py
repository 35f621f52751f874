"""What the plan of gaps shows, as plain values."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.desktop.charts.outlines import Box, Outline, outlines_of
from ashen_bridge.desktop.measure.desk import MeasureDesk
from ashen_bridge.measuring.result import Gap
from ashen_bridge.model.bodies import Board, Side

_SURE_MM, _VAGUE_MM = 0.015, 0.12  # standard uncertainties at which a ring is whole, and at which it is gone


@dataclass(frozen=True)
class Mark:
    """One gap over its lower body: figures, how much of its ring is there (0 vague to 1 sure), whether readings told of it."""

    lower: str
    name: str
    box: Box
    gap_mm: float
    sd_mm: float
    sure: float
    told: bool
    odd: bool
    selected: bool


@dataclass(frozen=True)
class GapPicture:
    """Everything the plan shows. `words` stand in its place where there is nothing to show."""

    extent: Box = (-60.0, -40.0, 60.0, 40.0)
    outlines: tuple[Outline, ...] = ()
    marks: tuple[Mark, ...] = ()
    side: Side = Side.FRONT
    words: str = ""
    stale: bool = False


def gap_picture(desk: MeasureDesk, words: str) -> GapPicture:
    """Return the plan of the build that is looked at, on the side that is."""
    session = desk.session
    bodies = session.project.bodies_of(session.build) if session.project.builds else ()
    board = next((one for one in bodies if isinstance(one, Board)), None)
    if board is None:
        return GapPicture(words="There is no board yet.")
    side = desk.view.side
    outlines = outlines_of(bodies, side, ("substrate", "component"))
    boxes = {one.id: one.box for one in outlines}
    found, chosen = desk.found, desk.gap
    odd = {one.reading for one in found.odd} if found is not None else set()
    suspect = {
        body
        for reading in session.project.readings
        if reading.id in odd
        for body in (getattr(reading, "body", ""), getattr(reading, "lower", ""))
    }
    marks = (
        tuple(_mark(one, boxes[one.lower], one is chosen, suspect) for one in found.gaps if one.lower in boxes) if found else ()
    )
    return GapPicture(board.footprint.bounds, outlines, marks, side, "" if marks else words, desk.question.state == "stale")


def _mark(gap: Gap, box: Box, chosen: bool, suspect: set[str]) -> Mark:
    value, sd = gap.now
    sure = min(max((_VAGUE_MM - sd) / (_VAGUE_MM - _SURE_MM), 0.0), 1.0)
    return Mark(gap.lower, gap.name, box, value, sd, sure, bool(gap.methods), gap.lower in suspect, chosen)
