"""What a part of the record is made of: paragraphs, tables, lists and figures, as plain values for a template."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any

from markupsafe import Markup

Block = dict[str, Any]


@dataclass(frozen=True)
class Chapter:
    """One part of the record: its id, its title, and its blocks in order; one without blocks is left out."""

    id: str
    title: str
    blocks: tuple[Block, ...] = field(default=())


def words(text: str, quiet: bool = False) -> Block:
    """Return a paragraph."""
    return {"kind": "words", "text": text, "quiet": quiet}


def answer(text: str) -> Block:
    """Return what is read first."""
    return {"kind": "answer", "text": text}


def rows(
    head: Sequence[str],
    body: Iterable[Sequence[object]],
    caption: str = "",
    numbers: Sequence[int] = (),
    whole: Sequence[int] = (),
) -> Block:
    """Return a table; `numbers` are the columns that stand to the right, `whole` those that are never broken into lines."""
    cells = [[*row] for row in body]
    return {"kind": "table", "head": [*head], "body": cells, "caption": caption, "numbers": {*numbers}, "whole": {*whole}}


def listed(items: Iterable[str]) -> Block:
    """Return a list."""
    return {"kind": "list", "items": [*items]}


def figure(drawing: Markup, caption: str = "") -> Block:
    """Return a drawing that is markup already."""
    return {"kind": "figure", "drawing": drawing, "caption": caption}


def picture(data_uri: str, caption: str) -> Block:
    """Return a picture by its data."""
    return {"kind": "picture", "data": data_uri, "caption": caption}
