"""Joints and the pieces they are made of; groups of joints that are edited together."""

from __future__ import annotations

from pydantic import Field, model_validator

from ashen_bridge.model.base import Frozen, Id, Name
from ashen_bridge.model.footprint import Footprint
from ashen_bridge.model.quantity import q
from ashen_bridge.model.units import NonNegative, Thickness, Volume


class Piece(Frozen):
    """One cut piece or dispensed amount of one layer. Paste, putty and liquid metal have a volume, all else a thickness.

    Without a footprint of its own the piece covers exactly the lower faces. `burned_in` matters to phase-change sheets
    only: as fitted they are a stiff sheet, after the first hot cycles a film.
    """

    id: Id
    material: Id
    thickness_mm: Thickness | None = None
    volume_mm3: Volume | None = None
    footprint: Footprint | None = None
    burned_in: bool = True

    @model_validator(mode="after")
    def _has_an_amount(self) -> Piece:
        if (self.thickness_mm is None) == (self.volume_mm3 is None):
            raise ValueError(f"piece '{self.id}' needs either thickness_mm (a sheet) or volume_mm3 (a paste)")
        return self


class Joint(Frozen):
    """What lies between one upper face and a set of lower faces; pieces are listed from the lower face up.

    *Lower* is always the side of the board, so a rear joint reads the same way as a front one. The compliance in series
    (package, balls, local board, base) is stated for each lower face.
    """

    id: Id
    name: Name = ""
    upper: Id
    lower: tuple[Id, ...] = Field(min_length=1, max_length=64)
    pieces: tuple[Piece, ...] = Field(default=(), max_length=12)
    compliance_um_n: NonNegative = Field(default_factory=lambda: q(0.05, 0.03, "assumed", "package, balls and base in series"))

    @model_validator(mode="after")
    def _ids_are_distinct(self) -> Joint:
        ids = [piece.id for piece in self.pieces]
        if len(set(ids)) != len(ids):
            raise ValueError(f"joint '{self.id}' has two pieces of the same id")
        if len(set(self.lower)) != len(self.lower) or self.upper in self.lower:
            raise ValueError(f"joint '{self.id}' names the same body twice")
        return self

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.name or self.id


class Group(Frozen):
    """Joints that are edited together."""

    id: Id
    name: Name = ""
    joints: tuple[Id, ...] = Field(min_length=1)

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.name or self.id
