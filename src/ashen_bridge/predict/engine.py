"""The one door to the physics: (project, build, operating point) → Prediction."""

from __future__ import annotations

import time
from collections.abc import Callable, Collection, Iterator
from dataclasses import dataclass, field, replace

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.checks import check_assembly
from ashen_bridge.geometry.scene import make_scene
from ashen_bridge.mechanics.assembly import assemble
from ashen_bridge.mechanics.equilibrium import equilibrium
from ashen_bridge.model.build import OperatingPoint
from ashen_bridge.model.errors import Cancelled
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.predict.course import Course
from ashen_bridge.predict.fingerprint import resolved_hash, shown_hash
from ashen_bridge.predict.joint_heat import joint_conductance, paste_coverage
from ashen_bridge.predict.mechanics_rows import JointMechanics
from ashen_bridge.predict.memory import Lead, Memory, Workings
from ashen_bridge.predict.mesh_error import Hottest, mesh_error
from ashen_bridge.predict.operating import Operating, Reached, come_about
from ashen_bridge.predict.patterns import Pattern, Watch
from ashen_bridge.predict.prediction import Fidelity, Prediction
from ashen_bridge.predict.readings import active_extremes
from ashen_bridge.predict.report import SensorRow
from ashen_bridge.predict.rows import AtRest, prediction_of, sensor_rows
from ashen_bridge.predict.transient import brought_to, course, unthrottled
from ashen_bridge.thermal.from_scene import heat_model
from ashen_bridge.thermal.names import Name
from ashen_bridge.thermal.parts import HeatModel
from ashen_bridge.thermal.perfect import perfected
from ashen_bridge.thermal.resolution import COARSE, FINE, Frame, Resolution, frame_of
from ashen_bridge.thermal.steady import Accuracy, HeatField, SteadySolver

# The coarse field is for first answers and differences: its tolerances cost 0.03 K at most (measured on the demo).
_CLOSE = {"coarse": 0.1, "fine": 0.01}
_ACCURACY = {"coarse": Accuracy(residual=1e-4, settled=0.6, energy=1e-2), "fine": Accuracy(residual=1e-6, settled=0.02)}


def _never() -> bool:
    return False


