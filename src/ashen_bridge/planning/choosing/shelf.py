"""What people decide by: how much a layer resists over its thickness, and how hard a pad pushes back when it is squeezed."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.changes.layers import STOCK_MM
from ashen_bridge.library import materials as library
from ashen_bridge.mechanics.layers import layer_law
from ashen_bridge.model.joints import Piece
from ashen_bridge.model.material import DISPENSED, Material, MaterialKind
from ashen_bridge.model.quantity import q
from ashen_bridge.planning.choosing.result import ShelfCurve
from ashen_bridge.predict.joint_heat import layer_heat, piece_resistance
from ashen_bridge.words.numbers import short

SIDE_MM = 12.0
"""Side of the square piece for which figures of the shelf hold."""
_ROUGH_M = 1e-6
_STRAINS = np.linspace(0.0, 0.6, 31)
_PUTTY_MM = (0.3, 3.0)
_STANDS_OUT = 1.25  # times the best that is known of a kind


def shelf_curve(material: Material, pressure_kpa: float, thickness_mm: float = 1.0) -> ShelfCurve | None:
    """Return the curves of a material at a pressure; None for what is no layer, or nothing that people choose by these.

    Contact resistances of both faces are in; a pad's push is that of a piece of `thickness_mm`, `SIDE_MM` square.
    """
    if material.kind in (MaterialKind.SOLID, MaterialKind.GAS, MaterialKind.FILM):
        return None
    pressure = max(pressure_kpa, 1.0) * 1e3
    if material.kind in DISPENSED:
        at = _PUTTY_MM if material.kind is MaterialKind.PUTTY else (0.0,)
        thick, film = _flowing(material, pressure, at)
        resists = tuple(_resistance(material, None, one * 1e-3, pressure) for one in thick)
        return ShelfCurve(material.id, material.name, material.kind.value, thick, resists, (), (), film, material.only_claimed)
    stock = tuple(material.stock_thicknesses_mm) or STOCK_MM
    resists = tuple(_resistance(material, one, _pressed(material, one, pressure), pressure) for one in stock)
    strain, push = _push(material, thickness_mm)
    return ShelfCurve(material.id, material.name, material.kind.value, stock, resists, strain, push, None, material.only_claimed)


def shelf(materials: Iterable[Material], pressure_kpa: float, thickness_mm: float = 1.0) -> tuple[ShelfCurve, ...]:
    """Return the curves of some materials, the least resisting first."""
    found = [
        replace(curve, odd=odd_claim(one), handling=handling_words(one))
        for one in materials
        if (curve := shelf_curve(one, pressure_kpa, thickness_mm)) is not None
    ]
    return tuple(sorted(found, key=lambda one: min(one.resistance)))


def handling_words(material: Material) -> tuple[str, ...]:
    """Return how a material is handled and sold: as it says, else as the library says of the one it was copied from."""
    shipped = library().get(material.id)
    return material.handling.words or (shipped.handling.words if shipped is not None else ())


def odd_claim(material: Material) -> str:
    """Return in words by how much a conductivity stands out beside what is known of its kind; empty if it does not."""
    others = [one.conductivity_w_mk.value for one in library().values() if one.kind is material.kind and one.id != material.id]
    k = material.conductivity_w_mk.value
    if not others or k <= _STANDS_OUT * max(others):
        return ""
    said = "claims" if material.only_claimed else "is said to have"
    return f"{said} {short(k, 3)} W/m·K; others of its kind reach {short(max(others), 3)}"


def _law(material: Material, thickness_mm: float | None) -> object:
    side = SIDE_MM * 1e-3
    piece = _piece(material, thickness_mm)
    return layer_law(piece, material, side * side, 4 * side, _ROUGH_M)


def _piece(material: Material, thickness_mm: float | None) -> Piece:
    return Piece(id="piece", material=material.id, thickness_mm=None if thickness_mm is None else q(thickness_mm))


def _pressed(material: Material, thickness_mm: float, pressure: float) -> float:
    return float(_law(material, thickness_mm)(np.array([pressure]))[0])  # type: ignore[operator]


def _flowing(material: Material, pressure: float, at: tuple[float, ...]) -> tuple[tuple[float, ...], float | None]:
    film = _law(material, None)(np.array([pressure]))[0]  # type: ignore[operator]
    if material.kind is MaterialKind.PUTTY:
        return tuple(np.linspace(at[0], at[-1], 10).tolist()), None
    return (float(film) * 1e3,), float(film) * 1e6


def _resistance(material: Material, thickness_mm: float | None, pressed: float, pressure: float) -> float:
    found: Floats = piece_resistance(
        _piece(material, thickness_mm), layer_heat(material), np.array([pressed]), np.array([pressure])
    )
    return float(found[0]) * 1e6


def _push(material: Material, thickness_mm: float) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Return compression and pressure [kPa] of a sheet, by the law that the equilibrium uses."""
    if material.compression is None:
        return (), ()
    pressures = np.geomspace(1e3, 3e6, 200)
    squeezed = 1 - _law(material, thickness_mm)(pressures) / (thickness_mm * 1e-3)  # type: ignore[operator]
    kept = np.interp(_STRAINS, squeezed, pressures * 1e-3)
    first = squeezed[0] >= _STRAINS
    kept[first] *= _STRAINS[first] / max(squeezed[0], 1e-9)
    inside = squeezed[-1] >= _STRAINS
    return tuple(_STRAINS[inside].tolist()), tuple(kept[inside].tolist())
