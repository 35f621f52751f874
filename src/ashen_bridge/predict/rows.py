"""From a mechanical state and a temperature field to the rows and maps of a prediction."""

from __future__ import annotations

import time
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.mechanics.assembly import Assembly
from ashen_bridge.mechanics.equilibrium import Equilibrium
from ashen_bridge.model.bodies import Component, Plate, Side
from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.model.joints import Piece
from ashen_bridge.model.resolve import ResolvedBuild
from ashen_bridge.predict.bow import bow_map, bow_row
from ashen_bridge.predict.closing import closing_rows
from ashen_bridge.predict.course_columns import stored_over_made
from ashen_bridge.predict.descent import DescentTracer
from ashen_bridge.predict.joint_heat import layer_means
from ashen_bridge.predict.ledger import ledger, skin
from ashen_bridge.predict.maps import JointMap, Maps
from ashen_bridge.predict.mechanics_rows import JointMechanics, fastener_rows, joint_maps, joint_mechanics, poses
from ashen_bridge.predict.operating import Operating
from ashen_bridge.predict.prediction import Prediction
from ashen_bridge.predict.readings import active_extremes, contact_flows, per_area_mm2k_w, read_contact, sensor_cells, slab_mean
from ashen_bridge.predict.report import Balance, ComponentRow, JointRow, LayerRow, Mesh, PlateRow, Report, SensorRow, WayRow
from ashen_bridge.predict.ways_out import fan_rows, held_back_rows, noise, pipe_rows
from ashen_bridge.thermal import names
from ashen_bridge.thermal.parts import cell_areas
from ashen_bridge.thermal.resolution import Frame
from ashen_bridge.thermal.steady import HeatField
from ashen_bridge.thermal.surfaces import KELVIN


@dataclass(frozen=True)
class AtRest:
    """The mechanical half of a prediction."""

    resolved: ResolvedBuild
    scene: Scene
    assembly: Assembly
    rest: Equilibrium
    coverage: dict[tuple[str, str], float]
    input_hash: str

    @property
    def coordinates(self) -> Floats:
        """Coordinates of the plates (n_dof,), see `mechanics.assembly`."""
        return np.asarray(self.rest.coordinates[0])

    # The coarse and the fine prediction have one mechanical half: what is read off it is read once.

    @cached_property
    def joints(self) -> tuple[JointMechanics, ...]:
        """Mechanical figures of all joints."""
        return tuple(joint_mechanics(self.scene, self.assembly, self.coordinates, self.coverage))

    @cached_property
    def layers(self) -> dict[tuple[str, str], list[tuple[Piece, float, float]]]:
        """Thickness [m] and resistance [m²·K/W] of every layer, see `joint_heat.layer_means`."""
        return layer_means(self.scene, self.assembly, self.coordinates)

    @cached_property
    def maps(self) -> tuple[JointMap, ...]:
        """Bond line and pressure of every joint on a raster."""
        return joint_maps(self.scene, self.assembly, self.coordinates)


