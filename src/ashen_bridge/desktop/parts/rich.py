"""Rich text made of values. What is not markup already is escaped, here and nowhere else: names in a file may hold anything."""

from __future__ import annotations

from collections.abc import Iterable
from html import escape


class Rich(str):
    """Text that is markup, made by the functions of this module only."""

    __slots__ = ()


NOTHING = Rich("")
BREAK = Rich("<br>")
SPACE = Rich("&nbsp;&nbsp;")


def rich(*parts: object) -> Rich:
    """Return parts one after another.

    >>> rich(bold("Pad <0.5 mm>"), " over R2")
    '<b>Pad &lt;0.5 mm&gt;</b> over R2'
    """
    return Rich("".join(part if isinstance(part, Rich) else escape(str(part)) for part in parts))


def joined(between: str, parts: Iterable[object]) -> Rich:
    """Return parts with something between them."""
    return Rich(rich(between).join(rich(part) for part in parts))


def bold(*parts: object) -> Rich:
    """Return parts in bold."""
    return Rich(f"<b>{rich(*parts)}</b>")


def coloured(colour: str, *parts: object) -> Rich:
    """Return parts in a colour of the theme."""
    return Rich(f"<span style='color:{colour}'>{rich(*parts)}</span>")


def paragraph(*parts: object, colour: str = "", below: int | None = None, above: int = 0) -> Rich:
    """Return parts as a paragraph, in a colour of the theme and with stated room around it [px]."""
    style = f"margin:{above}px 0 {below}px 0;" if below is not None else ""
    style += f"color:{colour};" if colour else ""
    return Rich(f"<p style='{style}'>{rich(*parts)}</p>" if style else f"<p>{rich(*parts)}</p>")


def table(rows: Iterable[Iterable[object]], right: Iterable[int] = (), spacing: int = 2, wide: bool = True) -> Rich:
    """Return rows of cells; the columns of some numbers are aligned to the right."""
    ends = set(right)

    def cell(n: int, value: object) -> str:
        aligned = " align='right'" if n in ends else ""
        return f"<td{aligned}>{rich(value)}</td>"

    listed = "".join(f"<tr>{''.join(cell(n, value) for n, value in enumerate(row))}</tr>" for row in rows)
    width = " width='100%'" if wide else ""
    return Rich(f"<table cellspacing='{spacing}'{width}>{listed}</table>")
