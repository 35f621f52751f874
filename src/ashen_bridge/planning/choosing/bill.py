"""What a plan takes: how much of which material, what of it is at hand, what the rest costs by the user's own prices."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from ashen_bridge.model.amounts import amount_mm3
from ashen_bridge.model.joints import Piece
from ashen_bridge.model.material import Material
from ashen_bridge.model.project import Project

_OFFCUT = 1.25  # area of sheet for an area of pieces; common practice, no source


@dataclass(frozen=True)
class Need:
    """So much of a material: sheets of a thickness by area [mm²], what is dispensed by volume [mm³]."""

    material: str
    thickness_mm: float | None
    area_mm2: float = 0.0
    volume_mm3: float = 0.0


def needs(filled: Iterable[tuple[Piece, float]], known: Mapping[str, Material]) -> tuple[Need, ...]:
    """Return what pieces take, each given with the area it covers [mm²], alike ones together."""
    found: dict[tuple[str, float | None], list[float]] = {}
    for piece, area in filled:
        sheet = sheet_mm(piece)
        if sheet is not None:
            sums = found.setdefault((piece.material, sheet), [0.0, 0.0])
            sums[0] += area / _wider(piece)
        else:
            sums = found.setdefault((piece.material, None), [0.0, 0.0])
            if piece.volume_mm3 is not None:
                sums[1] += piece.volume_mm3.value
            elif piece.amount is not None:
                sums[1] += amount_mm3(piece.amount, area, known[piece.material].density_kg_m3.value)
    return tuple(Need(material, thick, *sums) for (material, thick), sums in found.items())


def cost(project: Project, wanted: Iterable[Need]) -> tuple[float | None, tuple[str, ...]]:
    """Return what has to be paid for what is not at hand, and what no price is known of; None if that is so of all."""
    paid, unpriced, any_price = 0.0, [], False
    for need in wanted:
        if at_hand(project, need):
            any_price = True
            continue
        price = _cheapest(project, need)
        if price is None:
            unpriced.append(need.material)
        else:
            any_price = True
            paid += price
    return (paid if any_price or not unpriced else None), tuple(dict.fromkeys(unpriced))


def sheet_mm(piece: Piece) -> float | None:
    """Return how thick the sheet is that a piece is cut from [mm]; None for what is dispensed."""
    if piece.thickness_mm is None:
        return None
    return piece.thickness_mm.value if piece.worked is None else piece.worked.from_mm.value


def _wider(piece: Piece) -> float:
    """Return how much wider a piece is than what was cut for it: stretching keeps the volume, shaving the outline."""
    if piece.worked is None or piece.thickness_mm is None or piece.worked.how == "shaved":
        return 1.0
    return piece.worked.from_mm.value / piece.thickness_mm.value


def at_hand(project: Project, need: Need) -> bool:
    """Return whether the stock has enough of it."""
    area = volume = 0.0
    for item in project.stock:
        if item.material != need.material or not item.count:
            continue
        if need.thickness_mm is None:
            volume += item.count * (item.ml * 1e3 if item.ml else math.inf)
        elif item.thickness_mm is not None and abs(item.thickness_mm.value - need.thickness_mm) < 1e-6:
            area += item.count * (item.w_mm * item.h_mm if item.w_mm and item.h_mm else math.inf)
    return volume >= need.volume_mm3 > 0 if need.thickness_mm is None else area >= need.area_mm2 * _OFFCUT > 0


def _cheapest(project: Project, need: Need) -> float | None:
    found = []
    for offer in project.shop:
        if offer.material != need.material:
            continue
        if need.thickness_mm is None:
            found.append(offer.price * (math.ceil(need.volume_mm3 / (offer.ml * 1e3)) if offer.ml else 1))
        elif offer.thickness_mm is not None and abs(offer.thickness_mm - need.thickness_mm) < 1e-6:
            sheet = offer.w_mm * offer.h_mm if offer.w_mm and offer.h_mm else math.inf
            found.append(offer.price * max(1, math.ceil(need.area_mm2 * _OFFCUT / sheet)))
    return min(found, default=None)
