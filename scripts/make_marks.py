"""Make the font of the marks that the text font lacks: good, bad, up and down.

python scripts/make_marks.py
"""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

FONT = Path(__file__).resolve().parent.parent / "src/ashen_bridge/fonts/Ashen-Marks.ttf"
EM, WIDE, HALF = 1000, 700, 52
Point = tuple[float, float]


def stroke(pen: Any, a: Point, b: Point) -> None:
    """Draw a straight stroke with square ends, clockwise."""
    length = math.dist(a, b)
    u = (b[0] - a[0]) / length * HALF, (b[1] - a[1]) / length * HALF
    ends = ((-1, -1, a), (-1, 1, a), (1, 1, b), (1, -1, b))
    shape(pen, [(at[0] + along * u[0] - side * u[1], at[1] + along * u[1] + side * u[0]) for along, side, at in ends])


def shape(pen: Any, points: list[Point]) -> None:
    """Draw a filled outline."""
    pen.moveTo(points[0])
    for point in points[1:]:
        pen.lineTo(point)
    pen.closePath()


def drawn(strokes: list[tuple[Point, Point]], outlines: list[list[Point]]) -> object:
    """Return a glyph of strokes and filled outlines."""
    from fontTools.pens.ttGlyphPen import TTGlyphPen

    pen = TTGlyphPen(None)
    for a, b in strokes:
        stroke(pen, a, b)
    for points in outlines:
        shape(pen, points)
    return pen.glyph()


MARKS = {"✓": "good", "✕": "bad", "▲": "up", "▼": "down"}


def main() -> None:
    """Write the font."""
    from fontTools.fontBuilder import FontBuilder

    glyphs = {
        ".notdef": drawn([], []),
        "good": drawn([((110, 330), (270, 150)), ((270, 150), (600, 590))], []),
        "bad": drawn([((140, 140), (560, 580)), ((140, 580), (560, 140))], []),
        "up": drawn([], [[(350, 640), (620, 120), (80, 120)]]),
        "down": drawn([], [[(80, 600), (620, 600), (350, 80)]]),
    }
    font = FontBuilder(EM, isTTF=True)
    font.setupGlyphOrder(list(glyphs))
    font.setupCharacterMap({ord(mark): name for mark, name in MARKS.items()})
    font.setupGlyf(glyphs)
    font.setupHorizontalMetrics(dict.fromkeys(glyphs, (WIDE, 0)))
    font.setupHorizontalHeader(ascent=800, descent=-200)
    font.setupNameTable({"familyName": "Ashen Marks", "styleName": "Regular"})
    font.setupOS2(sTypoAscender=800, sTypoDescender=-200)
    font.setupPost()
    font.updateHead(created=3_900_000_000, modified=3_900_000_000)
    font.save(FONT)


if __name__ == "__main__":
    main()
