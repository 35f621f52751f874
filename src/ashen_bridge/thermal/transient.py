"""Temperatures over time: the same grid with its heat capacities, marched implicitly with steps as long as accuracy allows.

Each step is taken once whole and twice by halves with backward Euler; their difference measures the error, their
extrapolation is the result (second order, damps stiff parts). Conductances are those of the step's beginning.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.arrays.blas import one_blas_thread
from ashen_bridge.model.errors import AshenError, Cancelled
from ashen_bridge.thermal.conductances import FieldState, FilmCells
from ashen_bridge.thermal.heating import Sources
from ashen_bridge.thermal.parts import HeatModel
from ashen_bridge.thermal.solver import Preconditioner, make_pattern, solve_linear
from ashen_bridge.thermal.steady import HeatField, system
from ashen_bridge.words.numbers import short

MAX_STEPS = 4000
_RESIDUAL = 1e-6
_ALIKE = 0.3  # a hierarchy serves many steps, so that one that fits closely soon pays
_SHORTEST = 1e-6  # [s]


class MarchError(AshenError, ArithmeticError):
    """The march in time did not get on; carries the time it reached [s]."""

    def __init__(self, text: str, time_s: float) -> None:
        super().__init__(text)
        self.time_s = time_s


@dataclass(frozen=True)
class Stage:
    """Power for a while: `factor` times the model's heats for `seconds`."""

    seconds: float
    factor: float


@dataclass(frozen=True)
class InsideAir:
    """Air in a case that finds its own temperature at once (it stores next to nothing): ambient [K], venting [W/K]."""

    ambient: float
    vent: float

    def surplus(self, films: Sequence[FilmCells], outward: Sequence[Floats], temperature: Floats, air: float) -> float:
        """Return what it takes up from all faces more than venting takes away [W], if it were at `air` [K]."""
        given = sum(
            float(g @ (temperature[film.cells] - air)) for film, g in zip(films, outward, strict=True) if film.film.inside
        )
        return given - self.vent * (air - self.ambient)

    def warmed(self, films: Sequence[FilmCells], air: float) -> tuple[FilmCells, ...]:
        """Return the films with the inside air at `air` [K]."""
        return tuple(replace(one, film=replace(one.film, air=air)) if one.film.inside else one for one in films)


@dataclass(frozen=True)
class Moment:
    """One point in time [s]: temperatures (n_cell,) [K], the power made then [W], the error of the step there [K]."""

    time: float
    temperature: Floats
    power: float
    error: float = 0.0


@dataclass(frozen=True)
class Body:
    """What warms up: a model with any field of it, whose grid, links and films are used.

    extra_capacity : (n_cell,) [J/K] on top of the cells' own, for example a sink's fins. inside : the air in the case, if it
    finds its own temperature.
    """

    model: HeatModel
    steady: HeatField
    extra_capacity: Floats | None = None
    inside: InsideAir | None = None


@dataclass(frozen=True)
class Steps:
    """How steps are taken: error allowed in each [K], the longest [s], times that are met exactly [s]."""

    tolerance: float = 0.05
    longest: float = np.inf
    stops: tuple[float, ...] = ()


def march(
    body: Body, start: Floats, stages: Sequence[Stage], steps: Steps | None = None, cancelled: Callable[[], bool] = lambda: False
) -> Iterator[Moment]:
    """Yield the temperatures of a body over time, from `start` (n_cell,) [K] through all stages.

    Raises
    ------
    MarchError
        If more than `MAX_STEPS` steps would be needed.
    """
    steps, reference = steps or Steps(), body.model.reference
    tolerance, longest = steps.tolerance, steps.longest
    with one_blas_thread():
        stepper = _Stepper(body)
        rise = start - reference
        yield Moment(0.0, start, 0.0)
        time, step, taken, rate = 0.0, 1e-3, 0, np.zeros_like(rise)
        for stage in stages:
            end = time + stage.seconds
            step, rate = min(step, 1e-2, longest), np.zeros_like(rise)  # the power has jumped
            while end - time > 1e-9 * max(end, 1.0):
                if cancelled():
                    raise Cancelled
                taken += 1
                if taken > MAX_STEPS:
                    raise MarchError(f"The march needs more than {MAX_STEPS} steps; it came to {short(time, 3)} s.", time)
                ahead = min((stop for stop in steps.stops if stop > time + 1e-9 * max(end, 1.0)), default=np.inf)
                wanted = step
                step = min(step, end - time, longest, ahead - time)
                whole = stepper.step(rise, step, stage.factor, rise + step * rate)
                half = stepper.step(rise, step / 2, stage.factor, (rise + whole) / 2)
                half = stepper.step(half, step / 2, stage.factor, whole)
                error = float(np.abs(whole - half).max(initial=0.0))
                if error > tolerance and step > _SHORTEST:
                    step *= max(0.2, 0.8 * (tolerance / error) ** 0.5)
                    continue
                time += step
                rate = (whole - rise) / step  # where the next step's solution is sought first
                rise = 2 * half - whole
                yield Moment(time, rise + reference, stepper.power, error)
                cut_short = step < wanted
                step *= min(4.0, max(0.3, 0.9 * (tolerance / max(error, 1e-9)) ** 0.5))
                step = max(step, wanted) if cut_short and error < tolerance / 2 else step


class _Stepper:
    """One backward Euler step at a time; hierarchies are kept by how alike the matrices are."""

    def __init__(self, body: Body) -> None:
        self._model = model = body.model
        steady, extra = body.steady, body.extra_capacity
        self._state = FieldState(steady.grid, steady.edges, steady.films)
        self._pattern = make_pattern(steady.grid.n_cell, steady.edges.i, steady.edges.j)
        self._capacity = steady.grid.capacity + (extra if extra is not None else 0.0)
        self._sources = Sources(steady.grid, model)
        self._preconditioner = Preconditioner(_ALIKE)
        self._inside = body.inside
        self._air = next((film.film.air for film in steady.films if film.film.inside), model.reference)
        self.power = float(self._sources.at(steady.temperature)[0].sum())

    def step(self, rise: Floats, seconds: float, factor: float, guess: Floats) -> Floats:
        """Return the rises [K] after some seconds at a share of the power; `guess` is where they are sought first."""
        temperature = rise + self._model.reference
        surfaces = [temperature[film.cells] for film in self._state.films]
        outward = self._state.outward(temperature, surfaces)
        stored = self._capacity / seconds
        made = factor * self._sources.at(temperature)[0]
        self.power = float(made.sum())

        def solved(guess: Floats) -> Floats:
            matrix, right = system(self._pattern, self._state, self._model, made, temperature, outward, stored)
            return solve_linear(matrix, right + stored * rise, guess, self._preconditioner, _RESIDUAL)[0]

        inside = self._inside
        if inside is None:
            return solved(guess)
        # Within a step all is in proportion to the inside air's temperature, so two trials say where it comes to rest.
        trials: list[tuple[Floats, float]] = []
        for air in (self._air, self._air + 1.0):
            self._state.films = inside.warmed(self._state.films, air)
            found = solved(trials[-1][0] if trials else guess)
            trials.append((found, inside.surplus(self._state.films, outward, found + self._model.reference, air)))
        (first, much), (second, less) = trials
        share = much / (much - less)
        self._air += share
        self._state.films = inside.warmed(self._state.films, self._air)
        return first + share * (second - first)
