"""Readings as rows of the estimator: values from repeats, errors, and the errors that several readings have in common.

What is common is a number of its own, told by all readings that hold it: an instrument's zero in one sitting, its scale, the
plane of a straight edge, the share that pads of a kind recover. So differences lose it, and sums do not.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.measuring.expected import Looks, UnusedError
from ashen_bridge.measuring.practice import practice
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.readings import (
    BesideReading,
    DepthReading,
    EdgeReading,
    FeelerReading,
    ImprintReading,
    Instrument,
    NumberReading,
    Reading,
    StepReading,
)

_PLANE = 3  # unknowns of a straight edge
_LEAST_MM = 1e-4
_TILTED = 50.0  # [mm] over which a plane's tilt counts as one
_IN_LINE = 1e-3  # least of the points' spread over their largest


@dataclass(frozen=True)
class Common:
    """A number that several readings have in common: what it is, and what it adds to each (n_reading,).

    `free` if nothing is known of it beforehand.
    """

    label: str
    slopes: Floats
    free: bool = False


@dataclass(frozen=True)
class Read:
    """Readings that can be used: their values and standard errors (n_reading,), what they have in common, and those that cannot,
    with the reason.
    """

    readings: tuple[Reading, ...]
    values: Floats
    errors: Floats
    common: tuple[Common, ...]
    refused: tuple[tuple[str, str], ...]

    @property
    def labels(self) -> tuple[str, ...]:
        """Ids of the readings."""
        return tuple(one.id for one in self.readings)

    def only(self, kept: Sequence[int]) -> Read:
        """Return some of the readings; what none of them holds is left out."""
        common = [Common(one.label, one.slopes[list(kept)], one.free) for one in self.common]
        used = tuple(one for one in common if np.any(one.slopes))
        return Read(tuple(self.readings[n] for n in kept), self.values[list(kept)], self.errors[list(kept)], used, ())


def read_off(looks: Looks, readings: Sequence[Reading]) -> Read:
    """Return readings as rows, of the project as it stands."""
    instruments = {one.id: one for one in looks.project.instruments}
    used: list[Reading] = []
    pairs: list[tuple[float, float]] = []
    refused: list[tuple[str, str]] = []
    told: dict[str, str] = {}
    for one in readings:
        try:
            if one.aside:
                raise UnusedError("It was set aside.")
            looks.expected(one)
            said = told.setdefault(_said(one), one.id)
            if said != one.id:
                raise UnusedError(f"It says the same as '{said}', in the same sitting: entered twice?")
            pairs.append(_value(looks, one, instruments.get(one.instrument or "")))
        except AshenError as error:
            refused.append((one.id, str(error)))
        else:
            used.append(one)
    off_plane = {one.id: why for one, why in _without_plane(used)}
    kept = [n for n, one in enumerate(used) if one.id not in off_plane]
    found = tuple(used[n] for n in kept)
    values, errors = (np.array([pairs[n][at] for n in kept]) for at in (0, 1))
    return Read(found, values, errors, tuple(_common(looks, found, instruments)), (*refused, *off_plane.items()))


def _said(reading: Reading) -> str:
    """Return what a reading says, but for its id."""
    return repr(reading.model_copy(update={"id": "same"}))


def _value(looks: Looks, reading: Reading, instrument: Instrument | None) -> tuple[float, float]:
    """Return a reading's value, corrected for what jaws squash, and its standard error without what it shares."""
    form = practice().forms[reading.form]
    if isinstance(reading, FeelerReading | BesideReading):
        low, high = (
            (reading.goes_mm, reading.stops_mm) if isinstance(reading, FeelerReading) else (reading.least_mm, reading.most_mm)
        )
        # Anywhere between is as likely: JCGM 100:2008 (GUM), 4.3.7.
        return (low + high) / 2, math.hypot((high - low) / math.sqrt(12), form.own_mm)
    values = np.array(reading.values if isinstance(reading, NumberReading) else reading.values_mm)
    mean, count = float(values.mean()), len(values)
    resolution = instrument.resolution_mm if instrument is not None else 0.0
    if isinstance(reading, NumberReading) and (reading.uncertainty is not None or instrument is None):
        if reading.uncertainty is None:
            raise UnusedError("It says neither an instrument nor a ±.")
        return mean, max(reading.uncertainty, 1e-12)
    scatter = _scatter(values) / math.sqrt(count)
    squashed = looks.squashed(reading, instrument)
    more = mean / (1 - squashed) - mean
    parts = (scatter, resolution / math.sqrt(12), form.own_mm, more / 2)
    return mean + more, max(math.hypot(*parts), _LEAST_MM)


