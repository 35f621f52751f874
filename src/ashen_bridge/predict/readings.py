"""What is read off a temperature field: layers, sensors, surfaces of contacts."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ashen_bridge.geometry.region import MM, Floats, region_of_rect
from ashen_bridge.model.device import Sensor
from ashen_bridge.thermal.columns import ColumnGrid, Ints
from ashen_bridge.thermal.conductances import ContactCells
from ashen_bridge.thermal.parts import cell_areas
from ashen_bridge.thermal.steady import HeatField
from ashen_bridge.thermal.surfaces import KELVIN


@dataclass(frozen=True)
class ContactReading:
    """Heat through a contact [W] and the mean surface temperatures on both sides of it [°C]."""

    watts: float
    lower_c: float
    upper_c: float


def layer_temperature(field: HeatField, slab: str, layers: tuple[int, ...]) -> Floats:
    """Return temperatures [°C] of some layers of a slab, (n_layer, n_column)."""
    cells = field.grid.slabs[slab]
    return np.stack([field.temperature[cells.layer(number)] for number in layers]) - KELVIN


def slab_mean(field: HeatField, slab: str) -> float:
    """Return the mean temperature of a slab by volume [°C]."""
    cells = field.grid.slabs[slab]
    volume = np.concatenate([cells.area * layer.thickness for layer in cells.slab.layers])
    values = field.temperature[cells.first : cells.first + cells.n_cell]
    return float(values @ volume / volume.sum()) - KELVIN


@dataclass(frozen=True)
class SensorCells:
    """The cells a sensor looks at; weights that sum to 1 for a mean, None for a maximum."""

    cells: Ints
    weights: Floats | None


def sensor_cells(grid: ColumnGrid, sensor: Sensor, active: dict[str, tuple[int, ...]]) -> SensorCells:
    """Return where a sensor looks. Raises `ValueError` for one that lies beside its body.

    A maximum is that of the layer where heat is made; a mean is over that layer; a spot is the mean over its own area, so
    that it does not hang on the mesh; a point is the cell it lies in.
    """
    slab = grid.slabs[sensor.body]
    layers = active.get(sensor.body, tuple(range(len(slab.slab.layers))))
    cells = np.stack([np.arange(slab.layer(number).start, slab.layer(number).stop) for number in layers])
    area = _active_area(grid, sensor.body, layers)
    if sensor.reads == "max":
        return SensorCells(cells[:, area > 0].ravel(), None)
    if sensor.reads == "mean":
        weights = area
    elif sensor.reads == "spot" and sensor.spot is not None:
        weights = cell_areas(region_of_rect(sensor.spot), grid.lines)[slab.column >= 0]
    else:
        weights = _at_point(grid, sensor)[slab.column >= 0]
    if not weights.any():
        raise ValueError(f"sensor '{sensor.id}' lies beside body '{sensor.body}'")
    share = np.broadcast_to(weights / weights.sum() / len(layers), cells.shape)
    return SensorCells(cells.ravel(), share.ravel())


def read_sensor(field: HeatField, sensor: Sensor, active: dict[str, tuple[int, ...]]) -> float:
    """Return what a sensor shows [°C], its offset included; see `sensor_cells`."""
    seen = sensor_cells(field.grid, sensor, active)
    values = field.temperature[seen.cells] - KELVIN
    return float(values.max() if seen.weights is None else values @ seen.weights) + sensor.offset_k.value


def _active_area(grid: ColumnGrid, slab: str, layers: tuple[int, ...]) -> Floats:
    """Return the area per column [m²] of the part of the layer that makes heat (the inlay of a package)."""
    cells = grid.slabs[slab]
    inlay = cells.slab.layers[layers[0]].inlay
    if inlay is None:
        return cells.area
    return np.asarray(cell_areas(inlay[0], grid.lines)[cells.column >= 0])


def active_extremes(field: HeatField, slab: str, layers: tuple[int, ...]) -> tuple[float, float]:
    """Return maximum and mean temperature [°C] where a component makes its heat."""
    values, area = layer_temperature(field, slab, layers), _active_area(field.grid, slab, layers)
    return float(values[:, area > 0].max()), float((values.mean(axis=0) * area).sum() / area.sum())


def _at_point(grid: ColumnGrid, sensor: Sensor) -> Floats:
    lines = grid.lines
    at = np.zeros(lines.shape)
    i = np.searchsorted(lines.x, (sensor.x_mm or 0.0) * MM) - 1
    j = np.searchsorted(lines.y, (sensor.y_mm or 0.0) * MM) - 1
    if 0 <= i < lines.shape[1] and 0 <= j < lines.shape[0]:
        at[j, i] = 1.0
    return at


def read_contact(field: HeatField, contact: ContactCells) -> ContactReading:
    """Return heat through a contact and its surface temperatures, taken at the faces, not in the cells' middles."""
    part = contact.edges
    i, j = field.edges.i[part], field.edges.j[part]
    flow = field.conductance[part] * (field.temperature[i] - field.temperature[j])
    lower = field.temperature[i] - flow / field.half[0][part]
    upper = field.temperature[j] + flow / field.half[1][part]
    area = contact.area.sum()
    return ContactReading(
        float(flow.sum()), float(lower @ contact.area / area) - KELVIN, float(upper @ contact.area / area) - KELVIN
    )
