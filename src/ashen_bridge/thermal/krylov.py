"""Temperatures over time on a few fields: exact in time within them, taken anew where temperatures move properties.

C·dT/dt = −K(T)·T + b(T) is projected on a rational Krylov space: the start, the settled field, what power alone makes, and what
(C/γ + K)⁻¹·C/γ makes of them again and again for a few times γ: A. Ruhe, Linear Algebra and its Applications 58, 1984; for matrix
exponentials V. Druskin, L. Knizhnerman, SIAM Journal on Matrix Analysis 19, 1998. Within a stretch over which no body's mean
moves by more than some kelvins the properties are those in its middle, and the projected system is solved by its eigenvectors.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.sparse import csr_matrix
from scipy.sparse.linalg import SuperLU, splu

from ashen_bridge.arrays import Floats
from ashen_bridge.arrays.blas import one_blas_thread
from ashen_bridge.thermal.conductances import FieldState
from ashen_bridge.thermal.heating import Sources
from ashen_bridge.thermal.solver import make_pattern
from ashen_bridge.thermal.steady import system
from ashen_bridge.thermal.transient import Body, Moment, Stage

MOST_CELLS = 20_000  # beyond it factors cost more than steps save
_AGAIN = 4  # fields for each time γ and each seed
_SHORTEST, _PER_DECADE, _EVENLY = 1e-3, 10, 40  # first moment after a jump [s]; how densely moments lie
_MOST_MOMENTS = 2_000
_STRETCH_K = 4.0  # by how much a body's mean may move until properties are taken anew
_INDEPENDENT = 1e-9
SCALES = (0.1, 10.0, 900.0)  # [s]: what a die, a package and a whole device take


@dataclass(frozen=True)
class _Local:
    """The projected system about one field: its eigenvalues [1/s] and vectors, and what is pushed with and without power."""

    values: Floats
    vectors: Floats
    boundary: Floats
    power: Floats
    made: float

    def after(self, x: Floats, seconds: Floats, factor: float) -> Floats:
        """Return the coordinates (n_time, r) after some times [s] (n_time,) from x (r,)."""
        pushed = self.vectors.T @ (self.boundary + factor * self.power)
        begin, slow = self.vectors.T @ x, np.maximum(np.abs(self.values), 1e-12) * np.sign(self.values + 1e-300)
        end = pushed / slow
        return np.asarray((end + (begin - end) * np.exp(-np.outer(seconds, self.values))) @ self.vectors.T)


class KrylovMarch:
    """A body's temperatures over time by a few fields of its own; `error` is about what these leave out [K]."""

    def __init__(self, body: Body, start: Floats, times: Sequence[float]) -> None:
        self._body, self._model = body, body.model
        steady = body.steady
        self._state = FieldState(steady.grid, steady.edges, steady.films)
        self._pattern = make_pattern(steady.grid.n_cell, steady.edges.i, steady.edges.j)
        self._sources = Sources(steady.grid, self._model)
        extra = 0.0 if body.extra_capacity is None else body.extra_capacity
        self._capacity = steady.grid.capacity + extra
        self._reference = self._model.reference
        self._air = next((film.film.air for film in steady.films if film.film.inside), self._reference)
        self._start = start - self._reference
        with one_blas_thread():
            self._fields, early = self._spanned(steady.temperature - self._reference, times)
            self.error = self._unspanned(early, times)
        slabs = steady.grid.slabs.values()
        self._means = np.stack([one.volume @ self._fields[one.cells] / one.volume.sum() for one in slabs])

    @property
    def rank(self) -> int:
        """How many fields there are."""
        return int(self._fields.shape[1])

    def _spanned(self, settled: Floats, times: Sequence[float]) -> tuple[Floats, np.ndarray]:
        """Return the fields (n, r), orthonormal by what they store, and which of them are not the last of their kind."""
        # Half way, so that what moves with temperature is met from both sides.
        matrix, boundary, _, made, _ = self._full((self._start + settled) / 2 + self._reference)
        stored = self._capacity
        alone = _factors(matrix).solve(np.stack([made, boundary], axis=1))
        found = [_independent(np.hstack([np.stack([self._start, settled], axis=1), alone]), stored)]
        begun = found[0].shape[1]
        shifts = [(stored / seconds, _factors(matrix + _diagonal(stored / seconds, matrix))) for seconds in times]
        moving = [found[0]] * len(shifts)
        for _ in range(_AGAIN):
            begun = sum(one.shape[1] for one in found)
            for n, (diagonal, shifted) in enumerate(shifts):
                if not moving[n].shape[1]:
                    continue
                moving[n] = _independent(shifted.solve(diagonal[:, None] * moving[n]), stored, found)
                found.append(moving[n])
        fields = np.hstack(found)
        return fields, np.arange(fields.shape[1]) < begun

    def _unspanned(self, early: np.ndarray, times: Sequence[float]) -> float:
        """Return by how much the course of a power step changes for the last of the fields [K]: the error is less."""
        x = self._fields.T @ (self._capacity * self._start)
        whole = self._about(x, 1.0)
        held = (whole.vectors * whole.values) @ whole.vectors.T
        values, vectors = np.linalg.eigh(held[np.ix_(early, early)])
        part = _Local(values, vectors, whole.boundary[early], whole.power[early], whole.made)
        at = np.geomspace(times[0], 4 * times[-1], 8)
        some = np.zeros((len(at), len(x)))
        some[:, early] = part.after(x[early], at, 1.0)
        return float(np.abs(self._fields @ (whole.after(x, at, 1.0) - some).T).max(initial=0.0))

    def _full(self, temperature: Floats) -> tuple[csr_matrix, Floats, Floats, Floats, Floats]:
        """Return matrix [W/K], what air pushes [W], what leads to the air inside [W/K], power made [W] and its growth [W/K]."""
        films = self._state.films
        if self._body.inside is not None:
            films = self._body.inside.warmed(films, self._air)
            self._state.films = films
        outward = self._state.outward(temperature, [temperature[film.cells] for film in films])
        nothing = np.zeros(self._state.grid.n_cell)
        matrix, _ = system(self._pattern, self._state, self._model, nothing, temperature, outward)
        boundary, inward = nothing.copy(), nothing.copy()
        for film, g in zip(films, outward, strict=True):
            if self._body.inside is not None and film.film.inside:
                np.add.at(inward, film.cells, g)
            else:
                np.add.at(boundary, film.cells, g * (film.film.air - self._reference))
        made, slope = self._sources.at(temperature)
        return matrix, boundary, inward, np.asarray(made), np.asarray(slope) + nothing

    def _about(self, x: Floats, factor: float) -> _Local:
        """Return the projected system with properties as they are at the coordinates x (r,) and a share of the power."""
        rise, v = self._fields @ x, self._fields
        matrix, boundary, inward, made, slope = self._full(rise + self._reference)
        held = v.T @ (matrix @ v) - factor * (v.T @ (slope[:, None] * v))
        pushed = v.T @ boundary
        if self._body.inside is not None:
            # The air inside stores nothing: it is where what it takes up and what leaves by the vents are the same.
            inside, ambient = self._body.inside, self._body.inside.ambient - self._reference
            total = float(inward.sum()) + inside.vent
            across = v.T @ inward
            held -= np.outer(across, across) / total
            pushed = pushed + across * inside.vent * ambient / total
            self._air = self._reference + (float(across @ x) + inside.vent * ambient) / total
        values, vectors = np.linalg.eigh((held + held.T) / 2)
        return _Local(values, vectors, pushed, v.T @ (made - slope * rise), float(made.sum()))

    def march(self, stages: Sequence[Stage], stops: Sequence[float] = ()) -> Iterator[Moment]:
        """Yield the temperatures over time from the start through all stages."""
        yield Moment(0.0, self._start + self._reference, 0.0)
        x = self._fields.T @ (self._capacity * self._start)
        begin = 0.0
        evenly = max(min(_EVENLY, _MOST_MOMENTS // max(len(stages), 1) - 12), 4)
        for stage in stages:
            end = begin + stage.seconds
            times = _moments(stage.seconds, [stop - begin for stop in stops if begin < stop <= end], evenly)
            with one_blas_thread():
                for time, there, made in self._through(x, stage.factor, times):
                    x = there
                    yield Moment(begin + time, self._fields @ there + self._reference, stage.factor * made, self.error)
            begin = end

    def _through(self, x: Floats, factor: float, times: Floats) -> Iterator[tuple[float, Floats, float]]:
        """Yield time [s], coordinates (r,) and power [W] through a stage, stretch by stretch."""
        local, at, begun = self._about(x, factor), 0, 0.0
        while at < len(times):
            ahead = times[at:] - begun
            count = self._stretch(x, local.after(x, ahead, factor))
            middle = (x + local.after(x, ahead[count - 1 : count], factor)[0]) / 2
            local = self._about(middle, factor)
            found = local.after(x, ahead[:count], factor)
            for time, there in zip(times[at : at + count], found, strict=True):
                yield float(time), there, local.made
            x, begun, at = found[-1], float(times[at + count - 1]), at + count

    def _stretch(self, x: Floats, ahead: Floats) -> int:
        """Return over how many of the moments (n_time, r) no body's mean moves too far; at least one."""
        moved = np.abs((ahead - x) @ self._means.T).max(axis=1)
        far = np.flatnonzero(moved > _STRETCH_K)
        return max(int(far[0]), 1) if len(far) else len(ahead)


def scales_of(seconds: float) -> tuple[float, ...]:
    """Return the times γ [s] for a course of some length: from what a die takes to what the whole does."""
    longest = max(seconds, 1.0)
    return tuple(scale for scale in SCALES if scale < longest) or (0.1,)


def _moments(seconds: float, stops: Sequence[float], evenly: int) -> Floats:
    decades = max(np.log10(seconds / _SHORTEST), 0.3)
    early = np.geomspace(min(_SHORTEST, seconds), seconds, max(int(decades * _PER_DECADE * min(1.0, evenly / _EVENLY)), 4))
    found = np.unique(np.concatenate([early, np.linspace(0, seconds, evenly + 1)[1:], np.asarray(stops, dtype=float)]))
    kept = [float(found[-1])]
    exact = {round(stop, 9) for stop in (*stops, seconds)}
    for time in found[-2::-1]:
        # Moments closer than a part in a thousand are one, but for those that were asked for.
        if kept[-1] - time > 1e-3 * kept[-1] or round(float(time), 9) in exact:
            kept.append(float(time))
    return np.array([time for time in kept[::-1] if time > 0])


def _factors(matrix: csr_matrix) -> SuperLU:
    """Return the factors of a symmetric matrix, by an ordering of least degree and without pivoting."""
    return splu(matrix.tocsc(), permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True})


def _diagonal(values: Floats, matrix: csr_matrix) -> csr_matrix:
    n = matrix.shape[0]
    return csr_matrix((values, np.arange(n), np.arange(n + 1)), shape=(n, n))


def _independent(fields: Floats, stored: Floats, others: Sequence[Floats] = ()) -> Floats:
    """Return what fields (n, k) add to others, orthonormal by what they store; twice, for the digits (Kahan)."""
    weight = np.sqrt(stored + 1e-12 * stored.max())[:, None]
    scaled = fields * weight
    sizes = np.linalg.norm(scaled, axis=0)
    known = np.hstack([one * weight for one in others]) if others else np.zeros((len(fields), 0))
    for _ in range(2):
        scaled = scaled - known @ (known.T @ scaled)
    left = np.linalg.norm(scaled, axis=0)
    scaled = scaled[:, left > _INDEPENDENT * np.maximum(sizes, 1e-300)]
    if not scaled.shape[1]:
        return np.asarray(scaled)
    along, size, _ = np.linalg.svd(scaled / np.linalg.norm(scaled, axis=0), full_matrices=False)
    return np.asarray(along[:, size > _INDEPENDENT] / weight)
