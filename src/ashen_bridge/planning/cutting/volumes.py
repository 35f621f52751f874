"""What is dispensed: how much a gap takes, how much is pressed out, and what that is as a drop or a line."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

from ashen_bridge.model.amounts import amount_mm3
from ashen_bridge.model.joints import Piece
from ashen_bridge.model.material import DISPENSED, MaterialKind
from ashen_bridge.model.project import Project
from ashen_bridge.planning.choosing.practice import way
from ashen_bridge.planning.cutting.pieces import figures
from ashen_bridge.words.numbers import number, short

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

_FILM_MM = 0.2  # as people spread it, where nothing is said


@dataclass(frozen=True)
class Dispensed:
    """Paste or putty over one part: what is put there and what its gap takes [mm³], and as what it is put there.

    `drop_mm` is the diameter of a hemisphere, `line_mm` the length of a bead of the usual width. `pattern` says how it is put on.
    """

    joint: str
    lower: str
    label: str
    material: str
    name: str
    area_mm2: float
    gap_mm: float
    gap_mm3: float
    volume_mm3: float
    drop_mm: float
    line_mm: float
    pattern: str

    @property
    def pressed_out_mm3(self) -> float:
        """What does not stay in the gap."""
        return max(self.volume_mm3 - self.gap_mm3, 0.0)

    @property
    def says(self) -> str:
        """It in one sentence."""
        out = self.pressed_out_mm3
        spare = f", {number(out, 1 if out < 10 else 0)} mm³ of it pressed out" if out > 0.02 * self.volume_mm3 else ""
        short_of = self.gap_mm3 - self.volume_mm3
        if short_of > 0.02 * self.gap_mm3:
            spare = f"; {number(short_of, 1 if short_of < 10 else 0)} mm³ are missing for a full gap"
        return f"{short(self.volume_mm3, 3)} mm³{spare}: {self.pattern}."


def dispensing(engine: Engine, project: Project, build: str | None = None) -> tuple[Dispensed, ...]:
    """Return what is dispensed in a build, joint by joint. Raises `AshenError` where its plates do not come to rest."""
    one = project.build(build)
    flowing = {joint.id for joint in one.joints if any(piece.flows for piece in joint.pieces)}
    if not flowing:
        return ()
    gaps = {(row.joint, row.lower): row.gap_mm for row in engine.rest(project, one.id, None).joints}
    bodies = project.bodies_known(one)
    found = []
    for joint in one.joints:
        for piece in joint.pieces:
            material = project.material(piece.material)
            if not piece.flows or material.kind not in DISPENSED:
                continue
            areas = {name: _area(project, piece, bodies[name].footprint.bounds) for name in joint.lower}
            whole = sum(areas.values())
            beside = sum(p.thickness_mm.value for p in joint.pieces if p.thickness_mm is not None)
            for name in joint.lower:
                area = areas[name]
                gap = max(gaps.get((joint.id, name), 0.0) - beside, 0.0)
                volume = _volume(project, piece, whole) * area / whole
                pattern = _pattern(project, material.kind, volume, area)
                found.append(
                    Dispensed(
                        joint.id,
                        name,
                        bodies[name].label,
                        material.id,
                        material.name,
                        area,
                        gap,
                        gap * area,
                        volume,
                        drop_mm(volume),
                        line_mm(volume),
                        pattern,
                    )
                )
    return tuple(found)


def drop_mm(volume_mm3: float) -> float:
    """Return the diameter of a drop that lies like a hemisphere, V = π·d³/12.

    >>> round(drop_mm(math.pi * 4**3 / 12), 6)
    4.0
    """
    return float((12 * volume_mm3 / math.pi) ** (1 / 3))


def line_mm(volume_mm3: float) -> float:
    """Return the length of a round bead of the usual width, V = π/4·b²·l.

    >>> round(line_mm(math.pi * 10), 6)
    10.0
    """
    return float(4 * volume_mm3 / (math.pi * figures()["bead_mm"] ** 2))


def _area(project: Project, piece: Piece, bounds: tuple[float, float, float, float]) -> float:
    del project
    box = piece.footprint.bounds if piece.footprint is not None else bounds
    x0, y0, x1, y1 = box
    return max((x1 - x0) * (y1 - y0), 1e-3)


def _volume(project: Project, piece: Piece, area: float) -> float:
    if piece.volume_mm3 is not None:
        return piece.volume_mm3.value
    if piece.amount is None or piece.bond_line_um is not None:
        return _FILM_MM * area
    return amount_mm3(piece.amount, area, project.material(piece.material).density_kg_m3.value)


def _pattern(project: Project, kind: MaterialKind, volume: float, area: float) -> str:
    """Return how it is put on, by the school that is followed: on a bare die full cover matters more than the pattern."""
    if kind is MaterialKind.PUTTY:
        side = area**0.5
        return f"a ball {short(drop_mm(volume) * 0.8, 2)} mm across pressed flat, or strips over {short(side, 2)} mm"
    if kind is MaterialKind.LIQUID_METAL:
        return "a thin coat rubbed into both faces, nothing beyond the die"
    thin = way(project.aims.wishes, "amount")
    spread = f"spread {short(volume / area, 2)} mm thick over all of it"
    drop = f"a drop {short(drop_mm(volume), 2)} mm across"
    line = f"a line {short(line_mm(volume), 2)} mm long, {short(figures()['bead_mm'])} mm wide"
    return f"{spread}; or {drop}; or {line}" if thin != "generous" else f"{drop}, or {line}; or {spread}"
