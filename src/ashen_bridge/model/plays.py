"""Which part a number plays in a prediction, said at the field that holds it, and a walk over all numbers of a model object."""

from __future__ import annotations

from collections.abc import Hashable, Iterator
from dataclasses import dataclass
from enum import StrEnum
from functools import cache
from typing import Annotated, Any, TypeVar, cast, get_args

from pydantic import BaseModel
from pydantic.fields import FieldInfo

from ashen_bridge.model.quantity import Bounds, Quantity

T = TypeVar("T")


class When(StrEnum):
    """What must be so for a number to play its part at all."""

    ALWAYS = "always"
    SERVED = "a piece of the material has been in service"
    CLAIMED = "the material's conductivity is only claimed"
    TURNED = "the screw is set by turns"
    TORQUED = "the screw is set by torque"
    BOARD_BENDS = "the board bends"
    BENT = "something made of the material bends"
    WETTED = "the face is bare in its joint, or wetted by liquid metal"
    BARE_METAL = "a bare face is made of the material"


@dataclass(frozen=True)
class Plays:
    """Which part a number plays: in the heat model, in mechanics, in both, or (neither) only beside a steady prediction.

    `reads`: in what a sensor shows of it. `inverse`: what it does is not in proportion to it, since it acts by its inverse, in
    series with others. `when`: under which condition. `each`: what one number of a table is called.
    """

    heat: bool = False
    mechanics: bool = False
    reads: bool = False
    inverse: bool = False
    when: When = When.ALWAYS
    each: str = ""


Heat = Annotated[T, Plays(heat=True)]
Resists = Annotated[T, Plays(heat=True, inverse=True)]
Mechanics = Annotated[T, Plays(mechanics=True)]
Both = Annotated[T, Plays(heat=True, mechanics=True)]
Reads = Annotated[T, Plays(reads=True)]
Beside = Annotated[T, Plays()]
"""Stores heat, judges a result, or says what is bought: no part in a steady prediction."""


@dataclass(frozen=True)
class Number:
    """A number in its place: its path, the field that holds it, and the part it plays. `key`: its id in a table, else empty."""

    path: str
    field: str
    quantity: Quantity
    plays: Plays
    bounds: Bounds
    key: str = ""


def numbers(node: BaseModel, path: str) -> Iterator[Number]:
    """Yield all numbers of a model object that stands at a path, in the order of its fields."""
    for name, info in type(node).model_fields.items():
        yield from _in_field(getattr(node, name), name, f"{path}.{name}", info)


def _in_field(value: Any, name: str, path: str, info: FieldInfo) -> Iterator[Number]:
    if isinstance(value, Quantity):
        yield Number(path, name, value, *_said_of(info))
    elif isinstance(value, BaseModel):
        yield from numbers(value, path)
    elif isinstance(value, dict):
        for key, one in value.items():
            if isinstance(one, Quantity):
                yield Number(f"{path}.{key}", name, one, *_said_of(info), key)
    elif isinstance(value, tuple):
        for at, one in enumerate(value):
            if isinstance(one, BaseModel):
                yield from numbers(one, f"{path}.{getattr(one, 'id', at)}")


def unsaid(kind: type[BaseModel], seen: set[type] | None = None) -> Iterator[str]:
    """Yield `Class.field` of all fields in a class, and those it is made of, that hold a number and do not say its part."""
    seen = set() if seen is None else seen
    if kind in seen or kind is Quantity:
        return
    seen.add(kind)
    for name, info in kind.model_fields.items():
        for inner in _models_in(info.annotation):
            if inner is not Quantity:
                yield from unsaid(inner, seen)
            elif not any(isinstance(one, Plays) for one in info.metadata):
                yield f"{kind.__name__}.{name}"


def _models_in(annotation: Any) -> Iterator[type[BaseModel]]:
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        yield annotation
    for one in get_args(annotation):
        yield from _models_in(one)


def _said_of(info: FieldInfo) -> tuple[Plays, Bounds]:
    return _said(cast(Hashable, info.annotation), tuple(one for one in info.metadata if isinstance(one, Plays | Bounds)))


@cache
def _said(annotation: Hashable, metadata: tuple[Plays | Bounds, ...]) -> tuple[Plays, Bounds]:
    inside = (*metadata, *_metadata_in(annotation))
    plays = next((one for one in inside if isinstance(one, Plays)), Plays(heat=True, mechanics=True))
    return plays, next((one for one in inside if isinstance(one, Bounds)), Bounds(float("-inf"), float("inf")))


def _metadata_in(annotation: Any) -> Iterator[Any]:
    yield from getattr(annotation, "__metadata__", ())
    for one in get_args(annotation):
        yield from _metadata_in(one)
