"""What there is to say of one gap, as rich text: imprints corrected, what does not fit, the budget, what to read next."""

from __future__ import annotations

from collections.abc import Mapping

from ashen_bridge.desktop.look.theme import Theme
from ashen_bridge.desktop.parts.rich import SPACE, Rich, bold, coloured, paragraph, rich, table
from ashen_bridge.editing.fields import label_of
from ashen_bridge.measuring.result import Closed, Found, Gap, OddLength, Share
from ashen_bridge.model.signs import unit_of
from ashen_bridge.words.numbers import number, percent

_LIFT_MM, _SOURCES, _NEXT = 0.005, 5, 4
_SEPARABLE_MM = 5.0


def length_words(value: float, sd: float) -> str:
    """Return a gap with its ±: in micrometres where it is a bond line."""
    if 0 < value < 0.1:
        return f"{number(value * 1e3)} ± {number(sd * 1e3, 1)} µm"
    return f"{number(value, 2)} ± {number(sd, 2)} mm" if sd >= 0.005 else f"{number(value, 3)} ± {number(sd, 3)} mm"


def closed_words(one: Closed) -> str:
    """Return what an imprint or putty means, in a sentence."""
    read = f"“{one.reading}” read {number(one.read_mm, 2)} mm"
    if abs(one.lift_mm) < _LIFT_MM:
        return f"{read}, the stack standing as it shall: {number(one.fills_mm, 2)} mm is to fill."
    side = "too high" if one.lift_mm > 0 else "too low"
    return f"{read}, but the stack stood {number(abs(one.lift_mm), 2)} mm {side} then: {number(one.fills_mm, 2)} mm is to fill."


def source_words(one: Share) -> str:
    """Return a source of uncertainty: a reading by its name, a number by whose and what it is."""
    owner, _, field = one.source.rpartition(": ")
    return f"{owner}: {label_of(field.rsplit('.', 1)[-1]).lower()}" if one.kind == "number" and owner else one.source


def alike_words(odd: OddLength) -> str:
    """Return which readings might as well be wrong, and how large a slip has to be to be told from them."""
    told = f" A slip is told from all others here from {number(odd.separable, 2)} mm on." if odd.separable < _SEPARABLE_MM else ""
    if not odd.alike:
        return told
    names = ", ".join(f"“{one}”" for one in odd.alike[:3])
    return f" Or {names} instead: they cannot be told apart; read one of them a second way.{told}"


def gap_words(found: Found, gap: Gap, theme: Theme) -> Rich:
    """Return everything that stands below the figure of a gap."""
    warn, quiet = theme.roles["warn"], theme.roles["quiet"]
    parts: list[Rich] = [paragraph(closed_words(one), below=6) for one in gap.closed]
    for odd in found.odd:
        value, sd = odd.expected
        others = f"all others say {number(value, 2)} ± {number(sd, 2)} mm, it is {number(odd.off, 2, sign=True)} off"
        says = f"“{odd.reading}” does not fit: {others}."
        parts.append(paragraph(f"! {says}{alike_words(odd)} Look again, or set it aside.", colour=warn, below=6))
    if found.unchecked:
        names = ", ".join(f"“{one}”" for one in found.unchecked[:4])
        parts.append(paragraph(f"Nothing checks {names}: read it a second way.", colour=quiet, below=6))
    sources = [(source_words(one), percent(one.share)) for one in gap.budget[:_SOURCES]]
    if sources:
        parts.append(paragraph(bold("Where its ± comes from"), colour=theme.roles["steel"], above=8, below=3))
        parts.append(table(sources, right=(1,), spacing=2))
    return rich(*parts)


def next_words(gap: Gap, theme: Theme) -> Rich:
    """Return what to read next."""
    if not gap.next:
        return rich(coloured(theme.roles["quiet"], "No single reading would narrow it much more."))
    quiet = theme.roles["quiet"]
    rows = [
        (one.words, coloured(quiet, f"→ ± {number(one.then_mm, 3)}"), rich(SPACE, f"{one.minutes:g} min"))
        for one in gap.next[:_NEXT]
    ]
    return table(rows, right=(1, 2), spacing=2)


_MOVED_K, _TOLD = 0.1, 3


def moved_words(before: Mapping[str, float], now: Mapping[str, float]) -> str:
    """Return which predictions have moved, the most first, in a sentence; chances and fits on the old numbers are asked anew."""
    moved = sorted(((now[name] - was, name) for name, was in before.items() if name in now), key=lambda one: -abs(one[0]))
    told = [(by, name) for by, name in moved if abs(by) >= _MOVED_K]
    if not told:
        return "Taken over. No prediction moves by more than a tenth of a kelvin."
    words = ", ".join(f"{name} {number(before[name], 1)} → {number(now[name], 1)} °C" for _, name in told[:_TOLD])
    more = f" and {len(told) - _TOLD} more" if len(told) > _TOLD else ""
    return f"Taken over: {words}{more}. Chances and fits made on the old numbers are out of date until they are asked again."


_LISTED = 24


def over_words(found: Found) -> str:
    """Return which numbers taking over would set, from what to what, a line each."""
    lines = ["One step that undo takes back:"]
    for one in found.numbers[:_LISTED]:
        unit = unit_of(one.path.rpartition(".")[2])
        where = one.path.removeprefix("device.").removeprefix("bodies.")
        lines.append(f"{where}: {one.was.value:.4g} → {one.now.value:.4g} ± {one.now.uncertainty:.2g} {unit}".rstrip())
    more = len(found.numbers) - _LISTED
    return "\n".join((*lines, f"and {more} more")) if more > 0 else "\n".join(lines)
