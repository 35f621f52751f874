"""Plates as heat sees them: what spreads inside them, a foil on a face, pockets in the outer one."""

from __future__ import annotations

from dataclasses import replace

from ashen_bridge.geometry.region import MM, region_of_rect
from ashen_bridge.geometry.scene import SceneBody
from ashen_bridge.model.bodies import Plate
from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.model.inner import CHAMBER_THROUGH_W_MK, BaseKind
from ashen_bridge.model.material import Material
from ashen_bridge.thermal.layering import PLATE, SINK, layered
from ashen_bridge.thermal.parts import Inlay, Layer, Slab
from ashen_bridge.thermal.surfaces import AIR_CONDUCTIVITY

_THICK = 0.1  # of its plate: a foil from which on it is cut into layers
_ACROSS_POCKET = 1e4  # [W/m·K]: what is cut away hands on the temperature of the pocket's floor


def base_conductivity(model: Plate, material: Material) -> tuple[float, float]:
    """Return what a plate conducts along itself and through [W/m·K]."""
    along, through = material.in_plane_w_mk, material.conductivity_w_mk.value
    if model.base is BaseKind.VAPOUR_CHAMBER:
        through = min(through, CHAMBER_THROUGH_W_MK)
    return (model.spreads_w_mk.value if model.spreads_w_mk is not None else along), through


def plate_slab(body: SceneBody, model: Plate, material: Material, foil: Material | None, halvings: int) -> Slab:
    """Return a plate as a slab, from its near face on."""
    along, through = base_conductivity(model, material)
    cuts = layered(body.thickness, SINK if model.sink is not None else PLATE, halvings)
    conducts = (along, through, material.capacity_j_m3k, material.temperature_exponent)
    layers = [Layer(cut.thickness, *conducts, node=cut.node) for cut in cuts]
    layers = _pocketed(body, model, layers)
    if foil is not None and model.foil is not None:
        outer = model.foil.face == "outer"
        conducts = (foil.in_plane_w_mk, foil.conductivity_w_mk.value, foil.capacity_j_m3k, foil.temperature_exponent)
        thickness = model.foil.thickness_mm.value * MM
        if thickness > _THICK * body.thickness:
            sheets = [Layer(cut.thickness, *conducts, node=cut.node) for cut in layered(thickness, PLATE, halvings)]
        else:
            sheets = [Layer(thickness, *conducts, node=1.0 if outer else 0.0)]
        layers = [*layers, *sheets] if outer else [*sheets, *layers]
    return Slab(body.id, body.region, tuple(layers))


def _pocketed(body: SceneBody, model: Plate, layers: list[Layer]) -> list[Layer]:
    """Return the layers with the pockets of the outer face: nothing conducts along them, and their floor is the face."""
    for recess in model.recesses:
        place = region_of_rect(recess.area) & body.region
        if not place:
            raise AssemblyError(f"Recess '{recess.id}' lies beside its plate '{body.id}'.", (body.id,))
        left = recess.depth_mm.value * MM
        found = []
        for layer in reversed(layers):
            gone = min(1.0, max(left, 0.0) / layer.thickness)
            left -= layer.thickness
            if gone > 0:
                along = layer.in_plane * (1 - gone) + AIR_CONDUCTIVITY * gone
                through = 1 / ((1 - gone) / layer.through + gone / _ACROSS_POCKET)
                pocket = Inlay(place, along, through, layer.capacity * (1 - gone))
                layer = replace(layer, inlays=(*layer.inlays, pocket))
            found.append(layer)
        layers = found[::-1]
    return layers
