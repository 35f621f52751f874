"""Frozen base of all model objects, and the id type they are addressed by."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated

from pydantic import BaseModel, ConfigDict, StringConstraints

from ashen_bridge.model.references import Reference


class Frozen(BaseModel):
    """A model object: immutable, strict about its fields, JSON without NaN."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, str_max_length=4000)

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id, and what its parts do."""
        return iter(())


ID_PATTERN = r"^[a-z][a-z0-9_-]{0,47}$"
Id = Annotated[str, StringConstraints(pattern=ID_PATTERN)]
"""Short stable name: a lower-case letter, then letters, digits, `_` or `-`."""

Name = Annotated[str, StringConstraints(max_length=200)]
Text = Annotated[str, StringConstraints(max_length=4000)]
Digest = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
"""SHA-256 of a stored blob, in hexadecimal."""
