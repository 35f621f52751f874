"""A field as a mesh file for general viewers, in any format that the mesh-exchange library writes by the ending of its name."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np

from ashen_bridge.files.atomic import write_atomically
from ashen_bridge.files.errors import FileError
from ashen_bridge.predict.solid_mesh import SolidMesh

ENDINGS = (".vtu", ".vtk")
"""Those that hold bricks with values and need no further library; `.vtu` is what most viewers read."""


def write_mesh(path: Path, mesh: SolidMesh) -> None:
    """Write bricks with their values. Raises `FileError` for an ending that is not known, or where it cannot be written."""
    import meshio

    if path.suffix.lower() not in ENDINGS:
        raise FileError(f"A mesh file ends in {', '.join(ENDINGS[:-1])} or {ENDINGS[-1]}, not '{path.suffix}'.")
    data = {name: [np.ascontiguousarray(values)] for name, values in mesh.values.items()}
    with tempfile.TemporaryDirectory() as folder:
        made = Path(folder) / f"field{path.suffix.lower()}"
        meshio.Mesh(mesh.points_mm, [("hexahedron", mesh.bricks)], cell_data=data).write(made)
        write_atomically(path, made.read_bytes())
