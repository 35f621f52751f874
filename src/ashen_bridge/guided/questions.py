"""The questions as data: what is asked, in which words, and of whom. Nothing is asked that cannot apply."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

from ashen_bridge.guided.answers import Answers, DeviceKind, Wish
from ashen_bridge.guided.goal import goal_c
from ashen_bridge.guided.usual import usual, value_of
from ashen_bridge.model.inner import BaseKind
from ashen_bridge.words.numbers import short

Applies = Callable[[Answers], bool]
How = Literal["text", "number", "count", "counts", "choice", "cards"]
Options = tuple[tuple[str, Any], ...]


@dataclass(frozen=True)
class Ask:
    """One question. `heads` begins a group of questions with a line of its own."""

    field: str
    words: str
    how: How
    unit: str = ""
    options: Options = ()
    applies: Applies = lambda _: True
    tip: str = ""
    most: int = 12


@dataclass(frozen=True)
class Page:
    """What is asked together."""

    id: str
    title: str
    question: str
    help: str
    asks: tuple[Ask, ...]

    def asked(self, answers: Answers) -> tuple[Ask, ...]:
        """Return what is asked of this device."""
        return tuple(ask for ask in self.asks if ask.applies(answers))


def pages(answers: Answers) -> tuple[Page, ...]:
    """Return the pages that this device needs: seven at most, the result makes the eighth.

    >>> [page.id for page in pages(Answers(kind=DeviceKind.LIDDED))]
    ['device', 'chip', 'lid', 'cooler', 'seen']
    """
    return tuple(page for page in PAGES if page.asked(answers))


def _of(*kinds: DeviceKind) -> Applies:
    return lambda answers: answers.kind in kinds


def has_parts(answers: Answers) -> bool:
    """Whether memory packages stand on the front."""
    return answers.kind is not DeviceKind.LIDDED and sum(value_of(answers, "around")) > 0


def has_pads(answers: Answers) -> bool:
    """Whether anything carries a pad."""
    if answers.kind is DeviceKind.BOX:
        return has_spreader(answers) and (value_of(answers, "on_chip") == "pad" or _memory_padded(answers))
    return answers.kind in OPEN and (has_parts(answers) or rear_parts(answers) > 0 or has_regulators(answers))


def _memory_padded(answers: Answers) -> bool:
    return has_parts(answers) and value_of(answers, "over_memory") == "pads"


def memory_padded(answers: Answers) -> bool:
    """Whether the memory on the front carries pads."""
    return has_parts(answers) and (answers.kind is not DeviceKind.BOX or (has_spreader(answers) and _memory_padded(answers)))


def has_regulators(answers: Answers) -> bool:
    """Whether regulators were counted."""
    return answers.kind in OPEN and value_of(answers, "regulators") > 0


def has_rear_plate(answers: Answers) -> bool:
    """Whether there is a plate behind the board."""
    return answers.kind in OPEN and value_of(answers, "rear_plate") != "none"


def rear_parts(answers: Answers) -> int:
    """Return how many packages stand on the rear."""
    return value_of(answers, "rear") if answers.kind in OPEN else 0


def has_memory(answers: Answers) -> bool:
    """Whether there is any memory of which a temperature could be seen."""
    return has_parts(answers) or rear_parts(answers) > 0


def has_spreader(answers: Answers) -> bool:
    """Whether a plate lies between chip and cover."""
    return answers.kind is DeviceKind.BOX and value_of(answers, "spreader") == "plate"


OPEN = (DeviceKind.CARD, DeviceKind.OTHER)
_FANNED = (DeviceKind.CARD, DeviceKind.LIDDED, DeviceKind.OTHER)
_BOX, _LIDDED = _of(DeviceKind.BOX), _of(DeviceKind.LIDDED)
_KINDS: Options = tuple((kind.value[:1].upper() + kind.value[1:], kind) for kind in DeviceKind)
_WISHES: Options = tuple((wish.value[:1].upper() + wish.value[1:], wish) for wish in Wish)
_PADS: Options = tuple((f"{value:g}", value) for value in (0.5, 0.75, 1.0, 1.25, 1.5, 2.0, 2.5, 3.0))
_FEELS: Options = (("soft", "soft"), ("medium", "medium"), ("firm", "firm"))


def options(ask: Ask, answers: Answers) -> Options:
    """Return what can be chosen: of the wishes those that this device can have."""
    if ask.field != "wish":
        return ask.options
    possible = {Wish.MEMORY: has_memory(answers), Wish.SKIN: answers.kind is DeviceKind.BOX, Wish.QUIET: answers.kind in _FANNED}
    return tuple((words, wish) for words, wish in ask.options if possible.get(wish, True))


PAGES = (
    Page("device", "Device", "What is on the bench, and what do you want of it?",
         "The kind decides what lies between die and air, and what is asked. Everything can be changed later.", (
        Ask("kind", "", "cards", options=_KINDS),
        Ask("name", "Name", "text", tip="What you call it"),
        Ask("wish", "You want", "cards", options=_WISHES),
        Ask("goal_c", "at most", "number", "°C",
            applies=lambda one: one.wish in (Wish.MEMORY, Wish.DIE, Wish.SKIN), tip="The goal that margins are counted to"),
    )),
    Page("chip", "Chip", "How large is the chip, and how much heat does it make?",
         "The bare, shiny rectangle, or your guess of what is under the lid or the spreader.", (
        Ask("die_w_mm", "Width", "number", "mm"),
        Ask("die_h_mm", "Height in plan", "number", "mm"),
        Ask("watts", "Watts under load", "number", "W", tip="As the device reports it, or as a meter shows it"),
        Ask("watts_of", "They are", "choice", options=(("the chip's", "chip"), ("the whole device's", "device")),
            applies=lambda one: one.kind is not DeviceKind.LIDDED and one.watts is not None),
        Ask("paste", "Paste on it", "choice", options=(("thin", "thin"), ("usual", "usual"), ("generous", "generous")),
            applies=_of(DeviceKind.CARD, DeviceKind.OTHER), tip="As it was spread: about 0.1, 0.2 or 0.35 mm before closing"),
    )),
    Page("lid", "Lid", "What lies under the lid and on it?",
         "A soldered lid does not come off when warmed; one on paste does.", (
        Ask("under_lid", "Die to lid", "choice",
            options=(("solder", "solder"), ("paste", "paste"), ("liquid metal", "liquid metal")), applies=_LIDDED),
        Ask("lid_w_mm", "Lid's width", "number", "mm", applies=_LIDDED),
        Ask("lid_h_mm", "Lid's height in plan", "number", "mm", applies=_LIDDED),
        Ask("paste", "Paste on the lid", "choice", options=(("thin", "thin"), ("usual", "usual"), ("generous", "generous")),
            applies=_LIDDED, tip="As it was spread: about 0.1, 0.2 or 0.35 mm before closing"),
    )),
    Page("parts", "Parts", "What stands around it and carries a pad?",
         "Count the memory packages that a pad touches, or should touch, on each side of the chip.", (
        Ask("around", "Memory packages", "counts", applies=_of(DeviceKind.CARD, DeviceKind.OTHER, DeviceKind.BOX)),
        Ask("regulators", "Regulators with pads", "count", applies=_of(*OPEN), most=24,
            tip="Small black squares in a row beside the coils"),
    )),
    Page("rear", "Rear", "What is behind the board?",
         "A metal plate takes heat only where pads or the board itself touch it.", (
        Ask("rear_plate", "Rear plate", "choice", options=(("metal", "metal"), ("plastic", "plastic"), ("none", "none")),
            applies=_of(*OPEN)),
        Ask("rear_meets", "Between it and the board", "choice",
            options=(("air", "air"), ("pads", "pads"), ("they touch", "touching")), applies=has_rear_plate),
        Ask("rear", "Memory packages on the rear", "count", applies=lambda one: one.kind in OPEN),
    )),
    Page("case", "Case", "What does the heat go out through?",
         "Without a fan the case is the cooler: its size and what touches it decide.", (
        Ask("cover", "Cover of", "choice", options=(("metal", "metal"), ("plastic", "plastic")), applies=_BOX),
        Ask("cover_mm", "Its thickness", "number", "mm", applies=_BOX),
        Ask("device_w_mm", "Device's width", "number", "mm", applies=_BOX),
        Ask("device_h_mm", "Device's height", "number", "mm", applies=_BOX),
        Ask("device_t_mm", "Device's thickness", "number", "mm", applies=_BOX),
        Ask("spreader", "Over the chip", "choice", options=(("a metal plate", "plate"), ("nothing", "none")), applies=_BOX),
        Ask("spreader_w_mm", "Plate's width", "number", "mm", applies=has_spreader),
        Ask("spreader_h_mm", "Plate's height", "number", "mm", applies=has_spreader),
        Ask("on_chip", "Chip to plate", "choice", options=(("paste", "paste"), ("a pad", "pad")), applies=has_spreader),
        Ask("over_memory", "Memory to plate", "choice", options=(("only air", "air"), ("pads", "pads")),
            applies=lambda one: has_spreader(one) and has_parts(one)),
        Ask("reach", "Then, to the cover", "choice", options=(("only air", "air"), ("a pad", "pad")), applies=_BOX),
    )),
    Page("pads", "Pads", "What pads are there now?", "Measure at the free edge. A soft one gives under a finger nail.", (
        Ask("pad_now_mm", "Thickness", "number", "mm", _PADS, has_pads),
        Ask("pad_feel", "They feel", "choice", options=_FEELS, applies=has_pads),
        Ask("pad_wanted_mm", "You think of", "number", "mm", _PADS, has_pads, tip="Becomes Plan A beside what is there now"),
    )),
    Page("cooler", "Cooler", "What holds the cooler, and what is in its base?",
         "The screws around the chip; pipes show at the edge of a base.", (
        Ask("base", "Base", "choice", options=tuple((kind.value, kind) for kind in BaseKind), applies=_of(*_FANNED)),
        Ask("screws", "Screws", "count", applies=_of(*_FANNED)),
        Ask("screw_feel", "They turn", "choice", options=(("softly", "soft"), ("firmly", "normal"), ("hard", "hard")),
            applies=_of(*_FANNED)),
        Ask("fan_percent", "Fan while you looked", "number", "%", applies=_of(*_FANNED)),
    )),
    Page("seen", "Seen", "Which temperatures have you seen?",
         "The highest under steady load, whatever sensors the device has. Leave open what you do not know.", (
        Ask("core_c", "Core, the chip's usual figure", "number", "°C"),
        Ask("hot_c", "Hot spot, if it has one", "number", "°C"),
        Ask("memory_c", "Memory, the hottest", "number", "°C", applies=has_memory),
        Ask("skin_c", "Case, hottest place outside", "number", "°C", applies=_BOX),
        Ask("room_c", "Room", "number", "°C"),
        Ask("changed", "Changed before", "choice",
            options=(("nothing", "nothing"), ("pads", "pads"), ("paste", "paste"), ("both", "pads and paste")), applies=has_pads),
        Ask("changed", "Changed before", "choice", options=(("nothing", "nothing"), ("paste", "paste")),
            applies=lambda one: not has_pads(one)),
        Ask("worse", "And then got worse", "choice",
            options=(("nothing", "nothing"), ("memory", "memory"), ("the die", "the die"), ("both", "both")),
            applies=lambda one: value_of(one, "changed") != "nothing" and has_memory(one)),
        Ask("worse", "And then got worse", "choice", options=(("nothing", "nothing"), ("the die", "the die")),
            applies=lambda one: value_of(one, "changed") != "nothing" and not has_memory(one)),
    )),
)  # fmt: skip


def usual_words(ask: Ask, answers: Answers) -> str:
    """Return what stands for an answer that is left open, in words.

    >>> usual_words(PAGES[1].asks[0], Answers()), usual_words(PAGES[-1].asks[0], Answers())
    ('usual: 20', 'not seen')
    """
    if ask.field == "goal_c":
        return f"usual: {short(goal_c(answers))}"
    stands = usual(answers, ask.field)
    if stands is None:
        return "none" if ask.field == "pad_wanted_mm" else "not seen" if ask.unit == "°C" else ""
    return f"usual: {short(stands)}" if isinstance(stands, int | float) else f"usual: {stands}"
