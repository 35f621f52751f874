"""Materials from tests of one's own: a thickness series of resistances, a squeeze under a scale; each number with its ±."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import isotonic_regression
from scipy.stats import linregress
from scipy.stats import t as student

from ashen_bridge.model.errors import AshenError, ProjectError

_LEAST = 3
_COVERS = 0.95
_POINTS = 8  # of a curve


@dataclass(frozen=True)
class Series:
    """Conductivity [W/m·K] and resistance of one face [mm²·K/W] from resistances over thickness, each with its standard
    uncertainty and 95 % interval; `odd` are the rows that do not fit, counted from 1.

    R = 2·R_face + t/k, a straight line by least squares, as ASTM D5470 evaluates a thickness series (from memory).
    """

    conductivity: float
    conductivity_u: float
    conductivity_low: float
    conductivity_high: float
    face: float
    face_u: float
    count: int
    odd: tuple[int, ...]


@dataclass(frozen=True)
class Squeezed:
    """A compression curve: (strain, pressure [kPa]) rising from (0, 0), and by how much of itself its pressure scatters."""

    points: tuple[tuple[float, float], ...]
    relative_u: float
    free_mm: float
    count: int


def fit_series(thickness_mm: Sequence[float], resistance: Sequence[float]) -> Series:
    """Return what a thickness series says of a material. Raises `ProjectError` for a series that says nothing."""
    t, r = np.asarray(thickness_mm, dtype=float), np.asarray(resistance, dtype=float)
    if len(t) < _LEAST or np.ptp(t) <= 0:
        raise ProjectError("A series needs three readings at two thicknesses or more.")
    found = linregress(t, r)
    if found.slope <= 0:
        raise ProjectError("The resistance does not rise with thickness: that is no conductivity.")
    freedom = len(t) - 2
    reach = float(student.ppf(0.5 + _COVERS / 2, freedom))
    low, high = found.slope - reach * found.stderr, found.slope + reach * found.stderr
    rest = r - found.intercept - found.slope * t
    scale = float(np.sqrt(rest @ rest / freedom))
    hat = 1 / len(t) + (t - t.mean()) ** 2 / ((t - t.mean()) ** 2).sum()
    standard = np.abs(rest) / np.maximum(scale * np.sqrt(np.maximum(1 - hat, 1e-9)), 1e-12)
    odd = tuple(int(n) + 1 for n in np.flatnonzero(standard > 2.5)) if len(t) > _LEAST + 1 else ()
    # Slopes are mm²·K/W per mm: divided out that is 1000/slope in W/m·K.
    return Series(
        1e3 / found.slope,
        1e3 * found.stderr / found.slope**2,
        1e3 / high,
        float("inf") if low <= 0 else 1e3 / low,
        found.intercept / 2,
        float(found.intercept_stderr) / 2,
        len(t),
        odd,
    )


def fit_squeeze(force_n: Sequence[float], thickness_mm: Sequence[float], area_mm2: float) -> Squeezed:
    """Return the compression curve of a pad that was squeezed under a scale; it rises everywhere.

    The free thickness is that at the least force. By isotonic regression, read off at some strains. Raises `ProjectError`.
    """
    force, thick = np.asarray(force_n, dtype=float), np.asarray(thickness_mm, dtype=float)
    if len(force) < _LEAST or area_mm2 <= 0:
        raise ProjectError("A squeeze needs three readings or more, and the area of the sample.")
    if (force < 0).any() or (thick <= 0).any():
        raise ProjectError("Forces must not be negative, and thicknesses above 0.")
    order = np.argsort(force)
    free = float(thick[order[0]])
    strain = np.clip(1 - thick[order] / free, 0.0, 0.99)
    pressure = (force[order] - force[order[0]]) / area_mm2 * 1e3
    level = np.asarray(isotonic_regression(strain).x)
    if level[-1] < 0.02:
        raise ProjectError("It was hardly squeezed: less than a fiftieth of its thickness.")
    at = np.linspace(0, level[-1], _POINTS)
    keep = np.concatenate([[True], np.diff(level) > 1e-9])
    shown = np.interp(at, level[keep], pressure[keep])
    shown[0] = 0.0
    points = [(0.0, 0.0)]
    for x, y in zip(at[1:].tolist(), shown[1:].tolist(), strict=True):
        if y > points[-1][1] + 1e-6:
            points.append((round(x, 4), round(y, 3)))
    if len(points) < 2:
        raise ProjectError("The curve does not rise: was the scale read?")
    back = np.interp(strain, [p[0] for p in points], [p[1] for p in points])
    strong = pressure > 0.1 * pressure.max()
    scatter = float(np.sqrt(np.mean(((pressure[strong] - back[strong]) / pressure[strong]) ** 2)))
    return Squeezed(tuple(points), scatter, free, len(force))


def read_series(text: str) -> dict[str, list[float]]:
    """Return the columns of a table of test readings, by name. Raises `ProjectError` that names every bad line."""
    delimiter = max(",;\t", key=(text.splitlines() or [""])[0].count)
    rows = [
        row for row in csv.reader(io.StringIO(text.lstrip("\ufeff")), delimiter=delimiter) if any(cell.strip() for cell in row)
    ]
    if len(rows) < 2:
        raise ProjectError("The table holds no readings: a head and three lines are needed.")
    heads = [one.strip().lower() for one in rows[0]]
    columns: dict[str, list[float]] = {name: [] for name in heads}
    wrong = []
    for n, row in enumerate(rows[1:], start=2):
        try:
            values = [_number(cell, _unit(name)) for name, cell in zip(heads, row, strict=False)]
            if len(row) != len(heads):
                raise ProjectError(f"{len(row)} values for {len(heads)} columns")
        except AshenError as error:
            wrong.append(f"line {n}: {str(error).rstrip('.')}")
            continue
        for name, value in zip(heads, values, strict=True):
            columns[name].append(value)
    if wrong:
        raise ProjectError(f"Readings cannot be taken: {'; '.join(wrong[:6])}{'; and more' if len(wrong) > 6 else ''}.")
    return columns


def _unit(name: str) -> str:
    return "mm" if name.endswith("_mm") else "N" if name.endswith("_n") else ""


def _number(cell: str, unit: str) -> float:
    """Return a plain number, its column's own unit and a decimal comma allowed."""
    try:
        return float(cell.strip().removesuffix(unit).strip().replace(",", "."))
    except ValueError as error:
        raise ProjectError(f"“{cell.strip()[:40]}” is no number") from error
