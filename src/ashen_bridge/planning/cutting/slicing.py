"""Few pieces on as few sheets as can be: every way in which straight cuts part them is looked at.

A layout that a knife can part is a tree: a sheet is parted in two by a straight cut, each part again. Of every group of pieces
the smallest bounds of all its trees are kept (L. Stockmeyer, Information and Control 57, 1983, on slicing floorplans).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cache
from itertools import combinations

from ashen_bridge.planning.cutting.pieces import Cut

MOST = 7
"""Pieces up to which all ways are looked at."""


@dataclass(frozen=True)
class Tree:
    """A group of pieces within bounds [mm]: one piece (`piece`, perhaps turned), or two parts beside or above each other."""

    w: float
    h: float
    piece: int = -1
    turned: bool = False
    parts: tuple[Tree, ...] = ()
    beside: bool = True

    def spread(self, x: float, y: float, kerf: float) -> Iterator[tuple[int, float, float, bool]]:
        """Yield (piece, x, y, turned) of everything in it, its lower left corner at a place."""
        if not self.parts:
            yield self.piece, x, y, self.turned
            return
        first, second = self.parts
        yield from first.spread(x, y, kerf)
        if self.beside:
            yield from second.spread(x + first.w + kerf, y, kerf)
        else:
            yield from second.spread(x, y + first.h + kerf, kerf)


def sliced(cuts: Sequence[Cut], w: float, h: float, kerf: float) -> tuple[Tree, ...]:
    """Return trees that put all pieces on the least number of sheets with that room [mm]; none where a piece does not fit."""

    @cache
    def trees(group: frozenset[int]) -> tuple[Tree, ...]:
        if len(group) == 1:
            (n,) = group
            a, b = cuts[n].size_mm
            ways = [Tree(a, b, n), *([Tree(b, a, n, True)] if cuts[n].turns and a != b else [])]
        else:
            ways = [one for low, high in _split(group) for a in trees(low) for b in trees(high) for one in _joined(a, b, kerf)]
        return _least(one for one in ways if one.w <= w + 1e-9 and one.h <= h + 1e-9)

    @cache
    def sheets(group: frozenset[int]) -> tuple[Tree, ...] | None:
        if not group:
            return ()
        first, *rest = sorted(group)
        best: tuple[Tree, ...] | None = None
        for count in range(len(rest), -1, -1):
            for some in combinations(rest, count):
                on = frozenset((first, *some))
                if trees(on):
                    left = sheets(group - on)
                    if left is not None and (best is None or 1 + len(left) < len(best)):
                        best = (trees(on)[0], *left)
        return best

    return sheets(frozenset(range(len(cuts)))) or ()


def _split(group: frozenset[int]) -> Iterator[tuple[frozenset[int], frozenset[int]]]:
    first, *rest = sorted(group)
    for count in range(len(rest)):
        for some in combinations(rest, count):
            low = frozenset((first, *some))
            yield low, group - low


def _joined(a: Tree, b: Tree, kerf: float) -> Iterator[Tree]:
    yield Tree(a.w + b.w + kerf, max(a.h, b.h), parts=(a, b), beside=True)
    yield Tree(max(a.w, b.w), a.h + b.h + kerf, parts=(a, b), beside=False)


def _least(ways: Iterator[Tree]) -> tuple[Tree, ...]:
    """Keep those within which no other lies; the smallest area first."""
    kept: list[Tree] = []
    for one in sorted(ways, key=lambda tree: (tree.w, tree.h)):
        if not kept or one.h < min(other.h for other in kept) - 1e-9:
            kept.append(one)
    return tuple(sorted(kept, key=lambda tree: tree.w * tree.h))
