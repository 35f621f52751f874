"""The one door to the physics: (project, build, operating point) → Prediction."""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from ashen_bridge.geometry.checks import check_assembly
from ashen_bridge.geometry.region import Floats
from ashen_bridge.geometry.scene import Scene, make_scene
from ashen_bridge.mechanics.assembly import Assembly, assemble
from ashen_bridge.mechanics.equilibrium import Equilibrium, equilibrium
from ashen_bridge.model.bodies import Component, Plate, Side
from ashen_bridge.model.build import OperatingPoint
from ashen_bridge.model.errors import AssemblyError, Cancelled
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import ResolvedBuild, resolve
from ashen_bridge.predict.descent import DescentTracer
from ashen_bridge.predict.fingerprint import resolved_hash
from ashen_bridge.predict.joint_heat import joint_conductance, paste_coverage
from ashen_bridge.predict.maps import Maps
from ashen_bridge.predict.mechanics_rows import JointMechanics, fastener_rows, joint_maps, joint_mechanics, poses
from ashen_bridge.predict.prediction import Fidelity, Prediction
from ashen_bridge.predict.readings import active_extremes, read_contact, read_sensor, slab_mean
from ashen_bridge.predict.report import (
    Balance,
    ComponentRow,
    JointRow,
    Mesh,
    PlateRow,
    Report,
    SensorRow,
    WayRow,
)
from ashen_bridge.thermal.from_scene import COARSE, FINE, KELVIN, Frame, Resolution, frame_of, heat_model
from ashen_bridge.thermal.steady import Accuracy, HeatField, SteadySolver

_RESOLUTION: dict[str, Resolution] = {"coarse": COARSE, "fine": FINE}
_ACCURACY = {"coarse": Accuracy(residual=1e-6, settled=0.15, energy=1e-4), "fine": Accuracy()}


@dataclass(frozen=True)
class _Rest:
    """The mechanical half of a prediction."""

    resolved: ResolvedBuild
    scene: Scene
    assembly: Assembly
    rest: Equilibrium
    coverage: dict[tuple[str, str], float]

    @property
    def coordinates(self) -> Floats:
        return np.asarray(self.rest.coordinates[0])


@dataclass
class Engine:
    """Computes predictions and keeps what makes the next one fast: meshes, hierarchies, last fields. One thread at a time."""

    _solvers: dict[str, SteadySolver] = field(default_factory=dict)
    _start: tuple[tuple[str, ...], Floats] | None = None
    _coarse: tuple[str, tuple[SensorRow, ...], tuple[int, int]] | None = None

    def predict(
        self,
        project: Project,
        build_id: str | None = None,
        point_id: str | None = None,
        *,
        fidelity: Fidelity = "fine",
        cancelled: Callable[[], bool] = lambda: False,
    ) -> Prediction:
        """Return the prediction of one build at one operating point.

        `fidelity` "coarse" answers at once on a coarse field; "fine" also estimates what refinement would still change.

        Raises
        ------
        AshenError
            In one sentence, what keeps this build from being computed.
        """
        begin = time.perf_counter()
        point = project.point(point_id)
        half = self._rest(project, build_id)
        if cancelled():
            raise Cancelled
        field_, frame = self._field(half, point, fidelity, cancelled)
        sensors = _sensor_rows(half, frame, field_)
        refinement = None
        if fidelity == "fine":
            refinement = self._refinement(half, point, sensors, field_, cancelled)
        else:
            self._coarse = (
                resolved_hash(half.resolved, point.model_dump(mode="json")),
                sensors,
                field_.grid.lines.shape,
            )
        return _prediction(half, point, fidelity, field_, frame, sensors, refinement, begin)

    def _refinement(
        self,
        half: _Rest,
        point: OperatingPoint,
        sensors: tuple[SensorRow, ...],
        fine: HeatField,
        cancelled: Callable[[], bool],
    ) -> float:
        """Return by how much sensors may still move [K]: their change from the coarse field, first order being assumed."""
        key = resolved_hash(half.resolved, point.model_dump(mode="json"))
        if self._coarse is None or self._coarse[0] != key:
            coarse, frame = self._field(half, point, "coarse", cancelled)
            self._coarse = (key, _sensor_rows(half, frame, coarse), coarse.grid.lines.shape)
        _, before, (ny, nx) = self._coarse
        fine_ny, fine_nx = fine.grid.lines.shape
        ratio = math.sqrt(fine_ny * fine_nx / (ny * nx))
        change = max((abs(a.value_c - b.value_c) for a, b in zip(sensors, before, strict=True)), default=0.0)
        return change / max(ratio - 1, 0.25)

    def mechanics(self, project: Project, build_id: str | None = None) -> tuple[tuple[JointMechanics, ...], float]:
        """Return the mechanical figures of all joints and the total fastener force [N], without a temperature field."""
        half = self._rest(project, build_id)
        return tuple(joint_mechanics(half.scene, half.assembly, half.coordinates, half.coverage)), float(
            half.rest.fastener_force.sum()
        )

    def _rest(self, project: Project, build_id: str | None) -> _Rest:
        resolved = resolve(project, build_id)
        check_assembly(resolved)
        scene = make_scene(resolved)
        assembly = assemble(scene)
        # The last equilibrium is a good start for a changed pad; the result does not depend on it.
        start = self._start[1] if self._start and self._start[0] == assembly.plates else None
        rest = equilibrium(assembly, start=start)
        coordinates = np.asarray(rest.coordinates[0])
        self._start = assembly.plates, coordinates
        return _Rest(resolved, scene, assembly, rest, paste_coverage(assembly, coordinates))

    def _field(self, half: _Rest, point: OperatingPoint, fidelity: str, cancelled: Callable[[], bool]) -> tuple[HeatField, Frame]:
        frame = frame_of(half.scene, _RESOLUTION[fidelity])
        model = heat_model(
            half.scene, frame, point, joint_conductance(half.scene, half.assembly, half.coordinates, half.coverage)
        )
        solver = self._solvers.setdefault(fidelity, SteadySolver())
        return solver.solve(model, _ACCURACY[fidelity], cancelled=cancelled), frame


