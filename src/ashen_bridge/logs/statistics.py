"""Statistics of one channel over a window: mean, standard error with autocorrelation, extremes, single spikes set apart."""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt

from ashen_bridge.arrays import Floats
from ashen_bridge.logs.outcome import Channel

SPIKE = 8.0  # times the usual scatter by which one sample must stand out from both its neighbours; common practice, no source


def channel(values: Floats) -> Channel | None:
    """Return the figures of some samples, NaN left out and single spikes set apart; None for fewer than 3."""
    finite = values[np.isfinite(values)]
    if len(finite) < 3:
        return None
    spiky = spikes(finite)
    kept = finite[~spiky]
    effective = effective_count(kept)
    sd = float(kept.std(ddof=1)) if len(kept) > 1 else 0.0
    return Channel(
        float(kept.mean()),
        sd,
        sd / math.sqrt(effective),
        float(kept.max()),
        float(np.percentile(kept, 99)),
        len(kept),
        effective,
        int(spiky.sum()),
    )


def spikes(values: Floats) -> npt.NDArray[np.bool_]:
    """Return which samples stand alone: far from both neighbours, which agree with each other."""
    found = np.zeros(len(values), dtype=bool)
    if len(values) < 5:
        return found
    before, here, after = values[:-2], values[1:-1], values[2:]
    scatter = 1.4826 * float(np.median(np.abs(np.diff(values) - np.median(np.diff(values))))) + 1e-9
    steps = np.abs(np.diff(values))
    # A logger's last digit flickers; that is no spike.
    digit = float(steps[steps > 0].min()) if (steps > 0).any() else 0.0
    reach = max(SPIKE * scatter, 4 * digit)
    away = np.minimum(np.abs(here - before), np.abs(here - after))
    same_side = (here - before) * (here - after) > 0
    found[1:-1] = same_side & (away > reach) & (np.abs(after - before) < away / 2)
    return found


def effective_count(values: Floats) -> float:
    """Return how many independent samples a series is worth: n/(1 + 2·Σρ_k), the sum cut where pairs of ρ turn negative.

    Source: C. J. Geyer, "Practical Markov chain Monte Carlo", Statistical Science 7, 1992 (initial positive sequence). For a
    first-order autoregression it tends to n·(1 − ρ)/(1 + ρ).
    """
    n = len(values)
    centred = values - values.mean()
    power = float(centred @ centred)
    if n < 4 or power <= 0:
        return float(n)
    size = 1 << (2 * n - 1).bit_length()
    spectrum = np.fft.rfft(centred, size)
    covariance = np.fft.irfft(spectrum * np.conj(spectrum), size)[:n] / power
    whole = (n - 1) // 2 * 2
    pairs = covariance[1 : whole + 1].reshape(-1, 2).sum(axis=1)
    total = 0.0
    for pair in pairs:
        if pair <= 0:
            break
        total += float(pair)
    return float(min(n, max(1.0, n / (1 + 2 * total))))
