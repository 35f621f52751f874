"""Bodies of a scene as slabs of heat-conducting layers, and where in them heat is made."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.geometry.region import MM, Region
from ashen_bridge.geometry.scene import Scene, SceneBody
from ashen_bridge.model.bodies import Component, DieMakeUp, PackageMakeUp, Plate, SolidMakeUp
from ashen_bridge.model.material import Material
from ashen_bridge.thermal.package import PackageShape, fit_package, package_slab
from ashen_bridge.thermal.parts import Heat, Layer, Leak, Slab

_LAYERS = {"board": 3, "substrate": 2, "die": 3, "solid": 2, "plate": 2, "sink": 3}


@dataclass(frozen=True)
class SlabSet:
    """Slabs of all bodies, and per component the layers in which its heat is made."""

    slabs: tuple[Slab, ...]
    active: dict[str, tuple[int, ...]]


def slabs_of(scene: Scene, refine: int = 1) -> SlabSet:
    """Return all bodies as slabs; `refine` multiplies the number of layers of everything that is not a package."""
    slabs, active = [], {}
    for body in scene.bodies.values():
        slab = _slab(scene, body, refine)
        slabs.append(slab)
        if isinstance(body.model, Component):
            active[body.id] = _active_layers(body.model, len(slab.layers))
    return SlabSet(tuple(slabs), active)


def _slab(scene: Scene, body: SceneBody, refine: int) -> Slab:
    model = body.model
    materials = scene.resolved.materials
    if isinstance(model, Component):
        if isinstance(model.make_up, PackageMakeUp):
            return _package(scene, body, model, model.make_up)
        inner = "die" if isinstance(model.make_up, DieMakeUp) else "solid"
        return _uniform(body, materials[model.make_up.material], _LAYERS[inner] * refine)
    kind: str = model.kind
    if isinstance(model, Plate) and model.sink is not None:
        kind = "sink"
    return _uniform(body, materials[model.material], _LAYERS[kind] * refine)


def _uniform(body: SceneBody, material: Material, count: int) -> Slab:
    layer = Layer(
        body.thickness / count,
        material.in_plane_w_mk,
        material.conductivity_w_mk.value,
        capacity_of(material),
        material.temperature_exponent,
    )
    return Slab(body.id, body.region, (layer,) * count)


def capacity_of(material: Material) -> float:
    """Return ρc [J/m³·K] of a material."""
    return material.density_kg_m3.value * material.specific_heat_j_kgk.value


def _package(scene: Scene, body: SceneBody, model: Component, make_up: PackageMakeUp) -> Slab:
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
    fit = fit_package(shape, make_up.junction_to_case_k_w.value, make_up.junction_to_board_k_w.value)
    mould = make_up.mould_density_kg_m3.value * make_up.mould_specific_heat_j_kgk.value
    return package_slab(body.id, body.region, shape, fit, (mould, capacity_of(material)))


def _active_layers(model: Component, count: int) -> tuple[int, ...]:
    make_up = model.make_up
    if isinstance(make_up, SolidMakeUp):
        return tuple(range(count))
    if isinstance(make_up, DieMakeUp):
        return (0,) if make_up.active_side == "bottom" else (count - 1,)
    return (1,)


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
        leak = Leak(leakage.share.value, leakage.at_c.value + 273.15, leakage.per_k.value) if leakage else None
        make_up = body.model.make_up
        rest = power
        if isinstance(make_up, DieMakeUp):
            for block in make_up.power_map:
                region = block_region(body, block.area.bounds)
                if region and block.share > 0:
                    heats.append(Heat(name, layers, power * block.share, region, leak))
                    rest -= power * block.share
        inlay = by_id[name].layers[layers[0]].inlay
        if rest > 1e-12:
            heats.append(Heat(name, layers, rest, inlay[0] if inlay else None, leak))
    return tuple(heats)


def block_region(body: SceneBody, bounds_mm: tuple[float, float, float, float]) -> Region:
    """Return a power block, given relative to the die's lower-left corner [mm], as a region inside the die."""
    left, low, _, _ = body.region.bounds
    x0, y0, x1, y1 = (edge * MM for edge in bounds_mm)
    return Region(((left + x0, low + y0, left + x1, low + y1),)) & body.region
