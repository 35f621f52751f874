"""Invented runs under load, seeded, with the temperature each is really heading for: ten kinds, as plain series."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]

KINDS = (
    "one constant",
    "two constants",
    "three constants",
    "drift of the room",
    "load steps",
    "spikes",
    "sawtooth",
    "fan hysteresis",
    "slow tail",
    "correlated noise",
)


@dataclass(frozen=True)
class LoadRun:
    """One run: time [s], temperature [°C], power [W], each (n,); where it is heading [°C]; how many constants it has."""

    kind: str
    seed: int
    time: Floats
    temperature: Floats
    power: Floats
    end: float
    constants: tuple[float, ...]
    stepped_s: float = 0.0


def load_runs(count: int = 20, first_seed: int = 0) -> Iterator[LoadRun]:
    """Yield some runs of every kind."""
    for kind in KINDS:
        for n in range(count):
            yield load_run(kind, first_seed + n)


def load_run(kind: str, seed: int) -> LoadRun:
    """Return one run; the same for the same kind and seed."""
    chance = np.random.default_rng([KINDS.index(kind), seed])
    length, every = chance.uniform(600, 2400), chance.choice([1.0, 2.0])
    time = np.arange(0.0, length, every)
    cold, rise = chance.uniform(24, 45), chance.uniform(30, 60)
    taus, shares = _modes(kind, chance, length)
    level, stepped = np.ones_like(time), 0.0
    if kind == "load steps":
        stepped = float(chance.uniform(0.15, 0.4) * length)
        level = np.where(time < stepped, chance.uniform(0.55, 0.8), 1.0)
    warm = cold + rise * _response(time, level, taus, shares)
    end = cold + rise
    if kind == "drift of the room":
        room = chance.uniform(-1.5, 1.5) * time / 3600 + chance.uniform(0, 0.5) * np.sin(
            2 * np.pi * time / chance.uniform(2400, 7200)
        )
        warm, end = warm + room, end + float(room[time > 0.8 * length].mean())
    if kind == "sawtooth":
        period, high = chance.uniform(20, 90), chance.uniform(0.5, 2.0)
        warm = warm + high * ((time / period) % 1.0 - 0.5)
    if kind == "fan hysteresis":
        period, high = chance.uniform(100, length / 6), chance.uniform(0.5, 1.5)
        warm = warm + high * (2 * np.abs(2 * ((time / period) % 1.0) - 1.0) - 1.0)
    warm = warm + _noise(kind, chance, len(time), float(every))
    if kind == "spikes":
        for at in chance.choice(np.arange(5, len(time) - 5), chance.integers(1, 6), replace=False):
            warm[at] += chance.choice([-1.0, 1.0]) * chance.uniform(15, 80)
    digit = chance.choice([0.0625, 0.1, 0.25])
    power = 150 * level * (1 + chance.normal(0, 0.005, len(time)))
    return LoadRun(kind, seed, time, np.round(warm / digit) * digit, power, end, taus, stepped)


def _modes(kind: str, chance: np.random.Generator, length: float) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Return time constants [s] and their shares of the rise."""
    if kind == "one constant":
        return (float(length / chance.uniform(1.5, 8)),), (1.0,)
    fast, slow, share = chance.uniform(8, 40), chance.uniform(120, 450), chance.uniform(0.4, 0.8)
    if kind == "slow tail":
        tail = chance.uniform(0.08, 0.3)
        return (float(fast * 2), float(length / chance.uniform(0.25, 0.9))), (1 - tail, tail)
    if kind == "three constants":
        tail = chance.uniform(0.05, 0.15)
        return (float(fast), float(slow), float(length / chance.uniform(1, 4))), (
            share * (1 - tail),
            (1 - share) * (1 - tail),
            tail,
        )
    return (float(fast), float(slow)), (share, 1 - share)


def _response(time: Floats, level: Floats, taus: tuple[float, ...], shares: tuple[float, ...]) -> Floats:
    """Return the share of the whole rise at each time, each mode exact for a load that is constant over a step."""
    found, every = np.zeros_like(time), time[1] - time[0]
    for tau, share in zip(taus, shares, strict=True):
        state, keep = 0.0, np.exp(-every / tau)
        for n in range(1, len(time)):
            state = level[n] + (state - level[n]) * keep
            found[n] += share * state
    return found


def _noise(kind: str, chance: np.random.Generator, count: int, every: float) -> Floats:
    noise = chance.normal(0, chance.uniform(0.03, 0.12), count)
    if kind == "correlated noise":
        keep, high = np.exp(-every / chance.uniform(5, 60)), chance.uniform(0.1, 0.4)
        state = 0.0
        kicks = chance.normal(0, high * np.sqrt(1 - keep**2), count)
        for n in range(count):
            state = keep * state + kicks[n]
            noise[n] += state
    return noise
