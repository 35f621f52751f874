"""What is read off a temperature field: layers, sensors, surfaces of contacts."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.region import MM, Region, region_of_rect
from ashen_bridge.model.device import Sensor
from ashen_bridge.thermal.columns import ColumnGrid
from ashen_bridge.thermal.conductances import ContactCells, FieldState
from ashen_bridge.thermal.cutting import Columns, Ints
from ashen_bridge.thermal.parts import cell_areas
from ashen_bridge.thermal.steady import HeatField
from ashen_bridge.thermal.surfaces import KELVIN

EDGE = 0.1


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
    volume, values = cells.volume, field.temperature[cells.cells]
    return float(values @ volume / volume.sum()) - KELVIN


@dataclass(frozen=True)
class SensorCells:
    """The cells a sensor looks at; weights that sum to 1 for a mean, None for a maximum. `anywhere`: it is in one of them."""

    cells: Ints
    weights: Floats | None
    anywhere: bool = False

    def read(self, values: Floats) -> float:
        """Return what it shows of some temperatures of all cells."""
        seen = values[self.cells]
        return float(seen.max() if self.weights is None else seen @ self.weights)

    def spread(self, values: Floats) -> float:
        """Return the standard uncertainty that comes of not knowing where it is; 0 for a known place."""
        if not self.anywhere or self.weights is None:
            return 0.0
        seen = values[self.cells]
        return math.sqrt(self.weights @ (seen - self.weights @ seen) ** 2)


def sensor_cells(grid: ColumnGrid, sensor: Sensor, active: dict[str, tuple[int, ...]]) -> SensorCells:
    """Return where a sensor looks. Raises `ValueError` for one that lies beside its body.

    A maximum is that of the layer where heat is made; a mean is over that layer; a spot is the mean over its own area, so
    that it does not hang on the mesh; a point lies between the middles of the columns around it. One at an unknown place shows
    the mean of where it may be. Several bodies together are the hottest of them, or their mean, each counting alike.
    """
    bodies = [body for body in (sensor.body, *sensor.also) if body in grid.slabs]
    found = [_body_cells(grid, sensor, body, active) for body in bodies]
    cells = np.concatenate([one.cells for one in found])
    weights = [one.weights for one in found if one.weights is not None]
    return SensorCells(
        cells, np.concatenate(weights) / len(found) if weights else None, anywhere=sensor.reads in ("somewhere", "edge")
    )


def _body_cells(grid: ColumnGrid, sensor: Sensor, body: str, active: dict[str, tuple[int, ...]]) -> SensorCells:
    slab = grid.slabs[body]
    # Plates keep their outermost temperatures at their outer face.
    skin = sensor.reads == "skin"
    layers = (len(slab.slab.layers) - 1,) if skin else active.get(body, tuple(range(len(slab.slab.layers))))
    found = [
        (np.arange(slab.layer(number).start, slab.layer(number).stop), _weights(grid, sensor, body, number)) for number in layers
    ]
    if not all(weights.any() for _, weights in found):
        raise ValueError(f"sensor '{sensor.id}' lies beside body '{body}'")
    if sensor.reads in ("max", "spot max", "skin"):
        return SensorCells(np.concatenate([cells[weights > 0] for cells, weights in found]), None)
    # Layers count by their thickness: a mean is over the body, however it is cut.
    total = sum(slab.slab.layers[number].thickness for number in layers)
    shares = [
        slab.slab.layers[number].thickness / total * weights / weights.sum()
        for number, (_, weights) in zip(layers, found, strict=True)
    ]
    return SensorCells(np.concatenate([cells for cells, _ in found]), np.concatenate(shares))


def _weights(grid: ColumnGrid, sensor: Sensor, body: str, number: int) -> Floats:
    """Return how much each column of a layer counts for a sensor (n,)."""
    columns = grid.slabs[body].columns[number]
    if sensor.reads in ("max", "mean", "somewhere", "skin"):
        return _active_area(grid, body, number)
    if sensor.reads in ("spot", "spot max") and sensor.spot is not None:
        return columns.gathered(cell_areas(region_of_rect(sensor.spot), grid.lines))
    if sensor.reads == "edge":
        return columns.gathered(cell_areas(_rim(grid.slabs[body].slab.region), grid.lines))
    return _at_point(columns, (sensor.x_mm or 0.0) * MM, (sensor.y_mm or 0.0) * MM)


def _rim(region: Region) -> Region:
    """Return the outermost tenth of a body's width all around: where sensors of an edge sit (common practice, no source)."""
    x0, y0, x1, y1 = region.bounds
    wide = EDGE * min(x1 - x0, y1 - y0)
    return region - Region(((x0 + wide, y0 + wide, x1 - wide, y1 - wide),))


def read_sensor(field: HeatField, sensor: Sensor, active: dict[str, tuple[int, ...]]) -> float:
    """Return what a sensor shows [°C], its offset included; see `sensor_cells`."""
    return sensor_cells(field.grid, sensor, active).read(field.temperature) - KELVIN + sensor.offset_k.value


