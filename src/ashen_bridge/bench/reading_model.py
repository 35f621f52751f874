"""The readings of runs as the model gives them, by how far every uncertain number is off."""

from __future__ import annotations

from collections.abc import Generator, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.bench.readings import Readings
from ashen_bridge.model import paths
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.predict.report import SensorRow
from ashen_bridge.uncertainty.assumptions import Assumption, assumptions
from ashen_bridge.uncertainty.preparation import Preparation, preparing

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine
    from ashen_bridge.predict.prediction import Fidelity

Place = tuple[str, str]
"""A build and an operating point, by their ids."""


@dataclass(frozen=True)
class Ready:
    """One place prepared. `share` (n_number, n_prepared) of each of its numbers that is one of the readings'."""

    prepared: Preparation
    share: Floats

    def shown(self, x: Floats) -> tuple[dict[str, float], float] | None:
        """Return what sensors show [°C] and the power made [W] with numbers off by `x`; None where it does not come to rest."""
        drawn = x @ (self.share > 0)
        values, fine = self.prepared.temperatures(drawn[None], exact=True)
        if not fine.all():
            return None
        return dict(zip(self.prepared.sensors, values[0].tolist(), strict=True)), float(drawn @ self.prepared.power_slopes)

    def sloping(self, x: Floats, by: float) -> Iterator[tuple[float, tuple[dict[str, Floats], Floats] | None]]:
        """Yield (progress, None), and (1, slopes): what one standard uncertainty of every number does to sensors [K] and to the
        power [W], (n_number,) each.
        """
        parts = []
        for progress, part in self.prepared.sloping(x @ (self.share > 0), by):
            parts.append(part)
            yield progress, None
        found = self.share @ np.vstack(parts)
        yield 1.0, (dict(zip(self.prepared.sensors, found.T, strict=True)), self.share @ self.prepared.power_slopes)


@dataclass(frozen=True)
class ReadingModel:
    """Readings as the model gives them, by how many standard uncertainties each number is off.

    Places that are `ready` answer from their preparation, others one by one from the coarse field. `shift` (n,) brings the first,
    `offset` (n,) the second to what the fine field shows where it was asked last.
    """

    engine: Engine
    project: Project
    numbers: tuple[Assumption, ...]
    readings: Readings
    ready: Mapping[Place, Ready] = field(default_factory=dict)
    offset: Floats | float = 0.0
    shift: Floats | float = 0.0

    @property
    def places(self) -> tuple[Place, ...]:
        """Where something was read."""
        return tuple(dict.fromkeys((run.run.build, run.run.point) for run, _ in self.readings.what))

    def anchored(self, x: Floats) -> tuple[ReadingModel, Floats] | None:
        """Return the model brought to what the fine field shows at `x`, and its readings there (n,); None where `at` is."""
        try:
            moved = self.moved(x)
            fine = self._readings(moved, "fine")
            there = replace(self, offset=fine - self._readings(moved, "coarse"), shift=0.0)
        except AshenError:
            return None
        plain = there.at(x)
        return None if plain is None else (replace(there, shift=fine - plain), fine)

    def anchoring(self, x: Floats) -> Generator[float, None, tuple[ReadingModel, Floats] | None]:
        """Yield progress after every place, since nobody shall wait for more than one fine field; return what `anchored` does."""
        try:
            moved = self.moved(x)
            for n, place in enumerate(self.places):
                self.engine.predict(moved, *place)
                yield (n + 1) / (len(self.places) + 1)
        except AshenError:
            return None
        return self.anchored(x)

    def moved(self, x: Floats) -> Project:
        """Return the project with every number off by `x` of its standard uncertainties."""
        return paths.set_numbers(self.project, self.values(x))

    def values(self, x: Floats) -> dict[str, float]:
        """Return the numbers that are off by `x` of their standard uncertainties, by their paths."""
        return {
            path: one.value + step * one.uncertainty
            for one, step in zip(self.numbers, x, strict=True)
            if step != 0
            for path in one.paths
        }

    def at(self, x: Floats) -> Floats | None:
        """Return the readings (n,) at `x`; None where the device cannot be assembled, or does not come to rest."""
        slow = frozenset(self.places) - self.ready.keys()
        try:
            found = self._readings(self.moved(x), "coarse", slow) + self.offset if slow else np.zeros(len(self.readings.what))
        except AshenError:
            return None
        seen = {place: one.shown(x) for place, one in self.ready.items()}
        shift = np.broadcast_to(self.shift, found.shape)
        for n, (place, (_, sensor)) in enumerate(zip(self._where, self.readings.what, strict=True)):
            if place in seen:
                shown = seen[place]
                if shown is None:
                    return None
                found[n] = (shown[1] if sensor is None else shown[0][sensor]) + shift[n]
        return found

    def of(self, moved: Project) -> Floats:
        """Return the readings (n,) of another state of the project. Raises `AshenError` where it cannot be computed."""
        return self._readings(moved, "coarse") + self.offset

    def sloping(self, x: Floats, here: Floats, by: float = 1.0) -> Iterator[tuple[float, Floats | None]]:
        """Yield (progress, None), and (1, what one standard uncertainty of every number does to the readings (n, n_number)).

        By steps of `by` of them; zeros for one that cannot move. `here` (n,) are the readings at `x`.
        """
        seen = {}
        for at, (place, one) in enumerate(self.ready.items()):
            for progress, part in one.sloping(x, by):
                if part is not None:
                    seen[place] = part
                yield 0.9 * (at + progress) / len(self.ready), None
        rows = self._prepared_slopes(seen)
        slow = np.array([place not in self.ready for place in self._where])
        if slow.any():
            for n in range(len(self.numbers)):
                rows[slow, n] = self._slope(x, here, n, by)[slow]
                yield (n + 1) / (len(self.numbers) + 1), None
        yield 1.0, rows

    def _prepared_slopes(self, seen: Mapping[Place, tuple[dict[str, Floats], Floats]]) -> Floats:
        """Return the slopes (n, n_number) at places where they have been `seen`, zeros at others."""
        rows = np.zeros((len(self.readings.what), len(self.numbers)))
        for n, (place, (_, sensor)) in enumerate(zip(self._where, self.readings.what, strict=True)):
            if place in seen:
                rows[n] = seen[place][1] if sensor is None else seen[place][0][sensor]
        return rows

    def _slope(self, x: Floats, here: Floats, n: int, by: float) -> Floats:
        """Return what a number does to the readings (n,) at places that are not ready, zeros at others."""
        slow = frozenset(self.places) - self.ready.keys()
        for sign in (by, -by):
            step = x.copy()
            step[n] += sign
            try:
                there = self._readings(self.moved(step), "coarse", slow) + self.offset
            except AshenError:
                continue
            return np.asarray((there - here) / sign)
        return np.zeros(len(here))

    @property
    def _where(self) -> list[Place]:
        """Where each reading was taken."""
        return [(run.run.build, run.run.point) for run, _ in self.readings.what]

    def _readings(self, moved: Project, fidelity: Fidelity, only: frozenset[Place] | None = None) -> Floats:
        """Return what the field of some fidelity shows for the readings (n,), zeros for those of places not asked for."""
        seen = {where: self._seen(moved, *where, fidelity) for where in self.places if only is None or where in only}
        rows = zip(self._where, self.readings.what, strict=True)
        return np.array([_reading(*seen[where], sensor) if where in seen else 0.0 for where, (_, sensor) in rows])

    def _seen(self, moved: Project, build: str, point: str, fidelity: Fidelity) -> tuple[tuple[SensorRow, ...], float]:
        if fidelity == "coarse":
            return self.engine.shown(moved, build, point)
        report = self.engine.predict(moved, build, point).report
        return report.sensors, report.power_w


