"""Handbook and representative materials that ship with the program, each with its source."""

from __future__ import annotations

from functools import lru_cache
from importlib import resources

from pydantic import TypeAdapter

from ashen_bridge.model.material import Material


@lru_cache(maxsize=1)
def materials() -> dict[str, Material]:
    """Return the library's materials by id. A project keeps copies, so that a file does not change with the library."""
    text = resources.files(__name__).joinpath("materials.json").read_bytes()
    return {material.id: material for material in TypeAdapter(tuple[Material, ...]).validate_json(text)}
