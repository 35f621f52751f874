"""The order in which screws round a part are loosened or tightened: crosswise, from their positions alone."""

from __future__ import annotations

import math
from collections.abc import Sequence

_SAME = 1e-6


def crosswise(places: Sequence[tuple[float, float]]) -> tuple[int, ...]:
    """Return the indices of places (x, y) [mm] in crosswise order.

    Opposite ones follow each other, and every pair lies as far round as it can from those before it: 1 3 2 4 for four round a
    circle, 1 4 2 5 3 6 for six, 1 5 3 7 2 6 4 8 for eight, as the cross pattern of bolted flanges has it (ASME PCC-1, from
    memory). Names and order of the places do not matter.

    >>> crosswise([(0, 0), (10, 0), (10, 10), (0, 10)])
    (0, 2, 1, 3)
    """
    if not places:
        return ()
    centre = (sum(x for x, _ in places) / len(places), sum(y for _, y in places) / len(places))
    angle = [math.atan2(y - centre[1], x - centre[0]) for x, y in places]
    start = min(range(len(places)), key=lambda n: (round(sum(places[n]), 6), round(places[n][0], 6)))
    round_trip = sorted(range(len(places)), key=lambda n: (_turn(angle[n] - angle[start]), places[n]))
    left = [*round_trip]
    ordered: list[int] = []
    while left:
        first = min(left, key=lambda n: (-_apart(n, ordered, angle), left.index(n)))
        left.remove(first)
        ordered.append(first)
        if left:
            second = max(left, key=lambda n: (round(_between(angle[n], angle[first]), 6), -left.index(n)))
            left.remove(second)
            ordered.append(second)
    return tuple(ordered)


def _turn(angle: float) -> float:
    """Return an angle as 0 to 2π, what is nearly a whole turn as 0."""
    turned = angle % (2 * math.pi)
    return 0.0 if turned > 2 * math.pi - _SAME else round(turned, 6)


def _between(one: float, other: float) -> float:
    """Return the angle between two directions, 0 to π."""
    return abs((one - other + math.pi) % (2 * math.pi) - math.pi)


def _apart(n: int, ordered: Sequence[int], angle: Sequence[float]) -> float:
    """Return how far a direction is from all that were taken, 0 to π."""
    return round(min((_between(angle[n], angle[other]) for other in ordered), default=math.pi), 6)
