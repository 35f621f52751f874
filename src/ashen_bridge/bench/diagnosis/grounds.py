"""The model about one state of its numbers: what readings leave to be explained there, along straight lines.

A device may be off its stated numbers by as much as these are uncertain, and far from them straight lines no longer hold. So what
"nothing is wrong" can explain, and what each fault can, is weighed about the numbers that are likeliest then: Laplace's
approximation of the evidence (D. J. C. MacKay, Neural Computation 4, 1992).
"""

from __future__ import annotations

from collections.abc import Generator
from dataclasses import dataclass, replace

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.arrays.blas import one_blas_thread
from ashen_bridge.bench.diagnosis.explaining import Misfit
from ashen_bridge.bench.reading_model import ReadingModel
from ashen_bridge.bench.readings import Readings
from ashen_bridge.estimate.descent import Goal, descending
from ashen_bridge.uncertainty.drawing import highest, lowest
from ashen_bridge.uncertainty.together import correlation_of

_FEW = 3  # steps beside a fault: it begins where nothing, or something like it, led
_FAR = 0.3  # standard uncertainties from which slopes are taken anew


@dataclass(frozen=True)
class Ground:
    """Numbers x (n_number,), the readings the model gives there (n_reading,), and their slopes (n_reading, n_number)."""

    x: Floats
    told: Floats
    slopes: Floats
    misfit: Misfit


@dataclass(frozen=True)
class Grounds:
    """What was read, and the model that is to explain it."""

    model: ReadingModel
    readings: Readings
    goal: Goal

    @classmethod
    def of(cls, model: ReadingModel, readings: Readings) -> Grounds:
        """Return the grounds of some readings."""
        numbers = model.numbers
        goal = Goal(readings.values, readings.covariance, lowest(numbers), highest(numbers), correlation_of(numbers))
        return cls(model, readings, goal)

    def at(self, x: Floats, told: Floats, slopes: Floats) -> Ground:
        """Return the ground at some numbers."""
        shared = slopes.T if self.goal.prior is None else self.goal.prior @ slopes.T
        with one_blas_thread():
            weight = np.asarray(np.linalg.inv(slopes @ shared + self.readings.covariance), dtype=np.float64)
            width = 0.5 * float(np.linalg.slogdet(weight)[1])
        return Ground(x, told, slopes, Misfit(self.readings.values - told + slopes @ x, weight, width))

    def likeliest(self, start: Ground) -> Generator[float, None, Ground]:
        """Yield progress and return the ground at the numbers that are likeliest if nothing is wrong."""
        x, told = yield from descending(self.model.at, self.goal, start.x, start.told, start.slopes)
        slopes = start.slopes
        if np.abs(x - start.x).max(initial=0.0) >= _FAR:
            for progress, found in self.model.sloping(x, told):
                slopes = slopes if found is None else found
                yield progress
        return self.at(x, told, slopes)

    def beside(self, response: Floats, start: Ground) -> Generator[float, None, Ground]:
        """Yield progress and return the ground at the numbers that are likeliest beside a fault.

        response : (n_reading,) by what it changes the readings.
        """
        goal = replace(self.goal, values=self.goal.values - response)
        x, told = yield from descending(self.model.at, goal, start.x, start.told, start.slopes, _FEW)
        return self.at(x, told, start.slopes)
