"""Joints and the pieces they are made of; groups of joints that are edited together."""

from __future__ import annotations

from collections.abc import Iterator
from enum import StrEnum
from typing import Literal

from pydantic import Field, model_validator

from ashen_bridge.model.amounts import Amount, BondLineAmount
from ashen_bridge.model.base import Frozen, Id, Name
from ashen_bridge.model.footprint import Footprint, Rect
from ashen_bridge.model.plays import Beside, Both, Heat, Mechanics, Resists
from ashen_bridge.model.quantity import q
from ashen_bridge.model.references import Kind, Reference
from ashen_bridge.model.sharing import find
from ashen_bridge.model.units import AreaResistance, Fraction, NonNegative, Thickness, Volume

DRIED_DAYS = 3 * 365.25
"""What is dried is as if it had been in service that long, if it has not been longer; common practice, no source."""


class PieceState(StrEnum):
    """What has become of a piece."""

    AS_FITTED = "as fitted"
    BURNED_IN = "burned in"
    DRIED = "dried"


class Void(Frozen):
    """A place where a piece has nothing: a bubble, a bare zone, a hole."""

    id: Id
    area: Rect


class Worked(Frozen):
    """A pad thinned by hand: the sheet it came from, and whether it was shaved (stuff taken off) or stretched (volume kept)."""

    from_mm: Beside[Thickness]
    how: Literal["shaved", "stretched"] = "stretched"


class Piece(Frozen):
    """One cut piece or dispensed amount of one layer. What flows has a volume or amount, all else but a gas a thickness.

    Without a footprint of its own the piece covers exactly the lower faces. `age_days` is how long it has been in service: pads
    relax within a day, layers dry, pump out and harden over years. As fitted a phase-change sheet is stiff, burned in a film.
    `bare_share` is left bare somewhere; a void says where.
    """

    id: Id
    material: Id
    thickness_mm: Both[Thickness | None] = None
    volume_mm3: Mechanics[Volume | None] = None
    amount: Amount | None = None
    footprint: Footprint | None = None
    state: PieceState = PieceState.BURNED_IN
    age_days: float = Field(default=0.0, ge=0.0, le=40_000.0)
    bare_share: Heat[Fraction] = Field(default_factory=lambda: q(0.0))
    voids: tuple[Void, ...] = Field(default=(), max_length=32)
    worked: Worked | None = None

    @model_validator(mode="after")
    def _has_an_amount(self) -> Piece:
        stated = [one for one in (self.thickness_mm, self.volume_mm3, self.amount) if one is not None]
        if len(stated) > 1:
            raise ValueError(
                f"piece '{self.id}' needs just one of thickness_mm (a sheet), volume_mm3 or amount (a paste), not {len(stated)}"
            )
        if self.worked is not None and (self.thickness_mm is None or self.thickness_mm.value > self.worked.from_mm.value):
            raise ValueError(f"piece '{self.id}' is said to be {self.worked.how}, so it is thinner than the sheet it came from")
        if self.bare_share.value >= 1:
            raise ValueError(f"piece '{self.id}' is bare all over: take it out instead")
        return self

    @property
    def has_amount(self) -> bool:
        """Whether it says how much of it there is."""
        return any(one is not None for one in (self.thickness_mm, self.volume_mm3, self.amount))

    @property
    def flows(self) -> bool:
        """Whether it was dispensed and fills what gap it finds, as far as its volume goes."""
        return self.thickness_mm is None

    @property
    def bond_line_um(self) -> float | None:
        """The bond line that it keeps [µm], if that is stated."""
        return self.amount.bond_line_um.value if isinstance(self.amount, BondLineAmount) else None

    @property
    def service_days(self) -> float:
        """How old it is for what it conducts [days]: what is dried is no younger than what dries in service."""
        return max(self.age_days, DRIED_DAYS) if self.state is PieceState.DRIED else self.age_days


class Joint(Frozen):
    """What lies between one upper face and a set of lower faces; pieces are listed from the lower face up.

    *Lower* is always the side of the board, so a rear joint reads the same way as a front one. The compliance in series
    (package, balls, local board, base) is stated for each lower face. A joint may be stated as a whole, as mm²·K/W, in place
    of pieces: it keeps that whatever the gap.
    """

    id: Id
    name: Name = ""
    upper: Id
    lower: tuple[Id, ...] = Field(min_length=1, max_length=64)
    pieces: tuple[Piece, ...] = Field(default=(), max_length=12)
    stated_mm2k_w: Resists[AreaResistance | None] = None
    compliance_um_n: Mechanics[NonNegative] = Field(
        default_factory=lambda: q(0.05, 0.03, "assumed", "package, balls and base in series")
    )

    @model_validator(mode="after")
    def _ids_are_distinct(self) -> Joint:
        ids = [piece.id for piece in self.pieces]
        if len(set(ids)) != len(ids):
            raise ValueError(f"joint '{self.id}' has two pieces of the same id")
        if len(set(self.lower)) != len(self.lower) or self.upper in self.lower:
            raise ValueError(f"joint '{self.id}' names the same body twice")
        if self.stated_mm2k_w is not None and self.pieces:
            raise ValueError(f"joint '{self.id}' is stated as a whole, so it has no pieces (or leave stated_mm2k_w out)")
        if self.stated_mm2k_w is not None and self.stated_mm2k_w.value < LEAST_MM2K_W:
            raise ValueError(f"joint '{self.id}': no joint has less than {LEAST_MM2K_W:g} mm²·K/W")
        return self

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.name or self.id

    def piece(self, piece_id: str) -> Piece:
        """Return the piece of that id. Raises `ProjectError` if there is none."""
        return find(self.pieces, piece_id, "piece")

    @property
    def sheet_at(self) -> int | None:
        """Which of its pieces is its first sheet, None if it has none."""
        return next((at for at, piece in enumerate(self.pieces) if piece.thickness_mm is not None), None)

    def references(self) -> Iterator[Reference]:
        """Yield what it and its pieces name by id."""
        for end in (self.upper, *self.lower):
            yield Reference("Joint", self.id, "leads to", Kind.BODY_HERE, end)
        for piece in self.pieces:
            yield Reference("Joint", self.id, f"has a piece '{piece.id}' of", Kind.MATERIAL, piece.material)


LEAST_MM2K_W = 0.1
"""Below what any layer between two faces has: soldered ones have some 1 to 5 mm²·K/W."""


class Group(Frozen):
    """Joints that are edited together."""

    id: Id
    name: Name = ""
    joints: tuple[Id, ...] = Field(min_length=1)

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.name or self.id

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id."""
        for joint in self.joints:
            yield Reference("Group", self.id, "names joint", Kind.JOINT, joint)
