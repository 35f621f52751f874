"""What was seen, in words: what was expected, what disagrees and by how much, what excludes each other."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ashen_bridge.evidence.contacts import Contact
from ashen_bridge.evidence.practice import practice
from ashen_bridge.evidence.result import Culprit
from ashen_bridge.model.evidence import Evidence
from ashen_bridge.words.numbers import number, percent


def expected_words(contact: Contact, mark: str) -> str:
    """Return what the model expects at a contact: mark, and squash or bond line."""
    shape = contact.shape
    says = practice().bands[shape.kind][mark].says
    gap = float(shape.gap_mm[0])
    if shape.kind == "paste":
        return f"{says}, {1e3 * gap:.0f} µm"
    squash = float(shape.squash[0])
    if squash < 0:
        return f"{says}: {number(gap - float(shape.free_mm[0]), 2)} mm of air"
    return f"{says}, squashed by {percent(squash)}"


def statement_words(
    name: str, said: Evidence, contact: Contact, mark: str, off: float, culprit: Culprit | None, agrees: bool
) -> str:
    """Return how a statement stands against what was expected, in one sentence."""
    shows = practice().bands[contact.shape.kind][said.says].says
    expected = expected_words(contact, mark)
    if agrees:
        return f"{name} shows {shows}, as could be expected ({expected})."
    if not off:
        return f"The model expects {expected} at {name}; it shows {shows}: something tilts there, or it was misread."
    way = "wider" if off > 0 else "narrower"
    told = f"The model expects {expected} at {name}; it shows {shows}: the gap was at least {number(abs(off), 2)} mm {way}"
    if culprit is None:
        return f"{told}, which no number of the model explains."
    amount = f"{culprit.off:+.2g} {culprit.unit}".replace("-", "−").strip()
    return f"{told}. By itself {culprit.label} would have to be off by {amount}, {number(culprit.sds, 1)} times its ±."


def contradictions(said: Sequence[Evidence], names: Mapping[str, str]) -> tuple[str, ...]:
    """Return a sentence for every two statements about one contact of one closing that exclude each other."""
    found = []
    for n, one in enumerate(said):
        for other in said[n + 1 :]:
            same = (one.closing, one.joint, one.lower) == (other.closing, other.joint, other.lower)
            if same and _exclude(one, other):
                name = names.get(one.lower, one.lower)
                found.append(
                    f"“{one.says}” ('{one.id}') and “{other.says}” ('{other.id}') at {name} exclude each other: look at the "
                    "other face of that pad, or at its photo, and set one aside."
                )
    return tuple(found)


def _exclude(one: Evidence, other: Evidence) -> bool:
    if one.says == other.says:
        apart = (one.toward_deg or 0.0) - (other.toward_deg or 0.0)
        opposite = abs((apart + 180) % 360 - 180) > 90
        return one.says == "wedge" and one.toward_deg is not None and other.toward_deg is not None and opposite
    touched = {"faint", "even", "deep", "wedge", "thick", "thin"}
    pair = {one.says, other.says}
    if pair & {"untouched", "missing"} and pair & (touched | {"untouched", "missing"} - pair):
        return True
    return any(
        pair == set(two) for two in (("faint", "deep"), ("faint", "even"), ("even", "deep"), ("even", "wedge"), ("thick", "thin"))
    )
