"""The elevation's height scales: compressed so that 40 µm and 4 mm are both legible, or true."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable

import numpy as np

from ashen_bridge.arrays import Floats

_UNIT = 15e-6  # [m]: below it heights show nearly in proportion, above it by their logarithm


class HeightScale:
    """Monotone map from height [m] to a share of the picture, straight between the levels that matter.

    Each interval between neighbouring levels gets room by the logarithm of its size, so that a thin one stays visible.
    """

    def __init__(self, levels: Iterable[float]) -> None:
        ordered = sorted(levels)
        kept: list[float] = []
        for level in ordered:
            if not kept or level - kept[-1] > 1e-6:
                kept.append(level)
        if len(kept) < 2:
            kept = [*(kept or [0.0]), (kept or [0.0])[-1] + 1e-3]
        room = [math.log1p((high - low) / _UNIT) for low, high in itertools.pairwise(kept)]
        ends = np.concatenate([[0.0], np.cumsum(room)])
        self._levels = np.array(kept)
        self._shares = ends / ends[-1]

    def share(self, height: float) -> float:
        """Return where a height is: 0 at the lowest level, 1 at the highest."""
        return float(np.interp(height, self._levels, self._shares))

    def shares(self, heights: Floats) -> Floats:
        """Return where many heights are."""
        return np.asarray(np.interp(heights, self._levels, self._shares))

    def height(self, share: float) -> float:
        """Return the height at a share of the picture [m]; beyond the ends the last interval goes on."""
        if share <= 0.0 or share >= 1.0:
            at = 0 if share <= 0.0 else len(self._shares) - 2
            slope = (self._levels[at + 1] - self._levels[at]) / (self._shares[at + 1] - self._shares[at])
            end = 0 if share <= 0.0 else -1
            return float(self._levels[end] + slope * (share - self._shares[end]))
        return float(np.interp(share, self._shares, self._levels))

    def stretch(self, room: float, across: float) -> tuple[float, float]:
        """Return by how much heights are stretched against lengths, least and most.

        room : height of the picture [px]. across : pixels per metre along the cut.
        """
        slopes = np.diff(self._shares) / np.diff(self._levels) * room / across
        return float(slopes.min()), float(slopes.max())


class TrueScale:
    """Heights in the same proportion as lengths, the middle of them in the middle of the picture.

    span : what height the picture shows [m].
    """

    def __init__(self, levels: Iterable[float], span: float) -> None:
        ordered = sorted(levels)
        self._low = (ordered[0] + ordered[-1] - span) / 2
        self._span = span

    def share(self, height: float) -> float:
        """Return where a height is: 0 at the foot of the picture, 1 at its top."""
        return (height - self._low) / self._span

    def shares(self, heights: Floats) -> Floats:
        """Return where many heights are."""
        return (heights - self._low) / self._span

    def height(self, share: float) -> float:
        """Return the height at a share of the picture [m]."""
        return self._low + share * self._span


Scale = HeightScale | TrueScale
