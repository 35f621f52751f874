"""Numbers as people read them: unit, sensible digits, a true minus sign."""

from __future__ import annotations

import math


def number(value: float, digits: int = 0, sign: bool = False) -> str:
    """Return a number with a fixed number of digits."""
    text = f"{value:+.{digits}f}" if sign else f"{value:.{digits}f}"
    if float(text) == 0:
        text = text.lstrip("+-")
    return text.replace("-", "−")


def short(value: float, digits: int = 6) -> str:
    """Return a number with as few digits as it needs, and at most so many.

    >>> short(1.50), short(-0.25), short(12), short(0.123456, 2)
    ('1.5', '−0.25', '12', '0.12')
    """
    return f"{value:.{digits}g}".replace("-", "−")


def percent(share: float) -> str:
    """Return a share as per cent.

    >>> percent(0.453)
    '45 %'
    """
    return f"{number(100 * share)} %"


def celsius(value: float, digits: int = 0) -> str:
    """Return a temperature."""
    return f"{number(value, digits)} °C"


def length(mm: float) -> str:
    """Return a length: micrometres below a tenth of a millimetre, else millimetres."""
    return f"{number(mm * 1e3)} µm" if abs(mm) < 0.1 else f"{number(mm, 2)} mm"


def thickness(mm: float) -> str:
    """Return a stock thickness with as few digits as it needs."""
    return f"{mm:.2f}".rstrip("0").rstrip(".") if mm % 0.5 else f"{mm:.1f}"


def measured(value: float, uncertainty: float, unit: str = "") -> str:
    """Return a number with its standard uncertainty: that in two digits, the number to the same place.

    >>> measured(0.26394, 0.0528, "K/W"), measured(150, 40, "W"), measured(1.1, 0.0)
    ('0.264 ± 0.053 K/W', '150 ± 40 W', '1.1')
    """
    tail = f" {unit}" if unit else ""
    if uncertainty <= 0:
        return f"{value:.4g}".replace("-", "−") + tail
    digits = max(0, 1 - math.floor(math.log10(uncertainty)))
    spread = f"{uncertainty:.{digits}f}"
    if digits and spread.endswith("0"):
        digits, spread = digits - 1, spread[:-1].removesuffix(".")
    return f"{number(value, digits)} ± {spread}{tail}"


def plus_minus(spread: float, digits: int = 1) -> str:
    """Return a spread in words; what rounds to nothing is said to be less than the last digit.

    >>> plus_minus(0.34), plus_minus(0.01), plus_minus(0.2, 0)
    ('± 0.3', '± under 0.1', '± under 1')
    """
    text = f"{spread:.{digits}f}"
    return f"± {text}" if float(text) > 0 else f"± under {10**-digits:.{digits}f}"
