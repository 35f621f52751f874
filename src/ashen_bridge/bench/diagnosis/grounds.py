"""The model about one state of its numbers: what readings leave to be explained there, along straight lines.

A device may be off its stated numbers by as much as these are uncertain, and far from them straight lines no longer hold. So what
"nothing is wrong" can explain, and what each fault can, is weighed about the numbers that are likeliest then: Laplace's
approximation of the evidence (D. J. C. MacKay, Neural Computation 4, 1992).
"""

from __future__ import annotations

from collections.abc import Generator
from dataclasses import dataclass, replace

import numpy as np
from scipy.stats import chi2

from ashen_bridge.arrays import Floats
from ashen_bridge.arrays.blas import one_blas_thread
from ashen_bridge.bench.diagnosis.explaining import Misfit
from ashen_bridge.bench.reading_model import ReadingModel
from ashen_bridge.bench.readings import Readings
from ashen_bridge.estimate.descent import ROUNDS, Goal, descending
from ashen_bridge.uncertainty.drawing import highest, lowest
from ashen_bridge.uncertainty.together import correlation_of

_FEW = 3  # steps beside a fault: it begins where nothing, or something like it, led
_FAR = 0.3  # standard uncertainties from which slopes are taken anew
_MUCH, _ASKED = 1.0, 3  # kelvin, or watts, that readings move before the fine field is asked again; descents at most
_STEPS = (1.0, 0.5, 0.3)  # standard uncertainties by which slopes are taken, turn by turn
_EXPLAINED = 0.05  # chance of so much misfit from which nothing is left to explain


@dataclass(frozen=True)
class Ground:
    """Numbers x (n_number,), the readings the model gives there (n_reading,), and their slopes (n_reading, n_number).

    model : brought to the fine field near there.
    """

    x: Floats
    told: Floats
    slopes: Floats
    misfit: Misfit
    model: ReadingModel


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

    def at(self, x: Floats, told: Floats, slopes: Floats, model: ReadingModel) -> Ground:
        """Return the ground at some numbers."""
        shared = slopes.T if self.goal.prior is None else self.goal.prior @ slopes.T
        with one_blas_thread():
            weight = np.asarray(np.linalg.inv(slopes @ shared + self.readings.covariance), dtype=np.float64)
            width = 0.5 * float(np.linalg.slogdet(weight)[1])
        return Ground(x, told, slopes, Misfit(self.readings.values - told + slopes @ x, weight, width), model)

    def likeliest(self, start: Ground) -> Generator[float, None, Ground]:
        """Yield progress and return the ground at the numbers that are likeliest if nothing is wrong.

        Where that does not explain the readings the way may have led past a cliff: then it goes on by shorter steps.
        """
        here = start
        for by in _STEPS:
            found = yield from self._led(self.goal, here, ROUNDS)
            if np.abs(found.x - here.x).max(initial=0.0) < _FAR:
                return found
            slopes = found.slopes
            for progress, sloped in found.model.sloping(found.x, found.told, by):
                slopes = slopes if sloped is None else sloped
                yield progress
            here = self.at(found.x, found.told, slopes, found.model)
            if chi2.sf(here.misfit.none, len(self.readings.values)) > _EXPLAINED:
                break
        return here

    def beside(self, response: Floats, start: Ground, anchored: bool = False) -> Generator[float, None, Ground]:
        """Yield progress and return the ground at the numbers that are likeliest beside a fault.

        response : (n_reading,) by what it changes the readings. `anchored` to the fine field, which takes its time.
        """
        goal = replace(self.goal, values=self.goal.values - response)
        return (yield from self._led(goal, start, _FEW, _ASKED if anchored else 1))

    def _led(self, goal: Goal, start: Ground, rounds: int, asked: int = _ASKED) -> Generator[float, None, Ground]:
        """Yield progress and return the ground that a descent leads to, the fine field asked anew where that is far away."""
        x, told, model = start.x, start.told, start.model
        near = told
        for turn in range(asked):
            x, told = yield from descending(model.at, goal, x, told, start.slopes, rounds)
            if turn + 1 == asked or np.abs(told - near).max(initial=0.0) < _MUCH:
                break
            anchored = yield from model.anchoring(x)
            if anchored is None:
                break
            model, told = anchored
            near = told
        return self.at(x, told, start.slopes, model)
