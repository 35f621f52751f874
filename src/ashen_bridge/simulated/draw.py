"""Numbers drawn from a seed, rounded as people would write them."""

from __future__ import annotations

from typing import Any

import numpy as np


class Draw:
    """A seeded source of everything a device is made of."""

    def __init__(self, seed: int) -> None:
        self._random = np.random.default_rng(seed)

    def between(self, low: float, high: float, digits: int = 2) -> float:
        """Return a number, evenly drawn."""
        return round(float(self._random.uniform(low, high)), digits)

    def whole(self, low: int, high: int) -> int:
        """Return a whole number, both ends included."""
        return int(self._random.integers(low, high + 1))

    def one_of(self, *choices: Any) -> Any:
        """Return one of some things, each as likely."""
        return choices[int(self._random.integers(len(choices)))]

    def chance(self, share: float) -> bool:
        """Return whether something comes about that does so in this share of cases."""
        return bool(self._random.random() < share)


def measured(value: float, uncertainty: float) -> dict[str, Any]:
    """Return a measured quantity as files hold it."""
    return {"value": value, "uncertainty": uncertainty, "origin": "measured"}


def assumed(value: float, uncertainty: float) -> dict[str, Any]:
    """Return an assumed quantity as files hold it."""
    return {"value": value, "uncertainty": uncertainty, "origin": "assumed"}


def rect(x: float, y: float, w: float, h: float) -> dict[str, Any]:
    """Return a rectangle as files hold it [mm]."""
    return {"x_mm": round(x, 3), "y_mm": round(y, 3), "w_mm": round(w, 3), "h_mm": round(h, 3)}


def outline(x: float, y: float, w: float, h: float) -> dict[str, Any]:
    """Return a footprint of one rectangle [mm]."""
    return {"rects": [rect(x, y, w, h)]}
