"""A simulated scanner: a pressure map as a film would show it, on a table, under a lamp, through a lens and a JPEG."""

from __future__ import annotations

import io
import json
import math
from dataclasses import asdict, dataclass

import numpy as np
import numpy.typing as npt
from PIL import Image

Map = npt.NDArray[np.float64]
_STRIP = (0.15, 0.3, 0.5, 0.75, 1.0)


@dataclass(frozen=True)
class Scanner:
    """How it sees. `turned_deg` and `lean` are how the film lies, `falls` is how much light is lost towards a corner, `grain` the
    scatter of each grain, `gamma` and `saturates` how colour follows pressure, `ghost_mm` by how much a second stamp is shifted.
    """

    turned_deg: float = 6.0
    lean: float = 0.06
    falls: float = 0.25
    grain: float = 0.05
    gamma: float = 0.8
    saturates: float = 1.6
    ghost_mm: float = 0.0
    quality: int = 88
    pixels: int = 1400
    seed: int = 1


@dataclass(frozen=True)
class Scan:
    """A picture and what is true of it: where corners and the strip of known pressures are (pixels), and the contact itself."""

    content: bytes
    corners: list[tuple[float, float]]
    strip: list[tuple[float, float]]
    strip_pressures: tuple[float, ...]
    w_mm: float
    h_mm: float
    covered: float
    centre_x_mm: float
    centre_y_mm: float
    toward_deg: float
    ratio: float

    @property
    def truth(self) -> str:
        """All but the picture, as JSON."""
        plain = asdict(self)
        del plain["content"]
        return json.dumps(plain, indent=1)


def scan(pressure: Map, w_mm: float, h_mm: float, scanner: Scanner = Scanner(), suffix: str = "png") -> Scan:
    """Return a picture of a pressure map (ny, nx), row 0 lowest, over w × h [mm]; NaN where nothing presses."""
    random = np.random.default_rng(scanner.seed)
    force = np.nan_to_num(np.asarray(pressure, dtype=float))
    peak = float(force.max()) or 1.0
    side = max(w_mm, h_mm) * 2.2
    scale = scanner.pixels / side
    width = height = scanner.pixels
    turn = math.radians(scanner.turned_deg)

    def to_pixel(x: npt.ArrayLike, y: npt.ArrayLike) -> tuple[Map, Map]:
        x, y = np.asarray(x, dtype=float), np.asarray(y, dtype=float)
        a, b = x * math.cos(turn) - y * math.sin(turn), x * math.sin(turn) + y * math.cos(turn)
        near = 1 + scanner.lean * (a + 0.5 * b) / side
        return width / 2 + a * scale / near, height / 2 - b * scale / near

    column, row = np.meshgrid(np.arange(width) + 0.5, np.arange(height) + 0.5)
    p, q = (column - width / 2) / scale, (height / 2 - row) / scale
    # The lens turned round: a = p·near, b = q·near, near = 1 + lean·(a + b/2)/side.
    near = 1 / (1 - scanner.lean * (p + 0.5 * q) / side)
    a, b = p * near, q * near
    x, y = a * math.cos(turn) + b * math.sin(turn), -a * math.sin(turn) + b * math.cos(turn)
    shown = _sampled(force, x, y, w_mm, h_mm)
    if scanner.ghost_mm:
        shown = np.maximum(shown, 0.8 * _sampled(force, x - scanner.ghost_mm, y - 0.4 * scanner.ghost_mm, w_mm, h_mm))
    strip_h, strip_y = 0.12 * h_mm, -0.5 * h_mm - 0.3 * h_mm
    patch = np.floor((x / w_mm + 0.5) * len(_STRIP)).astype(int)
    on_strip = (np.abs(y - strip_y) < strip_h / 2) & (np.abs(x) < w_mm / 2)
    shown = np.where(on_strip, peak * np.asarray(_STRIP)[np.clip(patch, 0, len(_STRIP) - 1)], shown)
    colour = _coloured(shown / peak, scanner)
    lamp = 1 - scanner.falls * (column / width + row / height) / 2
    grains = 1 + scanner.grain * random.standard_normal((height, width, 1))
    seen = np.clip(colour * lamp[..., None] * grains, 0, 1)
    image = Image.fromarray((255 * seen).astype(np.uint8))
    file = io.BytesIO()
    if suffix == "png":
        # What a telephone sends: squeezed once on the way.
        squeezed = io.BytesIO()
        image.save(squeezed, "JPEG", quality=scanner.quality)
        Image.open(squeezed).save(file, "PNG")
    else:
        image.save(file, "JPEG", quality=scanner.quality)
    ends = [(-w_mm / 2, -h_mm / 2), (w_mm / 2, -h_mm / 2), (w_mm / 2, h_mm / 2), (-w_mm / 2, h_mm / 2)]
    low, high = strip_y - strip_h / 2, strip_y + strip_h / 2
    around = [(-w_mm / 2, low), (w_mm / 2, low), (w_mm / 2, high), (-w_mm / 2, high)]
    pixels = [[tuple(float(v) for v in to_pixel(*end)) for end in one] for one in (ends, around)]
    strip = tuple(peak * one for one in _STRIP)
    return Scan(file.getvalue(), pixels[0], pixels[1], strip, w_mm, h_mm, *_truth(force, w_mm, h_mm))  # type: ignore[arg-type]


def _sampled(force: Map, x: Map, y: Map, w_mm: float, h_mm: float) -> Map:
    ny, nx = force.shape
    i, j = (np.floor((at / size + 0.5) * n).astype(int) for at, size, n in ((x, w_mm, nx), (y, h_mm, ny)))
    there = (i >= 0) & (i < nx) & (j >= 0) & (j < ny)
    return np.where(there, force[np.clip(j, 0, ny - 1), np.clip(i, 0, nx - 1)], 0.0)


def _coloured(share: Map, scanner: Scanner) -> Map:
    """Return colours of pressures: bare film is nearly white, marks are red."""
    deep = np.clip(share, 0, 1) ** scanner.gamma
    deep = (1 - np.exp(-scanner.saturates * deep)) / (1 - math.exp(-scanner.saturates))
    deep = np.where(share > 1e-6, 0.12 + 0.88 * deep, 0.0)
    bare, full = np.array([0.95, 0.93, 0.90]), np.array([0.82, 0.16, 0.24])
    return np.asarray(bare * (full / bare) ** deep[..., None])


def _truth(force: Map, w_mm: float, h_mm: float) -> tuple[float, float, float, float, float]:
    ny, nx = force.shape
    x = ((np.arange(nx) + 0.5) / nx - 0.5) * w_mm
    y = ((np.arange(ny) + 0.5) / ny - 0.5) * h_mm
    total = float(force.sum()) or 1.0
    cx, cy = float((force.sum(axis=0) * x).sum() / total), float((force.sum(axis=1) * y).sum() / total)
    # The plane through the pressures, by its moments.
    gx = float((force * x[None, :]).mean() / (x**2).mean())
    gy = float((force * y[:, None]).mean() / (y**2).mean())
    toward = math.atan2(gy, gx)
    reach = float(np.max(np.abs(x[None, :] * math.cos(toward)) + np.abs(y[:, None] * math.sin(toward))))
    mean, slope = float(force.mean()), math.hypot(gx, gy) * reach
    ratio = (mean + slope) / max(mean - slope, 1e-3 * (mean + slope))
    return float((force > 0).mean()), cx, cy, math.degrees(toward), min(ratio, 1e3)
