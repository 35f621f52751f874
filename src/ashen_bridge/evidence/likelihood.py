"""How likely a mark is, given what a contact was like: blurred bands, and a chance of being misread.

A mark that does not fit what the contact was like is never impossible: somebody may have misread it, so it can cost no more than
the logarithm of that chance.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from scipy.special import expit

from ashen_bridge.arrays import Floats
from ashen_bridge.evidence.practice import Band, practice

LayerKind = Literal["pad", "paste"]
_THIN_MM = 1e-3
_BY_EDGES = ("untouched", "wedge")


@dataclass(frozen=True)
class Contacts:
    """What one contact was like in some states (n_state,): its gap [mm] and how that changes across it, to the right and up [mm].

    free_mm : thickness of what lies in it, where it has one of its own, by state.
    """

    kind: LayerKind
    gap_mm: Floats
    across_x_mm: Floats
    across_y_mm: Floats
    free_mm: Floats

    @property
    def squash(self) -> Floats:
        """By which share of its free thickness a pad is squashed, negative where it does not reach (n_state,)."""
        return np.asarray(1 - self.gap_mm / np.maximum(self.free_mm, _THIN_MM))

    @property
    def deepest(self) -> Floats:
        """By which share a pad is squashed at its deepest edge (n_state,)."""
        return np.asarray(self.squash + self.uneven / 2)

    @property
    def uneven(self) -> Floats:
        """The difference between opposite edges, as a share of the free thickness, or of the bond line (n_state,)."""
        across = np.hypot(self.across_x_mm, self.across_y_mm)
        of = self.free_mm if self.kind == "pad" else self.gap_mm
        return np.asarray(across / np.maximum(of, _THIN_MM))

    @property
    def toward_deg(self) -> Floats:
        """Where the gap is narrowest [°] (n_state,)."""
        return np.asarray(np.degrees(np.arctan2(-self.across_y_mm, -self.across_x_mm)))


def tells_length(kind: LayerKind, mark: str) -> bool:
    """Return whether a mark says something about lengths; others only speak for faults."""
    return mark in practice().bands[kind]


def fitting(contacts: Contacts, mark: str, toward_deg: float | None = None) -> Floats:
    """Return how well a mark fits each state, 0 to 1 (n_state,).

    Raises `KeyError` for a mark that says nothing about lengths.
    """
    band, blur = practice().bands[contacts.kind][mark], practice().blur
    if band.of == "squash":
        # A pad that one edge touches is not untouched, whatever its middle does.
        at = contacts.deepest if mark in _BY_EDGES else contacts.squash
        found = _within(at, band, blur["squash"])
    else:
        # Bond lines are told apart by their proportion, not their difference.
        logs = np.log(np.maximum(contacts.gap_mm, _THIN_MM))
        low, high = (None if end is None else float(np.log(max(end, _THIN_MM))) for end in (band.low, band.high))
        found = _within(logs, replace(band, low=low, high=high), blur["bond"])
    limit = practice().bands[contacts.kind]["wedge"].uneven
    tilted = expit((np.log(np.maximum(contacts.uneven, 1e-6)) - np.log(limit)) / blur["uneven"])
    if band.uneven:
        found = found * tilted
        if toward_deg is not None:
            off = (contacts.toward_deg - toward_deg + 180) % 360 - 180
            found = found * np.exp(-0.5 * (off / blur["toward_deg"]) ** 2)
    elif mark == "even":
        found = found * (1 - tilted)
    return np.asarray(found)


def log_likelihood(contacts: Contacts, mark: str, misread: float, toward_deg: float | None = None) -> Floats:
    """Return the logarithm of the chance of a mark in each state (n_state,)."""
    others = len(practice().bands[contacts.kind])
    fits = fitting(contacts, mark, toward_deg)
    return np.asarray(np.log((1 - misread) * fits + misread / others))


def expected_mark(contacts: Contacts) -> tuple[str, float]:
    """Return the mark that fits the first state best, and how well."""
    fits = {mark: float(fitting(contacts, mark)[0]) for mark in practice().bands[contacts.kind]}
    best = max(fits, key=lambda mark: fits[mark])
    return best, fits[best]


def off_mm(contacts: Contacts, mark: str) -> float:
    """Return by how much the gap [mm] of the first state is too narrow (+) or too wide (−) for a mark; 0 if it fits."""
    band = practice().bands[contacts.kind][mark]
    gap, free = float(contacts.gap_mm[0]), float(contacts.free_mm[0])
    if band.of == "bond_mm":
        low, high = band.low, band.high
    else:
        # What is squashed more is narrower.
        low = None if band.high is None else free * (1 - band.high)
        high = None if band.low is None else free * (1 - band.low)
    if low is not None and gap < low:
        return low - gap
    if high is not None and gap > high:
        return high - gap
    return 0.0


def _within(value: Floats, band: Band, blur: float) -> Floats:
    found = np.ones_like(value)
    if band.low is not None:
        found = found * expit((value - band.low) / (blur / 2))
    if band.high is not None:
        found = found * expit((band.high - value) / (blur / 2))
    return np.asarray(found)
