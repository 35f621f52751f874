"""The bent board as a row and a map."""

from __future__ import annotations

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.mechanics.assembly import Assembly
from ashen_bridge.model.bodies import Component, ComponentRole
from ashen_bridge.predict.maps import Picture
from ashen_bridge.predict.report import BowRow

_POINTS = 15


def _deflection(assembly: Assembly, coordinates: Floats, x: Floats, y: Floats) -> Floats:
    """Return how far the board is bent towards the front [m]."""
    if assembly.bending is None:
        return np.zeros(np.size(x))
    return np.asarray(assembly.bending.at(x, y) @ coordinates[assembly.motion.board])


def bow_row(scene: Scene, assembly: Assembly, coordinates: Floats) -> BowRow | None:
    """Return how far the board bends inside its screws, and under each die; None if it is rigid.

    The bend under a die is the departure from its best plane there, so that a mere tilt does not count.
    """
    if assembly.bending is None:
        return None
    screws = [(f.x_mm * 1e-3, f.y_mm * 1e-3) for f, _ in scene.resolved.fasteners if scene.board.id in f.joins]
    x0, y0, x1, y1 = scene.board.region.bounds
    if len(screws) > 1:
        xs, ys = zip(*screws, strict=True)
        x0, y0, x1, y1 = min(xs), min(ys), max(xs), max(ys)
    inside = _deflection(assembly, coordinates, *_raster(x0, y0, x1, y1))
    under: dict[str, float] = {}
    for name, body in scene.bodies.items():
        if isinstance(body.model, Component) and body.model.role is ComponentRole.DIE:
            x, y = _raster(*body.region.bounds)
            w = _deflection(assembly, coordinates, x, y)
            plane = np.stack([np.ones_like(x), x - x.mean(), y - y.mean()], axis=1)
            rest = w - plane @ np.linalg.lstsq(plane, w, rcond=None)[0]
            under[name] = float(np.ptp(rest)) * 1e6
    return BowRow(board_um=float(np.ptp(inside)) * 1e6, under_um=under)


def bow_map(assembly: Assembly, coordinates: Floats, x_lines: Floats, y_lines: Floats) -> Picture:
    """Return how far the board is bent towards the front [µm] in the middle of every column; empty if it is rigid."""
    if assembly.bending is None:
        return np.empty((0, 0), dtype=np.float32)
    x, y = np.meshgrid((x_lines[1:] + x_lines[:-1]) / 2, (y_lines[1:] + y_lines[:-1]) / 2)
    found = _deflection(assembly, coordinates, x.ravel(), y.ravel())
    return (found.reshape(x.shape) * 1e6).astype(np.float32)


def _raster(x0: float, y0: float, x1: float, y1: float) -> tuple[Floats, Floats]:
    x, y = np.meshgrid(np.linspace(x0, x1, _POINTS), np.linspace(y0, y1, _POINTS))
    return x.ravel(), y.ravel()
