"""What a wish means as a number."""

from __future__ import annotations

from ashen_bridge.guided.answers import Answers, Wish
from ashen_bridge.guided.usual import value_of
from ashen_bridge.library.touch import touch_limits
from ashen_bridge.library.typical import typical

_BELOW_LIMIT_K = 5.0
_OF_WISH = {Wish.MEMORY: "memory_hot", Wish.DIE: "hot_spot", Wish.SKIN: "skin"}


def touch_c(answers: Answers) -> float:
    """Return what a case may have that is held for 10 s to a minute [°C]."""
    return float(touch_limits(value_of(answers, "cover"))["10_s_to_1_min"])


def goal_c(answers: Answers) -> float:
    """Return what is wanted at most [°C]: as answered, else a little below the limit.

    >>> goal_c(Answers(wish=Wish.MEMORY)), goal_c(Answers(wish=Wish.MEMORY, goal_c=80))
    (90.0, 80.0)
    """
    if answers.goal_c is not None:
        return answers.goal_c
    if answers.wish is Wish.SKIN:
        return touch_c(answers) - _BELOW_LIMIT_K
    return typical("memory_limit_c" if answers.wish is Wish.MEMORY else "die_limit_c").value - _BELOW_LIMIT_K


def wanted_sensor(answers: Answers) -> str | None:
    """Return the sensor that the wish is about; None where it is about none."""
    return _OF_WISH.get(answers.wish) if answers.wish is not None else None