def _reading(sensors: tuple[SensorRow, ...], power_w: float, sensor: str | None) -> float:
    return power_w if sensor is None else next(row.value_c for row in sensors if row.id == sensor)


def readying(
    engine: Engine, project: Project, numbers: tuple[Assumption, ...], readings: Readings
) -> Iterator[tuple[float, ReadingModel | None]]:
    """Yield (progress, None) and at the end (1, the model of some readings), its places prepared.

    Where something throttles, temperatures do not answer as if it did not: such a place is asked one by one. Raises `AshenError`
    for what cannot be computed.
    """
    model = ReadingModel(engine, project, numbers, readings)
    ready: dict[Place, Ready] = {}
    for at, (build, point) in enumerate(model.places):
        told = engine.predict(project, build, point).report
        yield at / len(model.places), None
        if any(row.reason == "throttled" for row in told.held_back):
            continue
        wanted = {path for one in numbers for path in one.paths}
        listed = [one for one in assumptions(project, build, point) if one.uncertainty > 0]
        mine = [one for one in listed if wanted & set(one.paths)]
        # As good as all: then it is the preparation that everything else asks too.
        every = all(one.field == "ambient_c" for one in listed if one not in mine)
        for progress, found in preparing(engine, project, build, point, numbers=None if every else mine) if mine else ():
            yield (at + progress) / len(model.places), None
            if found is not None:
                ready[build, point] = Ready(found, _shares(numbers, found.numbers))
    yield 1.0, replace(model, ready=ready)


def _shares(numbers: tuple[Assumption, ...], prepared: tuple[Assumption, ...]) -> Floats:
    """Return which share of each prepared number's paths each of some numbers has (n_number, n_prepared)."""
    found = np.zeros((len(numbers), len(prepared)))
    of = {path: n for n, one in enumerate(numbers) for path in one.paths}
    for m, other in enumerate(prepared):
        for path in other.paths:
            if path in of:
                found[of[path], m] += 1 / len(other.paths)
    return found
