"""The whole field for other programs: as a mesh, and as a small network of resistances."""

from __future__ import annotations

from pathlib import Path

from ashen_bridge.api.engines import engine_for
from ashen_bridge.files.mesh_file import write_mesh
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.project import Project
from ashen_bridge.predict.meshes import Mesh
from ashen_bridge.predict.network import Network
from ashen_bridge.predict.network import network as network_of
from ashen_bridge.predict.solid_mesh import SolidMesh
from ashen_bridge.predict.solid_mesh import solid_mesh as solid_mesh_of

__all__ = ["Network", "SolidMesh", "network", "save_mesh", "solid_mesh"]


def solid_mesh(project: Project, build: str | None = None, point: str | None = None, *, mesh: Mesh = "fine") -> SolidMesh:
    """Return the temperature field as bricks at the places that the bodies have at rest. Raises `AshenError`.

    >>> from ashen_bridge import api
    >>> field = api.solid_mesh(api.open("demo:buoy"), mesh="coarse")
    >>> field.bricks.shape[1], len(field.values["temperature_degC"]) == len(field.bricks)
    (8, True)
    """
    engine, fidelity = engine_for(mesh)
    used = in_force(project)
    told = used.point(point)
    half = engine.rest(used, build, told)
    return solid_mesh_of(half, *engine.field(half, told, fidelity))


def save_mesh(field: SolidMesh, where: str | Path) -> None:
    """Save bricks for a general viewer: `.vtu` or `.vtk` by the ending. Raises `FileError`."""
    write_mesh(Path(where), field)


def network(project: Project, build: str | None = None, point: str | None = None, *, mesh: Mesh = "fine") -> Network:
    """Return the prediction as resistances between bodies and ambient, with `netlist()` and `table()`. Raises `AshenError`.

    For other powers it is exact as far as heat is linear: conductivities, radiation and rising air stay as they are at this
    operating point. On the fine mesh it takes some seconds.

    >>> from ashen_bridge import api
    >>> print(api.network(api.open("demo:buoy"), mesh="coarse").netlist().splitlines()[1])
    V1 ambient 0 30
    """
    engine, fidelity = engine_for(mesh)
    used = in_force(project)
    told = used.point(point)
    half = engine.rest(used, build, told)
    found, frame = engine.field(half, told, fidelity)
    return network_of(half, found, frame, told.ambient_c.value, f"{used.name}, {half.resolved.build.id}, {told.id}")
