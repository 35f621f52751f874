"""Grid lines in plan: on the edges that matter, closer where flux turns, graded between them.

Which edges get a line is settled by their weight where they crowd; refining halves every interval, so that finer grids are
nested in coarser ones and what changes from one to the next is the mesh and nothing else.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.region import Box

GROWTH = 0.5  # of the distance from what is fine, by which the spacing may grow


@dataclass(frozen=True, eq=False)
class Lines:
    """Grid lines along x and y [m], rising. Compared by identity, so that what is worked out on them can be kept."""

    x: Floats
    y: Floats

    @property
    def shape(self) -> tuple[int, int]:
        """Number of columns as (ny, nx)."""
        return len(self.y) - 1, len(self.x) - 1


@dataclass(frozen=True)
class Feature:
    """Something with edges in plan that the grid should follow.

    weight : what has more keeps its lines where edges crowd. inside : spacing wanted between its edges [m]; edge : spacing
    wanted at the edges [m]; infinite where nothing is wanted.
    """

    box: Box
    weight: int
    inside: float = np.inf
    edge: float = np.inf


@dataclass(frozen=True)
class Spacing:
    """Widest and closest spacing of lines [m]; edges closer than `closest` share a line. `halvings` of every interval."""

    widest: float
    closest: float
    halvings: int = 0


@lru_cache(maxsize=64)
def grid_lines(extent: Box, features: tuple[Feature, ...], spacing: Spacing) -> Lines:
    """Return lines over `extent` that follow the features."""
    along = [((f.box[0], f.box[2]), f) for f in features], [((f.box[1], f.box[3]), f) for f in features]
    return Lines(_axis(extent[0], extent[2], along[0], spacing), _axis(extent[1], extent[3], along[1], spacing))


def _axis(low: float, high: float, spans: list[tuple[tuple[float, float], Feature]], spacing: Spacing) -> Floats:
    edges = [(edge, feature.weight) for span, feature in spans for edge in span if low < edge < high]
    marks = _thinned(low, high, edges, spacing.closest)
    wanted = {(a, b, f.inside) for (a, b), f in spans if np.isfinite(f.inside)}
    wanted |= {(e, e, f.edge) for span, f in spans for e in span if np.isfinite(f.edge)}
    lines = [low]
    # Spacing as a function of place, integrated to a number of lines per interval.
    for start, end in itertools.pairwise(marks):
        at = np.linspace(start, end, 33)
        step = np.full_like(at, spacing.widest)
        for a, b, finest in wanted:
            step = np.minimum(step, finest + GROWTH * np.maximum(np.maximum(a - at, at - b), 0.0))
        density = 1 / step
        count_up = np.concatenate([[0.0], np.cumsum((density[1:] + density[:-1]) / 2 * np.diff(at))])
        cells = max(1, round(float(count_up[-1]) + 0.1 + 1e-6))
        lines += [*list(np.interp(np.arange(1, cells) / cells * count_up[-1], count_up, at)), end]
    found = np.array(lines)
    for _ in range(spacing.halvings):
        found = np.sort(np.concatenate([found, (found[1:] + found[:-1]) / 2]))
    return found


def _thinned(low: float, high: float, edges: Iterable[tuple[float, int]], closest: float) -> list[float]:
    """Return the ends and the edges that keep a line: the weightiest first, none closer to another than `closest`.

    Of equal ones those nearest the middle come first, and a pair across it stands or falls together: the lines of a mirrored
    device are the mirrored lines.
    """
    middle = (low + high) / 2
    ranked = sorted({(-weight, round(abs(edge - middle), 9), edge) for edge, weight in edges})
    kept = [low, high]
    for _, alike in itertools.groupby(ranked, key=lambda item: item[:2]):
        pair = sorted({edge for *_, edge in alike})
        if 0 < pair[-1] - pair[0] < closest:
            pair = [middle]
        fits = [edge for edge in pair if min(abs(edge - other) for other in kept) >= closest - 1e-12]
        kept += fits
    return sorted(kept)
