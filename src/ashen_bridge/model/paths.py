"""Paths: every value of a project can be read and set by its address, for example `device.bodies.die.height_mm`.

Items of a list are addressed by id (or by number where they have none). A path that ends at a measured or assumed
number means its value; `….uncertainty` and `….origin` address the rest of it.
"""

from __future__ import annotations

import difflib
import json
from collections.abc import Iterator, Mapping
from typing import Any

from ashen_bridge.model.errors import PathError
from ashen_bridge.model.project import Project

Plain = dict[str, Any]


def get(project: Project, path: str) -> Any:
    """Return the plain value at `path` (a quantity gives its number). Raises `PathError` if nothing is there."""
    return _unwrapped(descend(project.model_dump(mode="json"), path))


def set_values(project: Project, values: Mapping[str, Any]) -> Project:
    """Return a new, re-validated project with every value set.

    Raises `PathError` where a path leads to nothing and `ProjectError` where the new value is refused.
    """
    data = project.model_dump(mode="json")
    for path, value in values.items():
        assign(data, path, value)
    return Project.parse(data)


def assign(data: Plain, path: str, value: Any) -> None:
    """Set the value at `path` in plain project data, in place."""
    head, _, last = path.rpartition(".")
    parent = descend(data, head) if head else data
    if isinstance(parent, list):
        parent[_index(parent, last, path)] = value
        return
    if not isinstance(parent, dict) or last not in parent:
        raise PathError(_nothing_at(path, last, parent))
    old = parent[last]
    if is_quantity(old) and not isinstance(value, dict):
        parent[last] = {**old, "value": value}
    else:
        parent[last] = value


def parse_value(text: str) -> Any:
    """Return what a typed value means: JSON where it is JSON, else the text itself.

    >>> parse_value("1.5"), parse_value("sprung"), parse_value("null")
    (1.5, 'sprung', None)
    """
    try:
        value = json.loads(text)
    except json.JSONDecodeError:
        return text
    return text if isinstance(value, float) and value != value else value


def list_paths(project: Project) -> Iterator[tuple[str, Any]]:
    """Yield every path with its present value, in file order."""
    yield from _walk(project.model_dump(mode="json"), "")


def _walk(node: Any, prefix: str) -> Iterator[tuple[str, Any]]:
    if is_quantity(node):
        yield prefix, node["value"]
        return
    if isinstance(node, dict):
        for key, child in node.items():
            yield from _walk(child, f"{prefix}.{key}" if prefix else key)
    elif isinstance(node, list) and node and isinstance(node[0], dict):
        for number, child in enumerate(node):
            yield from _walk(child, f"{prefix}.{child.get('id', number)}")
    else:
        yield prefix, node


def descend(data: Any, path: str) -> Any:
    """Return the node at `path` of plain project data. Raises `PathError`."""
    current = data
    for step in path.split(".") if path else []:
        if isinstance(current, list):
            current = current[_index(current, step, path)]
        elif isinstance(current, dict) and step in current:
            current = current[step]
        else:
            raise PathError(_nothing_at(path, step, current))
    return current


def _index(items: list[Any], step: str, path: str) -> int:
    for number, item in enumerate(items):
        if isinstance(item, dict) and item.get("id") == step:
            return number
    if step.isdigit() and int(step) < len(items):
        return int(step)
    ids = [str(item.get("id")) for item in items if isinstance(item, dict) and "id" in item]
    near = difflib.get_close_matches(step, ids, n=3) or ids[:6]
    raise PathError(f"Path '{path}': there is no '{step}'" + (f"; there are {', '.join(near)}." if near else "."))


def _nothing_at(path: str, step: str, current: Any) -> str:
    keys = list(current) if isinstance(current, dict) else []
    near = difflib.get_close_matches(step, keys, n=1)
    return f"Path '{path}' leads to nothing: no '{step}' there" + (f", did you mean '{near[0]}'?" if near else ".")


def is_quantity(node: Any) -> bool:
    """Return whether plain data is a measured or assumed number."""
    return isinstance(node, dict) and node.keys() == {"value", "uncertainty", "origin", "note"}


def _unwrapped(node: Any) -> Any:
    return node["value"] if is_quantity(node) else node
