"""Sheets with their pieces as a drawing exchange file, in millimetres, each kind of line on a layer of its own."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Any

from ezdxf import units
from ezdxf.document import Drawing
from ezdxf.enums import TextEntityAlignment

from ashen_bridge.planning.cutting.nesting import Laid
from ashen_bridge.planning.cutting.pieces import Box
from ashen_bridge.report.cut_drawing import turned_boxes

LAYERS = {"SHEET": 8, "PIECES": 7, "HOLES": 1, "CUTS": 30, "NUMBERS": 5}
"""Layer → colour index."""
_GAP_MM = 12.0


def cut_dxf(laid: Sequence[Laid]) -> bytes:
    """Return all sheets beside each other as DXF text."""
    drawing = Drawing.new("R2010")
    drawing.units = units.MM
    for name, colour in LAYERS.items():
        drawing.layers.add(name, color=colour)
    space: Any = drawing.modelspace()
    x = 0.0
    for one in laid:
        _box(space, "SHEET", (0.0, 0.0, one.sheet.w_mm, one.sheet.h_mm), x)
        for placed in one.placed:
            for box in turned_boxes(placed, placed.cut.outline):
                _box(space, "PIECES", box, x)
            for box in turned_boxes(placed, placed.cut.holes):
                _box(space, "HOLES", box, x)
            middle = x + placed.x_mm + placed.w_mm / 2, placed.y_mm + placed.h_mm / 2
            high = max(min(placed.w_mm, placed.h_mm) * 0.3, 1.0)
            words = space.add_text(str(placed.cut.number), height=high, dxfattribs={"layer": "NUMBERS"})
            words.set_placement(middle, align=TextEntityAlignment.MIDDLE_CENTER)
        for cut in one.cuts:
            ends = (
                ((x + cut.at_mm, cut.from_mm), (x + cut.at_mm, cut.to_mm))
                if cut.along == "y"
                else ((x + cut.from_mm, cut.at_mm), (x + cut.to_mm, cut.at_mm))
            )
            space.add_line(*ends, dxfattribs={"layer": "CUTS"})
        x += one.sheet.w_mm + _GAP_MM
    text = io.StringIO()
    drawing.write(text)
    return text.getvalue().encode()


def _box(space: Any, layer: str, box: Box, x: float) -> None:
    x0, y0, x1, y1 = box
    corners = [(x + x0, y0), (x + x1, y0), (x + x1, y1), (x + x0, y1)]
    space.add_lwpolyline(corners, close=True, dxfattribs={"layer": layer})
