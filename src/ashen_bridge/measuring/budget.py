"""Where the uncertainty of an estimate comes from, source by source; the shares make up all of it.

JCGM 100:2008 (GUM), 5.1 and 5.2: an estimate is a function of what was read and of what was known beforehand, and its error the
sum of theirs, each by its sensitivity.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.estimate.posterior import Posterior
from ashen_bridge.measuring.result import Share

_LEAST = 1e-4  # of the variance


def budget(found: Posterior, target: Floats, labels: Sequence[str]) -> tuple[Share, ...]:
    """Return what makes up the variance of a target (n_number,)·x, the largest first; `labels` are those of the numbers."""
    rows = found.rows
    along = found.root @ (found.root.T @ target)
    weights = np.linalg.solve(rows.covariance, rows.slopes @ along) if rows.n_reading else np.zeros(0)
    left = target - rows.slopes.T @ weights
    known = np.ones(rows.n_number, dtype=bool) if rows.free is None else ~rows.free
    before = np.zeros(rows.n_number)
    prior = rows.prior_covariance
    before[known] = left[known] * (prior[np.ix_(known, known)] @ left[known])
    read = weights * (rows.covariance @ weights)
    total = float(before.sum() + read.sum())
    if total <= 0:
        return ()
    found_shares = [Share(labels[n], "number", float(abs(left[n])), float(part) / total) for n, part in enumerate(before)]
    found_shares += [
        Share(rows.label(n), "reading", float(np.sqrt(max(part, 0.0))), float(part) / total) for n, part in enumerate(read)
    ]
    return tuple(sorted((one for one in found_shares if abs(one.share) > _LEAST), key=lambda one: -one.share))
