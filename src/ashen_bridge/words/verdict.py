"""How something stands against its limit: the thresholds, once, and what is said."""

from __future__ import annotations

from typing import Literal

from ashen_bridge.words.numbers import number

AT_LIMIT_K = 0.05
"""Within this a part is at its limit, as one that throttles is."""
NEAR_K = 5.0
"""Below this much to spare a limit is near; common practice, no source."""

Standing = Literal["bad", "near", "good", "none"]
MARKS: dict[Standing, str] = {"bad": "✕", "near": "!", "good": "✓", "none": "·"}


def standing_of(margin_k: float | None) -> Standing:
    """Return how a margin stands; None is that of something without a limit.

    >>> standing_of(-1.0), standing_of(-0.01), standing_of(12.0), standing_of(None)
    ('bad', 'near', 'good', 'none')
    """
    if margin_k is None:
        return "none"
    return "bad" if margin_k < -AT_LIMIT_K else "near" if margin_k < NEAR_K else "good"


def is_over(margin_k: float | None) -> bool:
    """Return whether a limit is passed."""
    return standing_of(margin_k) == "bad"


def margin(kelvin: float) -> str:
    """Return a margin in words.

    >>> margin(12.4), margin(-4.2), margin(0.01)
    ('12 K to spare', '4 K over', 'just at its limit')
    """
    if abs(kelvin) < AT_LIMIT_K:
        return "just at its limit"
    return f"{number(kelvin, 0)} K to spare" if kelvin >= 0 else f"{number(-kelvin, 0)} K over"
