"""A pressure film or a stamped pad read: where it was touched, how much of it, where most, which way it tilts.

Light that falls off is taken out by the bare film around; colour is told from bare film along the one direction in which it
changes most. What a colour means is a scale: chosen, or learnt from a strip of known pressures in the same picture.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from PIL import Image
from scipy.ndimage import gaussian_filter

from ashen_bridge.arrays import Floats
from ashen_bridge.evidence.picture import Corners, FilmError, Straight, straightened
from ashen_bridge.evidence.result import FilmReading

_BLUR_MM, _SIGMAS, _SHARE = 0.25, 4.0, 0.06
_UNKNOWN = 0.5  # of the way to the centre of pressure, and a tenth of it of the side: nobody knows how colour follows
_CONTRAST = 0.04  # least of the colour's logarithm that is a mark at all
_HOLLOW, _CROWNED, _TWOFOLD, _TOO_TILTED = 0.6, 1.6, 1.25, 3.0


@dataclass(frozen=True)
class Scale:
    """What colours mean: depths of colour, rising, and the pressures they stand for in any unit. Straight beyond both ends.

    Without a strip the depth itself is taken as the pressure.
    """

    depth: tuple[float, ...] = (0.0, 1.0)
    pressure: tuple[float, ...] = (0.0, 1.0)

    def of(self, depth: Floats) -> Floats:
        """Return pressures of depths."""
        return np.interp(depth, self.depth, self.pressure)


def read_film(image: Image.Image, corners: Corners, w_mm: float, h_mm: float, scale: Scale | None = None) -> FilmReading:
    """Return what a picture of contact shows over a rectangle of w × h [mm].

    Raises
    ------
    FilmError
        Where corners make no rectangle, or nothing in it is marked.
    """
    straight = straightened(image, corners, w_mm, h_mm)
    depth, noise = _depth(straight)
    inner = np.ix_(straight.inside.any(axis=1), straight.inside.any(axis=0))
    step = float(straight.x_mm[1] - straight.x_mm[0])
    smooth = gaussian_filter(depth, _BLUR_MM / step)[inner]
    top = float(np.percentile(smooth, 98))
    least = max(_SIGMAS * noise, _SHARE * top)
    if top < max(_CONTRAST, 2 * _SIGMAS * noise):
        raise FilmError("Nothing in that rectangle is marked: no film, or the corners are elsewhere.")
    vague = _UNKNOWN if scale is None else 0.0
    scale = scale or Scale((0.0, top), (0.0, 1.0))
    x, y = straight.x_mm[inner[1][0]], straight.y_mm[inner[0][:, 0]]
    main, *others = (_figures(smooth, share * least, scale, x, y) for share in (1.0, 0.7, 1.4))
    covered_sd = max(abs(one.covered - main.covered) for one in others) / 2 + 0.01
    # Below the lightest patch of a strip nobody knows what a colour means: anything between nothing and a straight line.
    others.append(_figures(smooth, max(least, scale.depth[1]) if vague == 0.0 else least, scale, x, y))
    apart = max(math.hypot(one.x - main.x, one.y - main.y) for one in others)
    centre_sd = math.hypot(apart / 2 + 0.15, vague * math.hypot(main.x, main.y) + 0.1 * vague * max(w_mm, h_mm))
    toward, ratio = (main.toward, main.ratio) if main.ratio > _TWOFOLD else (None, main.ratio)
    return FilmReading(main.covered, covered_sd, main.x, main.y, centre_sd, toward, ratio, main.middle, main.pressure, x, y)


def learnt_scale(
    image: Image.Image, strip: Corners, pressures: Sequence[float], film: Corners, w_mm: float, h_mm: float
) -> Scale:
    """Return the scale that a strip of patches shows, of known pressures from left to right, in the light of the film beside it.

    Raises `FilmError` where the strip does not get darker with pressure.
    """
    count = len(pressures)
    if count < 2 or any(b <= a for a, b in pairwise(pressures)):
        raise FilmError("A strip needs two or more pressures, each larger than the one before.")
    found = straightened(image, strip, 10.0 * count, 10.0, margin=0.0)
    light = _light(straightened(image, film, w_mm, h_mm))
    patches = []
    for n in range(count):
        part = (found.x_mm > 10 * (n - count / 2) + 2.5) & (found.x_mm < 10 * (n + 1 - count / 2) - 2.5)
        rows = np.abs(found.y_mm) < 2.5
        patches.append(np.median(found.colours[np.ix_(rows, part)].reshape(-1, 3), axis=0))
    depths = _along(np.log(np.maximum(light.bare, 1e-3)) - np.log(np.maximum(np.array(patches), 1e-3)), light.way)
    if any(b <= a for a, b in pairwise(depths)):
        raise FilmError("The strip does not get darker from patch to patch: saturated, or its corners are elsewhere.")
    return Scale((0.0, *map(float, depths)), (0.0, *map(float, pressures)))


def difference(reading: FilmReading, pressure: Floats, x_mm: Floats, y_mm: Floats) -> float:
    """Return how far a pressure map (ny, nx) over the same rectangle is from a picture: 0 the same, 1 nothing in common.

    Half of the sum of what differs between both, each scaled to a sum of one. NaN counts as no pressure.
    """
    rows = np.abs(reading.y_mm[:, None] - y_mm[None, :]).argmin(axis=1)
    columns = np.abs(reading.x_mm[:, None] - x_mm[None, :]).argmin(axis=1)
    model = np.nan_to_num(pressure)[np.ix_(rows, columns)]
    seen = np.nan_to_num(reading.pressure)
    if model.sum() <= 0 or seen.sum() <= 0:
        return 1.0
    return float(0.5 * np.abs(model / model.sum() - seen / seen.sum()).sum())


@dataclass(frozen=True)
class _Light:
    """Bare film: its colour (3,) in the middle, and the direction (3,) in which marks change its logarithm."""

    bare: Floats
    way: Floats
    surface: Floats


@dataclass(frozen=True)
class _Figures:
    covered: float
    x: float
    y: float
    toward: float
    ratio: float
    middle: str
    pressure: Floats


def _light(straight: Straight) -> _Light:
    """Return bare film and the way of marks: a surface of second order through the brightest of what lies around."""
    logs = np.log(np.maximum(straight.colours, 1e-3))
    outside = ~straight.inside & straight.known
    if outside.sum() < 100:
        outside = straight.known
    x, y = np.meshgrid(straight.x_mm / np.ptp(straight.x_mm), straight.y_mm / np.ptp(straight.y_mm))
    terms = np.stack([np.ones_like(x), x, y, x * x, x * y, y * y], axis=-1)
    total = logs.sum(axis=-1)
    use = outside.copy()
    for _ in range(4):
        fit = np.linalg.lstsq(terms[use], total[use], rcond=None)[0]
        off = total - terms @ fit
        spread = 1.4826 * float(np.median(np.abs(off[use]))) + 1e-4
        use = outside & (np.abs(off) < 2.5 * spread)
        if use.sum() < 50:
            use = outside
            break
    surfaces = np.stack([terms @ np.linalg.lstsq(terms[use], logs[..., k][use], rcond=None)[0] for k in range(3)], axis=-1)
    away = (surfaces - logs)[straight.inside]
    strong = away[away.sum(axis=1) >= np.percentile(away.sum(axis=1), 90)]
    way = np.maximum(strong.mean(axis=0), 0.0)
    size = float(np.linalg.norm(way))
    way = way / size if size > 1e-6 else np.full(3, 1 / math.sqrt(3))
    middle = np.exp(surfaces[surfaces.shape[0] // 2, surfaces.shape[1] // 2])
    return _Light(middle, way, surfaces)


def _depth(straight: Straight) -> tuple[Floats, float]:
    """Return the depth of colour (ny, nx) over bare film, and how much bare film scatters after smoothing."""
    light = _light(straight)
    logs = np.log(np.maximum(straight.colours, 1e-3))
    depth = _along(light.surface - logs, light.way)
    step = float(straight.x_mm[1] - straight.x_mm[0])
    outside = ~straight.inside & straight.known
    smooth = gaussian_filter(depth, _BLUR_MM / step)
    rest = smooth[outside] if outside.sum() > 100 else smooth.ravel()
    noise = 1.4826 * float(np.median(np.abs(rest - np.median(rest))))
    return depth, noise


def _along(difference_: Floats, way: Floats) -> Floats:
    return np.asarray(difference_ @ way)


def _figures(depth: Floats, least: float, scale: Scale, x: Floats, y: Floats) -> _Figures:
    touched = depth > least
    if not touched.any():
        return _Figures(0.0, 0.0, 0.0, 0.0, 1.0, "flat", np.zeros_like(depth))
    pressure = np.where(touched, np.maximum(scale.of(depth), 1e-9), 0.0)
    pressure = pressure / pressure[touched].mean()
    xs, ys = np.meshgrid(x, y)
    weight = pressure / pressure.sum()
    cx, cy = float((weight * xs).sum()), float((weight * ys).sum())
    toward, ratio = _tilt(pressure, touched, xs, ys)
    middle = _middle(pressure, xs, ys) if ratio < _TOO_TILTED else "flat"
    return _Figures(float(touched.mean()), cx, cy, toward, ratio, middle, pressure)


def _tilt(pressure: Floats, touched: np.ndarray, x: Floats, y: Floats) -> tuple[float, float]:
    """Return where it presses harder [°], and by how much more at that edge than at the other."""
    terms = np.stack([np.ones_like(x), x, y], axis=-1).reshape(-1, 3)
    mean, gx, gy = np.linalg.lstsq(terms, pressure.ravel(), rcond=None)[0]
    toward = math.degrees(math.atan2(gy, gx))
    along = x * math.cos(math.radians(toward)) + y * math.sin(math.radians(toward))
    reach = float(along.max())
    slope = math.hypot(gx, gy) * reach
    high, low = mean + slope, mean - slope
    return toward, float(min(high / max(low, 1e-3 * high), 1e3))


def _middle(pressure: Floats, x: Floats, y: Floats) -> str:
    """Return whether the middle presses less (hollow) or more (crowned) than the rim; told where it hardly tilts."""
    far = np.maximum(np.abs(x) / np.abs(x).max(), np.abs(y) / np.abs(y).max())
    inner, rim = pressure[far < 0.4].mean(), pressure[far > 0.7].mean()
    if rim <= 0:
        return "crowned"
    return "hollow" if inner < _HOLLOW * rim else "crowned" if inner > _CROWNED * rim else "flat"
