"""Into which layers a body is cut through its thickness, so that a few of them say what many would.

Layers carry an even flux exactly, whatever their thickness. Flux that turns, next to where heat is made or enters, needs thin
ones, and temperatures at the faces themselves: the outermost layers keep theirs at the face, the inner ones in their middle.

An outermost layer of √(1/8) of the next one's thickness is the best there is: for a field that falls as exp(−λz) from the face,
equal layers of thickness h with their temperatures in the middle miss the face's impedance 1/(kλ) by the factor √(1 + x²/4),
x = λh, layers with temperatures on their borders by its inverse, and a layer w·h at the face before middle ones by
w² − 1/8 times x², which vanishes for that w. (Worked out from the difference equations; tested against a
closed form.)
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

FACE = 0.35
"""Share of the next layer's thickness that the layer at a face has."""


@dataclass(frozen=True)
class Cut:
    """One layer of a cut body: thickness [m] and where in it its temperature is (0 first face, 1 last)."""

    thickness: float
    node: float = 0.5


DIE = (FACE, 1.0, 2.0, 3.0, 2.0, 2.0 * FACE)
"""A die from its active face on."""
BALLS = (1.0,)
CAP = (1.0, 2.0, 3.0)
"""A package's mould cap, from the active layer on."""
SOLID = (FACE, 1.0, 1.5, 1.5, 1.0, FACE)
BOARD = (FACE, 1.0, 1.0, 2.0, 2.0, 1.0, 1.0, FACE)
PLATE = (FACE, 1.0, 1.0, FACE)
SINK = (FACE, 1.0, 1.5, 1.5, 1.0, FACE)
"""A plate under a sink, from the face that takes up heat on."""
SUBSTRATE = (FACE, 1.0, 1.0, FACE)


def layered(thickness: float, shares: Sequence[float], halvings: int = 0, faces: bool = True) -> tuple[Cut, ...]:
    """Return the layers of a body of some thickness [m], from the first share on.

    Halving makes two of every layer, and again as thin as they should be of those at the faces. `faces`: whether the outermost
    layers keep their temperatures at the faces.

    >>> [round(cut.thickness * 1e3, 3) for cut in layered(1e-3, (1.0, 3.0), faces=False)]
    [0.25, 0.75]
    """
    if not faces:
        parts = [share for share in shares for _ in range(2**halvings)]
        return tuple(Cut(thickness * part / sum(parts)) for part in parts)
    inner = list(shares[1:-1])
    for _ in range(halvings):
        inner = [share / 2 for share in inner for _ in range(2)]
    parts = [FACE * inner[0], *inner, FACE * inner[-1]]
    scale = thickness / sum(parts)
    nodes = [0.0, *([0.5] * len(inner)), 1.0]
    return tuple(Cut(part * scale, node) for part, node in zip(parts, nodes, strict=True))