def prediction_of(
    half: AtRest,
    found: Operating,
    fidelity: str,
    frame: Frame,
    sensors: tuple[SensorRow, ...],
    error: tuple[float, str] | None,
    begin: float,
) -> Prediction:
    """Return the whole prediction of a mechanical state and its temperature field; `begin` is when the work started [s]."""
    scene, assembly, coordinates = half.scene, half.assembly, half.coordinates
    point, field_ = found.point, found.field
    joints = _joint_rows(half, field_)
    fans = fan_rows(scene, point, found.inside)
    active = frame.slabs.active
    extremes = {name: active_extremes(field_, name, layers) for name, layers in active.items()}
    tracer = DescentTracer(scene, field_, point.ambient_c.value, extremes)
    report = Report(
        build=half.resolved.build.id,
        point=point.id,
        fidelity=fidelity,
        input_hash=half.input_hash,
        components=_component_rows(half, field_, extremes),
        sensors=sensors,
        joints=joints,
        plates=_plate_rows(half, field_),
        fasteners=fastener_rows(assembly, half.rest),
        descents=tuple(tracer.trace(component) for component in active),
        ways=_way_rows(field_),
        ledger=ledger(scene, field_),
        skin=skin(scene, field_),
        fans=fans,
        noise_db=noise(fans, point),
        pipes=pipe_rows(scene, field_),
        closing=closing_rows(scene, joints),
        held_back=held_back_rows(found),
        inside_air_c=None if found.inside is None else found.inside - KELVIN,
        leakage_gain=field_.leak_gain or None,
        bow=bow_row(scene, assembly, coordinates),
        balance=Balance(energy_rel=field_.energy_rel, force_rel=float(half.rest.residual.max(initial=0.0))),
        mesh=Mesh(
            cells=field_.grid.n_cell,
            refinement_k=error[0] if error else None,
            refinement_at=error[1] if error else None,
        ),
        ambient_c=point.ambient_c.value,
        power_w=field_.power,
        stored_s=stored_over_made(scene, frame, field_, point.ambient_c.value),
        seconds=time.perf_counter() - begin,
    )
    maps = Maps(
        half.maps,
        field_.grid.lines.x * 1e3,
        field_.grid.lines.y * 1e3,
        _storeys(scene, field_, active),
        _flux(scene, field_),
        bow_map(assembly, coordinates, field_.grid.lines.x, field_.grid.lines.y),
    )
    return Prediction(report, maps, poses(assembly, coordinates))


def _component_rows(half: AtRest, field_: HeatField, extremes: dict[str, tuple[float, float]]) -> tuple[ComponentRow, ...]:
    covered: dict[str, float] = {}
    for facing in half.scene.plan.facings:
        if facing.joint is not None:
            under = sum(patch.region.area for patch in facing.patches if patch.pieces)
            covered[facing.lower] = covered.get(facing.lower, 0.0) + under / half.scene.bodies[facing.lower].region.area
    rows = []
    sensed = {body for sensor in half.resolved.device.sensors for body in (sensor.body, *sensor.also)}
    for name, (hottest, mean) in extremes.items():
        model = half.scene.bodies[name].model
        assert isinstance(model, Component)  # only components have active layers
        rows.append(
            ComponentRow(
                id=name,
                kind=model.role.value,
                t_max_c=hottest,
                t_mean_c=mean,
                power_w=field_.made.get(name, 0.0),
                hot_minus_mean_k=hottest - mean,
                sensed=name in sensed,
                covered=covered.get(name),
            )
        )
    return tuple(rows)


def sensor_rows(half: AtRest, frame: Frame, field_: HeatField) -> tuple[SensorRow, ...]:
    """Return what every sensor of a present body shows. Raises `AssemblyError` for one that lies beside its body."""
    device, rows = half.resolved.device, []
    limits = device.limits_c()
    for sensor in device.sensors:
        if sensor.body not in half.scene.bodies:
            continue
        try:
            seen = sensor_cells(field_.grid, sensor, frame.slabs.active)
        except ValueError as error:
            raise AssemblyError(f"{str(error)[0].upper()}{str(error)[1:]}.", (sensor.id,)) from error
        value = seen.read(field_.temperature) - KELVIN + sensor.offset_k.value
        limit = limits.get(sensor.id)
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
                place_k=seen.spread(field_.temperature),
            )
        )
    return (*rows, *_skin_sensors(half, field_))


def _skin_sensors(half: AtRest, field_: HeatField) -> list[SensorRow]:
    """Return the skins that have a limit, as what a finger would read."""
    return [
        SensorRow(
            id=str(names.skin(row.id)),
            name=f"Skin of {row.name}",
            reads="skin",
            group="Skin",
            body=row.id,
            value_c=row.t_max_c,
            limit_c=row.limit_c,
            margin_k=row.limit_c - row.t_max_c,
        )
        for row in skin(half.scene, field_)
        if row.limit_c is not None
    ]


