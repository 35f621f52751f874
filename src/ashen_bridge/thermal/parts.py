"""What a heat model is made of: slabs of layers, contacts between their faces, films on them, heat in them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.region import Region
from ashen_bridge.thermal.lines import Lines
from ashen_bridge.thermal.merging import CellSizes
from ashen_bridge.thermal.names import Name

_AT_FACE = 1e-6  # of a layer: small enough to be nothing, large enough to divide by


@dataclass(frozen=True)
class Inlay:
    """A part of a sheet, in plan, that conducts otherwise: [W/m·K] along and through, ρc [J/m³·K]."""

    region: Region
    in_plane: float
    through: float
    capacity: float


@dataclass(frozen=True)
class Layer:
    """One sheet of a slab, first face towards the board.

    thickness [m]; in_plane, through: conductivity [W/m·K] at 300 K; exponent n: k·(T/300)^n; capacity ρc [J/m³·K].
    An inlay is a part of the sheet made of something else: its region and its (in_plane, through, capacity). The sheet's
    temperature is that at `node` of its thickness: 0 its first face, 1 its last, its middle as a rule. `sizes`: how wide its
    columns may be, if not the grid's. `inlays`: other parts of it that conduct otherwise, the later on top of the earlier.
    """

    thickness: float
    in_plane: float
    through: float
    capacity: float
    exponent: float = 0.0
    inlay: tuple[Region, float, float, float] | None = None
    node: float = 0.5
    sizes: CellSizes | None = None
    inlays: tuple[Inlay, ...] = ()

    @property
    def below(self) -> float:
        """Distance from the first face to where the temperature is [m]; never quite nothing."""
        return max(self.node, _AT_FACE) * self.thickness

    @property
    def above(self) -> float:
        """Distance from where the temperature is to the last face [m]; never quite nothing."""
        return max(1 - self.node, _AT_FACE) * self.thickness


@dataclass(frozen=True)
class Slab:
    """A body as heat sees it: a region in plan and layers from face 0 to face 1."""

    id: str
    region: Region
    layers: tuple[Layer, ...]


@dataclass(frozen=True)
class Contact:
    """A link between face `faces[0]` of one slab and `faces[1]` of another, per column of the grid.

    area, conductance : (ny, nx) [m²], [W/K]; conductance without the half layers on both sides. radiation : (ny, nx)
    area times effective emissivity [m²] of the part that faces its partner across air. gas : (ny, nx) what of the conductance is
    that of a gas at `GAS_REFERENCE` [W/K]; it goes with T to the power `gas_exponent`. through : (ny, nx) conductance [W/K] of
    what goes by way of a `sheet` between the faces, half of the resistance before and half behind it.
    """

    slabs: tuple[str, str]
    faces: tuple[int, int]
    area: Floats
    conductance: Floats
    radiation: Floats | None = None
    name: Name | None = None
    gas: Floats | None = None
    gas_exponent: float = 0.0
    sheet: str = ""
    through: Floats | None = None

    @property
    def kind(self) -> str:
        """What kind of link it is, empty if it has no name."""
        return self.name.kind if self.name is not None else ""


@dataclass(frozen=True)
class Film:
    """Heat leaving a face of a slab to air: film coefficient [W/m²·K], emissivity, air temperature [K], area factor.

    A `law`, where there is one, gives the coefficient for what the face is warmer than air on average [K]. `inside`: whether
    the air is that inside the case.
    """

    slab: str
    face: int
    region: Region
    coefficient: float
    air: float
    emissivity: float = 0.0
    area_factor: float = 1.0
    name: Name | None = None
    law: Callable[[float], float] | None = None
    inside: bool = False

    @property
    def kind(self) -> str:
        """What kind of way to the air it is, empty if it has no name."""
        return self.name.kind if self.name is not None else ""


@dataclass(frozen=True)
class Leak:
    """How a power grows with temperature [K]: P·[1 − share + share·exp((T − at)/per)], or straight: exp(x) → 1 + x."""

    share: float
    at: float
    per: float
    straight: bool = False


@dataclass(frozen=True)
class Heat:
    """Power [W] made in some layers of a slab, inside `region` (the whole slab if None)."""

    slab: str
    layers: tuple[int, ...]
    power: float
    region: Region | None = None
    leak: Leak | None = None


@dataclass(frozen=True)
class Link:
    """Conduction along one direction inside a slab beside its own, as of heat pipes: conductivity times section [W·m/K].

    axis 0 runs along x, 1 along y; it acts in the slab's middle layer, shared among the rows of `region` by their width.
    """

    slab: str
    region: Region
    axis: int
    strength: float
    name: Name | None = None


@dataclass(frozen=True)
class HeatModel:
    """A complete steady heat problem on given lines. `reference` [K] is what rises are counted from."""

    lines: Lines
    slabs: tuple[Slab, ...]
    contacts: tuple[Contact, ...]
    films: tuple[Film, ...]
    heats: tuple[Heat, ...]
    reference: float = 298.15
    links: tuple[Link, ...] = ()


@lru_cache(maxsize=8192)
def cell_areas(region: Region, lines: Lines) -> Floats:
    """Return the exact area [m²] of `region` in every column, (ny, nx); kept, so not to be written to."""
    areas = np.zeros(lines.shape)
    for x0, y0, x1, y1 in region.boxes:
        i0, i1 = np.searchsorted(lines.x, [x0, x1])
        j0, j1 = np.searchsorted(lines.y, [y0, y1])
        sx, sy = slice(max(i0 - 1, 0), min(i1, lines.shape[1])), slice(max(j0 - 1, 0), min(j1, lines.shape[0]))
        ox = np.minimum(lines.x[1:][sx], x1) - np.maximum(lines.x[:-1][sx], x0)
        oy = np.minimum(lines.y[1:][sy], y1) - np.maximum(lines.y[:-1][sy], y0)
        areas[sy, sx] += np.maximum(oy, 0.0)[:, None] * np.maximum(ox, 0.0)[None, :]
    areas.flags.writeable = False
    return areas


def cell_extents(region: Region, lines: Lines) -> tuple[Floats, Floats, Floats, Floats]:
    """Return the bounds x0, y0, x1, y1 [m] of the part of `region` inside every column, (ny, nx) each; inf where none."""
    shape = lines.shape
    low_x, low_y = np.full(shape, np.inf), np.full(shape, np.inf)
    high_x, high_y = np.full(shape, -np.inf), np.full(shape, -np.inf)
    for x0, y0, x1, y1 in region.boxes:
        ax0, ax1 = np.maximum(lines.x[:-1], x0), np.minimum(lines.x[1:], x1)
        ay0, ay1 = np.maximum(lines.y[:-1], y0), np.minimum(lines.y[1:], y1)
        i, j = np.flatnonzero(ax1 > ax0), np.flatnonzero(ay1 > ay0)
        if not len(i) or not len(j):
            continue
        block = np.ix_(j, i)
        low_x[block] = np.minimum(low_x[block], ax0[i][None, :])
        high_x[block] = np.maximum(high_x[block], ax1[i][None, :])
        low_y[block] = np.minimum(low_y[block], ay0[j][:, None])
        high_y[block] = np.maximum(high_y[block], ay1[j][:, None])
    return low_x, low_y, high_x, high_y
