"""Sheets with their pieces and cuts as vector drawings at exactly 1:1: a millimetre of the drawing is one of the paper."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from markupsafe import Markup, escape

from ashen_bridge.planning.cutting.nesting import Laid, Placed
from ashen_bridge.planning.cutting.pieces import Box
from ashen_bridge.words.numbers import short

_INK, _QUIET, _EMBER, _FILL, _REST = "#26221f", "#8d857d", "#b4532a", "#f3efea", "#ffffff"
_FONT = 'font-family="Lato" text-anchor="middle"'
BAR_MM = 50.0
"""Length of the bar by which a print is checked [mm]."""


def sheet_svg(laid: Laid, window: Box | None = None) -> Markup:
    """Return one sheet, or what lies in a window of it [mm], as SVG in millimetres; upwards is up."""
    w, h = laid.sheet.w_mm, laid.sheet.h_mm
    x0, y0, x1, y1 = window or (0.0, 0.0, w, h)
    inside = "".join(_parts(laid))
    box = f"{x0:g} {h - y1:g} {x1 - x0:g} {y1 - y0:g}"
    size = f'width="{x1 - x0:g}mm" height="{y1 - y0:g}mm"'
    return Markup(f'<svg xmlns="http://www.w3.org/2000/svg" {size} viewBox="{box}">{inside}</svg>')


def all_sheets_svg(laid: Sequence[Laid], gap_mm: float = 12.0) -> str:
    """Return all sheets beside each other as one SVG file, a scale bar below."""
    parts, x, high = [], 0.0, max((one.sheet.h_mm for one in laid), default=0.0)
    for one in laid:
        head = f"{one.placed[0].cut.name if one.placed else ''}, {one.sheet.says}"
        words = f'<text x="0" y="{one.sheet.h_mm + 5:g}" font-family="Lato" font-size="3.2" fill="{_INK}">{escape(head)}</text>'
        parts.append(f'<g transform="translate({x:g},{high - one.sheet.h_mm:g})">{"".join(_parts(one))}{words}</g>')
        x += one.sheet.w_mm + gap_mm
    bar = f'<g transform="translate(0,{high + 12:g})">{_bar()}</g>'
    w, h = max(x - gap_mm, BAR_MM + 2), high + 24
    size = f'width="{w + 2:g}mm" height="{h + 2:g}mm" viewBox="-1 -1 {w + 2:g} {h + 2:g}"'
    return f'<?xml version="1.0" encoding="UTF-8"?>\n<svg xmlns="http://www.w3.org/2000/svg" {size}>{"".join(parts)}{bar}</svg>\n'


def scale_bar() -> Markup:
    """Return the bar by which a print is checked."""
    size = f'width="{BAR_MM + 2:g}mm" height="8mm" viewBox="-1 -1 {BAR_MM + 2:g} 8"'
    return Markup(f'<svg xmlns="http://www.w3.org/2000/svg" {size}>{_bar()}</svg>')


def _bar() -> str:
    ticks = "".join(f'<path d="M{at:g} 0 V2" stroke="{_INK}" stroke-width="0.2"/>' for at in range(0, int(BAR_MM) + 1, 10))
    line = f'<path d="M0 1 H{BAR_MM:g}" stroke="{_INK}" stroke-width="0.3" fill="none"/>'
    return ticks + line + _words(BAR_MM / 2, 5.4, 3, _INK, f"{BAR_MM:g} mm: measure it before you cut")


def _words(x: float, y: float, size: float, colour: str, said: str, bold: bool = False) -> str:
    weight = ' font-weight="700"' if bold else ""
    return f'<text x="{x:g}" y="{y:g}" {_FONT}{weight} font-size="{size:g}" fill="{colour}">{escape(said)}</text>'


def _parts(laid: Laid) -> Iterator[str]:
    w, h = laid.sheet.w_mm, laid.sheet.h_mm
    yield f'<rect x="0" y="0" width="{w:g}" height="{h:g}" fill="{_REST}" stroke="{_INK}" stroke-width="0.3"/>'
    for box in laid.rests:
        yield _rect(box, h, _REST, _QUIET, 'stroke-dasharray="1.2 1.2"')
    for one in laid.placed:
        yield from _piece(one, h)
    for n, cut in enumerate(laid.cuts, 1):
        ends = (
            (cut.at_mm, h - cut.from_mm, cut.at_mm, h - cut.to_mm)
            if cut.along == "y"
            else (cut.from_mm, h - cut.at_mm, cut.to_mm, h - cut.at_mm)
        )
        yield (
            f'<path d="M{ends[0]:g} {ends[1]:g} L{ends[2]:g} {ends[3]:g}" stroke="{_EMBER}" stroke-width="0.18" '
            'stroke-dasharray="2 0.8" fill="none"/>'
        )
        x, y = (ends[0], ends[1] - 1.6) if cut.along == "y" else (ends[0] + 1.8, ends[1] - 0.6)
        yield _words(x, y, 2, _EMBER, str(n))


def _piece(one: Placed, h: float) -> Iterator[str]:
    for box in turned_boxes(one, one.cut.outline):
        yield _rect(box, h, _FILL, _INK, "")
    for box in turned_boxes(one, one.cut.holes):
        yield _rect(box, h, _REST, _INK, "")
    x, y = one.x_mm + one.w_mm / 2, h - one.y_mm - one.h_mm / 2
    size = max(min(one.w_mm, one.h_mm) * 0.42, 1.6)
    size = min(size, 6.0)
    yield _words(x, y + size * 0.35, size, _INK, str(one.cut.number), bold=True)
    if one.h_mm > 9 and one.w_mm > 9:
        said = f"{short(one.w_mm)} × {short(one.h_mm)}"
        yield _words(x, y + size * 0.35 + 2.8, 2, _QUIET, said)
    if not one.cut.turns:
        arrow = f"M{x - 3:g} {y - size * 0.6:g} h6 m-1.2 -0.8 l1.2 0.8 l-1.2 0.8"
        yield f'<path d="{arrow}" stroke="{_INK}" stroke-width="0.25" fill="none"/>'


def turned_boxes(one: Placed, boxes: Sequence[Box]) -> Iterator[Box]:
    """Yield rectangles of a piece as they lie on its sheet [mm], clipped to the piece."""
    for a, b, c, d in boxes:
        x0, y0, x1, y1 = (b, one.cut.size_mm[0] - c, d, one.cut.size_mm[0] - a) if one.turned else (a, b, c, d)
        x0, y0, x1, y1 = max(x0, 0.0), max(y0, 0.0), min(x1, one.w_mm), min(y1, one.h_mm)
        if x1 > x0 and y1 > y0:
            yield one.x_mm + x0, one.y_mm + y0, one.x_mm + x1, one.y_mm + y1


def _rect(box: Box, h: float, fill: str, stroke: str, more: str) -> str:
    x0, y0, x1, y1 = box
    size = f'x="{x0:g}" y="{h - y1:g}" width="{x1 - x0:g}" height="{y1 - y0:g}"'
    return f'<rect {size} fill="{fill}" stroke="{stroke}" stroke-width="0.2" {more}/>'
