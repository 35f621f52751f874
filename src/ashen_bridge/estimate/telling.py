"""What each reading told."""

from __future__ import annotations

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.estimate.posterior import Posterior


def information(found: Posterior) -> Floats:
    """Return what each reading tells that no other one does (n_reading,) [nat]: 0 for one that tells nothing.

    D. V. Lindley, Annals of Mathematical Statistics 27, 1956: half the logarithm of what the reading might have been, the others
    known, over its own variance.
    """
    own = np.diag(np.linalg.inv(found.rows.covariance)) if found.rows.n_reading else np.zeros(0)
    return np.asarray(np.maximum(0.5 * np.log(own / np.maximum(np.diag(found.weight), 1e-300)), 0.0))


def taken(found: Posterior, target: Floats) -> Floats:
    """Return which share of a target's variance beforehand each reading took that no other one would (n_reading,).

    target : (n_number,). Zeros where a number is free, since nothing is known of it beforehand.
    """
    rows = found.rows
    if rows.free is not None and rows.free.any():
        return np.zeros(rows.n_reading)
    before = float(target @ rows.prior_covariance @ target)
    # Leaving a reading out: the rank-one change that its row made (Sherman and Morrison).
    along = np.linalg.solve(rows.covariance, rows.slopes) @ found.root @ (found.root.T @ target)
    return np.asarray(along**2 / np.maximum(np.diag(found.weight), 1e-300) / max(before, 1e-300))
