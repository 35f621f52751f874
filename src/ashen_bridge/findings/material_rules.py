"""Rules about what a layer is made of: metals that crack, creep or short, sheets that are too thick, claims without a method."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from ashen_bridge.findings.finding import Case, Finding
from ashen_bridge.model.bodies import Component, Plate
from ashen_bridge.model.joints import Joint, Piece
from ashen_bridge.model.material import Material, MaterialKind
from ashen_bridge.words.numbers import number, percent, short

FILLER_MM = 3.0  # above it a metal shim with paste on both faces beats more filler; common practice, no source
BEST_FILLER_W_MK = 15.0  # what pads and putties claim at most; common practice, no source
ROUGH_MM = 0.02  # gaps below it are those of rough faces
NEAR_MM = 3.0  # how far a conductor may creep or shift to a neighbour; common practice, no source


def _pieces(case: Case) -> Iterator[tuple[Joint, Piece, Material]]:
    for joint in case.resolved.joints:
        for piece in joint.pieces:
            yield joint, piece, case.resolved.materials[piece.material]


def solder_too_thin(case: Case) -> Iterator[Finding]:
    """Solder below the thickness at which it bears the different expansion of silicon and copper."""
    for joint, piece, material in _pieces(case):
        least = material.least_thickness_mm
        if least is not None and piece.thickness_mm is not None and piece.thickness_mm.value < least.value:
            yield Finding(
                code="solder_too_thin",
                severity="warning",
                about=joint.id,
                text=(
                    f"{material.name} on {case.label(joint.lower[0])} is {short(piece.thickness_mm.value)} mm thick; below "
                    f"{short(least.value)} mm it cracks, since silicon and copper expand differently."
                ),
                remedy="Use a thicker preform; the kelvins it costs are few.",
                numbers={"thickness_mm": piece.thickness_mm.value, "least_mm": least.value},
            )


def gallium_on_aluminium(case: Case) -> Iterator[Finding]:
    """Liquid metal on a face that it destroys."""
    for joint, _, material in _pieces(case):
        if not material.contains_gallium:
            continue
        for end in (joint.upper, *joint.lower):
            body = case.resolved.body(end)
            made_of = case.resolved.materials.get(body.material) if isinstance(body, Plate) else None
            if made_of is not None and made_of.attacked_by_gallium:
                yield Finding(
                    code="gallium_on_aluminium",
                    severity="serious",
                    about=joint.id,
                    text=f"{material.name} lies on {case.label(end)}, which is {made_of.name.lower()}: it will be destroyed.",
                    remedy="Take paste or a phase-change sheet there, or a copper or nickel-plated face.",
                    numbers={},
                )


def conductor_near_bare_parts(case: Case) -> Iterator[Finding]:
    """A layer that conducts electricity and could creep or shift to what stands beside it."""
    for joint, piece, material in _pieces(case):
        if not material.electrically_conductive or material.kind is MaterialKind.SOLDER:
            continue
        for low in joint.lower:
            near = _neighbours(case, low)
            if near:
                how = "creep" if piece.flows else "shift"
                yield Finding(
                    code="conductor_near_parts",
                    severity="warning",
                    about=joint.id,
                    text=(
                        f"{material.name} on {case.label(low)} conducts electricity and could {how} to "
                        f"{case.label(near[0])}, {'the nearest of ' + str(len(near)) + ' parts' if len(near) > 1 else 'a part'} "
                        f"within {short(NEAR_MM)} mm."
                    ),
                    remedy="Insulate what stands beside it first, and use as little as wets both faces.",
                    numbers={"count": len(near)},
                )


def _neighbours(case: Case, name: str) -> list[str]:
    here = case.resolved.body(name)
    if not isinstance(here, Component):
        return []
    x0, y0, x1, y1 = here.footprint.bounds
    found: list[tuple[float, str]] = []
    for other in case.resolved.bodies:
        if not isinstance(other, Component) or other.id == name or (other.on, other.side) != (here.on, here.side):
            continue
        a0, b0, a1, b1 = other.footprint.bounds
        apart = max(a0 - x1, x0 - a1, b0 - y1, y0 - b1, 0.0)
        if apart < NEAR_MM:
            found.append((apart, other.id))
    return [one for _, one in sorted(found)]


def filler_too_thick(case: Case) -> Iterator[Finding]:
    """Pad or putty in a gap for which metal would be better, or wider than the putty bridges."""
    rows = {(row.id, row.lower): row for row in case.report.joints}
    for joint, _, material in _pieces(case):
        for low in joint.lower:
            row = rows.get((joint.id, low))
            if row is None or material.kind not in (MaterialKind.PAD, MaterialKind.PUTTY):
                continue
            bridges = material.flow.bridges_mm if material.flow is not None else None
            if bridges is not None and row.gap_mm > bridges.value:
                yield Finding(
                    code="putty_beyond_reach",
                    severity="serious",
                    about=joint.id,
                    text=(
                        f"The gap over {case.label(low)} is {number(row.gap_mm, 2)} mm; {material.name} "
                        f"bridges {short(bridges.value)} mm."
                    ),
                    remedy="Close the gap, or fill part of it with a metal shim and paste.",
                    numbers={"gap_mm": row.gap_mm, "bridges_mm": bridges.value},
                )
            elif row.gap_mm > FILLER_MM:
                yield Finding(
                    code="filler_too_thick",
                    severity="note",
                    about=joint.id,
                    text=f"{number(row.gap_mm, 1)} mm of {material.name} over {case.label(low)} is a long way for heat.",
                    remedy="A copper shim with paste on both faces, and a thin pad for the rest, carries far more.",
                    numbers={"gap_mm": row.gap_mm},
                )


def shim_smaller_than_die(case: Case) -> Iterator[Finding]:
    """A shim that leaves part of a die bare concentrates its heat."""
    for joint in case.resolved.joints:
        upper = case.resolved.body(joint.upper)
        if not isinstance(upper, Plate) or upper.role != "shim":
            continue
        sx0, sy0, sx1, sy1 = upper.footprint.bounds
        for low in joint.lower:
            body = case.resolved.body(low)
            x0, y0, x1, y1 = body.footprint.bounds
            if isinstance(body, Component) and body.role == "die" and (sx0 > x0 or sy0 > y0 or sx1 < x1 or sy1 < y1):
                wide = max(0.0, min(sx1, x1) - max(sx0, x0))
                high = max(0.0, min(sy1, y1) - max(sy0, y0))
                share = wide * high / ((x1 - x0) * (y1 - y0))
                yield Finding(
                    code="shim_smaller_than_die",
                    severity="warning",
                    about=joint.id,
                    text=(
                        f"{case.label(upper.id)} covers {percent(share)} of {case.label(low)}: the heat must squeeze through it."
                    ),
                    remedy="A shim should cover the whole die.",
                    numbers={"covered": share},
                )


def stated_out_of_reach(case: Case) -> Iterator[Finding]:
    """A joint stated as a whole in a gap that no filler would bring to that."""
    rows = {(row.id, row.lower): row for row in case.report.joints}
    for joint in case.resolved.joints:
        if joint.stated_mm2k_w is None:
            continue
        reach = joint.stated_mm2k_w.value * BEST_FILLER_W_MK * 1e-3
        for low in joint.lower:
            row = rows.get((joint.id, low))
            if row is not None and row.gap_mm > max(reach, ROUGH_MM):
                yield Finding(
                    code="stated_out_of_reach",
                    severity="warning",
                    about=joint.id,
                    text=(
                        f"The joint over {case.label(low)} is stated as {short(joint.stated_mm2k_w.value)} "
                        f"mm²·K/W, but its faces are "
                        f"{number(row.gap_mm, 2)} mm apart; the best filler would reach {number(reach, 2)} mm."
                    ),
                    remedy="Say what lies in it, or see why the faces are so far apart.",
                    numbers={"gap_mm": row.gap_mm, "reach_mm": reach},
                )


MATERIAL_RULES: tuple[Callable[[Case], Iterator[Finding]], ...] = (
    solder_too_thin,
    gallium_on_aluminium,
    conductor_near_bare_parts,
    filler_too_thick,
    shim_smaller_than_die,
    stated_out_of_reach,
)
