"""Whether a die's bond line is even, and what makes it uneven: a tilted cooler, a bent board, or faces that are not flat."""

from __future__ import annotations

from collections.abc import Iterator

from ashen_bridge.findings.finding import Case, Finding
from ashen_bridge.geometry.region import Box
from ashen_bridge.model.footprint import Form
from ashen_bridge.predict.report import JointRow
from ashen_bridge.words.numbers import number

WEDGE_UM, WEDGE_SHARE = 20.0, 0.4  # across the die, and of the mean; common practice, no source


def uneven_bond_line(case: Case) -> Iterator[Finding]:
    """The bond line on a die is a wedge, or thicker in some places because a face or the board is not flat."""
    for row in filter(case.is_die, case.report.joints):
        across = row.bond_line_um.max - row.bond_line_um.min
        if across <= WEDGE_UM or across <= WEDGE_SHARE * row.bond_line_um.mean:
            continue
        bent = case.report.bow.under_um.get(row.lower, 0.0) if case.report.bow else 0.0
        crowned = _crown_over_die(case, row)
        thin, thick = f"{number(row.bond_line_um.min)} µm", f"{number(row.bond_line_um.max)} µm"
        code, shape = "curved_bond_line", f"uneven: {thin} at its thinnest, {thick} at its thickest"
        if max(bent, crowned) < across / 2:
            code, shape = "wedge", f"a wedge: {thin} on one side, {thick} on the other"
            role = getattr(case.resolved.body(row.upper), "role", "cooler")
            why = f"the {role} sits tilted"
            remedy = "Even out the pads on both sides of the die: the thick side has the pads that push hardest."
        elif bent >= crowned:
            why, remedy = "the board bends under it", "A brace behind the die, or less screw force."
        else:
            why, remedy = "its faces are not flat", "A flatter face there, or a softer filler."
        yield Finding(
            code=code,
            severity="warning",
            about=row.id,
            text=f"The die's bond line is {shape}, because {why}.",
            remedy=remedy,
            numbers={
                "min_um": row.bond_line_um.min,
                "max_um": row.bond_line_um.max,
                "bow_um": bent,
                "crown_um": crowned,
            },
        )


def _crown_over_die(case: Case, row: JointRow) -> float:
    """By how much both faces of a joint depart from flat over a die [µm]: a crown is a parabola over the whole of its face."""
    die, upper = case.resolved.body(row.lower), case.resolved.body(row.upper)
    here = die.footprint.bounds
    middle = (here[0] + here[2]) / 2, (here[1] + here[3]) / 2
    over = [landing for landing in getattr(upper, "landings", ()) if _holds(landing.area.bounds, *middle)]
    form, face = (over[0].form, over[0].area.bounds) if over else (upper.form, upper.footprint.bounds)
    return _within(die.form, here, here) + _within(form, face, here)


def _within(form: Form, face: Box, part: Box) -> float:
    share = max((part[2] - part[0]) / (face[2] - face[0]), (part[3] - part[1]) / (face[3] - face[1]))
    return float(abs(form.crown_um.value) * min(share, 1.0) ** 2)


def _holds(box: Box, x: float, y: float) -> bool:
    return box[0] <= x <= box[2] and box[1] <= y <= box[3]
