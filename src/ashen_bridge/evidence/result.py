"""What was seen, against what the model expected: plain values that are light to import."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.arrays import Floats

Value = tuple[float, float]
"""A length and its standard uncertainty [mm]."""


@dataclass(frozen=True)
class Culprit:
    """A number that would explain a mark by itself: by how much it would have to be off, in its unit and in its own ±."""

    path: str
    label: str
    off: float
    unit: str
    sds: float


@dataclass(frozen=True)
class Statement:
    """One statement and what the model expected there.

    chance : of such a mark beforehand, misreading included. off_mm : by how much the gap would have to be wider (+) or narrower.
    words : how it stands, in one sentence. agrees : whether it was to be expected. silent : no sensor tells of that part.
    """

    id: str
    joint: str
    lower: str
    name: str
    says: str
    expected: str
    chance: float
    off_mm: float
    culprit: Culprit | None
    words: str
    agrees: bool
    silent: bool = False


@dataclass(frozen=True)
class SeenGap:
    """A gap to fill by readings alone, and with what was seen."""

    joint: str
    lower: str
    name: str
    before: Value
    now: Value


@dataclass(frozen=True)
class Looked:
    """What the model expects at one contact of a closing, in words: for what is about to be said."""

    closing: str
    joint: str
    lower: str
    name: str
    kind: str
    expected: str
    words: str
    silent: bool = False


@dataclass(frozen=True)
class Seen:
    """All that was seen, for one build.

    contradictions : sentences that name two statements which exclude each other, and what would settle it. refused : what
    was not used, and why. effective : equally weighed draws that are left; 0 where nothing tells of lengths. problem : why what
    was seen could not be weighed, empty where it could.
    """

    build: str
    statements: tuple[Statement, ...]
    contradictions: tuple[str, ...]
    refused: tuple[tuple[str, str], ...]
    gaps: tuple[SeenGap, ...]
    looked: tuple[Looked, ...]
    effective: float
    problem: str = ""


@dataclass(frozen=True)
class FilmReading:
    """What a picture shows over a rectangle. Directions are of the rectangle: 0 to the right, 90 up.

    covered : share that was touched, with its ±. centre_x_mm, centre_y_mm : centre of pressure from the middle, with one ±.
    toward_deg, ratio : where it presses harder and by how much at opposite edges. middle : whether it is hollow or crowned.
    pressure : (ny, nx) in units of its mean where touched, row 0 lowest; x_mm, y_mm : places of columns and rows.
    """

    covered: float
    covered_sd: float
    centre_x_mm: float
    centre_y_mm: float
    centre_sd_mm: float
    toward_deg: float | None
    ratio: float
    middle: str
    pressure: Floats
    x_mm: Floats
    y_mm: Floats


@dataclass(frozen=True)
class FilmFound:
    """A picture read, and how far it is from what the model has there: 0 the same, 1 nothing in common; None without a model."""

    reading: FilmReading
    difference: float | None = None
