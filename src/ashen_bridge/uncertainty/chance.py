"""What samples say: the spread of every sensor, the chance of every limit, and which numbers make the spread."""

from __future__ import annotations

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.uncertainty.outcome import Chance, Chances, Share, standard_error
from ashen_bridge.uncertainty.sampling import Samples


def chances(samples: Samples, most_shares: int = 8) -> Chances:
    """Return what samples say of every sensor and of all limits together."""
    found = []
    holds = np.ones(len(samples.values_c), dtype=bool)
    weights = _regression(samples)
    total = len(samples.values_c) + samples.failed  # what has no steady state keeps no limit
    for k, (sensor, name, limit) in enumerate(zip(samples.sensors, samples.names, samples.limits_c, strict=True)):
        values = samples.values_c[:, k]
        within = error = None
        if limit is not None:
            holds &= values <= limit
            within = float((values <= limit).sum() / total)
            error = standard_error(within, total)
        low, high = np.percentile(values, [2.5, 97.5])
        shares, rest = _shares(samples, weights[:, k], values, most_shares)
        found.append(
            Chance(
                sensor,
                name,
                float(samples.nominal_c[k]),
                float(values.mean()),
                float(values.std(ddof=1)),
                float(low),
                float(high),
                limit,
                within,
                error,
                shares,
                rest,
            )
        )
    limited = any(limit is not None for limit in samples.limits_c)
    return Chances(tuple(found), float(holds.sum() / total) if limited else None, total, samples.failed)


def _regression(samples: Samples) -> Floats:
    """Return by how much every sensor moves with every number (n_number, n_sensor) [K per standard uncertainty]."""
    centred = samples.drawn - samples.drawn.mean(axis=0)
    values = samples.values_c - samples.values_c.mean(axis=0)
    return np.asarray(np.linalg.lstsq(centred, values, rcond=None)[0])


def _shares(samples: Samples, weights: Floats, values: Floats, most: int) -> tuple[tuple[Share, ...], float]:
    """Return the numbers by share of variance: squared standardised regression coefficients, with the covariances of a fit.

    Source: A. Saltelli et al., Global Sensitivity Analysis: The Primer, 2008, section 1.2.5: shares of variance for independent
    inputs as far as the answer is linear; the rest of R² is said too. Numbers that a fit left hanging together share their
    covariance: G. Li, H. Rabitz et al., Journal of Physical Chemistry A 114, 2010 (from memory); a share may then be negative.
    """
    variance = float(values.var())
    if variance <= 0:
        return (), 0.0
    # With what it moves together with: for independent numbers that is their square.
    centred = samples.drawn - samples.drawn.mean(axis=0)
    part = weights * (centred.T @ (values - values.mean())) / (len(values) * variance)
    order = np.argsort(part)[::-1][:most]
    shares = tuple(
        Share(one.field, one.owners, one.paths, one.value, one.uncertainty, float(part[n]))
        for n in order
        for one in (samples.numbers[n],)
        if part[n] > 0.005
    )
    return shares, max(0.0, 1 - float(part.sum()))
