"""Hot spot minus average of a die: a symptom of its own."""

from __future__ import annotations

from collections.abc import Iterator

from ashen_bridge.findings.finding import Case, Finding
from ashen_bridge.words.numbers import number

USUAL_K = 20.0  # 10 to 20 K is normal, more points at the mount; common practice, no source
SURELY_K = 30.0  # from here on it nearly always is the mount; common practice, no source
EVEN = 1.25  # thickest over mean bond line of a film that is even; common practice, no source


def hot_spot_above_average(case: Case) -> Iterator[Finding]:
    """A die whose hottest point stands further above its average than is usual."""
    for row in case.report.components:
        if row.kind != "die" or row.hot_minus_mean_k <= USUAL_K:
            continue
        joint = case.report.joint_over(row.id)
        bond = joint.bond_line_um if joint is not None else None
        uneven = bond is not None and bond.mean > 0 and bond.max / bond.mean > EVEN
        why = (
            f"its bond line runs from {number(bond.min)} to {number(bond.max)} µm"
            if bond is not None and uneven
            else "its bond line is even, so it is where its power is made and what the silicon spreads"
        )
        yield Finding(
            code="hot_spot_above_average",
            severity="warning" if row.hot_minus_mean_k > SURELY_K else "note",
            about=row.id,
            text=(
                f"The hot spot of {case.label(row.id)} is {number(row.hot_minus_mean_k)} K above its average, "
                f"more than the usual "
                f"10 to {number(USUAL_K)} K: {why}."
            ),
            remedy="Look at the mount: tilt, a bow, a bare place." if uneven else "A thinner film or a better spreader over it.",
            numbers={"hot_minus_mean_k": row.hot_minus_mean_k},
        )
