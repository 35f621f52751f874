"""What was kept: answers as they were given, and who did what when."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any

from ashen_bridge.model.history import Concluded, Conclusion, Note
from ashen_bridge.report.record.blocks import Block, answer, listed, rows, words

_DAYS, _REFUSALS = 400, 8
_NUMBERS = {
    "proof": (1, 2, 3, 4, 5),
    "comparison": (1, 2, 3, 4),
    "diagnosis": (1, 2),
    "check": (1, 2, 3, 4),
    "burn in": (1, 2, 3),
}


def conclusions_of(kind: Concluded) -> Callable[[Any], Iterator[Block]]:
    """Return what writes the answers of a kind, the last one first."""

    def chapter(known: Any) -> Iterator[Block]:
        for one in reversed(known.project.conclusions):
            if one.kind == kind:
                yield from _conclusion(one)

    return chapter


def _conclusion(one: Conclusion) -> Iterator[Block]:
    yield answer(one.title)
    said = [one.about, one.at.replace("T", " "), one.who]
    yield words("; ".join(filter(None, said)), quiet=True)
    if one.says:
        yield listed(one.says)
    if one.rows:
        yield rows(one.head, _shortened(one.rows) if one.kind == "plan" else one.rows, numbers=_NUMBERS.get(one.kind, ()))


def _shortened(refused: Sequence[Sequence[str]]) -> Iterator[Sequence[str]]:
    """Yield the first few refusals of every place; the file holds all of them."""
    places: dict[str, list[Sequence[str]]] = {}
    for row in refused:
        places.setdefault(row[0], []).append(row)
    for place, some in places.items():
        yield from ((place if n == 0 else "", *row[1:]) for n, row in enumerate(some[:_REFUSALS]))
        if len(some) > _REFUSALS:
            yield "", f"and {len(some) - _REFUSALS} more", "in the file"


def history_chapter(known: Any) -> Iterator[Block]:
    """Yield what was done on which day, the first day first, as many days as a paper holds."""
    days: dict[str, list[Note]] = {}
    for note in known.project.history:
        days.setdefault(note.day, []).append(note)
    body = [
        [day if n == 0 else "", one.at[11:], f"{one.what} × {one.times}" if one.times > 1 else one.what, one.who]
        for day, some in list(days.items())[-_DAYS:]
        for n, one in enumerate(some)
    ]
    if body:
        yield rows(["Day", "at", "What was done", "By"], body, whole=(0, 1, 3))
