"""Steady temperature field of a heat model: linear solves inside a fixed-point loop over everything that depends on T."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
from scipy.sparse import csr_matrix

from ashen_bridge.arrays import Floats
from ashen_bridge.arrays.blas import one_blas_thread
from ashen_bridge.model.errors import AshenError, AssemblyError, Cancelled
from ashen_bridge.thermal.columns import ColumnGrid, Edges, make_grid
from ashen_bridge.thermal.conductances import ContactCells, FieldState, FilmCells, all_edges, film_cells
from ashen_bridge.thermal.heating import Sources, check_powers, made_by_slab
from ashen_bridge.thermal.parts import HeatModel, Link
from ashen_bridge.thermal.solver import HeatSolverError, Pattern, Preconditioner, make_pattern, solve_linear
from ashen_bridge.words.numbers import short

MAX_PASSES = 40
RUNAWAY = (
    "The heat runs away: the leakage power grows faster with temperature than heat can leave, so there is no steady state. "
    "Lower the power or cool better."
)
_FINEST = 1e-12
_GAIN_PASSES = 8  # of a power iteration, ended earlier where it has come close
_GAIN_RESIDUAL, _GAIN_CLOSE = 1e-3, 5e-3
# Relative residual of the first linear solve, and by how much further each later one goes: properties follow the temperature
# by about a fiftieth of what is left per pass, so that solving more exactly in between gains nothing.
_LOOSE, _FURTHER = 1e-2, 100


class RunawayError(AshenError, ArithmeticError):
    """Power grows faster with temperature than heat can leave: there is no steady state."""


class NotSettledError(AshenError, ArithmeticError):
    """The loop over temperature-dependent properties did not settle."""


@dataclass(frozen=True)
class Accuracy:
    """When a field is good enough.

    residual : relative residual of the last linear solve. settled : change between passes [K]; what is left to change is
    about a tenth of it. energy : heat made minus heat leaving, relative.
    """

    residual: float = 1e-7
    settled: float = 1.5e-3
    energy: float = 5e-7


@dataclass(frozen=True)
class HeatField:
    """Result of a steady solve.

    temperature : (n_cell,) [K]. film_power : heat leaving by each film [W], recomputed from temperatures.
    made : power by slab as it came about [W]. links : the model's heat pipes.
    energy_rel : heat made minus heat leaving, over heat made (or over the heat passing through, if none is made).
    leak_gain : by how much power that grows with temperature would grow again, per watt more of it: at 1 heat runs away.
    """

    grid: ColumnGrid
    temperature: Floats
    edges: Edges
    conductance: Floats
    half: tuple[Floats, Floats]  # conductance of the half cells at both ends of every edge [W/K]
    contacts: tuple[ContactCells, ...]
    films: tuple[FilmCells, ...]
    film_power: Floats
    power: float
    energy_rel: float
    iterations: int
    passes: int
    made: dict[str, float] = field(default_factory=dict)
    links: tuple[Link, ...] = ()
    leak_gain: float = 0.0


@dataclass(frozen=True)
class _Settled:
    temperature: Floats
    film_power: Floats
    power: float
    energy_rel: float
    iterations: int
    passes: int


class _Task(NamedTuple):
    """All that one field is solved from."""

    model: HeatModel
    source: Sources
    state: FieldState
    pattern: Pattern
    accuracy: Accuracy
    cancelled: Callable[[], bool]


@dataclass
class SteadySolver:
    """Keeps grid, pattern, hierarchy and last field of one mesh, so that a changed joint costs only a warm solve."""

    grid: ColumnGrid | None = None
    _pattern_key: bytes = b""
    _pattern: Pattern | None = None
    _preconditioner: Preconditioner = field(default_factory=Preconditioner)
    _last: Floats | None = None
    _feedback: tuple[Floats, float] | None = None

    def solve(
        self, model: HeatModel, accuracy: Accuracy | None = None, *, cancelled: Callable[[], bool] = lambda: False
    ) -> HeatField:
        """Return the steady field of `model`.

        Raises
        ------
        AssemblyError
            If heat has no way out of some body.
        NotSettledError, HeatSolverError
            If the loop or the linear solver does not converge.
        """
        with one_blas_thread():
            return self._solve(model, accuracy or Accuracy(), cancelled)

    def _solve(self, model: HeatModel, accuracy: Accuracy, cancelled: Callable[[], bool]) -> HeatField:
        grid = self._grid_for(model)
        edges, contacts = all_edges(grid, model)
        films = tuple(film_cells(grid, film) for film in model.films if film.region)
        _check_way_out(grid, edges, films)
        state = FieldState(grid, edges, films)
        pattern = self._pattern_for(grid, edges)
        source = Sources(grid, model)
        task = _Task(model, source, state, pattern, accuracy, cancelled)
        try:
            settled, gain = self._stable(task)
        except RunawayError:
            if self._last is None:
                raise
            self._last = None  # a hot start may lie beyond the point of no return where a cold one does not
            settled, gain = self._stable(task)
        self._last = settled.temperature - model.reference
        made = made_by_slab(grid, source.at(settled.temperature)[0])
        if source.leaks:
            check_powers(made)
        return HeatField(
            grid,
            settled.temperature,
            edges,
            state.conductance(settled.temperature),
            state.half(settled.temperature),
            contacts,
            films,
            settled.film_power,
            settled.power,
            settled.energy_rel,
            settled.iterations,
            settled.passes,
            made,
            model.links,
            gain,
        )

    def _stable(self, task: _Task) -> tuple[_Settled, float]:
        """Return the settled field and its gain. Raises `RunawayError` for a balance that a little warmth would upset."""
        settled = self._settle(task)
        source = task.source
        gain = self._gain(task.state, task.pattern, task.model, source, settled.temperature) if source.leaks else 0.0
        if gain >= 1.0:
            raise RunawayError(RUNAWAY)
        return settled, gain

    def _gain(self, state: FieldState, pattern: Pattern, model: HeatModel, source: Sources, temperature: Floats) -> float:
        """Return how much of a little more power comes back as still more: the greatest x in P′·v = (1/x)·K·v.

        K is what leads heat away and P′ by how much power grows per kelvin; from 1 on there is no stable state.
        """
        _, slope = source.at(temperature)
        surface = [temperature[film.cells] for film in state.films]
        matrix, _ = system(pattern, state, model, np.zeros(state.grid.n_cell), temperature, state.outward(temperature, surface))
        # The shape of the feedback hardly changes from one state to the next, so the last one is a good start.
        vector, gain = self._feedback or (np.where(np.asarray(slope) > 0, 1.0, 0.0), 0.0)
        for _ in range(_GAIN_PASSES):
            pushed = slope * vector
            if not np.any(pushed):
                return 0.0
            answer, _ = solve_linear(matrix, pushed, gain * vector, self._preconditioner, _GAIN_RESIDUAL)
            before, gain = gain, float(pushed @ answer / (pushed @ vector))
            vector = answer / np.abs(answer).max()
            if abs(gain - before) < _GAIN_CLOSE * gain:
                break
        self._feedback = vector, gain
        return gain

    def _settle(self, task: _Task) -> _Settled:
        """Solve again and again with everything that depends on temperature brought up to date, until nothing moves."""
        model, source, state, pattern, accuracy, cancelled = task
        rise = self._last if self._last is not None else np.zeros(state.grid.n_cell)
        temperature = rise + model.reference
        surface = [temperature[film.cells] for film in state.films]
        target = max(accuracy.residual, _LOOSE) if state.nonlinear or source.leaks else accuracy.residual
        iterations = 0
        change = np.inf
        nonlinear = state.nonlinear or source.leaks
        for passes in range(1, MAX_PASSES + 1):
            if cancelled():
                raise Cancelled
            outward = state.outward(temperature, surface)
            made, slope = source.at(temperature)
            matrix, right = system(pattern, state, model, made - slope * rise, temperature, outward, -slope)
            if source.leaks and matrix.diagonal().min() <= 0:
                raise RunawayError(RUNAWAY)
            try:
                rise, count = solve_linear(matrix, right, rise, self._preconditioner, target)
            except HeatSolverError:
                if source.leaks:
                    raise RunawayError(RUNAWAY) from None
                raise
            if source.leaks and not _believable(rise, model):
                check_powers(made_by_slab(state.grid, made))
                raise RunawayError(RUNAWAY)
            iterations += count
            change = float(np.abs(rise + model.reference - temperature).max(initial=0.0))
            temperature = rise + model.reference
            surface = [state.surface(film, temperature, g) for film, g in zip(state.films, outward, strict=True)]
            if target <= accuracy.residual and (change < accuracy.settled or not nonlinear):
                found = _balanced(state, source.at(temperature)[0], temperature, surface, iterations, passes)
                if found.energy_rel < accuracy.energy or not nonlinear:
                    return found
                # Settled, but what leaves is not yet what is made: where much heat only passes through, solve more exactly.
                target = max(_FINEST, target / 10)
            else:
                target = max(min(target, accuracy.residual), target / _FURTHER)
        if source.leaks:
            raise RunawayError(RUNAWAY)
        raise NotSettledError(f"The temperatures did not settle within {MAX_PASSES} passes (last change {short(change, 2)} K).")

    def _grid_for(self, model: HeatModel) -> ColumnGrid:
        known = self.grid
        if known is None or known.lines is not model.lines or [c.slab for c in known.slabs.values()] != [*model.slabs]:
            before = known
            self.grid = known = make_grid(model.slabs, model.lines)
            if before is None or known.n_cell != before.n_cell:
                self._last = self._feedback = None
                self._preconditioner = Preconditioner()
        return known

    def _pattern_for(self, grid: ColumnGrid, edges: Edges) -> Pattern:
        key = edges.i.tobytes() + edges.j.tobytes()
        if self._pattern is None or key != self._pattern_key:
            self._pattern = make_pattern(grid.n_cell, edges.i, edges.j)
            self._pattern_key = key
            self._preconditioner = Preconditioner()
        return self._pattern


def system(
    pattern: Pattern,
    state: FieldState,
    model: HeatModel,
    source: Floats,
    temperature: Floats,
    outward: list[Floats],
    stored: Floats | float = 0.0,
) -> tuple[csr_matrix, Floats]:
    """Return matrix [W/K] and right side [W] of the rises over the model's reference, at present temperatures [K].

    `outward` is what each film lets through [W/K]; `stored` [W/K] is added to the diagonal (heat capacity over a time step).
    """
    diagonal, right = np.full(state.grid.n_cell, 0.0) + stored, source.copy()
    for film, g in zip(state.films, outward, strict=True):
        np.add.at(diagonal, film.cells, g)
        np.add.at(right, film.cells, g * (film.film.air - model.reference))
    return pattern.matrix(state.conductance(temperature), diagonal, state.edges.i, state.edges.j), right


def _balanced(
    state: FieldState, source: Floats, temperature: Floats, surface: list[Floats], iterations: int, passes: int
) -> _Settled:
    """Return the settled field with the heat that leaves recomputed from its temperatures alone."""
    outward = state.outward(temperature, surface)
    left = np.array(
        [float((g * (temperature[film.cells] - film.film.air)).sum()) for film, g in zip(state.films, outward, strict=True)]
    )
    power = float(source.sum())
    scale = max(power, float(np.abs(left).sum()) / 2, 1e-9)
    return _Settled(temperature, left, power, abs(power - float(left.sum())) / scale, iterations, passes)


def _believable(rise: Floats, model: HeatModel) -> bool:
    """Return whether a field is one at all: past the point of no return the equations give nonsense, colder than all air."""
    coldest = min((film.air for film in model.films), default=model.reference) - model.reference
    return bool(np.isfinite(rise).all() and rise.min() > coldest - 5.0)


def _check_way_out(grid: ColumnGrid, edges: Edges, films: tuple[FilmCells, ...]) -> None:
    """Raise for a body from which no chain of links leads to air."""
    names = list(grid.slabs)
    owner = (
        np.concatenate([np.full(cells.n_cell, at) for at, cells in enumerate(grid.slabs.values())]) if names else np.empty(0, int)
    )
    reached = {
        names[owner[film.cells[0]]]
        for film in films
        if len(film.cells) and (film.film.coefficient > 0 or film.film.emissivity > 0 or film.film.law)
    }
    crossing = np.flatnonzero((owner[edges.i] != owner[edges.j]) & ((edges.gap > 0) | (edges.radiation > 0)))
    pairs = {
        (names[a], names[b])
        for a, b in set(zip(owner[edges.i[crossing]].tolist(), owner[edges.j[crossing]].tolist(), strict=True))
    }
    while True:
        more = {b for a, b in pairs if a in reached} | {a for a, b in pairs if b in reached}
        if more <= reached:
            break
        reached |= more
    for name in names:
        if name not in reached and grid.slabs[name].n_cell:
            raise AssemblyError(f"Heat has no way out of '{name}': give it a joint, a sink or air to lose heat to.", (name,))
