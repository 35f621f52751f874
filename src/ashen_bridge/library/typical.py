"""Typical numbers of the trade, for what nobody has measured yet: always marked assumed, with their spread."""

from __future__ import annotations

import json
from functools import lru_cache
from importlib import resources

from ashen_bridge.model.inner import CopperLayer
from ashen_bridge.model.quantity import Quantity, q


@lru_cache(maxsize=1)
def _values() -> dict[str, tuple[float, float, str]]:
    content = json.loads(resources.files("ashen_bridge.library").joinpath("typical.json").read_text(encoding="utf-8"))
    return {key: (value, spread, note) for key, (value, spread, note) in content["values"].items()}


def typical(key: str) -> Quantity:
    """Return a typical value as an assumed quantity, in the unit its key ends with. `KeyError` if there is none.

    >>> typical("board_thickness_mm").value
    1.6
    """
    value, spread, note = _values()[key]
    return q(value, spread, "assumed", f"{note} (common practice, no source)")


def copper_layers(count: int) -> tuple[CopperLayer, ...]:
    """Return the copper layers of a board nobody has looked into: usual foil, half of it there.

    >>> len(copper_layers(6))
    6
    """
    return (CopperLayer(),) * count
