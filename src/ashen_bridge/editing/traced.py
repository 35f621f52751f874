"""A curve traced off a picture of a chart: two known points on each axis, then points along the curve."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ashen_bridge.editing.materials import Curve
from ashen_bridge.editing.typed import TypedError

Pixel = tuple[float, float]
_LEAST_PX = 20.0  # two points of an axis that are nearer say nothing of its scale
_NEAR = 0.015  # share of the curve's ends within which what is traced at the origin is the origin


@dataclass(frozen=True)
class Axis:
    """Two points on one axis of a picture [pixel], and what stands there; `log` where it is divided by decades."""

    first: Pixel
    second: Pixel
    first_value: float
    second_value: float
    log: bool = False


def traced(x_axis: Axis, y_axis: Axis, pixels: Sequence[Pixel]) -> tuple[tuple[float, float], ...]:
    """Return what points of a picture stand for, in their order; the picture may lie askew or be skewed.

    Raises `TypedError` for axes that say nothing.

    >>> x = Axis((100, 500), (500, 500), 0, 40)
    >>> y = Axis((100, 500), (100, 100), 0, 200)
    >>> traced(x, y, [(300, 300)])
    ((20.0, 100.0),)
    """
    for name, axis in (("horizontal", x_axis), ("vertical", y_axis)):
        if np.hypot(*np.subtract(axis.second, axis.first)) < _LEAST_PX:
            raise TypedError(f"The two points of the {name} axis lie too near to each other.")
        if axis.first_value == axis.second_value:
            raise TypedError(f"The two points of the {name} axis must stand for different values.")
        if axis.log and min(axis.first_value, axis.second_value) <= 0:
            raise TypedError(f"The {name} axis is divided by decades, so its values are above 0.")
    along = np.array([np.subtract(one.second, one.first) for one in (x_axis, y_axis)], dtype=float).T
    if abs(np.linalg.det(along)) < 0.2 * np.hypot(*along[:, 0]) * np.hypot(*along[:, 1]):
        raise TypedError("The two axes run in the same direction: each needs two points of its own.")
    inverse = np.linalg.inv(along)
    at = np.asarray(pixels, dtype=float).reshape(-1, 2)
    share_x = (inverse @ (at - x_axis.first).T)[0]
    share_y = (inverse @ (at - y_axis.first).T)[1]
    values = np.stack([_value(x_axis, share_x), _value(y_axis, share_y)], axis=1)
    return tuple((round(float(x), 6), round(float(y), 6)) for x, y in values)


def _value(axis: Axis, share: np.ndarray) -> np.ndarray:
    if axis.log:
        low, high = np.log(axis.first_value), np.log(axis.second_value)
        return np.asarray(np.exp(low + share * (high - low)))
    return axis.first_value + share * (axis.second_value - axis.first_value)


def compression_curve(points: Sequence[tuple[float, float]], x_is: str) -> Curve:
    """Return traced points as a compression curve; one axis is compression [%], the other pressure [kPa].

    `x_is` says which lies horizontally: "compression" or "pressure". Raises `TypedError` where they fall.
    """
    pairs = [(x, y) if x_is == "compression" else (y, x) for x, y in points]
    found = sorted((strain / 100, pressure) for strain, pressure in pairs)
    if len(found) < 2:
        raise TypedError("Trace two points of the curve or more.")
    strains, pressures = (max(abs(one[k]) for one in found) for k in (0, 1))
    kept = [one for one in found if one[0] > _NEAR * strains or one[1] > _NEAR * pressures]
    curve = ((0.0, 0.0), *((round(x, 4), round(y, 3)) for x, y in kept))
    for low, high in pairwise(curve):
        if high[0] <= low[0] or high[1] <= low[1]:
            raise TypedError(f"The curve must rise everywhere; it does not at {100 * high[0]:g} %.")
    return curve
