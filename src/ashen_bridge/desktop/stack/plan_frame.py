"""How the plan lies in its widget: fitted, zoomed about the pointer, pushed about, held still while something is dragged."""

from __future__ import annotations

from PyQt6.QtCore import QPointF

from ashen_bridge.desktop.charts.placement import Placement

_ZOOM = 1.2
_CLOSEST = 40.0

Size = tuple[int, int]


class PlanFrame:
    """Zoom and shift of one plan, over the placement that fits the whole board."""

    def __init__(self) -> None:
        self._zoom, self._shift = 1.0, QPointF()
        self.held: Placement | None = None
        """Kept while something is dragged, so that the board's edge may move too."""

    def placement(self, fitted: Placement, size: Size) -> Placement:
        """Return how millimetres map to pixels in a widget of a size [px]."""
        return self.held if self.held is not None else fitted.zoomed(self._zoom, self._shift, size)

    def fit(self) -> None:
        """Show the whole board again."""
        self._zoom, self._shift = 1.0, QPointF()

    def push(self, by: QPointF) -> None:
        """Push the plan about [px]."""
        self._shift = self._shift + by

    def zoom(self, turns: float, at: QPointF, fitted: Placement, size: Size) -> None:
        """Zoom about a pixel, by turns of the wheel."""
        under = self.placement(fitted, size).place(at)
        self._zoom = min(max(self._zoom * _ZOOM**turns, 1.0), _CLOSEST)
        moved = self.placement(fitted, size).point(*under)
        self._shift = self._shift + (at - moved) if self._zoom > 1.0 else QPointF()
