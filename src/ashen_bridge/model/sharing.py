"""Changed copies of model objects: validated where they changed, everything else the very object it was.

Validation is local to the object that changed and then goes up to the project, whose own check is that all references hold;
what did not change was valid before. A refused value is said with its whole path, put together on the way up.
"""

from __future__ import annotations

from collections.abc import Callable, Collection
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from ashen_bridge.model.errors import ProjectError, RefusedError
from ashen_bridge.model.refusals import wrong_in

M = TypeVar("M", bound=BaseModel)
T = TypeVar("T")


def replaced(node: M, **fields: Any) -> M:
    """Return `node` with some fields replaced (objects or plain data); itself if that changes nothing.

    Raises `RefusedError`, a `ProjectError`, where a value does not fit.
    """
    data = {**node.__dict__, **fields}
    try:
        made = type(node).model_validate(data)
    except ValidationError as error:
        raise RefusedError(*wrong_in(error, data)) from error
    return _sharing(node, made)


def with_part(node: M, field: str, change: Callable[[Any], Any]) -> M:
    """Return `node` with one of its parts changed."""
    try:
        part = change(getattr(node, field))
    except RefusedError as error:
        raise error.within(field) from error
    return replaced(node, **{field: part})


def with_each(node: M, field: str, change: Callable[[Any], Any], only: Collection[str] | None = None) -> M:
    """Return `node` with the items of one of its lists changed, all or those of some ids; None takes an item out.

    Raises `ProjectError` if an id is not there.
    """
    items = getattr(node, field)
    if only is not None:
        for wanted in only:
            find(items, wanted, field)
    made = []
    for number, item in enumerate(items):
        if only is not None and item.id not in only:
            made.append(item)
            continue
        try:
            made.append(change(item))
        except RefusedError as error:
            raise error.within(f"{field}.{getattr(item, 'id', number)}") from error
    return replaced(node, **{field: tuple(item for item in made if item is not None)})


def with_more(node: M, field: str, *items: Any) -> M:
    """Return `node` with items added at the end of one of its lists."""
    return replaced(node, **{field: (*getattr(node, field), *items)})


def find(items: Collection[T], wanted: str, what: str = "item") -> T:
    """Return the item of an id. Raises `ProjectError` in words: it may have been there when the question was asked."""
    for item in items:
        if getattr(item, "id", None) == wanted:
            return item
    name = {"bodies": "body", "device": "part"}.get(what, what.removesuffix("s").replace("_", " "))
    raise ProjectError(f"There is no {name} '{wanted}' any more.")


def shared(old: Any, new: Any) -> Any:
    """Return what equals `new`, made of the objects of `old` wherever these are equal."""
    if new is old or new == old:
        return old
    if isinstance(new, BaseModel) and type(new) is type(old):
        return _sharing(old, new)
    if isinstance(new, tuple) and isinstance(old, tuple):
        by_id = {getattr(item, "id", n): item for n, item in enumerate(old)}
        return tuple(shared(by_id.get(getattr(item, "id", n)), item) for n, item in enumerate(new))
    if isinstance(new, dict) and isinstance(old, dict):
        return {key: shared(old.get(key), item) for key, item in new.items()}
    return new


def _sharing(old: M, made: M) -> M:
    """Put what did not change back into a copy: the validator makes lists and tables anew."""
    same = True
    for name, before in old.__dict__.items():
        now = made.__dict__[name]
        if now is not before:
            made.__dict__[name] = now = shared(before, now)
            same = same and now is before
    # Which fields were stated is asked nowhere, and a set of names per copy would be half of what a step of undo keeps.
    object.__setattr__(made, "__pydantic_fields_set__", old.__pydantic_fields_set__)
    return old if same else made
