"""One build at one operating point, prepared: what every uncertain number does to whatever a prediction shows.

Exact mechanics and joints, heat by a reduced model. The engine's coarse field is linearised at its own temperatures; each
number's answer is found by moving it in the device; then thousands of variants are some batched solves, and slopes a batch of
their own. What is moved shifts the prediction that is shown, so the middle is the refined field's.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Sequence
from functools import cached_property

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.arrays.blas import one_blas_thread
from ashen_bridge.geometry.checks import check_assembly
from ashen_bridge.geometry.scene import make_scene
from ashen_bridge.mechanics.assembly import assemble
from ashen_bridge.mechanics.equilibrium import equilibrium
from ashen_bridge.model import paths
from ashen_bridge.model.errors import AshenError, AssemblyError
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.predict.coarse_model import CoarseModel
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.fingerprint import shown_hash
from ashen_bridge.predict.joint_heat import paste_coverage
from ashen_bridge.predict.powers import powers_at
from ashen_bridge.predict.report import Report
from ashen_bridge.thermal.reduced import ReducedModel
from ashen_bridge.uncertainty.answering import answering
from ashen_bridge.uncertainty.assumptions import Assumption, assumptions
from ashen_bridge.uncertainty.directions import Base, Directions, moved_project
from ashen_bridge.uncertainty.drawing import draw
from ashen_bridge.uncertainty.heat_answers import HeatAnswers
from ashen_bridge.uncertainty.joint_links import JointLinks, Rests
from ashen_bridge.uncertainty.layers import DrawnLayers
from ashen_bridge.uncertainty.resting import at_rest
from ashen_bridge.uncertainty.sink_products import sink_products
from ashen_bridge.uncertainty.span import Trials, spanning
from ashen_bridge.uncertainty.variants import drawn_variants

TRIALS, SPREAD = 16, 1.3  # samples at which the basis is corrected, and how much wider than life they are drawn
_CHUNK = 250
_COLDEST, _HOTTEST = -150.0, 600.0  # [°C]: beyond it a sample has run away
_MANY = 400  # samples from which a smaller model pays
_SEEN, _SEEN_K = 160, 0.006  # draws that say which fields many samples need, and down to which root mean square [K]
_SLOPES = 40  # numbers whose slopes are taken together: a step that others need not wait for
_TRIAL_SEED, _PLACE_SEED = 7_411, 20_261


def preparing(
    engine: Engine,
    project: Project,
    build_id: str | None = None,
    point_id: str | None = None,
    report: Report | None = None,
    numbers: Sequence[Assumption] | None = None,
) -> Iterator[tuple[float, Preparation | None]]:
    """Yield (progress, None) and at the end (1, preparation); one that the engine has kept comes at once.

    `report` is the prediction whose middle it has, the refined one if none is given; `numbers` are those that may move, all of
    the build if none are given. Raises `AshenError` for what cannot be computed, or where nothing carries an uncertainty.
    """
    build, point = project.build(build_id).id, project.point(point_id).id
    listed = assumptions(project, build, point) if numbers is None else tuple(numbers)
    uncertain = tuple(one for one in listed if one.uncertainty > 0)
    if not uncertain:
        raise AssemblyError("Nothing in this build carries an uncertainty, so there is nothing to draw.")
    shown = _unthrottled(engine, project, build, point, report)
    said = [(one.paths, one.value, one.uncertainty, one.told, one.shares) for one in uncertain]
    told = hashlib.sha256(repr(said).encode()).hexdigest()
    key = f"{shown_hash(project, build, point)}{told}{shown.fidelity}"
    known = engine.workings.get(key)
    if not isinstance(known, Preparation):
        known = Preparation(engine, project, shown, uncertain)
        for progress in known.prepare():
            yield 0.99 * progress, None
        engine.workings.keep(key, known)
    yield 1.0, known


def prepared(
    engine: Engine,
    project: Project,
    build_id: str | None = None,
    point_id: str | None = None,
    report: Report | None = None,
    numbers: Sequence[Assumption] | None = None,
) -> Preparation:
    """Return one build at one operating point, prepared; see `preparing`."""
    *_, (_, found) = preparing(engine, project, build_id, point_id, report, numbers)
    assert found is not None  # the last one always is
    return found


class UnlikeError(AshenError, ValueError):
    """A device of another shape than the one that was prepared."""


class Preparation:
    """What has been worked out about one build at one operating point; every question about its numbers is answered from it."""

    def __init__(self, engine: Engine, project: Project, report: Report, numbers: tuple[Assumption, ...]) -> None:
        self.project, self.report, self.numbers = project, report, numbers
        build_id, point_id = report.build, report.point
        half = engine.rest(project, build_id, None)
        self._coarse = CoarseModel(half, project.point(point_id))
        self._system = self._coarse.system
        joints = JointLinks(half.scene, half.assembly, self._system, self._coarse.rises)
        self.base = Base(project, build_id, point_id, half.scene, half.assembly, half.coordinates, joints)
        self.stuck: frozenset[int] = frozenset()
        self._layers = DrawnLayers(half.resolved, self.numbers)

    def prepare(self) -> Iterator[float]:
        """Work out everything, yielding how much of it is done (0 to 1)."""
        self._answers = HeatAnswers(self.base, self._coarse)
        for progress, found in answering(self.base, self._answers, self.numbers):
            yield 0.7 * progress
            if found is not None:
                self._directions, self.stuck = found
        self._feedback = self._answers.feedback()
        self._offsets = self._sensor_offsets()
        self.power_slopes = np.array([self._power_slope(number) for number in self.numbers])
        yield 0.8
        self._reduce()
        yield 1.0

    @property
    def sensors(self) -> tuple[str, ...]:
        """Ids of what is read, in the order of `temperatures`: sensors, or all components where there are none."""
        return tuple(reading.id for reading in self._coarse.readings)

    @cached_property
    def names(self) -> dict[str, str]:
        """What each of them is called."""
        return {row.id: row.name for row in self.report.sensors} or {row.id: row.id for row in self.report.components}

    @property
    def held_back(self) -> bool:
        """Whether the operating point may throttle what is drawn as if nothing did."""
        return bool(self.project.point(self.base.point).throttle_at_c)

    @property
    def size(self) -> float:
        """About how much memory it takes [bytes]."""
        fields, numbers = self._system.n, len(self.numbers)
        points = len(self.base.assembly.weight) + sum(len(one.x) for one in self.base.joints.patches)
        return 8.0 * (fields * (self.rank + 2 * numbers) + 2 * numbers * (self.rank**2 + points))

    @property
    def directions(self) -> Directions:
        """What each number does to gaps, stacks and fasteners of the present state, see `base`."""
        return self._directions

    def slopes(self, at: Floats | None = None, by: float = 1.0) -> Floats:
        """Return what one standard uncertainty of every number does to every sensor (n_number, n_sensor) [K].

        By steps of `by` up and down from `at` (n_number,) [standard uncertainties]; where only one of them comes to rest by that
        alone, zeros where neither does.
        """
        return np.vstack([part for _, part in self.sloping(at, by)] or [np.zeros((0, len(self.sensors)))])

    def sloping(self, at: Floats | None = None, by: float = 1.0) -> Iterator[tuple[float, Floats]]:
        """Yield how far it is and the slopes of some numbers after others; see `slopes`."""
        count = len(self.numbers)
        for first in range(0, count, _SLOPES):
            some = np.arange(first, min(first + _SLOPES, count))
            yield (int(some[-1]) + 1) / count, self.slopes_of(np.zeros(count) if at is None else at, by, some)

    def slopes_of(self, here: Floats, by: float, some: np.ndarray) -> Floats:
        """Return the slopes of some numbers (n_some, n_sensor) [K]; see `slopes`."""
        count = len(some)
        steps = by * np.eye(len(self.numbers))[some]
        values, fine = self.temperatures(np.vstack([here, here + steps, here - steps]), exact=True)
        shown = np.full((2 * count + 1, values.shape[1]), np.nan)
        shown[fine] = values
        middle, up, down = shown[0], shown[1 : count + 1], shown[count + 1 :]
        both = np.where(np.isnan(up), (middle - down) / by, np.where(np.isnan(down), (up - middle) / by, (up - down) / (2 * by)))
        return np.asarray(np.nan_to_num(both))

    @property
    def rank(self) -> int:
        """Number of fields in the reduced model."""
        return self._model.rank

    def _power_slope(self, number: Assumption) -> float:
        """Return by how much more power is made for one standard uncertainty of a number [W], as far as it is told."""
        if not any(path.startswith("points.") or ".loss." in path for path in number.paths):
            return 0.0
        for sign in (1.0, -1.0):
            try:
                return sign * (self.power_in(moved_project(self.project, number, sign)) - self.power_in(self.project))
            except AshenError:
                continue
        return 0.0

    def power_in(self, project: Project) -> float:
        """Return the power that is told in a project [W]."""
        return sum(powers_at(make_scene(resolve(project, self.base.build)), project.point(self.base.point)).values())

    def _sensor_offsets(self) -> Floats:
        """Return by how much each number moves a reading without moving any heat (n_number, n_sensor) [K]."""
        found = np.zeros((len(self.numbers), len(self._coarse.readings)))
        for n, number in enumerate(self.numbers):
            for k, reading in enumerate(self._coarse.readings):
                if f"device.sensors.{reading.id}.offset_k" in number.paths:
                    found[n, k] = number.uncertainty
        return found

    def _reduce(self) -> None:
        """Make the reduced model."""
        drawn = np.vstack([np.zeros((1, len(self.numbers))), draw(self.numbers, TRIALS, _TRIAL_SEED, SPREAD)])
        links, fine = self._links(drawn)
        acts = self._acts(drawn[fine])
        joints, changes = self.base.joints, [one.change for one in self._directions.changes]
        basis = spanning(self._system, self._coarse.rises, changes, joints, Trials(acts, links))
        self._products = sink_products(self._coarse.sink_films, changes, self._coarse.reference)
        more = [one for product in self._products for one in product.changes(self._system.n)]
        feedback = [change for _, change in self._feedback]
        self._model = ReducedModel(self._system, basis, [*changes, *more, *feedback], joints.links, joints.groups)
        means = [one.weights @ basis[one.cells] for one, _ in self._feedback if one.weights is not None]
        self._means = np.stack(means) if means else None
        now = self._system.conductance[joints.links]
        self._nominal = self._coarse.read(basis, self._solve(acts[:1], links[:1] - now))[0]

    def _solve(self, acts: Floats, links: Floats, few: Floats | None = None) -> Floats:
        """Return the coefficients of some samples; what depends on temperature follows the bodies' mean temperatures.

        On `few` combinations of its fields (r, k), if they are given.
        """
        model = self._model if few is None else self._drawing[0]
        acts = np.hstack([acts, *(product.missing(acts) for product in self._products)])
        found = model.solve(acts, links)
        if self._means is None:
            return found
        means = self._means if few is None else self._means @ few
        return model.followed(found, (found - model.basis.T @ self._coarse.rises) @ means.T)

    @cached_property
    def _drawing(self) -> tuple[ReducedModel, Floats]:
        """The model for many samples, and its fields in those of the whole one (r, k).

        A field that each number may ask for by itself is rare among draws of all of them: what some hundred draws do not span by
        `_SEEN_K` is left out, and a sample costs a third.
        """
        drawn = np.vstack([np.zeros((1, len(self.numbers))), draw(self.numbers, _SEEN, _TRIAL_SEED, SPREAD)])
        links, fine = self._links(drawn)
        found = self._solve(self._acts(drawn[fine]), links - self._system.conductance[self.base.joints.links])
        middle, rest = found[0] / np.linalg.norm(found[0]), found[1:] - found[0]
        rest -= np.outer(rest @ middle, middle)
        sizes, along = np.linalg.eigh(rest.T @ rest / len(rest))
        kept = np.flatnonzero(sizes > _SEEN_K**2 * self._system.n)[::-1]
        few = np.asarray(np.linalg.qr(np.hstack([middle[:, None], along[:, kept]]))[0])
        return self._model.onto(few), few

    def in_project(self, project: Project) -> dict[str, float]:
        """Return what the sensors show [°C] in another project: the same plan, other numbers, materials or settings.

        As `temperatures` does, for what is no number that carries an uncertainty: a pad that does not touch, a screw left out.
        Raises `UnlikeError` for a device of another shape, `AshenError` for one that cannot be computed.
        """
        resolved = resolve(project, self.base.build)
        check_assembly(resolved)
        scene = make_scene(resolved)
        if scene.plan.facings != self.base.scene.plan.facings or scene.bodies.keys() != self.base.scene.bodies.keys():
            raise UnlikeError("The device has another shape.")
        assembly = assemble(scene, like=self.base.assembly.motion)
        rest = np.asarray(equilibrium(assembly, start=self.base.coordinates).coordinates[0])
        change, halves = self._answers.in_project(project)
        links = self.base.joints.conductance_in(scene, assembly, rest, paste_coverage(scene, assembly, rest), halves)
        now = self._system.conductance[self.base.joints.links]
        with one_blas_thread():
            found = self._model.solve_changed(change, (links - now)[None])
            if self._means is not None:
                found = self._model.followed(found, (found - self._model.basis.T @ self._coarse.rises) @ self._means.T)
        return dict(zip(self.sensors, self._refined(self._coarse.read(self._model.basis, found))[0].tolist(), strict=True))

    def _acts(self, drawn: Floats) -> Floats:
        d = self._directions
        acts = [one.acts(drawn[:, n]) for one, n in zip(d.changes, d.changed_by, strict=True)]
        return np.stack(acts, axis=1) if acts else np.zeros((len(drawn), 0))

    def _links(self, drawn: Floats) -> tuple[Floats, np.ndarray]:
        """Return the joints' links (s, n_link) [W/K] of those samples that come to rest, and which those are."""
        d = self._directions
        made = drawn_variants(self.base.assembly, d, drawn)
        coordinates, fine = at_rest(self.base, made.variants, made.shift, np.asarray(made.stacks.softness))
        drawn = drawn[fine]
        rests = Rests(coordinates, made.shift[fine], [drawn @ column for column in d.columns], made.stacks.rows(fine))
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

    def temperatures(self, drawn: Floats, exact: bool = False) -> tuple[Floats, np.ndarray]:
        """Return what the sensors show (s, n_sensor) [°C] in those samples that come to rest, and which those are.

        What comes of not knowing where a sensor sits is drawn too, unless they shall be `exact`.
        """
        values, fine = [], []
        now = self._system.conductance[self.base.joints.links]
        model, few = (self._model, None) if len(drawn) < _MANY or exact else self._drawing
        for at in range(0, len(drawn), _CHUNK):
            part = drawn[at : at + _CHUNK]
            links, kept = self._links(part)
            with one_blas_thread():
                coefficients = self._solve(self._acts(part[kept]), links - now, few)
            shown = self._refined(self._coarse.read(model.basis, coefficients)) + part[kept] @ self._offsets
            if self._places.any() and not exact:
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
        return np.array([known.get(one, 0.0) for one in self.sensors])

    @property
    def nominal(self) -> Floats:
        """What the prediction shows for every sensor [°C]."""
        shown = {row.id: row.t_max_c for row in self.report.components} | {row.id: row.value_c for row in self.report.sensors}
        return np.array([shown[one] for one in self.sensors])


def _unthrottled(engine: Engine, project: Project, build: str, point: str, report: Report | None) -> Report:
    """Return the refined prediction without throttling: what is drawn shows how hot things would get."""
    if report is not None and not any(row.reason == "throttled" for row in report.held_back):
        return report
    told = paths.set_values(project, {f"points.{point}.throttle_at_c": {}})
    return engine.predict(told, build, point, fidelity="fine").report
