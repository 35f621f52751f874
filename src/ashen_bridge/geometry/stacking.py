"""In which order the plates of a side lie over each other: told by joints and by heights, never by names.

A fixed plate states its height. Where a floating one will come to rest is not known yet, but what holds it says about where:
its fasteners' seats or reference heights, else what lies under it with what lies between.
"""

from __future__ import annotations

from collections.abc import Iterator

from ashen_bridge.geometry.region import Region, region_of, region_of_rect
from ashen_bridge.model.bodies import Board, Component, Plate, Side, Substrate
from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.model.joints import Joint
from ashen_bridge.model.resolve import ResolvedBuild
from ashen_bridge.words.numbers import short

_SAME_MM = 1e-6


class Stacking:
    """Heights and order of the bodies of a build, in millimetres above the board's surface on their side."""

    def __init__(self, resolved: ResolvedBuild) -> None:
        self._resolved = resolved
        self._bodies = {body.id: body for body in resolved.bodies}
        self.plates = {body.id: body for body in resolved.bodies if isinstance(body, Plate)}
        self._under: dict[str, list[tuple[Joint, str]]] = {}
        for joint in resolved.joints:
            for lower in joint.lower:
                self._under.setdefault(joint.upper, []).append((joint, lower))

    def below(self, plate: str) -> set[str]:
        """Return the plates that joints put under a plate."""
        return {lower for _, lower in self._under.get(plate, ()) if lower in self.plates}

    def order(self, side: Side) -> tuple[str, ...]:
        """Return the plates of a side, the one nearest the board first."""
        waiting = {name: self.below(name) for name, plate in self.plates.items() if plate.side is side}
        ordered: list[str] = []
        while waiting:
            # A circle cannot be ordered and is refused elsewhere; the lowest of it then goes first.
            free = [name for name, lows in waiting.items() if not lows & waiting.keys()] or list(waiting)
            ordered.append(min(free, key=self._place))
            del waiting[ordered[-1]]
        return tuple(ordered)

    def _place(self, name: str) -> tuple[float, ...]:
        plate = self.plates[name]
        return round(self.height(name), 6), *plate.footprint.bounds, plate.thickness_mm.value

    def height(self, name: str, seen: frozenset[str] = frozenset()) -> float:
        """Return about where the near face of a plate will be; exactly where of one that is fixed."""
        plate = self.plates[name]
        if plate.height_mm is not None:
            return plate.height_mm.value
        held = [height for height in self._held_at(name, seen | {name}) if height is not None]
        if held:
            return sum(held) / len(held)
        return max((self._over(joint, lower, seen | {name}) for joint, lower in self._under.get(name, ())), default=0.0)

    def _held_at(self, name: str, seen: frozenset[str]) -> Iterator[float | None]:
        for fastener, _ in self._resolved.fasteners:
            distance = fastener.seat_mm or fastener.reference_mm
            if name not in fastener.joins or distance is None:
                continue
            other = self._bodies.get(next(end for end in fastener.joins if end != name))
            if isinstance(other, Board):
                yield distance.value
            elif isinstance(other, Plate) and other.side is self.plates[name].side and other.id not in seen:
                sign = 1.0 if fastener.joins[0] == name else -1.0
                yield self.height(other.id, seen) + sign * distance.value

    def _over(self, joint: Joint, lower: str, seen: frozenset[str]) -> float:
        filled = sum(piece.thickness_mm.value for piece in joint.pieces if piece.thickness_mm is not None)
        return self.top(lower, seen) + filled

    def top(self, name: str, seen: frozenset[str] = frozenset()) -> float:
        """Return the height of the outer face of a body."""
        body = self._bodies[name]
        if isinstance(body, Board):
            return 0.0
        if isinstance(body, Plate):
            return (0.0 if name in seen else self.height(name, seen)) + body.thickness_mm.value
        carrier = self._bodies.get(body.on)
        below = self.top(carrier.id, seen | {name}) if isinstance(carrier, Substrate | Component) and name not in seen else 0.0
        return below + body.height_mm.value


def stacking_problems(resolved: ResolvedBuild) -> Iterator[AssemblyError]:
    """Yield where joints and heights contradict each other, and plates that have no room."""
    stacking = Stacking(resolved)
    yield from _circles(stacking)
    for name, plate in stacking.plates.items():
        if plate.height_mm is None:
            continue
        for joint in resolved.joints:
            for lower in joint.lower if joint.upper == name else ():
                fixed = stacking.plates.get(lower)
                if fixed is not None and fixed.height_mm is not None and stacking.top(lower) > plate.height_mm.value + _SAME_MM:
                    yield AssemblyError(
                        f"Joint '{joint.id}' says that '{name}' lies over '{lower}', but '{name}' is said to stand at "
                        f"{short(plate.height_mm.value)} mm and '{lower}' to reach up to {short(stacking.top(lower))} mm.",
                        (joint.id, name, lower),
                    )
        yield from _no_room(resolved, stacking, plate)


def _circles(stacking: Stacking) -> Iterator[AssemblyError]:
    for name in stacking.plates:
        reached, more = set[str](), stacking.below(name)
        while more - reached:
            reached |= more
            more = {low for plate in more for low in stacking.below(plate)}
        if name in reached:
            other = min(reached - {name}, default=name)
            yield AssemblyError(f"Joints say that '{name}' lies over '{other}' and '{other}' over '{name}'.", (name, other))
            return


def _no_room(resolved: ResolvedBuild, stacking: Stacking, wall: Plate) -> Iterator[AssemblyError]:
    """Yield floating plates that joints or heights put under a fixed one where they cannot be."""
    assert wall.height_mm is not None  # only fixed plates are asked
    order = stacking.order(wall.side)
    for name in order[: order.index(wall.id)]:
        plate = stacking.plates[name]
        shared = region_of(plate.footprint) & region_of(wall.footprint)
        if plate.height_mm is not None or not shared:
            continue
        for body in resolved.bodies:
            if not isinstance(body, Substrate | Component) or body.side is not wall.side:
                continue
            for region, step in _lands(wall, shared):
                room = wall.height_mm.value + step - stacking.top(body.id)
                if region_of(body.footprint) & region and room < plate.thickness_mm.value - _deepest(plate) - _SAME_MM:
                    yield AssemblyError(
                        f"Plate '{name}' is {short(plate.thickness_mm.value)} mm thick, but between '{body.id}' and '{wall.id}' "
                        f"there are only {short(max(room, 0.0), 3)} mm: it cannot lie anywhere.",
                        (name, body.id, wall.id),
                    )
                    return


def _lands(wall: Plate, shared: Region) -> Iterator[tuple[Region, float]]:
    rest = shared
    for landing in wall.landings:
        yield rest & region_of_rect(landing.area), landing.step_mm.value
        rest = rest - region_of_rect(landing.area)
    yield rest, 0.0


def _deepest(plate: Plate) -> float:
    """Return how far the deepest landing of a plate is set back [mm]: a part may stand in it."""
    return max((landing.step_mm.value for landing in plate.landings), default=0.0)
