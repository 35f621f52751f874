"""Paths: every value of a project can be read and set by its address, for example `device.bodies.die.height_mm`.

Items of a list are addressed by id (or by number where they have none). A path that ends at a measured or assumed
number means its value; `….uncertainty` and `….origin` address the rest of it.
"""

from __future__ import annotations

import difflib
import json
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel
from pydantic_core import to_jsonable_python

from ashen_bridge.model.errors import PathError, RefusedError
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Quantity
from ashen_bridge.model.sharing import replaced


def get(project: Project, path: str) -> Any:
    """Return the plain value at `path` (a quantity gives its number). Raises `PathError` if nothing is there."""
    return _unwrapped(to_jsonable_python(node_at(project, path)))


def node_at(project: Project, path: str) -> Any:
    """Return the model object or value at `path`. Raises `PathError` if nothing is there."""
    current: Any = project
    for step in path.split(".") if path else []:
        current = _inside(current, step, path)
    return current


def set_values(project: Project, values: Mapping[str, Any]) -> Project:
    """Return a project with every value set, validated where it changed and sharing everything that did not.

    Raises `PathError` where a path leads to nothing and `ProjectError` where the new value is refused.
    """
    return changed_all(project, {path: _Value(value) for path, value in values.items()})


def set_numbers(project: Project, values: Mapping[str, float]) -> Project:
    """Return a project with some numbers set, validated where they changed: as `set_values`, at a fifth of the cost.

    What objects name of each other cannot change by it, so that is not looked at. Raises as `set_values` does.
    """
    return changed_all(project, {path: _Value(float(value)) for path, value in values.items()}, loose=True)


def changed_at(project: Project, path: str, change: Callable[[Any], Any]) -> Project:
    """Return a project with the object at `path` as `change` makes it. Raises `PathError` and `ProjectError`."""
    return changed_all(project, {path: change})


def changed_all(project: Project, changes: Mapping[str, Callable[[Any], Any]], loose: bool = False) -> Project:
    """Return a project with what is at each path as its function makes it.

    `loose`: references between objects are not checked yet, since the caller has not finished.
    """
    tree: _Tree = {}
    for path, change in changes.items():
        if not _grown(tree, path.split("."), change):
            # Something inside of what is changed whole as well: in the order in which they are said.
            project, tree = _root(project, tree, loose), {}
            _grown(tree, path.split("."), change)
    return _root(project, tree, loose)


def _root(project: Project, tree: _Tree, loose: bool) -> Project:
    made = _parts(project, tree, "")
    return project.model_copy(update=made) if loose else replaced(project, **made)


_Tree = dict[str, Any]
"""Steps of paths → what comes further in: trees, and at the end what to do."""


@dataclass(frozen=True)
class _Value:
    value: Any

    def __call__(self, old: Any) -> Any:
        return {**dict(old), "value": self.value} if isinstance(old, Quantity) and _is_bare(self.value) else self.value


def _is_bare(value: Any) -> bool:
    return not isinstance(value, dict | Quantity) and value is not None


def _grown(tree: _Tree, steps: list[str], change: Callable[[Any], Any]) -> bool:
    """Put a change into a tree of paths; says whether it could be."""
    for step in steps[:-1]:
        tree = tree.setdefault(step, {})
        if not isinstance(tree, dict):
            return False
    if isinstance(tree.get(steps[-1]), dict):
        return False
    tree[steps[-1]] = change
    return True


def _changed(node: Any, tree: _Tree, path: str) -> Any:
    """Return a node with everything that a tree says about it; `path` leads here."""
    made = _parts(node, tree, path)
    if isinstance(node, BaseModel):
        return replaced(node, **made)
    if isinstance(node, tuple):
        return tuple(made.get(n, item) for n, item in enumerate(node))
    return {**node, **made}


def _parts(node: Any, tree: _Tree, path: str) -> dict[Any, Any]:
    """Return what a tree makes of the parts of a node, by the key that holds them."""
    made = {}
    for step, inner in tree.items():
        where = f"{path}.{step}" if path else step
        key, old = _entry(node, step, where)
        try:
            made[key] = _changed(old, inner, where) if isinstance(inner, dict) else inner(old)
        except RefusedError as error:
            raise error.within(step) from error
    return made


def _entry(node: Any, step: str, path: str) -> tuple[Any, Any]:
    """Return the key by which a node holds a step, and what is there."""
    if isinstance(node, tuple):
        number = _index(node, step, path)
        return number, node[number]
    return step, _inside(node, step, path)


def _inside(node: Any, step: str, path: str) -> Any:
    if isinstance(node, BaseModel) and step in type(node).model_fields:
        return getattr(node, step)
    if isinstance(node, tuple):
        return node[_index(node, step, path)]
    if isinstance(node, dict) and step in node:
        return node[step]
    keys = list(type(node).model_fields) if isinstance(node, BaseModel) else list(node) if isinstance(node, dict) else []
    raise PathError(_nothing_at(path, step, keys), path)


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


def _index(items: tuple[Any, ...], step: str, path: str) -> int:
    for number, item in enumerate(items):
        if getattr(item, "id", None) == step:
            return number
    if step.isdigit() and int(step) < len(items):
        return int(step)
    ids = [str(item.id) for item in items if hasattr(item, "id")]
    near = difflib.get_close_matches(step, ids, n=3) or ids[:6]
    raise PathError(f"Path '{path}': there is no '{step}'" + (f"; there are {', '.join(near)}." if near else "."), path)


def _nothing_at(path: str, step: str, keys: list[str]) -> str:
    near = difflib.get_close_matches(step, keys, n=1)
    return f"Path '{path}' leads to nothing: no '{step}' there" + (f", did you mean '{near[0]}'?" if near else ".")


def is_quantity(node: Any) -> bool:
    """Return whether plain data is a measured or assumed number."""
    return isinstance(node, dict) and node.keys() == {"value", "uncertainty", "origin", "note"}


def _unwrapped(node: Any) -> Any:
    return node["value"] if is_quantity(node) else node
