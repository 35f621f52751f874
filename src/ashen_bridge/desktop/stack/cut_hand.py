"""The cut line in the hand: grabbed, dragged, stepped and turned."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QPointF, Qt

from ashen_bridge.desktop.charts.placement import Placement
from ashen_bridge.desktop.stack.desk import StackDesk
from ashen_bridge.desktop.stack.plan_model import PlanPicture
from ashen_bridge.geometry.section import Cut

_GRAB = 7.0  # [px] from the line


class CutHand:
    """Moves the cut line of one plan."""

    def __init__(self, desk: StackDesk) -> None:
        self._desk = desk
        self.dragging = False

    def near(self, at: QPointF, place: Placement) -> bool:
        """Return whether a pixel is on the line."""
        cut = self._desk.view.cut
        line = place.point(cut.at * 1e3, cut.at * 1e3)
        return abs((line.y() - at.y()) if cut.along == "x" else (line.x() - at.x())) < _GRAB

    def cursor(self) -> Qt.CursorShape:
        """Return what the pointer looks like over the line."""
        return Qt.CursorShape.SizeVerCursor if self._desk.view.cut.along == "x" else Qt.CursorShape.SizeHorCursor

    def drag(self, at: QPointF, place: Placement, picture: PlanPicture | None) -> None:
        """Take the line along."""
        x, y = place.place(at)
        self._move((y if self._desk.view.cut.along == "x" else x) * 1e-3, picture)

    def step(self, right: int, up: int, picture: PlanPicture | None) -> None:
        """Move the line by a millimetre, across itself."""
        cut = self._desk.view.cut
        self._move(cut.at + 1e-3 * (up if cut.along == "x" else right), picture)

    def turn(self, picture: PlanPicture | None) -> None:
        """Turn the line by a quarter, through the middle of what is selected."""
        if picture is None:
            return
        box = next((item.box for item in picture.items if item.selected), picture.extent)
        upright = self._desk.view.cut.along == "x"
        self._set(Cut("y", (box[0] + box[2]) / 2e3) if upright else Cut("x", (box[1] + box[3]) / 2e3))

    def _move(self, at: float, picture: PlanPicture | None) -> None:
        if picture is None:
            return
        x0, y0, x1, y1 = picture.extent
        cut = self._desk.view.cut
        low, high = (y0, y1) if cut.along == "x" else (x0, x1)
        self._set(Cut(cut.along, min(max(at, low * 1e-3), high * 1e-3)))

    def _set(self, cut: Cut) -> None:
        self._desk.look(replace(self._desk.view, cut=cut))
