"""Temperatures with everything drawn that carries an uncertainty."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.uncertainty.drawing import draw
from ashen_bridge.uncertainty.preparation import Preparation

_CHUNK = 500
_SEED = 20_260_401


@dataclass(frozen=True)
class Samples:
    """Drawn temperatures. values_c : (s, n_sensor). drawn : (s, n_number) in standard uncertainties. limits_c : by sensor.

    rank : fields in the reduced model. failed : samples without a rest or a steady state, which are left out.
    Powers are as told: what would throttle shows how hot it would get.
    """

    sensors: tuple[str, ...]
    names: tuple[str, ...]
    limits_c: tuple[float | None, ...]
    nominal_c: Floats
    values_c: Floats
    drawn: Floats
    numbers: tuple[Assumption, ...]
    rank: int
    failed: int


def draw_samples(prepared: Preparation, count: int, seed: int = _SEED) -> Samples:
    """Return `count` samples."""
    *_, last = drawing_samples(prepared, count, seed)
    return last


def drawing_samples(prepared: Preparation, count: int, seed: int = _SEED) -> Iterator[Samples]:
    """Yield what there is after every part of `count` samples; the last holds all of them."""
    drawn = draw(prepared.numbers, count, seed)
    values: list[Floats] = []
    fine: list[np.ndarray] = []
    for at in range(0, count, _CHUNK):
        shown, kept = prepared.temperatures(drawn[at : at + _CHUNK])
        values.append(shown)
        fine.append(kept)
        done = np.concatenate(fine)
        yield _samples(prepared, np.concatenate(values), drawn[: len(done)], done)


def _samples(prepared: Preparation, values: Floats, drawn: Floats, fine: np.ndarray) -> Samples:
    limited = {row.id: row.limit_c for row in prepared.report.sensors}
    names = tuple(prepared.names[one] for one in prepared.sensors)
    limits = tuple(limited.get(one) for one in prepared.sensors)
    failed = int((~fine).sum())
    return Samples(
        prepared.sensors, names, limits, prepared.nominal, values, drawn[fine], prepared.numbers, prepared.rank, failed
    )
