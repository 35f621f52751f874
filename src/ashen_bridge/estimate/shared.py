"""Numbers that share a cause: an instrument's zero, a batch of pads. Their errors have a common part."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ashen_bridge.arrays import Floats


def correlation(count: int, ties: Sequence[tuple[Sequence[int], float]]) -> Floats:
    """Return the correlation (count, count) of numbers of which some are tied.

    ties : which numbers (by index) have a common part, and which share of their variance that is. A number in several ties
    shares with each; the result is a correlation as long as its shares add up to no more than one.
    """
    found = np.eye(count)
    for members, share in ties:
        own = np.array(members, dtype=int)
        together = np.full((len(own), len(own)), share)
        np.fill_diagonal(together, 0.0)
        found[np.ix_(own, own)] += together
    return found
