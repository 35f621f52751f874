"""What a modder is asked, and what may be answered."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError

from ashen_bridge.model.base import Frozen, Name
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.inner import BaseKind
from ashen_bridge.words.numbers import short


class AnswerError(AshenError, ValueError):
    """An answer that cannot be: one sentence. `field` is the answer's name."""

    def __init__(self, text: str, field: str) -> None:
        super().__init__(text)
        self.field = field


class DeviceKind(StrEnum):
    """What is on the bench."""

    CARD = "card with a big cooler"
    LIDDED = "lidded processor under a cooler"
    BOX = "thin fanless box"
    OTHER = "something else"


class Wish(StrEnum):
    """What is wanted in the end."""

    MEMORY = "cooler memory"
    DIE = "a cooler die"
    QUIET = "less noise at the same temperatures"
    CHECK = "to know whether all is well"


Count = Annotated[int, Field(ge=0, le=8)]
Seen = Annotated[float, Field(ge=-20.0, le=150.0)]
Pad = Annotated[float, Field(gt=0.0, le=6.0)]


class Answers(Frozen):
    """All answers; whatever is None is not known. `around` counts the parts left, above, right and below of the die."""

    name: Name = ""
    kind: DeviceKind = DeviceKind.CARD
    die_w_mm: Annotated[float, Field(ge=1.0, le=80.0)] = 20.0
    die_h_mm: Annotated[float, Field(ge=1.0, le=80.0)] = 20.0
    around: tuple[Count, Count, Count, Count] = (3, 2, 3, 0)
    rear: Count = 0
    pad_now_mm: Pad | None = 1.0
    pad_feel: Literal["soft", "medium", "firm"] = "medium"
    base: BaseKind = BaseKind.SOLID
    screws: Annotated[int, Field(ge=2, le=12)] = 4
    screw_feel: Literal["soft", "normal", "hard"] = "normal"
    die_seen_c: Seen | None = None
    memory_seen_c: Seen | None = None
    room_c: Annotated[float, Field(ge=-20.0, le=60.0)] = 25.0
    wish: Wish = Wish.MEMORY
    pad_wanted_mm: Pad | None = None


_WORDS = {
    "die_w_mm": "The die's width",
    "die_h_mm": "The die's height",
    "around": "The number of parts on each side",
    "rear": "The number of parts on the rear",
    "pad_now_mm": "The thickness of the pads that are there",
    "screws": "The number of screws",
    "die_seen_c": "The die's temperature",
    "memory_seen_c": "The memory's temperature",
    "room_c": "The room's temperature",
    "pad_wanted_mm": "The thickness you think of",
}
_RANGES = {
    "die_w_mm": "from 1 to 80 mm",
    "die_h_mm": "from 1 to 80 mm",
    "around": "from 0 to 8",
    "rear": "from 0 to 8",
    "pad_now_mm": "above 0 and at most 6 mm",
    "screws": "from 2 to 12",
    "die_seen_c": "from −20 to 150 °C",
    "memory_seen_c": "from −20 to 150 °C",
    "room_c": "from −20 to 60 °C",
    "pad_wanted_mm": "above 0 and at most 6 mm",
}


def check(given: dict[str, Any]) -> Answers:
    """Return the answers. Raises `AnswerError` in one sentence that names the question.

    >>> check({"screws": 1})
    Traceback (most recent call last):
    ...
    ashen_bridge.guided.answers.AnswerError: The number of screws must be from 2 to 12.
    """
    try:
        answers = Answers.model_validate(given)
    except ValidationError as error:
        field = str(error.errors()[0]["loc"][0])
        words = _WORDS.get(field, field)
        raise AnswerError(f"{words} must be {_RANGES.get(field, 'something else')}.", field) from error
    for field, words in (("die_seen_c", "die"), ("memory_seen_c", "memory")):
        seen = getattr(answers, field)
        if seen is not None and seen <= answers.room_c:
            text = f"The {words} was seen at {short(seen)} °C, which is not above the room's {short(answers.room_c)} °C."
            raise AnswerError(text, field)
    return answers
