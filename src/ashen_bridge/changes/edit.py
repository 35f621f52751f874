"""An edit is a value: which change, the ids and numbers it says, a name in words. It can be compared, kept and proposed."""

from __future__ import annotations

import importlib
import inspect
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Concatenate, ParamSpec, get_type_hints

from pydantic import TypeAdapter, ValidationError
from pydantic_core import to_jsonable_python

from ashen_bridge.model.errors import ProjectError, RefusedError
from ashen_bridge.model.project import Project
from ashen_bridge.model.refusals import wrong_in

P = ParamSpec("P")
Change = Callable[..., Project]
_PACKAGE = __name__.rpartition(".")[0]


@dataclass(frozen=True)
class Edit:
    """A change with what it says, and its name in words. Equal, non-empty `merge_key`s that follow each other count as one.

    `change` is a function of this package that takes a project and `says`, keyword by keyword.
    """

    name: str
    change: Change
    says: tuple[tuple[str, Any], ...] = ()
    merge_key: str = ""

    def applied(self, project: Project) -> Project:
        """Return the changed project; what did not change is the same object. Raises `AshenError` where it does not fit."""
        return self.change(project, **dict(self.says))

    @property
    def path(self) -> str:
        """What the change is called in files: module and function, for example `layers.set_thickness`."""
        return f"{self.change.__module__.removeprefix(_PACKAGE + '.')}.{self.change.__name__}"

    def to_plain(self) -> dict[str, Any]:
        """Return the edit as plain data, for files and programs."""
        said = {key: to_jsonable_python(value) for key, value in self.says}
        return {"change": self.path, "name": self.name, "says": said, "merge_key": self.merge_key}


def edit(name: str, change: Callable[Concatenate[Project, P], Project], *args: P.args, **says: P.kwargs) -> Edit:
    """Return the edit that makes a change with these values."""
    bound = inspect.signature(change).bind(None, *args, **says).arguments
    return Edit(name, change, tuple(item for item in bound.items())[1:])


def merging(key: str, made: Edit) -> Edit:
    """Return an edit that merges with those of the same key before it, as while dragging or typing."""
    return Edit(made.name, made.change, made.says, key)


def together(project: Project, edits: tuple[Edit, ...]) -> Project:
    """Return the project after several edits, one after another: a plan, or the difference of two builds."""
    for one in edits:
        project = one.applied(project)
    return project


def read_edit(data: Any) -> Edit:
    """Return the edit that plain data describe. Raises `ProjectError` in one sentence."""
    if not isinstance(data, dict) or not isinstance(data.get("change"), str) or not isinstance(data.get("says"), dict):
        raise ProjectError("That is no edit: it needs what it changes ('change') and what it says ('says').")
    change = _named(data["change"])
    kinds = get_type_hints(change)
    wanted = list(inspect.signature(change).parameters.values())[1:]
    unknown = data["says"].keys() - {one.name for one in wanted}
    missing = [one.name for one in wanted if one.default is one.empty and one.name not in data["says"]]
    if unknown or missing:
        what = f"unknown field '{min(unknown)}'" if unknown else f"'{missing[0]}' is missing"
        raise ProjectError(f"Edit '{data['change']}': {what}.")
    says = []
    for one in wanted:
        if one.name in data["says"]:
            try:
                says.append((one.name, TypeAdapter(kinds[one.name]).validate_python(data["says"][one.name])))
            except ValidationError as error:
                refused = RefusedError(*wrong_in(error, data["says"][one.name]))
                raise ProjectError(f"Edit '{data['change']}', '{one.name}': {refused}") from error
    return Edit(str(data.get("name", ""))[:200], change, tuple(says), str(data.get("merge_key", "")))


def _named(path: str) -> Change:
    """Return a change by its path in files: only functions of this package that change projects can be named."""
    module, _, name = path.partition(".")
    if module.isidentifier() and name.isidentifier() and not name.startswith("_"):
        try:
            home = importlib.import_module(f"{_PACKAGE}.{module}")
        except ImportError:
            home = None
        change = getattr(home, name, None)
        if inspect.isfunction(change) and change.__module__ == f"{_PACKAGE}.{module}" and is_change(change):
            return change
    raise ProjectError(f"There is no change called '{path[:80]}'.")


def is_change(function: Callable[..., Any]) -> bool:
    """Return whether a function takes a project first and returns one."""
    kinds = get_type_hints(function)
    first = next(iter(inspect.signature(function).parameters), "")
    return first == "project" and kinds.get(first) is Project and kinds.get("return") is Project
