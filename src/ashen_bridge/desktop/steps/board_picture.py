"""What the board shows while it lies open, as plain values: screws, plugs, and contacts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ashen_bridge.desktop.charts.outlines import Box, Outline, outlines_of
from ashen_bridge.desktop.steps.contact_mark import ContactMark
from ashen_bridge.desktop.steps.desk import StepsDesk
from ashen_bridge.model.bodies import Board, Side

Point = tuple[float, float]


@dataclass(frozen=True)
class ScrewMark:
    """A screw: its number, its place, how it stands, and its turn in the present step (0: none)."""

    id: str
    number: int
    at: Point
    state: str
    turn: int
    selected: bool


@dataclass(frozen=True)
class PlugMark:
    """A plug: its place, and whether it is off, hidden, and handled by the present step."""

    id: str
    name: str
    at: Point
    off: bool
    hidden: bool
    held: bool


@dataclass(frozen=True)
class BoardPicture:
    """Everything the board shows. `words` stand in its place where there is nothing to show."""

    extent: Box = (-60.0, -40.0, 60.0, 40.0)
    outlines: tuple[Outline, ...] = ()
    screws: tuple[ScrewMark, ...] = ()
    plugs: tuple[PlugMark, ...] = ()
    contacts: tuple[ContactMark, ...] = ()
    side: Side = Side.FRONT
    words: str = ""


def board_picture(desk: StepsDesk) -> BoardPicture:
    """Return the board of the build that is looked at, for the page that is."""
    session = desk.session
    bodies = session.project.bodies_of(session.build) if session.project.builds else ()
    board = next((one for one in bodies if isinstance(one, Board)), None)
    if board is None:
        return BoardPicture(words="There is no board yet.")
    side, step = desk.view.side, desk.step
    about = step.about if step is not None and desk.at_steps else ()
    outlines = outlines_of(bodies, side, ("substrate", "component", "plate"), about)
    extent = board.footprint.bounds
    if not desk.at_steps:
        boxes = {one.id: one.box for one in outlines}
        return BoardPicture(extent, outlines, contacts=tuple(desk.contacts(boxes)), side=side)
    return BoardPicture(extent, outlines, _screws(desk, about), _plugs(desk, about), side=side)


def _screws(desk: StepsDesk, about: Sequence[str]) -> tuple[ScrewMark, ...]:
    turns = {name: n + 1 for n, name in enumerate(about)}
    found = []
    for one in desk.tray.slots:
        if one.side is desk.view.side or one.id in turns:
            state = "missing" if one.missing else "tray" if one.cell else "back" if one.back else "in"
            chosen = one.id == desk.view.screw
            found.append(ScrewMark(one.id, one.number, (one.x_mm, one.y_mm), state, turns.get(one.id, 0), chosen))
    return tuple(found)


def _plugs(desk: StepsDesk, about: Sequence[str]) -> tuple[PlugMark, ...]:
    begun = desk.begun
    off: set[str] = set()
    for step in begun.steps if begun else ():
        if (step.kind == "unplug" and step.done) or (step.kind == "plug" and not step.done):
            off |= {*step.about}
    return tuple(
        PlugMark(one.id, one.label, (one.x_mm, one.y_mm), one.id in off, one.hidden, one.id in about)
        for one in desk.session.project.device.plugs
        if one.side is desk.view.side
    )
