"""Engines that scripts share, so that what one prediction worked out makes the next one fast."""

from __future__ import annotations

from functools import cache

from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.meshes import Mesh, engine_of, halvings_of
from ashen_bridge.predict.prediction import Fidelity


@cache
def engine(halvings: int = 0) -> Engine:
    """Return the engine of a mesh, made when it is first wanted."""
    return engine_of(halvings)


def engine_for(mesh: Mesh) -> tuple[Engine, Fidelity]:
    """Return an engine and the fidelity to ask it for. Raises `MeshError`."""
    halvings, fidelity = halvings_of(mesh)
    return engine(halvings), fidelity