def _scatter(values: Floats) -> float:
    """Return the standard deviation of repeats [mm], pooled with that of any hand where they are few."""
    hand, worth = practice().hand_mm, practice().hand_worth
    seen = float(np.sum((values - values.mean()) ** 2))
    return math.sqrt((seen + worth * hand**2) / (len(values) - 1 + worth))


def _without_plane(readings: Sequence[Reading]) -> list[tuple[Reading, str]]:
    """Return readings below straight edges whose plane they do not define, and why."""
    placements: dict[str, list[DepthReading]] = {}
    for one in readings:
        if isinstance(one, DepthReading):
            placements.setdefault(one.placement, []).append(one)
    found: list[tuple[Reading, str]] = []
    for name, members in placements.items():
        spread = np.linalg.svd(_plane(members), compute_uv=False)
        if len(members) < _PLANE or spread[-1] < _IN_LINE * spread[0]:
            count = f"{len(members)} place{'s' if len(members) > 1 else ''}"
            why = f"The straight edge “{name}” was read at {count}, not at three that lie in no line: its tilt is unknown."
            found += [(one, why) for one in members]
    return found


def _plane(members: Sequence[DepthReading]) -> Floats:
    """Return what the three unknowns of a plane add to each depth (n, 3)."""
    x, y = (np.array([getattr(one, name) for one in members]) for name in ("x_mm", "y_mm"))
    return np.stack([np.ones(len(x)), (x - x.mean()) / _TILTED, (y - y.mean()) / _TILTED], axis=1)


def _common(looks: Looks, readings: Sequence[Reading], instruments: dict[str, Instrument]) -> list[Common]:
    """Return everything that readings have in common."""
    found: dict[str, Floats] = {}

    def adds(label: str, n: int, by: float) -> None:
        if by:
            found.setdefault(label, np.zeros(len(readings)))[n] += by

    for n, one in enumerate(readings):
        instrument = instruments.get(one.instrument or "")
        if instrument is not None and not (isinstance(one, NumberReading) and one.uncertainty is not None):
            adds(f"scale of {instrument.label}", n, instrument.calibration_mm)
            if not isinstance(one, StepReading | FeelerReading | BesideReading):
                sitting = f", {one.sitting}" if one.sitting else ""
                adds(f"zero of {instrument.label}{sitting}", n, instrument.zero_mm)
        if isinstance(one, ImprintReading):
            adds("what pads recover from an imprint", n, looks.own_error(one))
        if isinstance(one, EdgeReading):
            adds("what pads lose by a set", n, -looks.own_error(one))
    known = [Common(label, slopes) for label, slopes in found.items()]
    placements = dict.fromkeys(one.placement for one in readings if isinstance(one, DepthReading))
    for name in placements:
        at = [n for n, one in enumerate(readings) if isinstance(one, DepthReading) and one.placement == name]
        plane = _plane([one for one in readings if isinstance(one, DepthReading) and one.placement == name])
        for k, word in enumerate(("height", "tilt along x", "tilt along y")):
            column = np.zeros(len(readings))
            column[at] = plane[:, k]
            known.append(Common(f"{word} of the straight edge {name}", column, free=True))
    return known
