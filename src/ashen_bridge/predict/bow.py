"""The bent board as a row and a map."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.mechanics.assembly import Assembly
from ashen_bridge.model.bodies import Component, ComponentRole
from ashen_bridge.predict.maps import Picture
from ashen_bridge.predict.report import BowRow

_POINTS = 15


@dataclass(frozen=True)
class BowProbe:
    """Where the bend of a board is looked at: rows that give it [m] from its amplitudes, inside its screws and under each die."""

    board: Floats
    under: dict[str, tuple[Floats, Floats]]  # of each die: rows, and the plane's pseudo-inverse with the plane
    modes: slice | np.ndarray

    def at(self, coordinates: Floats) -> tuple[Floats, dict[str, Floats]]:
        """Return how far the board bends inside its screws, and as a curve under each die [µm] (s,); coordinates (s, n_dof)."""
        bent = coordinates[:, self.modes]
        under = {}
        for name, (rows, level) in self.under.items():
            w = bent @ rows.T
            under[name] = np.ptp(w - w @ level, axis=1) * 1e6
        return np.ptp(bent @ self.board.T, axis=1) * 1e6, under


def bow_probe(scene: Scene, assembly: Assembly) -> BowProbe | None:
    """Return where the bend of a scene's board is looked at; None if it is rigid.

    The bend under a die is the departure from its best plane there, so that a mere tilt does not count.
    """
    bending = assembly.bending
    if bending is None:
        return None
    screws = [(f.x_mm * 1e-3, f.y_mm * 1e-3) for f, _ in scene.resolved.fasteners if scene.board.id in f.joins]
    x0, y0, x1, y1 = scene.board.region.bounds
    if len(screws) > 1:
        xs, ys = zip(*screws, strict=True)
        x0, y0, x1, y1 = min(xs), min(ys), max(xs), max(ys)
    under: dict[str, tuple[Floats, Floats]] = {}
    for name, body in scene.bodies.items():
        if isinstance(body.model, Component) and body.model.role is ComponentRole.DIE:
            x, y = _raster(*body.region.bounds)
            plane = np.stack([np.ones_like(x), x - x.mean(), y - y.mean()], axis=1)
            under[name] = np.asarray(bending.at(x, y)), (plane @ np.linalg.pinv(plane)).T
    return BowProbe(np.asarray(bending.at(*_raster(x0, y0, x1, y1))), under, assembly.motion.board)


def bow_row(scene: Scene, assembly: Assembly, coordinates: Floats) -> BowRow | None:
    """Return how far the board bends inside its screws, and under each die; None if it is rigid."""
    probe = bow_probe(scene, assembly)
    if probe is None:
        return None
    board, under = probe.at(coordinates[None])
    return BowRow(board_um=float(board[0]), under_um={name: float(one[0]) for name, one in under.items()})


def bow_map(assembly: Assembly, coordinates: Floats, x_lines: Floats, y_lines: Floats) -> Picture:
    """Return how far the board is bent towards the front [µm] in the middle of every column; empty if it is rigid."""
    if assembly.bending is None:
        return np.empty((0, 0), dtype=np.float32)
    x, y = np.meshgrid((x_lines[1:] + x_lines[:-1]) / 2, (y_lines[1:] + y_lines[:-1]) / 2)
    found = assembly.bending.at(x.ravel(), y.ravel()) @ coordinates[assembly.motion.board]
    return np.asarray(found.reshape(x.shape) * 1e6, dtype=np.float32)


def _raster(x0: float, y0: float, x1: float, y1: float) -> tuple[Floats, Floats]:
    x, y = np.meshgrid(np.linspace(x0, x1, _POINTS), np.linspace(y0, y1, _POINTS))
    return x.ravel(), y.ravel()
