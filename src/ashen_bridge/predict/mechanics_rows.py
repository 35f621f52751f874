"""Rows and maps of the mechanical result: joints, plates, fasteners."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.plan import Facing
from ashen_bridge.geometry.region import Box, Region
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.mechanics.assembly import Assembly, ContactPatch
from ashen_bridge.mechanics.contact_state import ContactState, contact_state, mounted_gap, sampled_gaps
from ashen_bridge.mechanics.equilibrium import Equilibrium, slopes
from ashen_bridge.model.material import MaterialKind
from ashen_bridge.predict.maps import JointMap, Pose
from ashen_bridge.predict.report import BondLine, FastenerRow, Spread

_RASTER_PASTE, _RASTER_PAD = 40, 12


@dataclass(frozen=True)
class JointMechanics:
    """Mechanical figures of one joint over one lower body, in the units of `report.JointRow`."""

    joint: str
    lower: str
    upper: str
    gap_mm: float
    bond_line_um: BondLine
    compression: float | None
    pressure_kpa: Spread
    force_n: float
    contact_fraction: float
    air_um: float
    paste_coverage: float | None
    paste_outside_law: bool


def joint_mechanics(
    scene: Scene, assembly: Assembly, coordinates: Floats, coverage: dict[tuple[str, str], float]
) -> list[JointMechanics]:
    """Return one entry per joint and lower body. `coverage` is that of `joint_heat.paste_coverage`."""
    by_facing: dict[int, tuple[Facing, list[ContactPatch]]] = {}
    for contact in assembly.contacts:
        if contact.facing.joint is not None:
            by_facing.setdefault(id(contact.facing), (contact.facing, []))[1].append(contact)
    gaps = sampled_gaps(assembly, coordinates)
    return [_one(scene, assembly, gaps, facing, contacts, coverage) for facing, contacts in by_facing.values()]


def _one(
    scene: Scene,
    assembly: Assembly,
    gaps: Floats,
    facing: Facing,
    contacts: list[ContactPatch],
    coverage: dict[tuple[str, str], float],
) -> JointMechanics:
    pieced = [contact for contact in contacts if contact.pieces] or contacts
    states = [contact_state(contact, gaps[contact.points]) for contact in pieced]
    weight = np.concatenate([assembly.weight[contact.points] for contact in pieced])
    gap = np.concatenate([state.gap for state in states])
    air = np.concatenate([state.air for state in states])
    pressure = np.concatenate([state.pressure for state in states])
    filled = np.maximum(gap - air, 0.0) if pieced[0].pieces else gap
    covered = [value for (joint, _), value in coverage.items() if joint == facing.joint]
    paste = min(covered) if covered else None
    # What flowed into its gap, or holds on to both faces, touches without being pressed.
    holds = paste is not None or any(_bonded(scene, contact) for contact in pieced)
    touched = float(weight[(pressure > 0) | (air <= 0) & (gap < 1.0)].sum()) if holds else float(weight[pressure > 0].sum())
    face = scene.bodies[facing.lower].region.area
    mean_pressure = float(pressure @ weight / weight.sum())
    return JointMechanics(
        joint=facing.joint or "",
        lower=facing.lower,
        upper=facing.upper,
        gap_mm=float(gap @ weight / weight.sum()) * 1e3,
        bond_line_um=bond_line_of(filled, weight),
        compression=_compression(scene, pieced, states, assembly),
        pressure_kpa=Spread(min=float(pressure.min()) / 1e3, mean=mean_pressure / 1e3, max=float(pressure.max()) / 1e3),
        force_n=float(pressure @ weight),
        contact_fraction=min(1.0, touched / face * (paste if paste is not None else 1.0)),
        air_um=float(air @ weight / weight.sum()) * 1e6,
        paste_coverage=paste,
        paste_outside_law=_outside_law(scene, pieced, mean_pressure),
    )


def _bonded(scene: Scene, contact: ContactPatch) -> bool:
    kinds = {scene.resolved.materials[piece.material].kind for piece in contact.pieces}
    kept = any(piece.bond_line_um is not None for piece in contact.pieces)
    return kept or bool(kinds & {MaterialKind.SOLDER, MaterialKind.ADHESIVE})


def bond_line_of(thickness: Floats, weight: Floats) -> BondLine:
    """Return minimum, maximum, arithmetic and harmonic mean of a thickness [m] over areas `weight` [m²], in µm."""
    um = np.maximum(thickness, 1e-9) * 1e6
    return BondLine(
        min=float(um.min()),
        mean=float(um @ weight / weight.sum()),
        max=float(um.max()),
        harmonic=float(weight.sum() / (weight / um).sum()),
    )


def _compression(scene: Scene, contacts: list[ContactPatch], states: list[ContactState], assembly: Assembly) -> float | None:
    """Return the mean strain of the pads and graphite sheets of a joint; None if it has none."""
    free = pressed = 0.0
    for contact, state in zip(contacts, states, strict=True):
        weight = assembly.weight[contact.points]
        for piece, thickness in zip(contact.pieces, state.piece_thickness, strict=True):
            if piece.thickness_mm is not None and scene.resolved.materials[piece.material].compression is not None:
                free += piece.thickness_mm.value * 1e-3 * float(weight.sum())
                pressed += float(thickness @ weight)
    return max(0.0, 1 - pressed / free) if free else None


def _outside_law(scene: Scene, contacts: list[ContactPatch], mean_pressure: float) -> bool:
    for contact in contacts:
        for piece in contact.pieces:
            material = scene.resolved.materials[piece.material]
            flow = material.flow if material.kind is MaterialKind.PASTE and piece.bond_line_um is None else None
            if flow is not None and mean_pressure < flow.yield_stress_kpa.value * 1e3:
                return True
    return False


def joint_maps(scene: Scene, assembly: Assembly, coordinates: Floats) -> tuple[JointMap, ...]:
    """Return bond line and pressure of every joint on a raster per lower body."""
    rasters: dict[tuple[str, str], JointMap] = {}
    for contact in assembly.contacts:
        if contact.facing.joint is None or not contact.pieces:
            continue
        key = contact.facing.joint, contact.facing.lower
        x0, y0, x1, y1 = scene.bodies[contact.facing.lower].region.bounds
        n = _RASTER_PASTE if contact.law.fills else _RASTER_PAD
        if key not in rasters:
            empty = np.full((n, n), np.nan, dtype=np.float32)
            box = (x0 * 1e3, y0 * 1e3, x1 * 1e3, y1 * 1e3)
            rasters[key] = JointMap(*key, box, empty, empty.copy())
        raster = rasters[key]
        x, y, inside = _raster_points(contact.patch.region, (x0, y0, x1, y1), len(raster.bond_line_um))
        state = contact_state(contact, mounted_gap(scene, assembly, contact, coordinates, x, y))
        raster.bond_line_um[inside] = (state.gap - state.air) * 1e6
        raster.pressure_kpa[inside] = state.pressure / 1e3
    return tuple(rasters.values())


@lru_cache(maxsize=1024)
def _raster_points(region: Region, box: Box, n: int) -> tuple[Floats, Floats, np.ndarray]:
    """Return the places [m] of an n × n raster over `box` that lie inside `region`, and which of the raster they are."""
    x0, y0, x1, y1 = box
    x, y = np.meshgrid(x0 + (np.arange(n) + 0.5) / n * (x1 - x0), y0 + (np.arange(n) + 0.5) / n * (y1 - y0))
    inside = region.covers(x, y)
    return x[inside], y[inside], inside


def poses(assembly: Assembly, coordinates: Floats) -> tuple[Pose, ...]:
    """Return where every floating plate is."""
    rows = slopes(coordinates[: 3 * len(assembly.plates)])
    return tuple(
        Pose(plate, float(z), float(sx), float(sy), float(x0), float(y0))
        for plate, (z, sx, sy), (x0, y0) in zip(assembly.plates, rows, assembly.centres, strict=True)
    )


def fastener_rows(assembly: Assembly, rest: Equilibrium) -> tuple[FastenerRow, ...]:
    """Return the tension of every fastener."""
    return tuple(
        FastenerRow(id=name, force_n=float(f)) for name, f in zip(assembly.fasteners, rest.fastener_force[0], strict=True)
    )