def predict(
    project: Project, build_id: str | None = None, point_id: str | None = None, *, fidelity: Fidelity = "fine"
) -> Prediction:
    """Return one prediction with an engine of its own; see `Engine.predict`."""
    return Engine().predict(project, build_id, point_id, fidelity=fidelity)


def _prediction(
    half: _Rest,
    point: OperatingPoint,
    fidelity: str,
    field_: HeatField,
    frame: Frame,
    sensors: tuple[SensorRow, ...],
    refinement: float | None,
    begin: float,
) -> Prediction:
    scene, assembly, coordinates = half.scene, half.assembly, half.coordinates
    active = frame.slabs.active
    extremes = {name: active_extremes(field_, name, layers) for name, layers in active.items()}
    tracer = DescentTracer(scene, field_, point, extremes)
    report = Report(
        build=half.resolved.build.id,
        point=point.id,
        fidelity=fidelity,
        input_hash=resolved_hash(half.resolved, point.model_dump(mode="json")),
        components=_component_rows(half, point, extremes),
        sensors=sensors,
        joints=_joint_rows(half, field_),
        plates=_plate_rows(half, field_),
        fasteners=fastener_rows(assembly, half.rest),
        descents=tuple(tracer.trace(component) for component in active),
        ways=tuple(WayRow(id=film.film.name, watts=float(w)) for film, w in zip(field_.films, field_.film_power, strict=True)),
        balance=Balance(energy_rel=field_.energy_rel, force_rel=float(half.rest.residual.max(initial=0.0))),
        mesh=Mesh(cells=field_.grid.n_cell, refinement_k=refinement),
        ambient_c=point.ambient_c.value,
        power_w=field_.power,
        seconds=time.perf_counter() - begin,
    )
    maps = Maps(
        joint_maps(scene, assembly, coordinates),
        field_.grid.lines.x * 1e3,
        field_.grid.lines.y * 1e3,
        _storeys(scene, field_, active),
    )
    return Prediction(report, maps, poses(assembly, coordinates))


