"""What was seen, as rich text: what disagrees first, then what was to be expected, and the gaps that it moved."""

from __future__ import annotations

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.rich import NOTHING, Rich, bold, coloured, paragraph, rich, table
from ashen_bridge.evidence.result import Seen
from ashen_bridge.words.numbers import number

_MOVED, _NARROWER = 0.2, 0.95


def found_words(found: Seen, theme: Theme) -> Rich:
    """Return every statement in its sentence."""
    roles = theme.roles
    parts: list[Rich] = [paragraph(one, colour=roles["bad"], below=6) for one in found.contradictions]
    for one in found.statements:
        silent = coloured(roles["ember"], " No sensor tells of it.") if one.silent and not one.agrees else NOTHING
        mark = "✓ " if one.agrees else "▲ "
        words = rich(mark, one.words if one.agrees else bold(one.words), silent)
        parts.append(paragraph(words, colour=roles["quiet"] if one.agrees else roles["bad"], below=6))
    for name, why in found.refused:
        parts.append(paragraph(f"'{name}' is not used. {why}", colour=roles["stale"], below=4))
    if found.problem:
        parts.append(paragraph(found.problem, colour=roles["bad"]))
    return rich(*parts) if parts else paragraph("Nothing was said yet.", colour=roles["quiet"])


def gap_words(found: Seen, theme: Theme) -> Rich:
    """Return the gaps that what was seen moved, before and after."""
    rows = []
    for one in found.gaps:
        (was, was_sd), (now, sd) = one.before, one.now
        shown = (number(was, 2), number(was_sd, 2)) != (number(now, 2), number(sd, 2))
        if shown and (abs(now - was) > _MOVED * was_sd or sd < _NARROWER * was_sd):
            rows.append((one.name, f"{number(was, 2)} ± {number(was_sd, 2)}", "→", f"{number(now, 2)} ± {number(sd, 2)} mm"))
    if not rows:
        return paragraph("It moves no gap: readings say more, or it was to be expected.", colour=theme.roles["quiet"])
    return table(rows, right=(1, 3))
