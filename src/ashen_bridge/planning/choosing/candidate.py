"""One choice for one place."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from ashen_bridge.model.joints import Piece
from ashen_bridge.model.material import Material

Kind = Literal[
    "keep",
    "thinned",
    "nothing",
    "pad",
    "stack",
    "stretched",
    "putty",
    "paste",
    "phase change",
    "liquid metal",
    "graphite",
    "shim",
]
KEPT: tuple[Kind, ...] = ("keep", "thinned")
"""Kinds of which nothing is bought."""


@dataclass(frozen=True)
class Candidate:
    """One choice for one place: what it is called, of which kind, and what lies in each joint (lower face first).

    `refused` says why it is out of the question whatever else is chosen, empty if it is not.
    """

    id: str
    says: str
    kind: Kind
    fills: Mapping[str, tuple[Piece, ...]]
    materials: tuple[str, ...] = ()
    thickness_mm: float | None = None
    refused: str = ""


def firmness(material: Material) -> float:
    """Return the pressure that squeezes a pad's sample by up to three tenths [kPa]; 0 for what states no curve."""
    return (
        max(point.pressure_kpa for point in material.compression.points if point.strain <= 0.3) if material.compression else 0.0
    )