def _joint_rows(half: AtRest, field_: HeatField) -> tuple[JointRow, ...]:
    contacts = {contact.contact.name: contact for contact in field_.contacts}
    rows = []
    layers, materials = half.layers, half.scene.resolved.materials
    for found in half.joints:
        contact = contacts[names.facing(found.joint, found.lower, found.upper)]
        reading = read_contact(field_, contact)
        values = {name: getattr(found, name) for name in found.__dataclass_fields__ if name != "joint"}
        rows.append(
            JointRow(
                id=found.joint,
                name=half.scene.joints[found.joint].label,
                drop_k=reading.lower_c - reading.upper_c,
                heat_w=reading.watts,
                resistance_mm2k_w=per_area_mm2k_w(contact),
                layers=tuple(
                    LayerRow(
                        id=piece.id,
                        material=materials[piece.material].name,
                        thickness_um=thickness * 1e6,
                        resistance_mm2k_w=resistance * 1e6,
                    )
                    for piece, thickness, resistance in layers.get((found.joint, found.lower), ())
                ),
                **values,
            )
        )
    return tuple(rows)


def _plate_rows(half: AtRest, field_: HeatField) -> tuple[PlateRow, ...]:
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


def _flux(scene: Scene, field_: HeatField) -> dict[str, np.ndarray]:
    """Return the heat that passes from each side into the plates over it [W/mm²], column by column."""
    shape = field_.grid.lines.shape
    power = {side.value: np.zeros(shape) for side in Side}
    area = {side.value: np.zeros(shape) for side in Side}
    plates = {name for name, body in scene.bodies.items() if isinstance(body.model, Plate)}
    for contact in field_.contacts:
        lower, upper = contact.contact.slabs
        if contact.contact.kind != "facing" or lower in plates or not len(contact.area):
            continue
        side = scene.bodies[upper].model.side.value  # type: ignore[union-attr]
        flow, _ = contact_flows(field_, contact)
        np.add.at(power[side].ravel(), contact.columns, flow)
        np.add.at(area[side].ravel(), contact.columns, contact.area)
    with np.errstate(invalid="ignore", divide="ignore"):
        return {
            side: np.where(area[side] > 0, power[side] / (area[side] * 1e6), np.nan).astype(np.float32)
            for side in power
            if area[side].any()
        }


def _storeys(scene: Scene, field_: HeatField, active: dict[str, tuple[int, ...]]) -> dict[str, np.ndarray]:
    storeys: dict[str, np.ndarray] = {}
    board = field_.grid.slabs[scene.board.id]
    lines = field_.grid.lines
    column_area = np.diff(lines.y)[:, None] * np.diff(lines.x)[None, :]
    for side, layer in ((Side.FRONT, -1), (Side.REAR, 0)):
        picture = board.picture(layer, field_.temperature)
        for name, body in scene.bodies.items():
            if body.model.kind in ("substrate", "component") and body.model.side is side:
                cells = field_.grid.slabs[name]
                # A part shows in the columns it mostly covers; elsewhere the picture is the board's.
                mostly = cell_areas(body.region, lines) > 0.5 * column_area
                top = np.where(mostly, cells.picture(active.get(name, (-1,))[-1], field_.temperature), np.nan)
                picture = np.where(np.isnan(top), picture, top)
        storeys[side.value] = (picture - KELVIN).astype(np.float32)
    for name, body in scene.bodies.items():
        if isinstance(body.model, Plate):
            cells = field_.grid.slabs[name]
            storeys[name] = (cells.picture(0, field_.temperature) - KELVIN).astype(np.float32)
    return storeys


def _way_rows(field_: HeatField) -> tuple[WayRow, ...]:
    pairs = zip(field_.films, field_.film_power, strict=True)
    return tuple(WayRow(id=str(film.film.name), watts=float(watts)) for film, watts in pairs)
