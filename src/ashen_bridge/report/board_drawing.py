"""The board with its plates, screws and plugs as a vector drawing for papers; readable in grey."""

from __future__ import annotations

from collections.abc import Iterable

from markupsafe import Markup

from ashen_bridge.model.bodies import Component, Plate, Side
from ashen_bridge.model.hardware import Plug
from ashen_bridge.model.resolve import ResolvedBuild
from ashen_bridge.planning.tray import Slot

_INK, _QUIET, _FILL, _EMBER = "#26221f", "#8d857d", "#f3efea", "#b4532a"


def board_drawing(
    resolved: ResolvedBuild, slots: Iterable[Slot], plugs: Iterable[Plug], side: Side, width_mm: float = 170
) -> Markup:
    """Return the drawing of one side as SVG, `width_mm` wide; the rear as one sees it, turned over."""
    shown = [body for body in resolved.bodies if getattr(body, "side", side) is side]
    boxes = [body.footprint.bounds for body in resolved.bodies if not isinstance(body, Plate)] or [(0.0, 0.0, 1.0, 1.0)]
    x0, y0 = min(box[0] for box in boxes), min(box[1] for box in boxes)
    x1, y1 = max(box[2] for box in boxes), max(box[3] for box in boxes)
    scale = min(width_mm / (x1 - x0), 90 / (y1 - y0))

    def at(x: float, y: float) -> tuple[float, float]:
        across = x1 - x if side is Side.REAR else x - x0
        return round(across * scale, 2), round((y1 - y) * scale, 2)

    parts = []
    for body in shown:
        bx0, by0, bx1, by1 = body.footprint.bounds
        (left, top), (right, bottom) = at(bx0, by1), at(bx1, by0)
        left, right = min(left, right), max(left, right)
        dashes = 'stroke-dasharray="1.5 1"' if isinstance(body, Plate) else ""
        fill = _FILL if isinstance(body, Component) else "none"
        parts.append(
            f'<rect x="{left}" y="{top}" width="{right - left:.2f}" height="{bottom - top:.2f}" fill="{fill}" '
            f'stroke="{_QUIET}" stroke-width="0.25" {dashes}/>'
        )
    for plug in plugs:
        if plug.side is side:
            x, y = at(plug.x_mm, plug.y_mm)
            parts.append(f'<rect x="{x - 2}" y="{y - 1.2}" width="4" height="2.4" fill="{_EMBER}"/>')
    for one in slots:
        if one.side is side:
            x, y = at(one.x_mm, one.y_mm)
            parts.append(f'<circle cx="{x}" cy="{y}" r="2.9" fill="white" stroke="{_INK}" stroke-width="0.5"/>')
            parts.append(
                f'<text x="{x}" y="{y + 1.15}" font-size="3.3" font-family="Lato" font-weight="700" text-anchor="middle" '
                f'fill="{_INK}">{one.number}</text>'
            )
    w, h = (x1 - x0) * scale, (y1 - y0) * scale
    body_svg = "".join(parts)
    box = f"-4 -4 {w + 8:.2f} {h + 8:.2f}"
    return Markup(
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{w + 8:.2f}mm" height="{h + 8:.2f}mm" viewBox="{box}">{body_svg}</svg>'
    )
