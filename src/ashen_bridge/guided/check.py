"""Answers that cannot be, or that contradict each other: one sentence that says which, and where they were given."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from pydantic import ValidationError

from ashen_bridge.guided.answers import Answers, DeviceKind
from ashen_bridge.guided.layout import RIM, device_box, least_device
from ashen_bridge.guided.questions import PAGES, has_memory, has_spreader, rear_parts
from ashen_bridge.guided.usual import value_of
from ashen_bridge.model.errors import AshenError
from ashen_bridge.words.numbers import short


class AnswerError(AshenError, ValueError):
    """An answer that cannot be: one sentence. `field` is the answer's name, `other` that of one it contradicts."""

    def __init__(self, text: str, field: str, other: str = "") -> None:
        super().__init__(text)
        self.field, self.other = field, other


_RANGES = {
    "watts": "above 0 and at most 1000 W",
    "around": "from 0 to 12 on each side",
    "rear": "from 0 to 12",
    "regulators": "from 0 to 24",
    "screws": "from 2 to 12",
    "fan_percent": "from 5 to 100 %",
    "room_c": "from −20 to 60 °C",
    "cover_mm": "from 0.3 to 10 mm",
    "device_t_mm": "from 3 to 100 mm",
    "name": "at most 200 characters",
    **dict.fromkeys(("die_w_mm", "die_h_mm", "lid_w_mm", "lid_h_mm"), "from 1 to 80 mm"),
    **dict.fromkeys(("device_w_mm", "device_h_mm", "spreader_w_mm", "spreader_h_mm"), "from 20 to 600 mm"),
    **dict.fromkeys(("core_c", "hot_c", "memory_c", "skin_c", "goal_c"), "from −20 to 150 °C"),
    **dict.fromkeys(("pad_now_mm", "pad_wanted_mm"), "above 0 and at most 6 mm"),
}
_MOST_W = {DeviceKind.BOX: 100.0, DeviceKind.LIDDED: 600.0}
SEEN = {"core_c": "core", "hot_c": "hot spot", "memory_c": "memory", "skin_c": "case"}


def check(given: dict[str, Any]) -> Answers:
    """Return the answers. Raises `AnswerError` in one sentence that names the question.

    >>> check({"screws": 1})
    Traceback (most recent call last):
    ...
    ashen_bridge.guided.check.AnswerError: “Screws” must be from 2 to 12.
    """
    try:
        answers = Answers.model_validate(given)
    except ValidationError as error:
        field = str(error.errors()[0]["loc"][0])
        raise AnswerError(f"“{words_of(field)}” must be {_RANGES.get(field, 'something else')}.", field) from error
    for problem in problems(answers):
        raise problem
    return answers


def words_of(field: str) -> str:
    """Return what a question is called, without what explains it."""
    words = {"kind": "Kind of device", "around": "Memory packages"}
    asked = next((ask.words for page in PAGES for ask in page.asks if ask.field == field), field)
    return words.get(field, asked).split(",")[0]


def problems(answers: Answers) -> Iterator[AnswerError]:
    """Yield everything that cannot be, or cannot be together."""
    most = _MOST_W.get(answers.kind)
    if answers.watts is not None and most is not None and answers.watts > most:
        text = f"A {answers.kind.value} does not make {short(answers.watts)} W: at most {short(most)} W are believed."
        yield AnswerError(text, "watts", "kind")
    yield from _seen(answers)
    if answers.kind is DeviceKind.BOX:
        yield from _case(answers)
    if answers.kind is DeviceKind.LIDDED:
        for side in ("w", "h"):
            die, lid = value_of(answers, f"die_{side}_mm"), value_of(answers, f"lid_{side}_mm")
            if die > lid - 2:
                text = f"A die of {short(die)} mm does not go under a lid of {short(lid)} mm with a rim of 1 mm around it."
                yield AnswerError(text, f"die_{side}_mm", f"lid_{side}_mm")
    if rear_parts(answers) and answers.rear_meets == "pads" and value_of(answers, "rear_plate") == "none":
        yield AnswerError("There cannot be pads to a rear plate that is not there.", "rear_meets", "rear_plate")


def _seen(answers: Answers) -> Iterator[AnswerError]:
    room = value_of(answers, "room_c")
    for field, words in SEEN.items():
        seen = getattr(answers, field)
        if seen is not None and seen <= room:
            text = f"The {words} was seen at {short(seen)} °C, which is not above the room's {short(room)} °C."
            yield AnswerError(text, field, "room_c")
    core, hot, skin, memory = answers.core_c, answers.hot_c, answers.skin_c, answers.memory_c
    if core is not None and hot is not None and hot < core:
        text = f"The hot spot is part of the chip: seen at {short(hot)} °C, it cannot be cooler than the core's {short(core)} °C."
        yield AnswerError(text, "hot_c", "core_c")
    hottest = max((one for one in (core, hot, memory) if one is not None), default=None)
    if skin is not None and hottest is not None and skin > hottest and answers.kind is DeviceKind.BOX:
        text = f"The case cannot be hotter ({short(skin)} °C) than everything inside it ({short(hottest)} °C)."
        yield AnswerError(text, "skin_c", "core_c" if core is not None else "memory_c")
    if memory is not None and not has_memory(answers):
        text = f"Memory was seen at {short(memory)} °C, but no memory package was counted."
        yield AnswerError(text, "memory_c", "around")


def _case(answers: Answers) -> Iterator[AnswerError]:
    width, height = (value_of(answers, f"device_{side}_mm") for side in ("w", "h"))
    thick, cover = value_of(answers, "device_t_mm"), value_of(answers, "cover_mm")
    if 2 * cover > thick - 1:
        text = f"Two covers of {short(cover)} mm do not go into a device that is {short(thick)} mm thick."
        yield AnswerError(text, "cover_mm", "device_t_mm")
    elif thick < (least := least_device(answers)):
        text = f"Covers, board, chip and what lies on it need {short(least, 3)} mm; the device is {short(thick)} mm thick."
        yield AnswerError(text, "device_t_mm", "cover_mm")
    if min(width, height) < max(value_of(answers, "die_w_mm"), value_of(answers, "die_h_mm")) + 2 * RIM:
        text = f"The chip with its carrier does not go into a device of {short(width)} × {short(height)} mm."
        yield AnswerError(text, "die_w_mm", "device_w_mm")
        return
    if not device_box(answers).holds_parts:
        text = f"So many memory packages do not go into a device of {short(width)} × {short(height)} mm."
        yield AnswerError(text, "around", "device_w_mm")
    if has_spreader(answers):
        for side, size in (("w", width), ("h", height)):
            if (plate := value_of(answers, f"spreader_{side}_mm")) > size - 4:
                text = f"A plate of {short(plate)} mm does not go into a device of {short(size)} mm."
                yield AnswerError(text, f"spreader_{side}_mm", f"device_{side}_mm")
