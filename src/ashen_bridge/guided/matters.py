"""Which of a described device's numbers its readings can tell something about, and how each is called by those who turn screws.

The others move a temperature by less than half a kelvin in devices of these kinds (weighed over some dozen of them).
"""

from __future__ import annotations

from collections.abc import Sequence

from ashen_bridge.uncertainty.assumptions import Assumption

_TOLD_OF = {
    # field: owners it is said of (all if none); what is larger when it is larger; what to measure; with what
    "power_w": ((), "more power in {owner}", "the power of {owner}", "a meter, or the device's own figure"),
    "share_of_board": (("Die",), "more of the power in the chip", "the chip's share of the power", "the device's own figure"),
    "sink.convective_k_w": ((), "a worse cooler", "the cooler's resistance to air", "a run at another power"),
    "landings.step_mm": ((), "a larger gap under {owner}", "the gaps under {owner}", "calipers or a squashed lump"),
    "pieces.thickness_mm": ((), "a thicker layer in {owner}", "the thickness in {owner}", "calipers at a free edge"),
    "pieces.bare_share": ((), "worse cover by {owner}", "how far {owner} covers", "a look at its imprint"),
    "pieces.amount.film_mm": ((), "more paste in {owner}", "the paste in {owner}", "a look when it is open"),
    "seat_mm": ((), "a larger gap at {owner}", "the seat of {owner}", "calipers"),
    "height_mm": (("Cover", "Back"), "a larger gap under {owner}", "the gap under {owner}", "calipers or a squashed lump"),
    "thickness_mm": (("Cooler base", "Cover"), "a thicker {owner}", "the thickness of {owner}", "calipers"),
    "spreads_w_mk": ((), "a base that spreads better", "how {owner} spreads", ""),
    "stated_mm2k_w": ((), "worse touch behind the board", "what touches behind the board", "a look when it is open"),
    "contact_mm2k_w": ((), "worse wetting by {owner}", "the contact of {owner}", ""),
    "conductivity_w_mk": ((), "a better {owner}", "the conductivity of {owner}", ""),
    "make_up.junction_to_case_k_w": ((), "worse packages", "the packages' own resistance", ""),
    "copper.cover": ((), "more copper in the board", "the copper of the board", "a look at its edge"),
    "film_rear_w_m2k": ((), "more air behind the board", "the air behind the board", "a thermometer there"),
    "rear_air_c": ((), "warmer air behind the board", "the air behind the board", "a thermometer there"),
    "front_air_c": ((), "warmer air over the board", "the air over the board", "a thermometer there"),
    "finish.emissivity": (("Cover", "Back"), "a case that radiates better", "the finish of {owner}", "a look at its paint"),
    "rate_n_mm": ((), "stiffer springs", "the springs' rate", "two weights"),
    "fan_percent": ((), "a faster fan", "the fan's speed", "the device's own figure"),
}
"""An empty instrument: nobody has it on the bench."""
_MATERIALS = ("Paste", "pad", "plastic", "Organic package substrate")


def told_of(numbers: Sequence[Assumption]) -> tuple[Assumption, ...]:
    """Return those that the readings of a described device can tell something about."""
    return tuple(one for one in numbers if _counts(one))


def _counts(one: Assumption) -> bool:
    if one.field not in _TOLD_OF:
        return False
    owners = _TOLD_OF[one.field][0]
    if one.paths[0].startswith("materials."):
        return any(word in one.owners[0] for word in _MATERIALS)
    return not owners or one.owners[0] in owners


def cause(one: Assumption, more: bool) -> str:
    """Return what it would be called if a number were larger than believed, or smaller.

    >>> from ashen_bridge.uncertainty.assumptions import Assumption
    >>> cause(Assumption(("p",), "power_w", ("Die",), 1, 1, "assumed", ""), False)
    'less power in Die'
    """
    words = _TOLD_OF[one.field][1]
    first = next(word for word in _TURNED if word in words)
    return words.replace(first, first if more else _TURNED[first], 1).format(owner=owner_words(one))


_TURNED = {"more ": "less ", "larger": "smaller", "worse": "better", "thicker": "thinner", "better": "worse", "warmer": "cooler",
           "faster": "slower", "stiffer": "softer"}  # fmt: skip
_EACH = {"Memory": "each memory package", "Regulator": "each regulator", "Pad": "each pad", "Spring": "each spring screw"}


def owner_words(one: Assumption) -> str:
    """Return whose number it is; of several alike, each.

    >>> from ashen_bridge.uncertainty.assumptions import Assumption
    >>> owner_words(Assumption(("p", "q"), "power_w", ("Memory rear 1", "Memory rear 2"), 1, 1, "assumed", ""))
    'each memory package on the rear'
    """
    first = one.owners[0]
    kind = first.split()[0]
    if len(one.owners) == 1 or kind not in _EACH:
        return first
    behind = " on the rear" if all(" rear " in f"{owner} " for owner in one.owners) else ""
    return f"{_EACH[kind]}{behind}"


def what(one: Assumption) -> tuple[str, str]:
    """Return what would be measured, and with what."""
    _, _, words, by = _TOLD_OF.get(one.field, ((), "", "{owner}: " + one.field, "calipers"))
    return words.format(owner=owner_words(one)), by
