"""What refining the mesh would still change, told from a coarse and a fine field."""

from __future__ import annotations

Hottest = dict[str, float]
"""Hottest point [°C] by component."""


def mesh_error(fine: Hottest, coarse: Hottest, ambient_c: float, halvings: int) -> tuple[float, str] | None:
    """Return by how much refinement would still move the component that moves most [K], and which; None for no components."""
    return None
