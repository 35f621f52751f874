"""Bodies in plan as plain outlines, and how they are drawn under other things."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from PyQt6.QtGui import QPainter, QPainterPath, QPen

from ashen_bridge.desktop.charts.placement import Placement
from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.model.bodies import Board, Body, Side
from ashen_bridge.model.footprint import Rect

Box = tuple[float, float, float, float]
_ORDER = {"board": 0, "substrate": 1, "component": 2, "plate": 3}


@dataclass(frozen=True)
class Outline:
    """One body in plan [mm]; `held`: it is what is handled now."""

    id: str
    kind: str
    name: str
    rects: tuple[Rect, ...]
    holes: tuple[Rect, ...]
    box: Box
    held: bool = False


def outlines_of(bodies: Iterable[Body], side: Side, kinds: Iterable[str], held: Iterable[str] = ()) -> tuple[Outline, ...]:
    """Return the board and those bodies of some kinds that are on a side, what carries before what is carried."""
    wanted, about = {*kinds}, {*held}
    shown = [one for one in bodies if isinstance(one, Board) or (one.kind in wanted and getattr(one, "side", side) is side)]
    shown.sort(key=lambda one: _ORDER[one.kind])
    return tuple(
        Outline(one.id, one.kind, one.label, one.footprint.rects, one.footprint.holes, one.footprint.bounds, one.id in about)
        for one in shown
    )


def path_of(outline: Outline, place: Placement) -> QPainterPath:
    """Return an outline in pixels, holes cut out."""
    path = QPainterPath()
    for rect in outline.rects:
        path.addRect(place.rect(rect.bounds))
    for hole in outline.holes:
        cut = QPainterPath()
        cut.addRect(place.rect(hole.bounds))
        path = path.subtracted(cut)
    return path.simplified()


def draw_solid(painter: QPainter, outline: Outline, place: Placement, theme: Theme) -> None:
    """Draw a body that is not a plate."""
    role = {"board": "board", "substrate": "board_edge"}.get(outline.kind, "part")
    painter.setBrush(theme.colour(role))
    painter.setPen(QPen(theme.colour("board_edge"), 1.0))
    painter.drawPath(path_of(outline, place))
