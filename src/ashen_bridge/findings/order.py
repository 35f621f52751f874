"""Causes before consequences: what is wrong comes first, what follows from it after, each once."""

from __future__ import annotations

from collections.abc import Sequence

from ashen_bridge.findings.finding import RANK, Case, Finding

_CONSEQUENCES = {"limit_exceeded", "hot_spot_above_average"}
_SAID_BY = {"nothing_between": {"hot_spot_above_average", "bare_part", "pads_hold_die_off", "curved_bond_line", "wedge"}}
"""What a cause says already about the same part."""


def in_order(found: Sequence[Finding], case: Case) -> tuple[Finding, ...]:
    """Return findings gravest first; a cause stands before what follows from it, and is as grave as that."""
    lies_over = {row.id: row.lower for row in case.report.joints}

    def part(one: Finding) -> str:
        return lies_over.get(one.about, one.about)

    said = {(part(one), code) for one in found for code in _SAID_BY.get(one.code, ())}
    kept = [one for one in found if (part(one), one.code) not in said]
    gravest: dict[str, int] = {}
    for one in kept:
        if one.code in _CONSEQUENCES:
            gravest[part(one)] = min(gravest.get(part(one), RANK["note"]), RANK[one.severity])

    def rank(one: Finding) -> tuple[int, bool]:
        own = RANK[one.severity]
        follows = one.code in _CONSEQUENCES
        return (own if follows or one.severity == "note" else min(own, gravest.get(part(one), own))), follows

    return tuple(sorted(kept, key=rank))
