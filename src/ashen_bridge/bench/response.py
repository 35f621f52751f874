"""How the sensors of a build answer the power of its die, as numbers that need no solver."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class PowerResponse:
    """How rises over ambient answer the die's power: what the model makes in all [W], rises [K] and their slopes [K/W]."""

    watts: float
    rises: dict[str, float]
    slopes: dict[str, float]

    def factor(self, sensor: str, was: float, wanted: float) -> float:
        """Return by what a rise at `was` watts is multiplied to stand for `wanted`; the whole difference is the die's.

        By the ratio of the model's rises, so that a device that is hotter than its model all over keeps that.
        """
        rise, slope = self.rises.get(sensor), self.slopes.get(sensor)
        if rise is None or slope is None:
            return wanted / was if was > 0 else 1.0
        now, then = rise + slope * (was - self.watts), rise + slope * (wanted - self.watts)
        return then / now if now > 0 and then > 0 else 1.0
