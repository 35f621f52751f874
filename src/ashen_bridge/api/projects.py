"""Projects for scripts: open, make, change and read by path, save."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from ashen_bridge.files.archive import save_project
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model import paths as model_paths
from ashen_bridge.model.project import Project


def open(where: str | Path) -> Project:
    """Return the project of a file, or of a demo by `demo:NAME`.

    Raises `FileError` or `ProjectError`, each with one sentence.

    >>> open("demo:buoy").main_build is not None
    True
    """
    return open_anything(str(where)).project


def make(data: Mapping[str, Any]) -> Project:
    """Return the project of plain data, as a file holds it: dictionaries, lists, numbers, or objects of `ashen_bridge.model`.

    A bare number where one with ± is wanted is taken as assumed. Raises `ProjectError`, which names the place.

    >>> make({"name": "Nothing yet"}).name
    'Nothing yet'
    """
    return Project.parse(dict(data))


def change(project: Project, values: Mapping[str, Any]) -> Project:
    """Return the project with values set by path, all together; the one given stays as it is.

    A number alone keeps its ± and origin. Raises `PathError` or `ProjectError` and then nothing is changed.

    >>> thin = change(open("demo:correlator"), {"device.bodies.die.height_mm": 0.7})
    >>> value(thin, "device.bodies.die.height_mm")
    0.7
    """
    return model_paths.set_values(project, dict(values))


def value(project: Project, path: str) -> Any:
    """Return what stands at a path: the number of one with ±, else what is there (its parts are attributes).

    Raises `PathError`, which says what there is instead.
    """
    found = model_paths.node_at(project, path)
    return getattr(found, "value", found)


def paths(project: Project) -> dict[str, Any]:
    """Return every path with its present value; a number with ± stands there by its value alone."""
    return dict(model_paths.list_paths(project))


def save(project: Project, where: str | Path) -> None:
    """Save a project: as plain JSON if the name ends in .json, else as an archive with its logs and pictures.

    Raises `FileError`; the file is then what it was before.
    """
    save_project(Path(where), project)
