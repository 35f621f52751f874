"""Bodies of a scene as slabs of heat-conducting layers, and where in them heat is made."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass

from ashen_bridge.geometry.region import MM, Region
from ashen_bridge.geometry.scene import Scene, SceneBody
from ashen_bridge.model.bodies import Board, Component, DieMakeUp, PackageMakeUp, Plate, SolidMakeUp
from ashen_bridge.model.material import Material
from ashen_bridge.thermal.boards import board_slab
from ashen_bridge.thermal.layering import DIE, SOLID, SUBSTRATE, Cut, layered
from ashen_bridge.thermal.package import PackageMesh, PackageShape, fit_package, package_slab
from ashen_bridge.thermal.parts import Heat, Layer, Leak, Slab
from ashen_bridge.thermal.plates import plate_slab
from ashen_bridge.thermal.surfaces import KELVIN


@dataclass(frozen=True)
class SlabSet:
    """Slabs of all bodies, and per component the layers in which its heat is made."""

    slabs: tuple[Slab, ...]
    active: dict[str, tuple[int, ...]]


def slabs_of(scene: Scene, halvings: int, packages: Mapping[str, PackageMesh], only: Collection[str] | None = None) -> SlabSet:
    """Return bodies as slabs, all or `only` some; every layer is halved `halvings` times, packages fitted on their own meshes."""
    slabs, active = [], {}
    for body in scene.bodies.values():
        if only is not None and body.id not in only:
            continue
        slab, made = _slab(scene, body, halvings, packages)
        slabs.append(slab)
        if isinstance(body.model, Component):
            active[body.id] = made
    return SlabSet(tuple(slabs), active)


def _slab(scene: Scene, body: SceneBody, halvings: int, packages: Mapping[str, PackageMesh]) -> tuple[Slab, tuple[int, ...]]:
    """Return a body as a slab, and the layers in which it makes its heat if it makes any."""
    model = body.model
    materials = scene.resolved.materials
    if isinstance(model, Component):
        if isinstance(model.make_up, PackageMakeUp):
            return _package(scene, body, model.make_up, packages[body.id], halvings)
        material = materials[model.make_up.material]
        if isinstance(model.make_up, SolidMakeUp):
            layers = layered(body.thickness, SOLID, halvings)
            return _uniform(body, material, layers), tuple(range(len(layers)))
        if model.make_up.active_side == "bottom":
            return _uniform(body, material, layered(body.thickness, DIE, halvings)), (0,)
        layers = layered(body.thickness, DIE[::-1], halvings)
        return _uniform(body, material, layers), (len(layers) - 1,)
    if isinstance(model, Board):
        slab = board_slab(body, model, materials[model.material], halvings)
    elif isinstance(model, Plate):
        foil = materials[model.foil.material] if model.foil is not None else None
        slab = plate_slab(body, model, materials[model.material], foil, halvings)
    else:
        slab = _uniform(body, materials[model.material], layered(body.thickness, SUBSTRATE, halvings))
    return slab, tuple(range(len(slab.layers)))


def _uniform(body: SceneBody, material: Material, cuts: tuple[Cut, ...]) -> Slab:
    conducts = (material.in_plane_w_mk, material.conductivity_w_mk.value, material.capacity_j_m3k, material.temperature_exponent)
    return Slab(body.id, body.region, tuple(Layer(cut.thickness, *conducts, node=cut.node) for cut in cuts))


def _package(
    scene: Scene, body: SceneBody, make_up: PackageMakeUp, mesh: PackageMesh, halvings: int
) -> tuple[Slab, tuple[int, ...]]:
    x0, y0, x1, y1 = body.region.bounds
    balls, active = make_up.ball_thickness_mm.value * MM, make_up.active_thickness_mm.value * MM
    material = scene.resolved.materials[make_up.active_material]
    shape = PackageShape(
        round(x1 - x0, 9),
        round(y1 - y0, 9),
        make_up.active_w_mm * MM,
        make_up.active_h_mm * MM,
        balls,
        active,
        round(body.thickness - balls - active, 9),
        material.conductivity_w_mk.value,
    )
    fit = fit_package(shape, make_up.junction_to_case_k_w.value, make_up.junction_to_board_k_w.value, mesh)
    mould = make_up.mould_density_kg_m3.value * make_up.mould_specific_heat_j_kgk.value
    return package_slab(body.id, body.region, shape, fit, (mould, material.capacity_j_m3k), halvings)


def heats_of(scene: Scene, slabs: SlabSet, powers: dict[str, float]) -> tuple[Heat, ...]:
    """Return where `powers` [W] by component are made: by power map in a die, in the active layer of a package."""
    heats: list[Heat] = []
    by_id = {slab.id: slab for slab in slabs.slabs}
    for name, power in powers.items():
        body = scene.bodies.get(name)
        if body is None or power == 0:
            continue
        layers = slabs.active.get(name, tuple(range(len(by_id[name].layers))))
        if not isinstance(body.model, Component):
            heats.append(Heat(name, layers, power))
            continue
        leakage = body.model.leakage
        leak = (
            Leak(leakage.share.value, leakage.at_c.value + KELVIN, leakage.per_k.value, leakage.form == "straight")
            if leakage
            else None
        )
        make_up = body.model.make_up
        rest = power
        inlay = by_id[name].layers[layers[0]].inlay
        evenly = inlay[0] if inlay else None
        if isinstance(make_up, DieMakeUp):
            for block in make_up.power_map:
                region = block_region(body, block.area.bounds)
                if region and block.share > 0:
                    heats.append(Heat(name, layers, power * block.share, region, leak))
                    rest -= power * block.share
            if make_up.rest == "beside the blocks":
                evenly = beside_blocks(body, make_up) or None
        if rest > 1e-12:
            heats.append(Heat(name, layers, rest, evenly, leak))
    return tuple(heats)


def beside_blocks(body: SceneBody, make_up: DieMakeUp) -> Region:
    """Return what the power blocks of a die leave of it."""
    left = body.region
    for block in make_up.power_map:
        if block.share > 0:
            left = left - block_region(body, block.area.bounds)
    return left & body.region


def block_region(body: SceneBody, bounds_mm: tuple[float, float, float, float]) -> Region:
    """Return a power block, given relative to the die's lower-left corner [mm], as a region inside the die."""
    left, low, _, _ = body.region.bounds
    x0, y0, x1, y1 = (edge * MM for edge in bounds_mm)
    return Region(((left + x0, low + y0, left + x1, low + y1),)) & body.region
