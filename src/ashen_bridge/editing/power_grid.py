"""A die's power map from a grid of numbers, as simulators and spreadsheets give it."""

from __future__ import annotations

import csv
from pathlib import Path

from ashen_bridge.changes import bodies
from ashen_bridge.changes.edit import Edit, edit
from ashen_bridge.model.bodies import Component, DieMakeUp, PowerBlock
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.footprint import Rect
from ashen_bridge.model.project import Project

MOST = 64
_DELIMITERS = ",;\t "


def read_grid(path: Path) -> list[list[float]]:
    """Return a grid of numbers, first line at the die's upper edge. Raises `ProjectError` that says which cell is wrong."""
    try:
        text = path.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        raise ProjectError(f"“{path.name}” cannot be read as text ({type(error).__name__}).") from error
    lines = [line for line in text.splitlines() if line.strip() and not line.lstrip().startswith("#")]
    if not lines:
        raise ProjectError(f"“{path.name}” holds no numbers.")
    delimiter = max(_DELIMITERS, key=lines[0].strip().count)
    rows = []
    for n, cells in enumerate(csv.reader(lines, delimiter=delimiter, skipinitialspace=True), start=1):
        row = []
        for k, cell in enumerate((cell for cell in cells if cell.strip()), start=1):
            try:
                row.append(float(cell.replace(",", ".") if delimiter != "," else cell))
            except ValueError:
                raise ProjectError(f"“{path.name}”, line {n}, cell {k}: “{cell[:20]}” is not a number.") from None
        rows.append(row)
    if len({len(row) for row in rows}) > 1:
        raise ProjectError(f"“{path.name}”: the lines have different numbers of cells.")
    if len(rows) > MOST or len(rows[0]) > MOST:
        raise ProjectError(f"“{path.name}” has {len(rows)} × {len(rows[0])} cells; up to {MOST} × {MOST} can be taken.")
    if any(not value >= 0 or value == float("inf") for row in rows for value in row):
        raise ProjectError(f"“{path.name}”: powers must not be negative, and must be numbers.")
    if sum(map(sum, rows)) <= 0:
        raise ProjectError(f"“{path.name}”: all powers are zero.")
    return rows


def set_power_grid(project: Project, body: str, rows: list[list[float]]) -> Edit:
    """Make a grid the power map of a die: shares of its power, one block per cell, equal neighbours in a line merged."""
    die = next((one for one in project.all_bodies if one.id == body), None)
    if not isinstance(die, Component) or not isinstance(die.make_up, DieMakeUp):
        raise ProjectError(f"There is no bare die '{body}' to take a power map.")
    x0, y0, x1, y1 = die.footprint.bounds
    return edit("Power map", bodies.set_power_map, body, _blocks(rows, x1 - x0, y1 - y0))


def _blocks(rows: list[list[float]], width: float, height: float) -> tuple[PowerBlock, ...]:
    total = sum(map(sum, rows))
    dx, dy = width / len(rows[0]), height / len(rows)
    blocks: list[tuple[str, Rect, float]] = []
    for n, row in enumerate(rows):
        start = 0
        while start < len(row):
            end = start + 1
            while end < len(row) and row[end] == row[start]:
                end += 1
            if row[start] > 0:
                area = Rect(x_mm=start * dx, y_mm=height - (n + 1) * dy, w_mm=(end - start) * dx, h_mm=dy)
                blocks.append((f"r{n}c{start}", area, min(row[start] * (end - start) / total, 1.0)))
            start = end
    excess = max(sum(share for _, _, share in blocks), 1.0)
    return tuple(PowerBlock(id=name, area=area, share=share / excess) for name, area, share in blocks)
