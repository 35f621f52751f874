"""A scene as a heat model: slabs, contacts, films and heat on lines fit for it."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.plan import Facing, Patch
from ashen_bridge.geometry.region import Region, region_of_rect
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.model.bodies import Board, Component, Plate, Side, Substrate
from ashen_bridge.model.build import OperatingPoint
from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.thermal import names
from ashen_bridge.thermal.cutting import Ints
from ashen_bridge.thermal.films import scene_films
from ashen_bridge.thermal.lines import Lines
from ashen_bridge.thermal.names import Name
from ashen_bridge.thermal.parts import Contact, HeatModel, Link, cell_areas, cell_extents
from ashen_bridge.thermal.resolution import Frame
from ashen_bridge.thermal.slabs import heats_of
from ashen_bridge.thermal.surfaces import AIR_EXPONENT, KELVIN, effective_emissivity


class PatchHeat(NamedTuple):
    """How a patch leads heat at some points.

    conductance per area [W/m²·K]; across_air: share of the area that faces across air; gas: what of the conductance is that of
    a gas, which goes with the temperature to some power.
    """

    conductance: Floats
    across_air: Floats
    gas: Floats
    gas_exponent: float = AIR_EXPONENT


PatchConductance = Callable[[Facing, Patch, Floats, Floats], PatchHeat]
"""(facing, patch, x, y) → how heat is led at points [m]."""


def heat_model(
    scene: Scene,
    frame: Frame,
    point: OperatingPoint,
    conductance: PatchConductance | tuple[Contact, ...],
    inside: float | None = None,
) -> HeatModel:
    """Return the heat model of a scene at an operating point with the joints' conductances given.

    `conductance` may also be the contacts of all facings as they were found before. `inside` is the temperature of the air in
    the case [K] where the operating point does not give it.
    """
    facings = (
        conductance
        if isinstance(conductance, tuple)
        else tuple(_facing(scene, facing, frame, conductance) for facing in scene.plan.facings)
    )
    powers = {name: power.value for name, power in point.powers_w.items()}
    return HeatModel(
        lines=frame.lines,
        slabs=frame.slabs.slabs,
        contacts=(*_attachments(scene, frame.lines), *_overhangs(scene, frame), *facings),
        films=scene_films(scene, point, inside),
        heats=heats_of(scene, frame.slabs, powers),
        reference=point.ambient_c.value + KELVIN,
        links=tuple(_pipes(scene)),
    )


def _pipes(scene: Scene) -> Iterator[Link]:
    for body in scene.bodies.values():
        for pipes in body.model.heat_pipes if isinstance(body.model, Plate) else ():
            section = pipes.count * math.pi / 4 * (pipes.diameter_mm.value * 1e-3) ** 2
            region = region_of_rect(pipes.area) & body.region
            if not region:
                raise AssemblyError(f"Heat pipes '{pipes.id}' lie beside their plate '{body.id}'.", (body.id,))
            axis = 0 if pipes.runs == "x" else 1
            yield Link(body.id, region, axis, pipes.conductivity_w_mk.value * section, Name("pipes", (body.id, pipes.id)))


def _attachments(scene: Scene, lines: Lines) -> list[Contact]:
    contacts = []
    for body in scene.bodies.values():
        if not isinstance(body.model, Substrate | Component):
            continue
        carrier = scene.bodies[body.model.on]
        area = cell_areas(body.region & carrier.region, lines)
        per_area = 1e6 / max(body.model.attach.resistance_mm2k_w.value, 1e-6)
        face = 0 if isinstance(carrier.model, Board) and body.model.side is Side.REAR else 1
        contacts.append(Contact((carrier.id, body.id), (face, 0), area, area * per_area, name=names.attachment(body.id)))
    return contacts


@lru_cache(maxsize=4096)
def patch_cells(region: Region, lines: Lines) -> tuple[tuple[Ints, ...], Floats, Floats, Floats]:
    """Return the columns a region touches, its area in them [m²] and the middle of what it covers there [m]."""
    area = cell_areas(region, lines)
    there = np.nonzero(area)
    x0, y0, x1, y1 = (edge[there] for edge in cell_extents(region, lines))
    return there, area[there], (x0 + x1) / 2, (y0 + y1) / 2


def facing_name(facing: Facing) -> Name:
    """Return the name under which a facing's contact is found again in the field."""
    return names.facing(facing.joint, facing.lower, facing.upper)


def _facing(scene: Scene, facing: Facing, frame: Frame, conductance: PatchConductance) -> Contact:
    lower, upper = scene.bodies[facing.lower], scene.bodies[facing.upper]
    emissivity = effective_emissivity(lower.model.finish.emissivity.value, upper.model.finish.emissivity.value)
    lines = frame.lines
    sheet = next((one for one in frame.sheets if one.joint == facing.joint), None)
    area, total, radiation, gas, through = (np.zeros(lines.shape) for _ in range(5))
    exponent = AIR_EXPONENT
    for patch in facing.patches:
        there, part, x, y = patch_cells(patch.region, lines)
        heat = conductance(facing, patch, x, y)
        area[there] += part
        by_sheet = sheet is not None and sheet.piece in patch.pieces
        (through if by_sheet else total)[there] += part * heat.conductance
        radiation[there] += part * heat.across_air * emissivity
        gas[there] += part * heat.gas
        exponent = heat.gas_exponent
    face = 0 if isinstance(lower.model, Board) and facing.side is Side.REAR else 1
    made = Contact((lower.id, upper.id), (face, 0), area, total, radiation, facing_name(facing), gas, exponent)
    return made if sheet is None else replace(made, sheet=sheet.id, through=through)


def _overhangs(scene: Scene, frame: Frame) -> Iterator[Contact]:
    """Yield what sheets that reach beyond the faces they join give to the upper one there."""
    for sheet in frame.sheets:
        if sheet.beyond:
            area = cell_areas(sheet.beyond, frame.lines)
            yield Contact(
                (sheet.id, scene.joints[sheet.joint].upper), (1, 0), area, area * sheet.face, name=Name("beyond", (sheet.id,))
            )
