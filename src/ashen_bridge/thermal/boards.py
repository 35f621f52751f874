"""Boards as heat sees them: copper layers with laminate between them, vias and lands in places."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from ashen_bridge.geometry.region import region_of_rect
from ashen_bridge.geometry.scene import SceneBody
from ashen_bridge.model.bodies import Board
from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.model.inner import BoardRegion, CopperLayer, Vias
from ashen_bridge.model.material import Material
from ashen_bridge.thermal.layering import BOARD, layered
from ashen_bridge.thermal.parts import Inlay, Layer, Slab

COPPER_W_MK = 390.0  # electrodeposited foil and plating; handbook range 385 to 395 (from memory)
MOST_PLANES = 4  # layers of copper inside a board that get cells of their own; more are put together with their neighbours
_THIN = 0.5e-3  # [m] of laminate that one layer of cells stands for
_COPPER_CAPACITY = 8933 * 385.0  # [J/m³·K]


def via_conductivity(vias: Vias, laminate: float) -> float:
    """Return the conductivity through a field of plated holes [W/m·K]: barrels of copper beside laminate, air inside left out.

    >>> from ashen_bridge.model.quantity import q
    >>> round(via_conductivity(Vias(pitch_mm=q(1.0), drill_mm=q(0.3), plating_um=q(25)), 0.35), 2)
    8.75
    """
    wall = vias.plating_um.value * 1e-3
    cell, hole = vias.pitch_mm.value**2, math.pi / 4 * vias.drill_mm.value**2
    barrel = math.pi * wall * (vias.drill_mm.value - wall)
    return (barrel * COPPER_W_MK + (cell - hole) * laminate) / cell


def board_slab(body: SceneBody, model: Board, laminate: Material, halvings: int) -> Slab:
    """Return a board as a slab, from its rear face on.

    Without stated copper it is one homogeneous sheet of its material. With it each copper layer is a layer, evenly spaced from
    face to face; in one, what is copper and what is not conduct side by side. Raises `AssemblyError` if the copper leaves no
    room for laminate.
    """
    capacity = laminate.capacity_j_m3k
    along, across = laminate.in_plane_w_mk, laminate.conductivity_w_mk.value
    if not model.copper:
        plain = [
            Layer(cut.thickness, along, across, capacity, laminate.temperature_exponent, node=cut.node)
            for cut in layered(body.thickness, BOARD, halvings)
        ]
        return Slab(body.id, body.region, tuple(_with_regions(layer, body, model, across, outer=False) for layer in plain))
    foils = _grouped(model.copper)
    if sum(foil.thickness for foil in foils) > 0.6 * body.thickness:
        raise AssemblyError(f"The copper layers of board '{body.id}' are thicker than the board has room for.", (body.id,))
    resin = (body.thickness - sum(foil.thickness for foil in foils)) / max(len(foils) - 1, 1)
    layers: list[Layer] = []
    for number, foil in enumerate(reversed(foils)):
        ends = (number == 0 and len(foils) > 1, number == len(foils) - 1)
        node = 0.0 if ends[0] else 1.0 if ends[1] else 0.5
        sheet = _foil(foil, along, across, capacity, node)
        layers.append(_with_regions(sheet, body, model, across, outer=any(ends)))
        if not ends[1]:
            layers += _resin(resin, along, across, capacity, body, model)
    if len(foils) == 1:
        layers = [*_resin(body.thickness - foils[0].thickness, along, across, capacity, body, model), *layers]
    parts = tuple(part for layer in layers for part in _halved(layer, halvings))
    return Slab(body.id, body.region, parts)


@dataclass(frozen=True)
class _Copper:
    """Some copper layers as one: thickness [m] and the share that is copper."""

    thickness: float
    cover: float


def _grouped(layers: Sequence[CopperLayer]) -> list[_Copper]:
    """Return the copper layers, those inside put together with their neighbours where there are more than are worth cells."""
    outer = [[layers[0]]], [[layers[-1]]] if len(layers) > 1 else []
    inner = list(layers[1:-1])
    size = math.ceil(len(inner) / MOST_PLANES) if inner else 1
    groups = [*outer[0], *(inner[at : at + size] for at in range(0, len(inner), size)), *outer[1]]
    found = []
    for group in groups:
        thick = sum(_thickness(one) for one in group)
        found.append(_Copper(thick, sum(_thickness(one) * one.cover.value for one in group) / thick))
    return found


def _resin(thickness: float, along: float, across: float, capacity: float, body: SceneBody, model: Board) -> list[Layer]:
    """Return the laminate between two copper layers: heat passes it nearly straight, so that a few layers do."""
    count = 1 if thickness < _THIN else 3
    layer = Layer(thickness / count, along, across, capacity)
    return [_with_regions(layer, body, model, across, outer=False)] * count


def _halved(layer: Layer, halvings: int) -> Iterator[Layer]:
    """Yield a layer in 2ⁿ parts, as many of them with their temperature where the whole had it as can be."""
    count = 2**halvings
    part = replace(layer, thickness=layer.thickness / count)
    for number in range(count):
        at_face = (layer.node == 0.0 and number == 0) or (layer.node == 1.0 and number == count - 1)
        yield part if at_face else replace(part, node=0.5)


def _thickness(layer: CopperLayer) -> float:
    return layer.thickness_um.value * 1e-6


def _foil(foil: _Copper, along: float, across: float, capacity: float, node: float) -> Layer:
    cover = foil.cover
    return Layer(
        foil.thickness,
        along * (1 - cover) + COPPER_W_MK * cover,
        across * (1 - cover) + COPPER_W_MK * cover,
        capacity * (1 - cover) + _COPPER_CAPACITY * cover,
        node=node,
    )


def _with_regions(layer: Layer, body: SceneBody, model: Board, laminate: float, *, outer: bool) -> Layer:
    """Return a layer with the board's regions in it: vias through all but the foils, lands in the foils."""
    inlays = []
    for region in model.regions:
        place = region_of_rect(region.area) & body.region
        if not place:
            raise AssemblyError(f"Region '{region.id}' lies beside board '{body.id}'.", (body.id,))
        through = _through(region, laminate)
        if outer and region.land_cover is not None:
            cover = region.land_cover.value
            conducts = laminate * (1 - cover) + COPPER_W_MK * cover
            inlays.append(Inlay(place, conducts, conducts, layer.capacity))
        elif not outer and through is not None:
            inlays.append(Inlay(place, layer.in_plane, max(through, layer.through), layer.capacity))
    return replace(layer, inlays=tuple(inlays)) if inlays else layer


def _through(region: BoardRegion, laminate: float) -> float | None:
    if region.vias is not None:
        return via_conductivity(region.vias, laminate)
    return region.through_w_mk.value if region.through_w_mk is not None else None
