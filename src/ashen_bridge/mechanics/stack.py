"""A stack of layers as one law: pressure over gap, with the stated compliance in series.

Every layer says how thick it is under a pressure; the gap a stack fills is the sum of them minus what its surroundings
give way. That sum falls with pressure, so it is inverted once, on a table evenly spaced in the gap, which the equilibrium
reads by index. Pressure is linear between table points, and the stored energy is its exact integral, so that the energy
the solver minimises and the forces it balances belong together.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats

P_MIN, P_MAX = 1.0, 1e8  # [Pa]: below nothing carries, above the law goes on linearly
NODES = 4096
_PRESSURES = np.concatenate([[0.0], np.geomspace(P_MIN, P_MAX, 1600)])

LayerLaw = Callable[[Floats], Floats]
"""Thickness [m] over pressure [Pa]; must not rise."""


@dataclass(frozen=True)
class StackLaw:
    """Pressure [Pa] over gap [m] of one stack, on a uniform table from `gap_low` (at P_MAX) to `gap_high` (at 0)."""

    gap_low: float
    gap_high: float
    pressure: Floats
    energy: Floats
    compliance: float
    free_thickness: float
    fills: bool

    def pressure_at(self, gap: Floats) -> Floats:
        """Return the pressure [Pa] at `gap` [m]; 0 where the faces stand apart further than the stack is thick."""
        step = (self.gap_high - self.gap_low) / (len(self.pressure) - 1)
        at = np.minimum((gap - self.gap_low) / step, len(self.pressure) - 1.0)
        k = np.minimum(np.maximum(at, 0.0).astype(np.intp), len(self.pressure) - 2)
        return np.asarray(self.pressure[k] + (at - k) * (self.pressure[k + 1] - self.pressure[k]))


def stack_law(layers: list[LayerLaw], compliance: float, fills: bool) -> StackLaw:
    """Return the law of `layers` in series.

    Parameters
    ----------
    layers : thickness laws, any order; none for bare contact.
    compliance : give of the surroundings per pressure [m/Pa], > 0.
    fills : whether a paste is among them, which fills whatever gap is left (its thickness at no pressure is not finite).
    """
    pressures = _PRESSURES
    thickness = np.zeros_like(pressures)
    with np.errstate(divide="ignore", over="ignore"):
        for layer in layers:
            thickness = thickness + layer(pressures)
    if fills:
        thickness[0] = thickness[1]
    gap = np.minimum.accumulate(thickness) - compliance * pressures
    high, low = float(gap[0]), float(gap[-1])
    grid = np.linspace(low, high, NODES)
    # np.interp wants rising abscissae: the gap falls with pressure.
    table = np.interp(grid, gap[::-1], pressures[::-1])
    table[-1] = 0.0
    step = (high - low) / (NODES - 1)
    trapezoids = (table[1:] + table[:-1]) / 2 * step
    energy = np.concatenate([np.cumsum(trapezoids[::-1])[::-1], [0.0]])
    return StackLaw(low, high, table, energy, compliance, float("inf") if fills else high, fills)
