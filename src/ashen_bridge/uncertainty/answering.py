"""What every number does to mechanics and heat, found number by number, or several at once where they share no link."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ashen_bridge.model.errors import AshenError
from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.uncertainty.directions import Base, Directions, HeatChange, Moved, moved_by, side_by_side, still
from ashen_bridge.uncertainty.heat_answers import HeatAnswers

Answered = tuple[Directions, frozenset[int]]
"""All answers side by side, and the numbers that can be moved to neither side."""


def answering(base: Base, heat: HeatAnswers, numbers: Sequence[Assumption]) -> Iterator[tuple[float, Answered | None]]:
    """Yield (progress, None) and at the end (1, the answers)."""
    moved: list[Moved] = []
    changes: dict[int, HeatChange] = {}
    stuck: set[int] = set()
    hot = [n for n, number in enumerate(numbers) if number.plays.heat]
    groups = [[hot[at] for at in group] for group in heat.places.apart([numbers[n] for n in hot])]
    steps = len(numbers) + len(groups)
    for n, number in enumerate(numbers):
        yield n / steps, None
        try:
            moved.append(moved_by(base, number) if number.plays.mechanics else still(base))
        except AshenError:
            moved.append(still(base))
            stuck.add(n)
    for at, group in enumerate(groups):
        yield (len(numbers) + at) / steps, None
        for n, found in zip(group, _changes(heat, [numbers[n] for n in group]), strict=True):
            if found is None:
                stuck.add(n)
                moved[n] = still(base)
            elif n not in stuck:
                changes[n] = found
    yield 1.0, (side_by_side(base, moved, {n: changes[n] for n in sorted(changes)}), frozenset(stuck))


def _changes(heat: HeatAnswers, numbers: Sequence[Assumption]) -> Sequence[HeatChange | None]:
    """Return what some numbers do that share no link: at once where that goes, else one by one; None for what cannot move."""
    try:
        found = heat.together(numbers)
    except AshenError:
        found = None
    return [_alone(heat, number) for number in numbers] if found is None else found


def _alone(heat: HeatAnswers, number: Assumption) -> HeatChange | None:
    try:
        return heat.alone(number)
    except AshenError:
        return None
