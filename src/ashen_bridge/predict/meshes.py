"""Meshes as people ask for them."""

from __future__ import annotations

from typing import Literal

from ashen_bridge.model.errors import AshenError
from ashen_bridge.predict.engine import Engine, refined
from ashen_bridge.predict.prediction import Fidelity

MOST_HALVINGS = 3
"""Each makes about ten times as many cells."""
Mesh = Literal["coarse", "fine"] | int
"""`coarse`, `fine`, or how many times every interval and layer of the fine mesh is halved."""


class MeshError(AshenError, ValueError):
    """A mesh that cannot be meant."""


def halvings_of(mesh: Mesh) -> tuple[int, Fidelity]:
    """Return how often a mesh halves the fine one, and whether it is that or the coarse one. Raises `MeshError`."""
    if mesh == "coarse":
        return 0, "coarse"
    if mesh == "fine":
        return 0, "fine"
    if isinstance(mesh, int) and not isinstance(mesh, bool) and 0 <= mesh <= MOST_HALVINGS:
        return mesh, "fine"
    raise MeshError(f"A mesh is coarse, fine or a number of refinements from 0 to {MOST_HALVINGS}, not '{mesh}'.")


def read_mesh(text: str) -> Mesh:
    """Return the mesh that a word or number stands for. Raises `MeshError`.

    >>> read_mesh("fine"), read_mesh("2")
    ('fine', 2)
    """
    mesh: Mesh = int(text) if text.isdecimal() else text  # type: ignore[assignment]
    halvings_of(mesh)
    return mesh


def engine_of(halvings: int) -> Engine:
    """Return a new engine whose fine mesh is halved so often."""
    return refined(halvings) if halvings else Engine()
