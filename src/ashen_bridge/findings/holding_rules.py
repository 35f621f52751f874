"""Rules about what holds the stack: springs at their end, washers, and whatever closes over it."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from ashen_bridge.findings.finding import Case, Finding
from ashen_bridge.words.numbers import number, short

CRUSHING_KPA = 3_000.0  # far above what any part of such a device is meant to take; common practice, no source
STRONGER = 1.25  # times the force without washers from which steel washers are worth a word; common practice, no source


def coil_bind(case: Case) -> Iterator[Finding]:
    """A spring is squeezed until its coils touch: from there on it is a rigid screw."""
    force = {row.id: row.force_n for row in case.report.fasteners}
    for fastener, _ in case.resolved.fasteners:
        if fastener.kind != "sprung" or fastener.coil_bind_mm is None or fastener.id not in force:
            continue
        squeezed = force[fastener.id] / fastener.rate
        if squeezed > fastener.coil_bind_mm.value + 1e-6:
            yield Finding(
                code="coil_bind",
                severity="serious",
                about=fastener.id,
                text=(
                    f"{fastener.label} is squeezed to its end (coils touch at "
                    f"{short(fastener.coil_bind_mm.value)} mm of travel): "
                    f"it pulls with {number(force[fastener.id])} N, and every tenth of a millimetre more counts fully."
                ),
                remedy="Thinner washers, or none: a spring at its end no longer forgives anything.",
                numbers={"force_n": force[fastener.id], "coil_bind_mm": fastener.coil_bind_mm.value},
            )


def steel_washers(case: Case) -> Iterator[Finding]:
    """Steel washers that raise the force much: if it is too much, the board gives way first."""
    for fastener, setting in case.resolved.fasteners:
        thick = setting.washers_mm.value
        travel = fastener.travel_mm.value if fastener.travel_mm else 0.0
        if setting.washer_material == "steel" and thick > 0 and travel + thick > STRONGER * travel:
            yield Finding(
                code="steel_washer",
                severity="note",
                about=fastener.id,
                text=(
                    f"{short(thick)} mm of steel washer under {fastener.label} raise its travel from {short(travel)} to "
                    f"{short(travel + thick)} mm; steel does not give way, so the board or die would."
                ),
                remedy="A plastic washer fails first if the force is too much.",
                numbers={"washers_mm": thick, "travel_mm": travel},
            )


def will_not_close(case: Case) -> Iterator[Finding]:
    """A lid, shroud or case back is pushed up harder than it is held, or bulges."""
    for row in case.report.closing:
        if not row.closes:
            yield Finding(
                code="will_not_close",
                severity="serious",
                about=row.hardest,
                text=(
                    f"{row.name} is pushed up with {number(row.force_n)} N but holds shut with at most "
                    f"{number(row.most_n or 0.0)} N: "
                    "it will not close."
                ),
                remedy=(
                    f"A thinner or softer pad under it: there are {number(row.clearance_mm, 2)} mm over "
                    f"{case.label(row.tightest)}."
                ),
                numbers={"force_n": row.force_n, "most_n": row.most_n or 0.0, "clearance_mm": row.clearance_mm},
            )
        elif row.bulge_mm > 0.3:  # seen and felt from about there on; common practice, no source
            yield Finding(
                code="lid_bulges",
                severity="note",
                about=row.hardest,
                text=f"{row.name} bulges by {number(row.bulge_mm, 1)} mm under {number(row.force_n)} N from the pads beneath it.",
                remedy="A softer or thinner pad, or a screw near it.",
                numbers={"bulge_mm": row.bulge_mm, "force_n": row.force_n},
            )


def crushed(case: Case) -> Iterator[Finding]:
    """Faces are forced into each other: something is thicker than the place it has."""
    for row in case.report.joints:
        if row.pressure_kpa.mean > CRUSHING_KPA:
            yield Finding(
                code="crushed",
                severity="serious",
                about=row.id,
                text=(
                    f"{case.label(row.lower)} and {case.label(row.upper)} are forced into each other with "
                    f"{number(row.force_n)} N: "
                    "what lies between is thicker than the place it has."
                ),
                remedy="Check heights, seats and steps there: real parts would break or the screws would not close.",
                numbers={"force_n": row.force_n, "pressure_kpa": row.pressure_kpa.mean},
            )


HOLDING_RULES: tuple[Callable[[Case], Iterator[Finding]], ...] = (coil_bind, steel_washers, will_not_close, crushed)