def _component_rows(half: _Rest, point: OperatingPoint, extremes: dict[str, tuple[float, float]]) -> tuple[ComponentRow, ...]:
    covered: dict[str, float] = {}
    for facing in half.scene.plan.facings:
        if facing.joint is not None:
            under = sum(patch.region.area for patch in facing.patches if patch.pieces)
            covered[facing.lower] = covered.get(facing.lower, 0.0) + under / half.scene.bodies[facing.lower].region.area
    rows = []
    for name, (hottest, mean) in extremes.items():
        model = half.scene.bodies[name].model
        assert isinstance(model, Component)  # only components have active layers
        power = point.powers_w[name].value if name in point.powers_w else 0.0
        rows.append(
            ComponentRow(id=name, kind=model.role.value, t_max_c=hottest, t_mean_c=mean, power_w=power, covered=covered.get(name))
        )
    return tuple(rows)


def _sensor_rows(half: _Rest, frame: Frame, field_: HeatField) -> tuple[SensorRow, ...]:
    device, rows = half.resolved.device, []
    for sensor in device.sensors:
        if sensor.body not in half.scene.bodies:
            continue
        try:
            value = read_sensor(field_, sensor, frame.slabs.active)
        except ValueError as error:
            raise AssemblyError(f"{str(error)[0].upper()}{str(error)[1:]}.", (sensor.id,)) from error
        limits = [
            limit.max_c.value
            for limit in device.limits
            if limit.sensor == sensor.id or (limit.body == sensor.body and limit.place == "junction")
        ]
        limit = min(limits) if limits else None
        rows.append(
            SensorRow(
                id=sensor.id,
                name=sensor.label,
                reads=sensor.reads,
                group=sensor.group,
                body=sensor.body,
                value_c=value,
                limit_c=limit,
                margin_k=None if limit is None else limit - value,
            )
        )
    return tuple(rows)


def _joint_rows(half: _Rest, field_: HeatField) -> tuple[JointRow, ...]:
    contacts = {contact.contact.name: contact for contact in field_.contacts}
    rows = []
    for found in joint_mechanics(half.scene, half.assembly, half.coordinates, half.coverage):
        contact = contacts[f"facing:{found.joint}:{found.lower}:{found.upper}"]
        reading = read_contact(field_, contact)
        values = {name: getattr(found, name) for name in found.__dataclass_fields__ if name != "joint"}
        rows.append(
            JointRow(
                id=found.joint,
                name=half.scene.joints[found.joint].label,
                drop_k=reading.lower_c - reading.upper_c,
                heat_w=reading.watts,
                **values,
            )
        )
    return tuple(rows)


def _plate_rows(half: _Rest, field_: HeatField) -> tuple[PlateRow, ...]:
    resting = {pose.plate: pose for pose in poses(half.assembly, half.coordinates)}
    rows = []
    for name, body in half.scene.bodies.items():
        if not isinstance(body.model, Plate):
            continue
        pose = resting.get(name)
        rows.append(
            PlateRow(
                id=name,
                z_mm=(pose.z if pose else body.bottom) * 1e3,
                tilt_x_mrad=pose.slope_x * 1e3 if pose else 0.0,
                tilt_y_mrad=pose.slope_y * 1e3 if pose else 0.0,
                t_mean_c=slab_mean(field_, name),
                floats=pose is not None,
            )
        )
    return tuple(rows)


def _storeys(scene: Scene, field_: HeatField, active: dict[str, tuple[int, ...]]) -> dict[str, np.ndarray]:
    storeys: dict[str, np.ndarray] = {}
    board = field_.grid.slabs[scene.board.id]
    lines = field_.grid.lines
    column_area = np.diff(lines.y)[:, None] * np.diff(lines.x)[None, :]
    for side, layer in ((Side.FRONT, -1), (Side.REAR, 0)):
        picture = board.image(field_.temperature[board.layer(layer)])
        for name, body in scene.bodies.items():
            if body.model.kind in ("substrate", "component") and body.model.side is side:
                cells = field_.grid.slabs[name]
                values = field_.temperature[cells.layer(active.get(name, (-1,))[-1])]
                # A part shows in the columns it mostly covers; elsewhere the picture is the board's.
                mostly = cells.image(cells.area) > 0.5 * column_area
                top = np.where(mostly, cells.image(values), np.nan)
                picture = np.where(np.isnan(top), picture, top)
        storeys[side.value] = (picture - KELVIN).astype(np.float32)
    for name, body in scene.bodies.items():
        if isinstance(body.model, Plate):
            cells = field_.grid.slabs[name]
            storeys[name] = (cells.image(field_.temperature[cells.layer(0)]) - KELVIN).astype(np.float32)
    return storeys
