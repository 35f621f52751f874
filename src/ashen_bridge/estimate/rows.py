"""Readings as rows: what was read, how well, what was expected, and how that answers to the numbers."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.model.errors import AshenError


class EstimateError(AshenError, ValueError):
    """Readings from which nothing can be estimated."""


@dataclass(frozen=True)
class Rows:
    """Readings of numbers that were independent, each 1 in its standard uncertainty, or `prior` (n_number, n_number).

    values, start : (n_reading,) what was read and what was expected, each in its own unit.
    covariance : (n_reading, n_reading) of the readings, with everything they share.
    slopes : (n_reading, n_number) what one standard uncertainty of each number does to each reading.
    labels : where each reading comes from, in words.
    free : (n_number,) true for numbers of which nothing was known beforehand; `prior` says nothing of them.

    Raises `EstimateError` where the sizes do not go together, or readings have no uncertainty.
    """

    values: Floats
    covariance: Floats
    start: Floats
    slopes: Floats
    labels: tuple[str, ...] = ()
    prior: Floats | None = None
    free: np.ndarray | None = None

    def __post_init__(self) -> None:
        """Check sizes and that every reading has an uncertainty."""
        readings, numbers = self.slopes.shape
        square = self.covariance.shape == (readings, readings)
        if not square or self.values.shape != (readings,) or self.start.shape != (readings,):
            raise EstimateError("Readings, their covariance and their slopes are of different sizes.")
        if self.prior is not None and self.prior.shape != (numbers, numbers):
            raise EstimateError("Numbers and what they share are of different sizes.")
        finite = all(np.isfinite(one).all() for one in (self.values, self.covariance, self.start, self.slopes))
        if not finite:
            raise EstimateError("A reading is not a number.")
        if readings and np.linalg.eigvalsh(self.covariance)[0] <= 0:
            raise EstimateError("A reading has no uncertainty, or two readings are the same one.")

    @property
    def n_reading(self) -> int:
        """How many readings there are."""
        return len(self.values)

    @property
    def n_number(self) -> int:
        """How many numbers there are."""
        return int(self.slopes.shape[1])

    @property
    def prior_covariance(self) -> Floats:
        """The covariance of the numbers beforehand (n_number, n_number)."""
        return np.eye(self.n_number) if self.prior is None else self.prior

    def label(self, n: int) -> str:
        """Return where a reading comes from, in words."""
        return self.labels[n] if n < len(self.labels) else f"reading {n + 1}"

    def without(self, n: int) -> Rows:
        """Return the rows without one reading."""
        kept = np.arange(self.n_reading) != n
        labels = tuple(label for k, label in enumerate(self.labels) if k != n)
        covariance = self.covariance[np.ix_(kept, kept)]
        return Rows(self.values[kept], covariance, self.start[kept], self.slopes[kept], labels, self.prior, self.free)