@dataclass
class Engine:
    """Computes predictions and keeps what makes the next one fast: meshes, hierarchies, last fields. One thread at a time."""

    fine: Resolution = FINE
    """What "fine" means to this engine; `refined` makes it finer still."""
    called_off: Callable[[], bool] = _never
    """Asked now and then while a field is solved; true ends it by `Cancelled`."""
    fields_solved: int = 0
    """How many heat fields have come about so far, for looking at."""
    memory: Memory = field(default_factory=Memory)
    workings: Workings = field(default_factory=Workings)
    _solvers: dict[str, SteadySolver] = field(default_factory=dict)
    _start: tuple[tuple[str, ...], Floats] | None = None
    _led: tuple[str, Lead] | None = None
    _fine: tuple[AtRest, OperatingPoint, Operating, Frame] | None = None
    _rest: tuple[Project, str | None, OperatingPoint | None, AtRest] | None = None

    def predict(
        self,
        project: Project,
        build_id: str | None = None,
        point_id: str | None = None,
        *,
        fidelity: Fidelity = "fine",
    ) -> Prediction:
        """Return the prediction of one build at one operating point; the same one is not computed twice.

        `fidelity` "coarse" answers at once on a coarse field; "fine" also estimates what refinement would still change.

        Raises
        ------
        AshenError
            In one sentence, what keeps this build from being computed.
        """
        begin = time.perf_counter()
        point = project.point(point_id)
        name = shown_hash(project, build_id, point.id)
        known = self.memory.get((name, fidelity))
        if known is not None:
            return known[0]
        half = self.rest(project, build_id, point)
        if self.called_off():
            raise Cancelled
        if fidelity == "coarse":
            found, frame = self.field(half, point, "coarse")
            lead, error = _lead(found, frame), None
        else:
            # The coarse field comes first in any case: the fine one starts from the powers and the inside air it came to.
            rough = self.memory.get((name, "coarse"))
            lead = rough[1] if rough is not None else _lead(*self.field(half, point, "coarse"))
            self._led = name, lead
            found, frame = self.field(half, point, "fine", start=lead.reached)
            error = mesh_error(_hottest(found.field, frame), lead.hottest, point.ambient_c.value, self.fine.halvings)
        prediction = prediction_of(half, found, fidelity, frame, sensor_rows(half, frame, found.field), error, begin)
        self.memory.keep((name, fidelity), prediction, lead)
        return prediction

    def shown(
        self, project: Project, build_id: str | None, point_id: str | None, perfect: Collection[Name] = ()
    ) -> tuple[tuple[SensorRow, ...], float]:
        """Return what the sensors show on the coarse field and the power made [W], without all the rest of a prediction.

        `perfect` names layers or ways that are taken as perfect (see `thermal.perfect`).
        """
        point = project.point(point_id)
        known = None if perfect else self.memory.get((shown_hash(project, build_id, point.id), "coarse"))
        if known is not None:
            return known[0].report.sensors, known[0].report.power_w
        half = self.rest(project, build_id, point)
        found, frame = self.field(half, point, "coarse", frozenset(perfect))
        return sensor_rows(half, frame, found.field), found.field.power

    def hottest(self, project: Project, build_id: str, point_id: str) -> tuple[dict[str, float], tuple[JointMechanics, ...]]:
        """Return how hot every component gets on the coarse field [°C], and the mechanical figures of all joints."""
        point = project.point(point_id)
        half = self.rest(project, build_id, point)
        name = shown_hash(project, build_id, point.id)
        if self._led is not None and self._led[0] == name:
            return dict(self._led[1].hottest), half.joints
        known = self.memory.get((name, "coarse"))
        if known is not None:
            return {row.id: row.t_max_c for row in known[0].report.components}, half.joints
        found, frame = self.field(half, point, "coarse")
        return dict(_hottest(found.field, frame)), half.joints

    def transient(
        self,
        project: Project,
        build_id: str | None,
        point_id: str | None,
        pattern: Pattern,
        *,
        fidelity: Fidelity = "coarse",
        watch: Watch | None = None,
        bring: bool = True,
    ) -> Course:
        """Return what the sensors show over time for a load pattern. Raises `AshenError` for what cannot be computed."""
        *_, (_, found) = self.over_time(project, build_id, point_id, pattern, fidelity=fidelity, watch=watch, bring=bring)
        assert found is not None  # the last one always is
        return found

    def over_time(
        self,
        project: Project,
        build_id: str | None,
        point_id: str | None,
        pattern: Pattern,
        *,
        fidelity: Fidelity = "coarse",
        watch: Watch | None = None,
        bring: bool = True,
    ) -> Iterator[tuple[float, Course | None]]:
        """Yield (progress, None) and at the end (1, course); see `transient`.

        On the coarse field rises are brought to what the fine one settles to, so that a course ends at what a prediction shows;
        unless that is not wanted (`bring`), as for differences between courses.
        """
        point = project.point(point_id)
        half = self.rest(project, build_id, point)
        frame = self._frame(half, fidelity)
        conductance = joint_conductance(half.scene, half.assembly, half.coordinates, half.coverage)

        def model(actual: OperatingPoint, inside: float | None) -> HeatModel:
            return heat_model(half.scene, frame, actual, conductance, inside)

        for progress, found in course(half.scene, point, model, frame, pattern, watch):
            if found is None:
                yield 0.9 * progress, None
            elif fidelity == "coarse" and bring:
                told = unthrottled(point)
                # Inside air is found again and again on the fine field, unless it starts from what the coarse one came to.
                lead = self.field(half, told, "coarse")[0].reached if told.inside != "given" else None
                fine, finer = self.field(half, told, "fine", start=lead)
                yield 1.0, brought_to(found, half.scene, fine.field, finer.slabs.active, point.ambient_c.value)
            else:
                yield 1.0, found

    def mechanics(self, project: Project, build_id: str | None = None) -> tuple[tuple[JointMechanics, ...], float]:
        """Return the mechanical figures of all joints and the total fastener force [N], without a temperature field."""
        half = self.rest(project, build_id, None)
        return half.joints, float(half.rest.fastener_force.sum())

    def rest(self, project: Project, build_id: str | None, point: OperatingPoint | None) -> AtRest:
        """Return the mechanical half of a prediction; the last one is kept, since the fine field follows the coarse one."""
        known = self._rest
        if known is None or known[0] is not project or known[1] != build_id or known[2] is not point:
            self._rest = known = project, build_id, point, self._rest_of(project, build_id, point)
        return known[3]

    def _rest_of(self, project: Project, build_id: str | None, point: OperatingPoint | None) -> AtRest:
        resolved = resolve(project, build_id)
        check_assembly(resolved)
        scene = make_scene(resolved)
        assembly = assemble(scene)
        # The last equilibrium is a good start for a changed pad; the result does not depend on it.
        alike = self._start is not None and (self._start[0], len(self._start[1])) == (assembly.plates, assembly.n_dof)
        start = self._start[1] if alike and self._start is not None else None
        rest = equilibrium(assembly, start=start)
        coordinates = np.asarray(rest.coordinates[0])
        self._start = assembly.plates, coordinates
        key = resolved_hash(resolved, point.model_dump(mode="json")) if point else ""
        return AtRest(resolved, scene, assembly, rest, paste_coverage(scene, assembly, coordinates), key)

    def _frame(self, half: AtRest, fidelity: Fidelity) -> Frame:
        return frame_of(half.scene, COARSE if fidelity == "coarse" else self.fine)

    def field(
        self,
        half: AtRest,
        point: OperatingPoint,
        fidelity: Fidelity,
        perfect: frozenset[Name] = frozenset(),
        start: Reached | None = None,
    ) -> tuple[Operating, Frame]:
        """Return what comes about on one field of a mechanical state, and the frame it was found on."""
        last = self._fine
        if fidelity == "fine" and not perfect and last is not None and last[0] is half and last[1] == point:
            return last[2], last[3]
        self.fields_solved += 1
        frame = self._frame(half, fidelity)
        conductance = joint_conductance(half.scene, half.assembly, half.coordinates, half.coverage)
        # A perfect layer makes a matrix quite unlike the others: it gets a solver of its own, so that theirs stay warm.
        solver = SteadySolver() if perfect else self._solvers.setdefault(fidelity, SteadySolver())

        def solve(actual: OperatingPoint, inside: float | None) -> HeatField:
            model = heat_model(half.scene, frame, actual, conductance, inside)
            model = perfected(model, perfect) if perfect else model
            return solver.solve(model, _ACCURACY[fidelity], cancelled=self.called_off)

        found = come_about(half.scene, point, frame.slabs.active, solve, close_k=_CLOSE[fidelity], start=start)
        if fidelity == "fine" and not perfect:
            self._fine = half, point, found, frame
        return found, frame


def refined(times: int) -> Engine:
    """Return an engine whose fine field has every interval and every layer halved some times: for looking at mesh error."""
    return Engine(replace(FINE, halvings=times))


def _lead(found: Operating, frame: Frame) -> Lead:
    return Lead(found.reached, _hottest(found.field, frame))


def _hottest(found: HeatField, frame: Frame) -> Hottest:
    return {name: active_extremes(found, name, layers)[0] for name, layers in frame.slabs.active.items()}


def predict(
    project: Project, build_id: str | None = None, point_id: str | None = None, *, fidelity: Fidelity = "fine"
) -> Prediction:
    """Return one prediction with an engine of its own; see `Engine.predict`."""
    return Engine().predict(project, build_id, point_id, fidelity=fidelity)
