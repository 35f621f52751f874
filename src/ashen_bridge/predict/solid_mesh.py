"""The whole field as a mesh of bricks with their temperatures, at the places that the bodies have at rest."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.scene import SceneBody
from ashen_bridge.model.bodies import Board, Side
from ashen_bridge.predict.operating import Operating
from ashen_bridge.predict.rows import AtRest
from ashen_bridge.thermal.columns import ColumnGrid, SlabCells
from ashen_bridge.thermal.conductances import FieldState
from ashen_bridge.thermal.from_scene import heat_model
from ashen_bridge.thermal.heating import Sources
from ashen_bridge.thermal.resolution import Frame
from ashen_bridge.thermal.surfaces import KELVIN

_CORNERS = ((0, 1), (2, 1), (2, 3), (0, 3))  # edges of a column's box, in the order in which meshes list a face's points


@dataclass(frozen=True)
class SolidMesh:
    """Bricks: points_mm (n, 3) in board coordinates, z = 0 on its front and rising away from it; bricks (n_cell, 8).

    values : by name with its unit, one per brick, in ASCII without blanks since formats ask for that. bodies : what the numbers
    in the value `body` stand for. Joints are thinner than any brick, so they are gaps between bodies; a brick at a body's edge
    is drawn as wide as it reaches.
    """

    points_mm: Floats
    bricks: npt.NDArray[np.int64]
    values: dict[str, Floats]
    bodies: tuple[str, ...]


def solid_mesh(half: AtRest, found: Operating, frame: Frame) -> SolidMesh:
    """Return the field of a state at rest as bricks."""
    grid, field = found.field.grid, found.field
    slabs = [(number, cells) for number, cells in enumerate(grid.slabs.values()) if cells.slab.id in half.scene.bodies]
    points = [_corners(half, half.scene.bodies[cells.slab.id], cells) for _, cells in slabs]
    at = np.concatenate([np.arange(cells.cells.start, cells.cells.stop) for _, cells in slabs])
    factor = FieldState(grid, field.edges, field.films).factor(field.temperature)
    values = {
        "temperature_degC": field.temperature[at] - KELVIN,
        "conductivity_in_plane_W_mK": (grid.in_plane * factor)[at],
        "conductivity_through_W_mK": (grid.through * factor)[at],
        "heat_made_W_m3": (_made(half, found, frame) / _volume(grid))[at],
        "body": np.concatenate([np.full(cells.n_cell, float(number)) for number, (_, cells) in enumerate(slabs)]),
        "layer": np.concatenate([_layers(cells) for _, cells in slabs]),
    }
    corners = np.concatenate(points)
    shared, which = _shared(corners.reshape(-1, 3))
    return SolidMesh(shared, which.reshape(-1, 8), values, tuple(cells.slab.id for _, cells in slabs))


def _shared(points_mm: Floats) -> tuple[Floats, npt.NDArray[np.int64]]:
    """Return points (n, 3) with those that coincide to a nanometre as one, and which of them each was."""
    axes = [np.unique(np.round(axis, 6), return_inverse=True) for axis in points_mm.T]
    shape = tuple(len(values) for values, _ in axes)
    keys, which = np.unique(np.ravel_multi_index([at for _, at in axes], shape), return_inverse=True)
    found = np.stack([values[at] for (values, _), at in zip(axes, np.unravel_index(keys, shape), strict=True)], axis=1)
    return found, which.astype(np.int64)


def _made(half: AtRest, found: Operating, frame: Frame) -> Floats:
    """Return the heat made in every cell [W]."""
    model = heat_model(half.scene, frame, found.point, (), found.inside)
    return Sources(found.field.grid, model).at(found.field.temperature)[0]


def _volume(grid: ColumnGrid) -> Floats:
    volume = np.empty(grid.n_cell)
    for cells in grid.slabs.values():
        volume[cells.cells] = cells.volume
    return volume


def _layers(cells: SlabCells) -> Floats:
    counts = np.diff(cells.starts)
    return np.repeat(np.arange(len(counts), dtype=float), counts)


def _corners(half: AtRest, body: SceneBody, cells: SlabCells) -> Floats:
    """Return the corners of every brick of a body (n_cell, 8, 3) [mm], lower face first."""
    rear = not isinstance(body.model, Board) and body.model.side is Side.REAR
    side = Side.REAR if rear else Side.FRONT
    layers, height = [], body.bottom
    for columns, layer in zip(cells.columns, cells.slab.layers, strict=True):
        corners = np.empty((columns.n, 8, 3))
        for n, (left, low) in enumerate(_CORNERS * 2):
            x, y = columns.box[left], columns.box[low]
            rise = half.assembly.motion.height_rows(body, side, x, y) @ half.coordinates
            z = height + (layer.thickness if n >= 4 else 0.0) + rise
            corners[:, n] = np.stack([x, y, -half.scene.board.thickness - z if rear else z], axis=1) * 1e3
        # Seen from the front a rear body's outer face lies lower.
        layers.append(corners[:, [4, 5, 6, 7, 0, 1, 2, 3]] if rear else corners)
        height += layer.thickness
    return np.concatenate(layers)
