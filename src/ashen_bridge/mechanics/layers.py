"""Thickness laws of single layers by kind of material. Values, so that equal stacks share their table. All SI."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.region import MM
from ashen_bridge.mechanics.laws import paste_thickness, shape_stiffening, squeeze_film_thickness, strain_table
from ashen_bridge.mechanics.stack import LayerLaw
from ashen_bridge.model.joints import Piece, PieceState
from ashen_bridge.model.material import Compression, Flow, Material, MaterialKind

BRIDGES = 5e-3  # [m] that a putty bridges where its data say nothing; common practice, no source


@dataclass(frozen=True)
class PasteLayer:
    """A paste: its bond line under pressure."""

    flow: Flow

    def __call__(self, pressure: Floats) -> Floats:
        """Return the bond line [m] at `pressure` [Pa]."""
        return paste_thickness(pressure, self.flow)


@dataclass(frozen=True)
class PadLayer:
    """A pad or graphite sheet of free `thickness` [m] that is `stiffening` times as firm as its sample."""

    compression: Compression
    thickness: float
    stiffening: float = 1.0

    def __call__(self, pressure: Floats) -> Floats:
        """Return the thickness [m] under `pressure` [Pa]."""
        strains, pressures = self._table
        return self.thickness * (1 - np.interp(pressure / self.stiffening, pressures, strains))

    @cached_property
    def _table(self) -> tuple[Floats, Floats]:
        return strain_table(self.compression)


@dataclass(frozen=True)
class PuttyLayer:
    """A putty squeezed between faces as large as a disc of `radius` [m]; it bridges at most `bridges` [m]."""

    yield_stress: float
    filler: float
    radius: float
    bridges: float

    def __call__(self, pressure: Floats) -> Floats:
        """Return the thickness [m] to which `pressure` [Pa] squeezes it."""
        film = squeeze_film_thickness(pressure, self.yield_stress, self.radius)
        return np.clip(film, self.filler, max(self.bridges, self.filler))


@dataclass(frozen=True)
class MeltedSheet:
    """A phase-change sheet after its first hot cycles: a film by the paste's law, never thicker than the sheet was."""

    flow: Flow
    sheet: float

    def __call__(self, pressure: Floats) -> Floats:
        """Return the thickness [m] under `pressure` [Pa]; what is too much has been pressed out."""
        return np.minimum(paste_thickness(pressure, self.flow), self.sheet)


@dataclass(frozen=True)
class RigidLayer:
    """A layer that keeps its thickness: solder, cured adhesive, a sheet that has not melted, a paste whose bond line is stated;
    liquid metal's faces at contact.

    One that `bonds` has flowed into the gap it found and holds on to both faces: no air comes in when they part by some µm.
    """

    thickness: float
    bonds: bool = False

    def __call__(self, pressure: Floats) -> Floats:
        """Return the thickness [m], whatever the pressure."""
        return np.full_like(pressure, self.thickness)


def relaxation(compression: Compression, age_days: float) -> float:
    """Return the share of a pad's first pressure that is left after some days: falls with the logarithm of time for a day.

    From one minute, when the plate has come to rest, to `relaxed_share` at 24 hours, then constant (creep of filled silicones
    over log time is common practice, no source).
    """
    lost = 1 - compression.relaxed_share.value
    minutes = age_days * 1440
    return 1 - lost * min(1.0, math.log10(1 + minutes) / math.log10(1441))


@dataclass(frozen=True)
class GasLayer:
    """A gas at rest: takes whatever gap it is left and pushes nothing."""

    bonds: bool = True

    def __call__(self, pressure: Floats) -> Floats:
        """Return the thickness [m] it keeps under pressure: none."""
        return np.zeros_like(pressure)


def layer_law(piece: Piece, material: Material, area: float, perimeter: float, roughness: float) -> LayerLaw:
    """Return the law of one piece.

    area [m²], perimeter [m] of the piece; roughness [m] of the two faces together, which is what is left between them where
    they meet through a liquid metal.
    """
    thickness = piece.thickness_mm.value * MM if piece.thickness_mm else 0.0
    flow = material.flow
    if piece.bond_line_um is not None:
        return RigidLayer(piece.bond_line_um * 1e-6, bonds=True)
    match material.kind:
        case MaterialKind.PASTE if flow is not None:
            return PasteLayer(flow)
        case MaterialKind.PUTTY if flow is not None:
            bridges = flow.bridges_mm.value * MM if flow.bridges_mm else BRIDGES
            radius = float(np.sqrt(area / np.pi))
            return PuttyLayer(flow.yield_stress_kpa.value * 1e3, flow.filler_um.value * 1e-6, radius, bridges)
        case MaterialKind.PHASE_CHANGE if flow is not None and piece.state is not PieceState.AS_FITTED:
            return MeltedSheet(flow, thickness)
        case MaterialKind.LIQUID_METAL:
            return RigidLayer(max(thickness, roughness))
        case MaterialKind.GAS:
            return GasLayer()
        case MaterialKind.PAD | MaterialKind.GRAPHITE if material.compression is not None:
            firmness = shape_stiffening(material.compression, area, perimeter, thickness)
            return PadLayer(material.compression, thickness, firmness * relaxation(material.compression, piece.age_days))
        case _:
            return RigidLayer(thickness, material.kind in (MaterialKind.SOLDER, MaterialKind.ADHESIVE))
