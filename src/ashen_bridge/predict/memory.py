"""Whole predictions by what they depend on, within a stated memory: nothing is solved twice for one question."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass, field, fields, is_dataclass
from typing import Any, Protocol

import numpy as np

from ashen_bridge.predict.mesh_error import Hottest
from ashen_bridge.predict.operating import Reached
from ashen_bridge.predict.prediction import Fidelity, Prediction

MEMORY_BYTES = 200e6
"""How much all of them together may take."""
_ROWS_BYTES = 150e3  # about what a report takes, beside its maps

Key = tuple[str, Fidelity]


@dataclass(frozen=True)
class Lead:
    """What the coarse field leaves for the fine one: where to start, and where it was hottest."""

    reached: Reached
    hottest: Hottest


@dataclass
class Memory:
    """The latest predictions of one engine."""

    limit: float = MEMORY_BYTES
    _kept: OrderedDict[Key, tuple[Prediction, Lead]] = field(default_factory=OrderedDict)
    _bytes: float = 0.0

    def get(self, key: Key) -> tuple[Prediction, Lead] | None:
        """Return a prediction that was kept and what it leads to, None if it was not or has had to go."""
        found = self._kept.get(key)
        if found is not None:
            self._kept.move_to_end(key)
        return found

    def keep(self, key: Key, prediction: Prediction, lead: Lead) -> None:
        """Keep a prediction; those not asked for longest go for it."""
        self._bytes += _size(prediction)
        self._kept[key] = prediction, lead
        while self._bytes > self.limit and len(self._kept) > 1:
            _, (gone, _) = self._kept.popitem(last=False)
            self._bytes -= _size(gone)


class Sized(Protocol):
    """Something that knows about how much memory it takes [bytes]."""

    @property
    def size(self) -> float:
        """About what it takes [bytes]."""
        ...


@dataclass
class Workings:
    """What others worked out with an engine and may be asked for again, by the hash of what it depends on."""

    limit: float = MEMORY_BYTES
    _kept: OrderedDict[str, Sized] = field(default_factory=OrderedDict)

    def get(self, key: str) -> Sized | None:
        """Return what was kept under a key, None if it was not or has had to go."""
        found = self._kept.get(key)
        if found is not None:
            self._kept.move_to_end(key)
        return found

    def keep(self, key: str, worked_out: Sized) -> None:
        """Keep something; what was not asked for longest goes for it."""
        self._kept[key] = worked_out
        while len(self._kept) > 1 and sum(one.size for one in self._kept.values()) > self.limit:
            self._kept.popitem(last=False)


def _size(prediction: Prediction) -> float:
    return _ROWS_BYTES + _arrays(prediction.maps)


def _arrays(node: Any) -> float:
    """Return the bytes of all arrays in a result."""
    if isinstance(node, np.ndarray):
        return float(node.nbytes)
    if isinstance(node, dict):
        return sum(_arrays(item) for item in node.values())
    if isinstance(node, tuple | list):
        return sum(_arrays(item) for item in node)
    if is_dataclass(node):
        return sum(_arrays(getattr(node, one.name)) for one in fields(node))
    return 0.0