def _active_area(grid: ColumnGrid, slab: str, number: int) -> Floats:
    """Return the area per column [m²] of the part of the layer that makes heat (the inlay of a package)."""
    cells = grid.slabs[slab]
    inlay = cells.slab.layers[number].inlay
    columns = cells.columns[number]
    return columns.area if inlay is None else columns.gathered(cell_areas(inlay[0], grid.lines))


def active_cells(grid: ColumnGrid, slab: str, layers: tuple[int, ...]) -> SensorCells:
    """Return where a component makes its heat, the hottest of which counts."""
    cells, area = grid.slabs[slab], _active_area(grid, slab, layers[0])
    return SensorCells(np.concatenate([np.flatnonzero(area > 0) + cells.layer(number).start for number in layers]), None)


def active_extremes(field: HeatField, slab: str, layers: tuple[int, ...]) -> tuple[float, float]:
    """Return maximum and mean temperature [°C] where a component makes its heat."""
    values, area = layer_temperature(field, slab, layers), _active_area(field.grid, slab, layers[0])
    thickness = np.array([field.grid.slabs[slab].slab.layers[number].thickness for number in layers])
    mean = float(thickness @ values @ area / (thickness.sum() * area.sum()))
    return float(values[:, area > 0].max()), mean


def _at_point(columns: Columns, x: float, y: float) -> Floats:
    """Return weights of columns (n,) that interpolate at a point of the slab [m]; zeros for one beside it.

    The plane through the middles of the column it lies in and its two nearest neighbours towards the point: exact for a field
    that is linear there, whatever the columns' sizes.
    """
    weights = np.zeros(columns.n)
    x0, y0, x1, y1 = columns.box
    inside = np.flatnonzero((x >= x0) & (x <= x1) & (y >= y0) & (y <= y1))
    if not len(inside):
        return weights
    middle_x, middle_y = columns.middle(0), columns.middle(1)
    home = int(inside[np.argmin(np.hypot(middle_x[inside] - x, middle_y[inside] - y))])
    away = np.array([x - middle_x[home], y - middle_y[home]])
    near = [_beside(columns, home, axis, float(away[axis])) for axis in (0, 1)]
    steps, ends = [], []
    for end in near:
        if end is not None and end not in ends:
            ends.append(end)
            steps.append([middle_x[end] - middle_x[home], middle_y[end] - middle_y[home]])
    weights[home] = 1.0
    if ends:
        shares = np.linalg.lstsq(np.array(steps).T, away, rcond=None)[0]
        if np.abs(shares).max() <= 1.0:
            weights[ends] += shares
            weights[home] -= shares.sum()
    return weights


def _beside(columns: Columns, home: int, axis: int, away: float) -> int | None:
    """Return the column that lies beside another along x (0) or y (1), on the side where `away` points."""
    across = 1 - axis
    edge = columns.box[axis + 2][home] if away > 0 else columns.box[axis][home]
    facing = columns.box[axis] if away > 0 else columns.box[axis + 2]
    at = columns.middle(across)[home]
    found = np.flatnonzero((np.abs(facing - edge) < 1e-9) & (columns.box[across] <= at) & (columns.box[across + 2] >= at))
    return int(found[0]) if len(found) else None


def film_face(field: HeatField, number: int) -> float:
    """Return the mean temperature [K] of the face under one of the field's films, at the face itself."""
    film = field.films[number]
    state = FieldState(field.grid, field.edges, (film,))
    at = field.temperature
    surface = state.surface(film, at, state.film_conductance(film, at, at[film.cells]))
    return float(surface @ film.area / film.area.sum())


def per_area_mm2k_w(contact: ContactCells) -> float | None:
    """Return what lies between two faces as a resistance per area [mm²·K/W]; None where nothing conducts."""
    given = contact.contact
    total = float(given.conductance.ravel()[contact.columns].sum())
    total += float(given.through.ravel()[contact.columns].sum()) if given.through is not None else 0.0
    return float(contact.area.sum()) * 1e6 / total if total > 0 else None


def contact_flows(field: HeatField, contact: ContactCells) -> tuple[Floats, Floats]:
    """Return the heat that leaves the lower face, and that which enters the upper one, per column of a contact [W]."""

    def flow(part: slice) -> Floats:
        ends = field.temperature[field.edges.i[part]] - field.temperature[field.edges.j[part]]
        return np.asarray(field.conductance[part] * ends)

    direct = flow(contact.edges)
    lower, upper = direct.copy(), direct.copy()
    lower[contact.sheeted] += flow(contact.under)
    upper[contact.sheeted] += flow(contact.over)
    return lower, upper


def read_contact(field: HeatField, contact: ContactCells) -> ContactReading:
    """Return heat through a contact and its surface temperatures, taken at the faces, not in the cells' middles.

    The heat is what leaves the lower face: a sheet between the faces may hand it on elsewhere.
    """
    part = contact.edges
    i, j = field.edges.i[part], field.edges.j[part]
    out, into = contact_flows(field, contact)
    lower = field.temperature[i] - out / field.half[0][part]
    upper = field.temperature[j] + into / field.half[1][part]
    area = contact.area.sum()
    return ContactReading(
        float(out.sum()), float(lower @ contact.area / area) - KELVIN, float(upper @ contact.area / area) - KELVIN
    )
