"""With which chance a plan holds its limits, by common draws of the device, of what is bought, and of everything else."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri

from ashen_bridge.arrays import Floats
from ashen_bridge.planning.choosing.drawn import Drawn, Moves, drawn_alike, moves, of_device
from ashen_bridge.planning.choosing.limits import Bound, margins
from ashen_bridge.planning.choosing.places import Place
from ashen_bridge.planning.choosing.pool import Key, Pool
from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.uncertainty.drawing import draw
from ashen_bridge.uncertainty.preparation import Preparation

DRAWS, _SEED, _REST_SEED = 160, 90_210, 4_077


@dataclass(frozen=True)
class Outlook:
    """What draws of one plan say: temperatures of all sensors (s, n_sensor) [°C], and which draws came to rest."""

    drawn: Floats
    rests: np.ndarray

    def pm(self, at: int) -> float:
        """Return the standard deviation of one sensor [K]."""
        return float(self.drawn[self.rests, at].std()) if self.rests.any() else float("nan")

    def chance(self, found: Sequence[Bound], sensors: Sequence[str]) -> tuple[Floats, float]:
        """Return with which chance each bound holds (n_bound), and all of them together; what does not rest holds nothing."""
        left = margins(found, sensors, self.drawn[self.rests])
        share = float(self.rests.mean())
        if not len(left):
            return np.zeros(len(found)), 0.0
        return (left >= 0).mean(axis=0) * share, float((left >= 0).all(axis=1).mean()) * share

    def moved(self, by: Floats) -> Outlook:
        """Return the same with every sensor (n_sensor) [K] higher."""
        return Outlook(self.drawn + by, self.rests)


class Chances:
    """Draws of one tryout: of the device by its preparation, if it has one, and of what is bought by batch."""

    def __init__(self, pool: Pool, prepared: Preparation | None) -> None:
        self._pool = pool
        tryout = pool.tryout
        self.moves = Moves.none(tryout.assembly) if prepared is None else moves(prepared, tryout.assembly)
        names = {name for some in pool.options for one in some for name in one.materials}
        self.drawn: Drawn = drawn_alike(self.moves, names, DRAWS, _SEED)
        self._rest = np.zeros((DRAWS, len(tryout.sensors)))
        if prepared is not None:
            self._rest = self._all_else(prepared, names)

    def _all_else(self, prepared: Preparation, tried: set[str]) -> Floats:
        """Return what numbers do that are not drawn here (s, n_sensor) [K]: powers, sink, packages; by slopes."""

        def beside(one: Assumption) -> bool:
            path = one.paths[0]
            if of_device(one) or ".pieces." in path:
                return False
            return not (path.startswith("materials.") and path.split(".")[1] in tried)

        kept = np.array([n for n, one in enumerate(prepared.numbers) if beside(one)], dtype=np.intp)
        if not len(kept):
            return np.zeros((DRAWS, len(self._pool.tryout.sensors)))
        slopes = prepared.slopes_of(np.zeros(len(prepared.numbers)), 1.0, kept)
        shown = draw([prepared.numbers[n] for n in kept], DRAWS, _REST_SEED) @ slopes
        at = {name: n for n, name in enumerate(prepared.sensors)}
        return np.stack([shown[:, at[name]] if name in at else np.zeros(DRAWS) for name in self._pool.tryout.sensors], axis=1)

    def outlook(self, key: Key) -> Outlook:
        """Return what draws say of a plan."""
        choices = np.tile(np.array(key[:-1]), (DRAWS, 1))
        washers = np.full(DRAWS, self._pool.washers[key[-1]])
        tried = self._pool.tryout.tried(choices, washers, self.drawn)
        return Outlook(self._pool.to_fine(tried.sensors) + self._rest, tried.rests & np.isfinite(tried.sensors).all(axis=1))

    # -- gaps ----------------------------------------------------------------------------------------------------------------

    def gaps(self) -> dict[str, float]:
        """Return the standard uncertainty of every joint's gap [mm] over that of the die under the same plate."""
        return {joint: float(np.sqrt((moved**2).sum())) for joint, moved in self._relative().items()}

    def _relative(self) -> dict[str, Floats]:
        """Return what every number does to a joint's gap (n_number,) [mm], that over the die under the same plate taken off."""
        tryout, found = self._pool.tryout, self.moves.gap * 1e3
        dies = {low for place in self._pool.places if place.role in ("die", "plate") and place.thin for low in place.lowers}
        at: dict[str, int] = {}
        over: dict[str, int] = {}
        for n, contact in enumerate(tryout.assembly.contacts):
            at.setdefault(contact.facing.joint or "", n)
            if contact.facing.lower in dies:
                over.setdefault(contact.facing.upper, n)
        zero = np.zeros(len(found))
        return {
            joint: found[:, n]
            - (
                found[:, over[tryout.assembly.contacts[n].facing.upper]]
                if tryout.assembly.contacts[n].facing.upper in over
                else zero
            )
            for joint, n in at.items()
            if joint
        }

    def widest(self, place: Place) -> Assumption | None:
        """Return the number that makes most of the ± of a place's gap."""
        moved = sum((self._relative()[name] ** 2 for name in place.joints), np.zeros(len(self.moves.numbers)))
        return self.moves.numbers[int(np.argmax(moved))] if len(moved) and np.max(moved) > 0 else None


def needed(outlook: Outlook, found: Sequence[Bound], sensors: Sequence[str], chance: float) -> Floats:
    """Return by how much every bound must be kept at least for its chance (n_bound) [K]."""
    pm = np.array([outlook.pm(sensors.index(one.sensor)) for one in found])
    return np.asarray(np.nan_to_num(float(ndtri(chance)) * pm))
