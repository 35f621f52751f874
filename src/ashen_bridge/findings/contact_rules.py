"""A die with nothing on it: the first thing to say, since all else follows from it."""

from __future__ import annotations

from collections.abc import Iterator

from ashen_bridge.findings.finding import Case, Finding
from ashen_bridge.words.numbers import number

COSTS_K = 5.0  # what an empty gap over a die must cost to be worth a word; common practice, no source


def nothing_between(case: Case) -> Iterator[Finding]:
    """A die that faces its cooler with nothing in between."""
    dies = {row.id for row in case.report.components if row.kind == "die"}
    full = {joint.id for joint in case.resolved.build.joints if joint.pieces or joint.stated_mm2k_w is not None}
    filled = {row.lower for row in case.report.joints if row.id in full}
    for descent in case.report.descents:
        if descent.component not in dies - filled:
            continue
        step = next((one for one in descent.steps if one.kind == "joint"), None)
        if step is None or step.t_from_c - step.t_to_c < COSTS_K:
            continue
        yield Finding(
            code="nothing_between",
            severity="serious",
            about=descent.component,
            text=(
                f"Nothing lies between {case.label(descent.component)} and what faces it: "
                f"air and bare faces cost {number(step.t_from_c - step.t_to_c)} K there."
            ),
            remedy="Put a layer there: paste, a phase-change sheet, or what the die is meant to have.",
            numbers={"cost_k": step.t_from_c - step.t_to_c},
        )
