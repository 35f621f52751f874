"""Grid lines in plan: snapped to the edges that matter, graded between them, never closer than `CLOSEST`."""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ashen_bridge.geometry.region import Box, Floats

CLOSEST = 0.3e-3  # [m]: closer edges share a line, so that dragging a part keeps the mesh
_GROWTH = 0.3


@dataclass(frozen=True, eq=False)
class Lines:
    """Grid lines along x and y [m], rising. Compared by identity, so that what is worked out on them can be kept."""

    x: Floats
    y: Floats

    @property
    def shape(self) -> tuple[int, int]:
        """Number of columns as (ny, nx)."""
        return len(self.y) - 1, len(self.x) - 1


@lru_cache(maxsize=64)
def grid_lines(extent: Box, snap: tuple[Box, ...], fine: tuple[Box, ...], fine_step: float, coarse_step: float) -> Lines:
    """Return lines over `extent`.

    Parameters
    ----------
    snap : boxes whose edges get a line each. fine : boxes inside which the spacing is `fine_step` [m]; away from them it
        grows by 0.3 of the distance up to `coarse_step` [m].
    """
    return Lines(
        _axis(
            extent[0],
            extent[2],
            [e for b in snap for e in (b[0], b[2])],
            {(b[0], b[2]) for b in fine},
            fine_step,
            coarse_step,
        ),
        _axis(
            extent[1],
            extent[3],
            [e for b in snap for e in (b[1], b[3])],
            {(b[1], b[3]) for b in fine},
            fine_step,
            coarse_step,
        ),
    )


def _axis(
    low: float, high: float, snap: list[float], fine: set[tuple[float, float]], fine_step: float, coarse_step: float
) -> Floats:
    marks = _thinned([low, *sorted(e for e in snap if low < e < high), high])
    # Spacing as a function of place, integrated to a number of lines per interval.
    lines = [low]
    for start, end in itertools.pairwise(marks):
        at = np.linspace(start, end, 65)
        distance = (
            np.min([np.maximum(np.maximum(a - at, at - b), 0.0) for a, b in sorted(fine)], axis=0)
            if fine
            else np.full_like(at, 1e9)
        )
        density = 1 / np.minimum(fine_step + _GROWTH * distance, coarse_step)
        count_up = np.concatenate([[0.0], np.cumsum((density[1:] + density[:-1]) / 2 * np.diff(at))])
        cells = max(1, int(np.ceil(count_up[-1] - 1e-9)))
        lines += [*list(np.interp(np.arange(1, cells) / cells * count_up[-1], count_up, at)), end]
    return np.array(lines)


def _thinned(marks: list[float]) -> list[float]:
    kept = [marks[0]]
    for mark in marks[1:-1]:
        if mark - kept[-1] >= CLOSEST and marks[-1] - mark >= CLOSEST:
            kept.append(mark)
    return [*kept, marks[-1]]
