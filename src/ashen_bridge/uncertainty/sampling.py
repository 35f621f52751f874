"""Temperatures with everything drawn that carries an uncertainty: exact mechanics and joints, heat by a reduced model.

The engine's coarse field is linearised once at its own temperatures; each number's answer is found by moving it; some
training samples are solved on the whole system, and all others on the basis these span. What is drawn shifts the prediction
that is shown, so its middle is the refined field's.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.mechanics.contact_state import Stacks
from ashen_bridge.mechanics.potential import Variants
from ashen_bridge.model import paths
from ashen_bridge.model.errors import AshenError, AssemblyError
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.predict.coarse_model import CoarseModel
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.readings import SensorCells
from ashen_bridge.predict.report import Report
from ashen_bridge.thermal.linearised import LinearSystem
from ashen_bridge.thermal.reduced import Change, ReducedModel, basis_of, change_between, scaled_change
from ashen_bridge.thermal.solve_system import SystemSolver
from ashen_bridge.uncertainty.assumptions import Assumption, assumptions
from ashen_bridge.uncertainty.directions import (
    Base,
    HeatChange,
    Moved,
    bend_of,
    bounds_of,
    factors,
    moved_by,
    moved_project,
    side_by_side,
    still,
)
from ashen_bridge.uncertainty.drawing import draw
from ashen_bridge.uncertainty.joint_links import JointLinks, Rests
from ashen_bridge.uncertainty.layers import DrawnLayers
from ashen_bridge.uncertainty.resting import at_rest
from ashen_bridge.uncertainty.sink_products import sink_products

TRAINING, SPREAD = 48, 1.3  # samples, and how much wider than life they are drawn
_CHUNK = 500
_COLDEST = -150.0  # [°C]
_WARMER, _FEEDBACK_PASSES = 10.0, 1  # [K] by which bodies are warmed to see what that changes
_LEFT = 0.05
_HOTTEST = 600.0  # [°C]: a sample beyond it has run away
_SEED, _TRAINING_SEED, _PLACE_SEED = 20_260_401, 7_411, 20_261


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


class Sampler:
    """Draws samples of one build at one operating point; what has been worked out serves every further draw."""

    def __init__(
        self,
        engine: Engine,
        project: Project,
        build_id: str | None = None,
        point_id: str | None = None,
        *,
        report: Report | None = None,
        at_once: bool = True,
    ) -> None:
        self.project = project
        build, point = project.build(build_id).id, project.point(point_id).id
        self.report = _unthrottled(engine, project, build, point, report)
        half = engine.rest(project, build, None)
        self._coarse = CoarseModel(half, project.point(point))
        self._system = self._coarse.system
        joints = JointLinks(half.scene, half.assembly, self._system, self._coarse.rises)
        self.base = Base(project, build, point, half.scene, half.assembly, half.coordinates, joints)
        listed = assumptions(project, build, point)
        self.numbers = tuple(one for one in listed if one.uncertainty > 0)
        if not self.numbers:
            raise AssemblyError("Nothing in this build carries an uncertainty, so there is nothing to draw.")
        self._layers = DrawnLayers(half.resolved, self.numbers)
        if at_once:
            for _ in self.prepare():
                pass

    def prepare(self) -> Iterator[float]:
        """Work out everything samples need, yielding how much of it is done (0 to 1)."""
        yield from self._find_directions()
        self._feedback = self._find_feedback()
        self._offsets = self._sensor_offsets()
        yield from self._train()

    def _find_directions(self) -> Iterator[float]:
        moved: list[Moved] = []
        changes: dict[int, HeatChange] = {}
        for n, number in enumerate(self.numbers):
            yield 0.7 * n / len(self.numbers)
            project, sign = moved_project(self.project, number)
            answer = still(self.base)
            if sign and number.plays.mechanics:
                answer = moved_by(self.base, number, project, sign)
            moved.append(answer)
            if sign and number.plays.heat:
                found = self._heat_change(number, project, sign)
                if found is not None:
                    changes[n] = found
        self._directions = side_by_side(self.base, moved, changes)

    def _heat_change(self, number: Assumption, project: Project, sign: float) -> HeatChange | None:
        system = self._moved_system(number, project)
        if system is None:
            return None
        before, after = self.base.joints.half_of(self._system), self.base.joints.half_of(system)
        halves = sign * (before / after - 1)
        up = self._change_to(system)
        if sign < 0:
            down = scaled_change(up, -1.0)
            return HeatChange(down, 0.0, halves, bounds_of(down, self._system.conductance, self._system.diagonal))
        bend = 0.0
        if number.plays.inverse:
            # A resistance acts by its inverse, and part of it in series with others: a second point shows how much.
            lower = dict.fromkeys(number.paths, number.value - 0.5 * number.uncertainty)
            half = self._moved_system(number, paths.set_numbers(self.project, lower))
            bend = bend_of(up, self._change_to(half), 0.5) if half is not None else 0.0
        bounds = bounds_of(up, self._system.conductance, self._system.diagonal)
        return HeatChange(up, bend, halves if np.abs(halves).max(initial=0.0) > 1e-9 else None, bounds)

    def _change_to(self, system: LinearSystem) -> Change:
        return _without(change_between(self._system, system), self.base.joints.links)

    def _moved_system(self, number: Assumption, project: Project) -> LinearSystem | None:
        try:
            if number.paths[0].startswith("points."):
                return self._coarse.at_point(project.point(self.base.point))
            return self._coarse.of_device(resolve(project, self.base.build))
        except AshenError:
            return None

    def _find_feedback(self) -> list[tuple[SensorCells, Change]]:
        """Return which bodies change the system by getting warmer: their cells, and the change per kelvin."""
        found = []
        for cells, system in self._coarse.warmer(_WARMER):
            change = scaled_change(self._change_to(system), 1 / _WARMER)
            if len(change.links) or np.abs(change.diagonal).max() > 1e-9:
                found.append((cells, change))
        return found

    def _sensor_offsets(self) -> Floats:
        """Return by how much each number moves a reading without moving any heat (n_number, n_sensor) [K]."""
        found = np.zeros((len(self.numbers), len(self._coarse.readings)))
        for n, number in enumerate(self.numbers):
            for k, reading in enumerate(self._coarse.readings):
                if f"device.sensors.{reading.id}.offset_k" in number.paths:
                    found[n, k] = number.uncertainty
        return found

    def _train(self) -> Iterator[float]:
        """Solve some samples on the whole system and make the model on the fields they span."""
        drawn = np.vstack([np.zeros((1, len(self.numbers))), draw(self.numbers, TRAINING, _TRAINING_SEED, SPREAD)])
        links, fine = self._links(drawn)
        acts = self._acts(drawn[fine])
        solver = SystemSolver(self._system)
        changes = [one.change for one in self._directions.changes]
        now = self._system.conductance[self.base.joints.links]
        fields = [self._coarse.rises]
        for act, link in zip(acts, links, strict=True):
            yield 0.75 + 0.25 * len(fields) / (len(acts) + 1)
            conductance, diagonal, right = _applied(self._system, changes, act)
            conductance[self.base.joints.links] += link - now
            fields.append(solver.solve(conductance, diagonal, right, self._coarse.rises))
        self._products = sink_products(self._coarse.sink_films, changes, self._coarse.reference)
        more = [one for product in self._products for one in product.changes(self._system.n)]
        feedback = [change for _, change in self._feedback]
        model = ReducedModel(self._system, basis_of(fields), [*changes, *more, *feedback], self.base.joints.links)
        means = [one.weights @ model.basis[one.cells] for one, _ in self._feedback if one.weights is not None]
        self._means = np.stack(means) if means else None
        self._model = model
        self._nominal = self._coarse.read(model.basis, self._solve(model, acts[:1], links[:1] - now))[0]

    def _solve(self, model: ReducedModel, acts: Floats, links: Floats) -> Floats:
        """Return the coefficients of some samples; what depends on temperature follows the bodies' mean temperatures."""
        acts = np.hstack([acts, *(product.missing(acts) for product in self._products)])
        warmer = np.zeros((len(acts), len(self._feedback)))
        found = model.solve(np.hstack([acts, warmer]), links)
        if self._means is None:
            return found
        at_rest = model.basis.T @ self._coarse.rises
        for _ in range(_FEEDBACK_PASSES):
            warmer = (found - at_rest) @ self._means.T
            found = model.solve(np.hstack([acts, warmer]), links)
        return found

    def _acts(self, drawn: Floats) -> Floats:
        d = self._directions
        acts = [one.acts(drawn[:, n]) for one, n in zip(d.changes, d.changed_by, strict=True)]
        return np.stack(acts, axis=1) if acts else np.zeros((len(drawn), 0))

    def _links(self, drawn: Floats) -> tuple[Floats, np.ndarray]:
        """Return the joints' links (s, n_link) [W/K] of those samples that come to rest, and which those are."""
        d = self._directions
        shift, stacks = drawn @ d.gap, Stacks(factors(drawn, d.scale), factors(drawn, d.firmness), drawn @ d.softness)
        variants = Variants(
            len(drawn),
            thickness_scale=np.asarray(stacks.scale),
            firmness=np.asarray(stacks.firmness),
            ramp_shift=drawn @ d.ramp_shift,
            ramp_scale=factors(drawn, d.ramp_scale),
        )
        coordinates, fine = at_rest(self.base, variants, shift, np.asarray(stacks.softness))
        drawn = drawn[fine]
        rests = Rests(coordinates, shift[fine], [drawn @ column for column in d.columns], stacks.rows(fine))
        volume = {
            key: np.maximum(1 + np.sum([more * drawn[:, n] for n, more in by.items()], axis=0), 0.0)
            for key, by in d.volumes.items()
        }
        coverage = self.base.joints.coverage(rests, volume)
        halves = np.ones((len(drawn), len(self.base.joints.links)))
        for one, n in zip(d.changes, d.changed_by, strict=True):
            if one.halves is not None:
                halves /= np.maximum(1 + drawn[:, [n]] * one.halves, 0.1)
        return self.base.joints.conductance(rests, coverage, self._layers.drawn(drawn), halves), fine

    def temperatures(self, drawn: Floats) -> tuple[Floats, np.ndarray]:
        """Return what the sensors show (s, n_sensor) [°C] in those samples that come to rest, and which those are."""
        values, fine = [], []
        now = self._system.conductance[self.base.joints.links]
        for at in range(0, len(drawn), _CHUNK):
            part = drawn[at : at + _CHUNK]
            links, kept = self._links(part)
            coefficients = self._solve(self._model, self._acts(part[kept]), links - now)
            shown = self._refined(self._coarse.read(self._model.basis, coefficients)) + part[kept] @ self._offsets
            if self._places.any():
                # Where a sensor sits is no number of the model: drawn beside them, alike for the same draw.
                place = np.random.default_rng([_PLACE_SEED, at, len(shown)])
                shown = shown + self._places * place.standard_normal(shown.shape)
            # Where leakage has run away the equations give nonsense: such a sample has no steady state.
            steady = np.isfinite(shown).all(axis=1) & (shown.max(axis=1) < _HOTTEST) & (shown.min(axis=1) > _COLDEST)
            kept[kept] = steady
            values.append(shown[steady])
            fine.append(kept)
        return np.concatenate(values), np.concatenate(fine)

    def _refined(self, coarse: Floats) -> Floats:
        """Return temperatures of the coarse field [°C] brought to the refined one: rises over ambient in its proportion."""
        ambient = self.report.ambient_c
        rise = self._nominal - ambient
        plain = np.abs(rise) < 1.0  # too little to make a proportion of
        ratio = np.where(plain, 1.0, (self.nominal - ambient) / np.where(plain, 1.0, rise))
        return np.asarray(self.nominal + ratio * (coarse - self._nominal))

    @cached_property
    def _places(self) -> Floats:
        """What comes of not knowing where each sensor sits [K]."""
        known = {row.id: row.place_k for row in self.report.sensors}
        return np.array([known[reading.id] for reading in self._coarse.readings])

    @property
    def nominal(self) -> Floats:
        """What the prediction shows for every sensor [°C]."""
        shown = {row.id: row.value_c for row in self.report.sensors}
        return np.array([shown[reading.id] for reading in self._coarse.readings])

    def draw(self, count: int, seed: int = _SEED) -> Samples:
        """Return `count` samples."""
        *_, last = self.draw_in_parts(count, seed)
        return last

    def draw_in_parts(self, count: int, seed: int = _SEED) -> Iterator[Samples]:
        """Yield what there is after every part of `count` samples; the last holds all of them."""
        drawn = draw(self.numbers, count, seed)
        values: list[Floats] = []
        fine: list[np.ndarray] = []
        for at in range(0, count, _CHUNK):
            shown, kept = self.temperatures(drawn[at : at + _CHUNK])
            values.append(shown)
            fine.append(kept)
            done = np.concatenate(fine)
            yield self._samples(np.concatenate(values), drawn[: len(done)], done)

    def _samples(self, values: Floats, drawn: Floats, fine: np.ndarray) -> Samples:
        rows = {row.id: row for row in self.report.sensors}
        ids = tuple(reading.id for reading in self._coarse.readings)
        return Samples(
            ids,
            tuple(rows[name].name for name in ids),
            tuple(rows[name].limit_c for name in ids),
            self.nominal,
            values,
            drawn[fine],
            self.numbers,
            self._model.rank,
            int((~fine).sum()),
        )


