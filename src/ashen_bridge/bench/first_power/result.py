"""What the first-power check expects and says. Plain and light values."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.arrays import Floats


@dataclass(frozen=True)
class Expected:
    """Sensors in the first minutes after full power from idle air.

    times_s : (n,). healthy_c : (n, n_sensor) if all is well, pm_k : its standard uncertainty. slopes_k : (n_sample, n_sensor) how
    far samples lie at rest from their middle, each by the root of their count, and `share` (n, n_sensor) how much of that is
    there at each time. limits_c : by sensor, infinite where there is none.
    start_k : by how much sensors are above the air when the load begins.
    """

    build: str
    point: str
    ambient_c: float
    times_s: Floats
    sensors: tuple[str, ...]
    names: tuple[str, ...]
    healthy_c: Floats
    pm_k: Floats
    slopes_k: Floats
    share: Floats
    limits_c: Floats
    cases: tuple[FaultCourse, ...]
    start_k: Floats | float = 0.0


@dataclass(frozen=True)
class FaultCourse:
    """One thing that may have gone wrong in closing: in words, its odds against nothing being wrong, the look that confirms it.

    shown_c : (n_size, n, n_sensor) what sensors would show, for some sizes of the fault.
    """

    id: str
    title: str
    confirm: str
    odds: float
    shown_c: Floats


@dataclass(frozen=True)
class Suspected:
    """One explanation and how much it is believed."""

    id: str
    title: str
    confirm: str
    belief: float


@dataclass(frozen=True)
class Judged:
    """What the run says at a time: whether to stop, in words, and what is believed. `well`: belief that nothing is wrong."""

    at_s: float
    stop: bool
    says: str
    well: float
    suspects: tuple[Suspected, ...]
