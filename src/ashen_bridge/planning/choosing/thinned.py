"""Pads thinned by hand, for gaps between two stock thicknesses: one that is bought, or the one that lies there already."""

from __future__ import annotations

from ashen_bridge.model.joints import Piece, Worked
from ashen_bridge.model.material import Material, MaterialKind
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Quantity, q
from ashen_bridge.planning.choosing.places import Place
from ashen_bridge.planning.choosing.practice import practice


def wanted_mm(place: Place, free_mm: float) -> float | None:
    """Return the thickness to which a sheet is thinned for a gap [mm]: a fifth over it; None where that is not worth a hand.

    A pad bears being stretched by a third or so before it tears; below some hundredths no hand can tell. Common practice, no
    source.
    """
    p = practice()
    target = round(p.thinned_over * place.gap_mm / 0.05) * 0.05
    fits = free_mm / p.thinned_most <= target <= free_mm - p.thinned_least_mm
    return round(target, 2) if fits and not place.thin else None


def stretched(place: Place, material: Material, free_mm: float) -> Piece | None:
    """Return a pad that was bought thicker and is stretched to what the gap wants."""
    target = wanted_mm(place, free_mm)
    if target is None:
        return None
    return Piece(
        id="pad", material=material.id, thickness_mm=_by_hand(target), worked=Worked(from_mm=q(free_mm), how="stretched")
    )


def kept_thinner(project: Project, place: Place, pieces: tuple[Piece, ...]) -> Piece | None:
    """Return the one pad that lies there, shaved to what the gap wants."""
    if len(pieces) != 1 or pieces[0].thickness_mm is None or pieces[0].worked is not None:
        return None
    there = pieces[0]
    if project.material(there.material).kind is not MaterialKind.PAD:
        return None
    free = pieces[0].thickness_mm
    target = wanted_mm(place, free.value)
    if target is None:
        return None
    worked = Worked(from_mm=q(free.value, free.uncertainty), how="shaved")
    return there.model_copy(update={"thickness_mm": _by_hand(target), "worked": worked})


def _by_hand(thickness_mm: float) -> Quantity:
    p = practice()
    return q(thickness_mm, round(p.thinned_sd * thickness_mm, 3), "assumed", "thinned by hand; common practice, no source")
