"""Times as people say them."""

from __future__ import annotations

import math


def time_words(seconds: float) -> str:
    """Return a time as people say it.

    >>> time_words(42), time_words(341), time_words(7300), time_words(float("inf"))
    ('42 s', '5 min 41 s', '2 h 2 min', 'longer than this')
    """
    if not math.isfinite(seconds):
        return "longer than this"
    if seconds < 90:
        return f"{seconds:.0f} s"
    minutes = int(seconds // 60)
    if minutes < 60:
        return f"{minutes} min {int(seconds % 60)} s"
    minutes = round(seconds / 60)
    return f"{minutes // 60} h {minutes % 60} min"