def _unthrottled(engine: Engine, project: Project, build: str, point: str, report: Report | None) -> Report:
    """Return the refined prediction without throttling: what is drawn shows how hot things would get."""
    if report is not None and not any(row.reason == "throttled" for row in report.held_back):
        return report
    told = paths.set_values(project, {f"points.{point}.throttle_at_c": {}})
    return engine.predict(told, build, point, fidelity="fine").report


def _without(change: Change, links: np.ndarray) -> Change:
    """Return a change without the joints' own links: those are worked out from sample to sample."""
    keep = ~np.isin(change.links, links)
    return Change(change.links[keep], change.conductance[keep], change.diagonal, change.right)


def _applied(system: LinearSystem, changes: Sequence[Change], acts: Floats) -> tuple[Floats, Floats, Floats]:
    # Several numbers may act on one link or film at once: together, too, they leave something of it.
    conductance, diagonal, right = system.conductance.copy(), system.diagonal.copy(), system.right.copy()
    for change, act in zip(changes, acts, strict=True):
        conductance[change.links] += act * change.conductance
        diagonal += act * change.diagonal
        right += act * change.right
    conductance = np.maximum(conductance, _LEFT * system.conductance)
    return conductance, np.where(system.diagonal > 0, np.maximum(diagonal, _LEFT * system.diagonal), diagonal), right
