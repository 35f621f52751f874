"""One curve through runs at different powers, as plain values that are light to import."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.words.numbers import number


@dataclass(frozen=True)
class CurveMisfit:
    """A run that does not fit a sensor's curve: by how much it reads more than the others say [K], and how surely."""

    run: str
    label: str
    off_k: float
    sigmas: float
    power_w: float

    @property
    def words(self) -> str:
        """The misfit in a sentence."""
        way = "hotter" if self.off_k > 0 else "cooler"
        off = number(abs(self.off_k), 1)
        return f"“{self.label}” at {number(self.power_w)} W is {off} K {way} than the curve through the others."


@dataclass(frozen=True)
class SensorCurve:
    """One sensor: kelvin per watt of what changed, at the mean power, with its 95 % interval, and the air that is implied [°C].

    readings : run, its power [W], what was read and what the curve says there [°C at the mean ambient].
    """

    sensor: str
    name: str
    k_per_w: float
    low: float
    high: float
    air_c: float
    air_low: float
    air_high: float
    misfits: tuple[CurveMisfit, ...]
    readings: tuple[tuple[str, float, float, float], ...]


@dataclass(frozen=True)
class PowerCurve:
    """One curve per sensor through some runs. `along`: what it follows, in words; `ambient_c`: the mean of what was measured."""

    runs: tuple[str, ...]
    along: str
    ambient_c: float
    mean_w: float
    sensors: tuple[SensorCurve, ...]
    cautions: tuple[str, ...] = ()
