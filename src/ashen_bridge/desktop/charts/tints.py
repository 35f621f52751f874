"""Colours of curves: a group of sensors has the same one in every chart of its device."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from ashen_bridge.model.device import Device

TINTS = ("ember", "steel", "good", "warn", "ink", "bad", "quiet")
AIR = 6


def groups_of(device: Device) -> tuple[str, ...]:
    """Return the groups of a device's sensors in the order in which they are listed."""
    return tuple(dict.fromkeys(sensor.group for sensor in device.sensors))


def tints(groups: Sequence[str], wanted: Iterable[str | None]) -> tuple[int, ...]:
    """Return a number of `TINTS` for each curve, by the group of what it shows; None is air.

    Each group has its own; a second curve of a group takes the next that no other one has.

    >>> tints(("Die", "Memory"), ("Memory", "Die", None)), tints(("Die", "Memory"), ("Memory", "Memory"))
    ((1, 0, 6), (1, 0))
    """
    curves = list(wanted)
    own = [AIR if group is None else groups.index(group) % AIR if group in groups else None for group in curves]
    taken: set[int] = set()
    found: list[int] = []
    for tint in own:
        others = [n for n in range(AIR) if n not in taken and n not in own]
        free = others or [n for n in range(AIR) if n not in taken] or [AIR]
        chosen = tint if tint is not None and tint not in taken else free[0]
        taken.add(chosen)
        found.append(chosen)
    return tuple(found)
