"""Pictures that belong to a prediction: bond line and pressure per contact, temperature per storey."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

Picture = npt.NDArray[np.float32]


@dataclass(frozen=True)
class JointMap:
    """Bond line [µm] and pressure [kPa] of one joint over one lower body on a regular raster (row 0 = lowest y).

    box : x0, y0, x1, y1 [mm]. NaN where no piece lies.
    """

    joint: str
    lower: str
    box: tuple[float, float, float, float]
    bond_line_um: Picture
    pressure_kpa: Picture


@dataclass(frozen=True)
class Maps:
    """All pictures of a prediction.

    x_mm, y_mm : grid lines. storeys : temperature [°C] (ny, nx) by storey: `front` and `rear` show the board with everything
    that stands on it (heat-making layers), every plate shows the layer next to the board. NaN where nothing is.
    flux : heat from what stands on a side into the plates over it [W/mm²] (ny, nx), by side; NaN where no plate faces it.
    bow_um : how far the board is bent towards the front [µm] in the middle of every grid column, empty if it does not bend.
    """

    joints: tuple[JointMap, ...] = ()
    x_mm: npt.NDArray[np.float64] = field(default_factory=lambda: np.empty(0))
    y_mm: npt.NDArray[np.float64] = field(default_factory=lambda: np.empty(0))
    storeys: dict[str, Picture] = field(default_factory=dict)
    flux: dict[str, Picture] = field(default_factory=dict)
    bow_um: Picture = field(default_factory=lambda: np.empty((0, 0), dtype=np.float32))

    def bow(self, x: npt.NDArray[np.float64], y: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
        """Return how far the board is bent towards the front at points [m], in metres."""
        if not self.bow_um.size:
            return np.zeros(np.broadcast(x, y).shape)
        mx, my = ((line[1:] + line[:-1]) / 2e3 for line in (self.x_mm, self.y_mm))
        i, fx = _between(mx, np.asarray(x))
        j, fy = _between(my, np.asarray(y))
        p = self.bow_um
        low = p[j, i] * (1 - fx) + p[j, i + 1] * fx
        high = p[j + 1, i] * (1 - fx) + p[j + 1, i + 1] * fx
        return np.asarray((low * (1 - fy) + high * fy) * 1e-6, dtype=float)


def _between(
    places: npt.NDArray[np.float64], at: npt.NDArray[np.float64]
) -> tuple[npt.NDArray[np.intp], npt.NDArray[np.float64]]:
    """Return the interval each value lies in and how far along it; beyond the ends it goes on."""
    i = np.clip(np.searchsorted(places, at) - 1, 0, len(places) - 2)
    return i, (at - places[i]) / (places[i + 1] - places[i])


@dataclass(frozen=True)
class Pose:
    """Where a floating plate came to rest: height at its centre [m] and slopes, with that centre [m]."""

    plate: str
    z: float
    slope_x: float
    slope_y: float
    x0: float
    y0: float

    def height(self, x: float, y: float) -> float:
        """Return the height of the reference plane at a point [m]."""
        return self.z + self.slope_x * (x - self.x0) + self.slope_y * (y - self.y0)
