"""How an uncertainty is written: never as nothing."""

from __future__ import annotations


def plus_minus(spread: float, digits: int = 1) -> str:
    """Return a spread in words; what rounds to nothing is said to be less than the last digit.

    >>> plus_minus(0.34), plus_minus(0.01), plus_minus(0.2, 0)
    ('± 0.3', '± under 0.1', '± under 1')
    """
    text = f"{spread:.{digits}f}"
    return f"± {text}" if float(text) > 0 else f"± under {10**-digits:.{digits}f}"
