"""What the parts of a heat model are called, so that they are found again in its field: made and read here only."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

Between = Literal["facing", "attach", "beyond", "sheet", "pipes"]
ToAir = Literal["sink", "under", "sides", "bare", "connector"]
Itself = Literal["body", "skin"]
Kind = Between | ToAir | Itself
_KINDS: dict[str, Kind] = {kind: kind for group in (get_args(Between), get_args(ToAir), get_args(Itself)) for kind in group}


@dataclass(frozen=True)
class Name:
    """A kind, and the ids it is about: joint (empty for an air gap), lower and upper body of a facing, else the body first.

    >>> str(facing("pad_0", "mem_0", "cooler")), facing("pad_0", "mem_0", "cooler").joint
    ('facing:pad_0:mem_0:cooler', 'pad_0')
    """

    kind: Kind
    ids: tuple[str, ...]

    def __str__(self) -> str:
        """Return the name as it stands in reports."""
        return ":".join((self.kind, *self.ids))

    @property
    def joint(self) -> str:
        """The joint of a facing or sheet; empty for an air gap."""
        return self.ids[0]


def read_name(text: str) -> Name:
    """Return the name that a text stands for. Raises `ValueError` for one that was not made here.

    >>> read_name("sink:cooler") == sink("cooler")
    True
    """
    kind, *ids = text.split(":")
    if kind not in _KINDS:
        raise ValueError(f"'{text}' is no name of a part of a heat model")
    return Name(_KINDS[kind], tuple(ids))


def facing(joint: str | None, lower: str, upper: str) -> Name:
    """Return the name of the contact between two faces, through a joint or (None) an air gap."""
    return Name("facing", (joint or "", lower, upper))


def attachment(body: str) -> Name:
    """Return the name of the contact between a body and its carrier."""
    return Name("attach", (body,))


def sink(plate: str) -> Name:
    """Return the name of the way from a plate's sink to its air."""
    return Name("sink", (plate,))


def slab(body: str) -> Name:
    """Return the name of a body as something that conducts."""
    return Name("body", (body,))


def skin(body: str) -> Name:
    """Return the name of the outer skin of a body as something with a temperature of its own."""
    return Name("skin", (body,))


def sheet(joint: str, piece: str) -> Name:
    """Return the name of a layer that leads heat sideways."""
    return Name("sheet", (joint, piece))
