"""All checks against published work, and the page that shows them."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import groupby

import here  # its paths first
import published_boards
import published_heat
import published_judgement
import published_mechanics
import published_sinks
from published import Check

PAGE = here.ROOT / "docs/validation.md"
MENDED = here.TESTS / "found_and_mended.md"
HEAD = """# Validation

What the program computes, beside what others have published. The page is written by `./check validation` from the running
code, and `./check` fails when the two differ or a figure leaves its tolerance. Sources marked *from memory* could not be looked
up when the check was written. *Common practice, no source* marks facts of the trade, which are given as bands: they catch
nonsense, they prove nothing.
"""
NOTES = """
## What these checks do not show

- Contact resistances, pad curves and pastes of the library are representative of their class. No check can say what a given sheet
  does; a measured run can.
- Hot spot minus average: the trade expects far more than 20 K from a wedge of a tenth of a millimetre. In this model that holds
  at high flux or where paste is missing; at the demo's 0.4 W/mm² under a filled wedge it is a few kelvins.
- Fins do not stiffen a cooler's base in this model, and moulded packages do not stiffen a board.
- The reduced model is compared with full fields of its own mesh. Against the refined mesh its error is larger: `./check bench`
  prints both.
"""


def checks() -> Iterator[Check]:
    for module in (published_heat, published_boards, published_sinks, published_mechanics, published_judgement):
        yield from module.checks()


def page(values: dict[str, float]) -> str:
    parts = [HEAD]
    for topic, group in groupby(checks(), key=lambda check: check.topic):
        rows = [check.row(values[name(check)]) for check in group]
        parts.append(
            f"## {topic}\n\n| case | source | unit | reference | ours | difference |\n|---|---|---|---|---|---|\n"
            + "\n".join(f"| {' | '.join(row)} |" for row in rows)
            + "\n"
        )
    return "\n".join(parts) + "\n" + MENDED.read_text(encoding="utf-8") + NOTES


def name(check: Check) -> str:
    return f"{check.topic}: {check.case}"


if __name__ == "__main__":
    PAGE.write_text(page({name(check): check.ours() for check in checks()}), encoding="utf-8")
