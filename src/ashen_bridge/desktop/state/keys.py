"""What answers stand on, as short keys."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from typing import Any

from pydantic import BaseModel
from pydantic_core import to_json

_KEPT = 32
_COMPUTED = ("device", "builds", "points", "materials", "ties")


class Keys:
    """Keys of projects and of anything that is data. A project's is worked out once: projects do not change."""

    def __init__(self) -> None:
        self._known: OrderedDict[tuple[int, ...], tuple[tuple[Any, ...], str]] = OrderedDict()

    def project(self, project: BaseModel, *further: str) -> str:
        """Return what predictions of any build and point of a project depend on, and `further` fields of it."""
        parts = tuple(getattr(project, name) for name in (*_COMPUTED, *further))
        place = tuple(map(id, parts))
        if place not in self._known:
            # The parts are kept with the key, so that no other object can come to have their numbers.
            self._known[place] = (parts, key_of(*parts))
            while len(self._known) > _KEPT:
                self._known.popitem(last=False)
        self._known.move_to_end(place)
        return self._known[place][1]


def key_of(*parts: Any) -> str:
    """Return a key of some values: model objects, results, plain data."""
    return hashlib.sha1(to_json(parts, inf_nan_mode="constants", fallback=repr), usedforsecurity=False).hexdigest()
