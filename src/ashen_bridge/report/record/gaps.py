"""Gaps of the record: how wide every one is by all readings together, and what makes up its uncertainty."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from ashen_bridge.measuring.finding import finding
from ashen_bridge.measuring.result import Gap
from ashen_bridge.report.record.blocks import Block, listed, rows, words
from ashen_bridge.words.numbers import number, percent

_SOURCES = 4


def gaps_chapter(known: Any) -> Iterator[Block]:
    """Yield a line for every gap with its budget in short, and readings that do not fit; nothing where nothing was read."""
    if not known.project.readings:
        return
    *_, (_, found) = finding(known.engine, known.project, known.build.id)
    if found is None or not found.gaps:
        return
    body = [[gap.name, *_pair(gap.before), *_pair(gap.now), _budget(gap)] for gap in found.gaps]
    head = ["Gap", "before reading mm", "±", "by all readings mm", "±", "What makes up its ± (share of the variance)"]
    yield rows(head, body, numbers=(1, 2, 3, 4))
    odd = [
        f"Reading “{one.reading}” does not fit: all others say {number(one.expected[0], 3)} ± {number(one.expected[1], 3)}, "
        f"it is {number(one.off, 3, sign=True)} off."
        for one in found.odd
    ]
    if odd:
        yield listed(odd)
    if found.unchecked:
        yield words(f"Checked by no other reading: {', '.join(found.unchecked)}.", quiet=True)


def _pair(value: tuple[float, float]) -> tuple[str, str]:
    return number(value[0], 3), number(value[1], 3)


def _budget(gap: Gap) -> str:
    return "; ".join(f"{_plain(one.source)} {percent(one.share)}" for one in gap.budget[:_SOURCES])


def _plain(source: str) -> str:
    """Return a source without the spelling of fields: what is in words is left alone."""
    return source.replace("landings.", "landing ").removesuffix("_mm").replace("_", " ")
