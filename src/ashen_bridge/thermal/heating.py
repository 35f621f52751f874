"""The heat that is made in every cell, which may grow with temperature."""

from __future__ import annotations

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.model.errors import AshenError
from ashen_bridge.thermal.columns import ColumnGrid
from ashen_bridge.thermal.cutting import Ints
from ashen_bridge.thermal.parts import Heat, HeatModel, Leak, cell_areas
from ashen_bridge.words.numbers import short

_STEEPEST = 12.0  # exponents of leakage beyond it have run away long since


class LeakageError(AshenError, ArithmeticError):
    """A power that is said to change with temperature comes out below nothing."""


class Sources:
    """The heat made in every cell, which may grow with temperature."""

    def __init__(self, grid: ColumnGrid, model: HeatModel) -> None:
        self.steady = np.zeros(grid.n_cell)
        self._grown: list[tuple[Ints, Floats, Leak]] = []
        for heat in model.heats:
            cells, made = _spread(grid, heat)
            if heat.leak is None or heat.leak.share == 0:
                np.add.at(self.steady, cells, made)
            else:
                np.add.at(self.steady, cells, made * (1 - heat.leak.share))
                self._grown.append((cells, made * heat.leak.share, heat.leak))

    @property
    def leaks(self) -> bool:
        """Whether any power depends on temperature."""
        return bool(self._grown)

    def at(self, temperature: Floats) -> tuple[Floats, Floats | float]:
        """Return power [W] per cell at temperatures [K], and by how much it grows per kelvin [W/K]."""
        if not self._grown:
            return self.steady, 0.0
        made, slope = self.steady.copy(), np.zeros_like(self.steady)
        for cells, power, leak in self._grown:
            warmer = (temperature[cells] - leak.at) / leak.per
            grown = power * (1 + warmer if leak.straight else np.exp(np.minimum(warmer, _STEEPEST)))
            np.add.at(made, cells, grown)
            np.add.at(slope, cells, (power if leak.straight else grown) / leak.per)
        return made, slope


def _spread(grid: ColumnGrid, heat: Heat) -> tuple[Ints, Floats]:
    """Return the cells in which a power is made and its share in each [W]."""
    slab = grid.slabs[heat.slab]
    total = sum(slab.slab.layers[number].thickness for number in heat.layers)
    cells, made = [], []
    for number in heat.layers:
        columns = slab.columns[number]
        area = columns.area if heat.region is None else columns.gathered(cell_areas(heat.region, grid.lines))
        cells.append(np.arange(slab.layer(number).start, slab.layer(number).stop))
        made.append(heat.power * slab.slab.layers[number].thickness / total * area / area.sum())
    return np.concatenate(cells), np.concatenate(made)


def sources(grid: ColumnGrid, model: HeatModel) -> Floats:
    """Return the heat made in every cell [W] as long as none of it grows with temperature."""
    return Sources(grid, model).at(np.full(grid.n_cell, model.reference))[0]


def made_by_slab(grid: ColumnGrid, source: Floats) -> dict[str, float]:
    """Return the power made in every slab [W] from that of every cell."""
    return {name: float(source[cells.cells].sum()) for name, cells in grid.slabs.items()}


def check_powers(made: dict[str, float]) -> None:
    """Raise `LeakageError` for a slab whose power came out below nothing."""
    for name, power in made.items():
        if power < 0:
            raise LeakageError(
                f"The power of '{name}' comes out at {short(power, 3)} W: its leakage, as stated, falls below nothing."
            )
