"""What a course shows in a field, and what is stored between the faces of joints."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.model.bodies import Component, Plate
from ashen_bridge.model.device import Sensor
from ashen_bridge.predict.ledger import skin_names, touchable
from ashen_bridge.predict.readings import SensorCells, active_cells, sensor_cells
from ashen_bridge.thermal.columns import ColumnGrid
from ashen_bridge.thermal.from_scene import facing_name
from ashen_bridge.thermal.names import sink
from ashen_bridge.thermal.resolution import Frame
from ashen_bridge.thermal.sheets import nominal_thickness
from ashen_bridge.thermal.steady import HeatField
from ashen_bridge.thermal.surfaces import KELVIN


@dataclass(frozen=True)
class Columns:
    """What a course shows: sensors and skins first, then components that no sensor reads, and both faces of plates."""

    sensors: tuple[Sensor, ...]
    skins: tuple[str, ...]
    components: tuple[tuple[str, str], ...]
    plates: tuple[tuple[str, str], ...]

    @property
    def names(self) -> tuple[str, ...]:
        """One name per column."""
        faces = [f"{label}, {face} face" for _, label in self.plates for face in ("near", "outer")]
        return (*(one.label for one in self.sensors), *self.skins, *(label for _, label in self.components), *faces)

    @property
    def n_sensor(self) -> int:
        """How many of the columns are sensors and skins."""
        return len(self.sensors) + len(self.skins)


def columns_of_course(scene: Scene) -> Columns:
    """Return the columns of a course."""
    sensors = tuple(one for one in scene.resolved.device.sensors if one.body in scene.bodies)
    read = {body for one in sensors for body in (one.body, *one.also)}
    parts = {name: body.model for name, body in scene.bodies.items()}
    skins = tuple(f"Skin of {name}" for name in skin_names(scene))
    components = [(n, model.label) for n, model in parts.items() if isinstance(model, Component) and n not in read]
    plates = [(name, model.label) for name, model in parts.items() if isinstance(model, Plate)]
    return Columns(sensors, skins, tuple(components), tuple(plates))


class Reader:
    """Where every column of a course looks in a grid: found once, read at every moment."""

    def __init__(self, scene: Scene, grid: ColumnGrid, columns: Columns, active: dict[str, tuple[int, ...]]) -> None:
        self._places = [(sensor_cells(grid, one, active), one.offset_k.value) for one in columns.sensors]
        for name in touchable(scene):
            self._places.append((_all_of(grid.slabs[name].layer(-1)), 0.0))
        self._places += [(active_cells(grid, name, active[name]), 0.0) for name, _ in columns.components]
        for name, _ in columns.plates:
            cells = grid.slabs[name]
            for number in (0, -1):
                area = cells.columns[number].area
                self._places.append((_all_of(cells.layer(number), area / area.sum()), 0.0))

    def read(self, temperature: Floats) -> list[float]:
        """Return what every column shows in a field (n_cell,) [K]: [°C]."""
        return [cells.read(temperature) - KELVIN + offset for cells, offset in self._places]


def _all_of(part: slice, weights: Floats | None = None) -> SensorCells:
    return SensorCells(np.arange(part.start, part.stop), weights)


def shown(scene: Scene, field: HeatField, columns: Columns, active: dict[str, tuple[int, ...]]) -> list[float]:
    """Return what every column shows in a field [°C]."""
    return Reader(scene, field.grid, columns, active).read(field.temperature)


def stored_in_fins(scene: Scene, field: HeatField) -> Floats:
    """Return the heat capacity of sinks' fins on the cells under them [J/K]."""
    extra = np.zeros(field.grid.n_cell)
    for film in field.films:
        body = scene.bodies.get(film.film.slab)
        if body is not None and isinstance(body.model, Plate) and body.model.sink and film.film.name == sink(body.id):
            extra[film.cells] += body.model.sink.heat_capacity_j_k.value * film.area / film.area.sum()
    return extra


def stored_in_joints(scene: Scene, frame: Frame, field: HeatField) -> Floats:
    """Return the heat capacity of what lies in joints on the cells of the faces it touches [J/K]."""
    extra = np.zeros(field.grid.n_cell)
    sheets = {(one.joint, one.piece) for one in frame.sheets}
    contacts = {one.contact.name: one for one in field.contacts}
    for facing in scene.plan.facings:
        contact = contacts.get(facing_name(facing))
        if facing.joint is None or contact is None or not len(contact.area):
            continue
        joint = scene.joints[facing.joint]
        stored = 0.0
        for patch in facing.patches:
            for piece in scene.pieces(facing, patch):
                if (joint.id, piece.id) not in sheets:
                    material = scene.resolved.materials[piece.material]
                    stored += patch.region.area * nominal_thickness(scene, joint, piece) * material.capacity_j_m3k
        share = stored / 2 * contact.area / contact.area.sum()
        for ends in (field.edges.i, field.edges.j):
            np.add.at(extra, ends[contact.edges], share)
    return extra


def stored_over_made(scene: Scene, frame: Frame, field: HeatField, ambient_c: float) -> float | None:
    """Return the heat that a steady field stores above its surroundings, over the heat made [s]; None where none is made.

    For one body that is its time constant R·C; for many their constants weighed by what each adds to the stored heat.
    """
    if field.power <= 0:
        return None
    capacity = field.grid.capacity + stored_in_fins(scene, field) + stored_in_joints(scene, frame, field)
    return float(capacity @ (field.temperature - KELVIN - ambient_c)) / field.power
