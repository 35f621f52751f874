"""Rules about the ways of heat: pipes past their limit, power that had to be held back, plates that lead nowhere, claims."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from ashen_bridge.findings.finding import Case, Finding
from ashen_bridge.model.bodies import Plate
from ashen_bridge.model.sinks import NaturalSink
from ashen_bridge.words.numbers import number, percent, short

NEAR_RUNAWAY, SURELY_NEAR = 0.5, 0.75  # shares of leakage that come back; common practice, no source
LEADS_NOWHERE = 0.05  # of the heat of what it touches: a plate that takes less only stores; common practice, no source


def heat_pipe_limit(case: Case) -> Iterator[Finding]:
    """Heat pipes are asked to carry more than they can."""
    for row in case.report.pipes:
        if row.carried_w > row.limit_w:
            yield Finding(
                code="heat_pipe_limit",
                severity="serious",
                about=row.plate,
                text=(
                    f"{row.name} in {case.label(row.plate)} would have to carry {number(row.carried_w)} W; at "
                    f"this tilt they carry "
                    f"{number(row.limit_w)} W. Beyond that they dry out, and it gets hotter than predicted here."
                ),
                remedy="More or thicker pipes, the hot end lower, or less heat on this side.",
                numbers={"carried_w": row.carried_w, "limit_w": row.limit_w},
            )


def held_back(case: Case) -> Iterator[Finding]:
    """A component makes less power than it was told to."""
    for row in case.report.held_back:
        lost = row.wanted_w - row.power_w
        why = "it would pass its throttle temperature" if row.reason == "throttled" else "of its power limit"
        yield Finding(
            code="throttled" if row.reason == "throttled" else "power_limited",
            severity="serious" if row.reason == "throttled" else "note",
            about=row.component,
            text=(
                f"{case.label(row.component)} makes {number(row.power_w)} W of the {number(row.wanted_w)} W "
                f"asked of it: {number(lost)} W "
                f"are held back because {why}."
            ),
            remedy=(
                "Its temperature looks as before while it throttles: compare power or clocks, not temperatures."
                if row.reason == "throttled"
                else "Raise the limit only with cooling to spare: more power is more heat, wear and skin temperature."
            ),
            numbers={"wanted_w": row.wanted_w, "power_w": row.power_w, "held_back_w": lost},
        )


def leads_nowhere(case: Case) -> Iterator[Finding]:
    """A plate on a component takes next to no heat: it softens a burst and changes nothing that lasts."""
    power = {row.id: row.power_w for row in case.report.components}
    for joint in case.report.joints:
        plate = case.resolved.body(joint.upper)
        asked = power.get(joint.lower, 0.0)
        if not isinstance(plate, Plate) or plate.sink is not None or asked <= 0 or joint.contact_fraction <= 0:
            continue
        onward = any(other.lower == joint.upper for other in case.report.joints)
        if not onward and abs(joint.heat_w) < LEADS_NOWHERE * asked:
            yield Finding(
                code="capacity_without_sink",
                severity="note",
                about=joint.id,
                text=(
                    f"{plate.label} takes {number(joint.heat_w, 2)} W of the {number(asked, 1)} W of "
                    f"{case.label(joint.lower)}: it stores heat "
                    "but leads none away. A burst is softened, a long load ends as hot."
                ),
                remedy="Give it a way on: air, the case, or the cooler.",
                numbers={"heat_w": joint.heat_w, "power_w": asked},
            )


def only_claimed(case: Case) -> Iterator[Finding]:
    """A conductivity that stands on a packet and nowhere else."""
    for material in {
        piece.material: case.resolved.materials[piece.material] for joint in case.resolved.joints for piece in joint.pieces
    }.values():
        if material.only_claimed:
            yield Finding(
                code="only_claimed",
                severity="note",
                about=next(j.id for j in case.resolved.joints if any(p.material == material.id for p in j.pieces)),
                text=(
                    f"{material.name} claims {short(material.conductivity_w_mk.value)} W/m·K without a test method: "
                    f"{number(material.effective_w_mk, 1)} W/m·K are counted on."
                ),
                remedy="Give the test method if you know it, or what your own runs say.",
                numbers={"claimed_w_mk": material.conductivity_w_mk.value, "counted_w_mk": material.effective_w_mk},
            )


def fins_across(case: Case) -> Iterator[Finding]:
    """Fins that rising air cannot pass along."""
    point = case.project.point(case.report.point)
    for body in case.resolved.bodies:
        sink = body.sink if isinstance(body, Plate) else None
        if isinstance(sink, NaturalSink) and sink.count >= 2 and not (point.orientation == "upright" and sink.runs == "y"):
            yield Finding(
                code="fins_across",
                severity="warning",
                about=body.id,
                text=f"The fins of {body.label} lie across the rising air: they count as a bare face, which is on the safe side.",
                remedy="Stand the device so that its fins run upright.",
                numbers={"count": sink.count},
            )


def near_runaway(case: Case) -> Iterator[Finding]:
    """Leakage that comes back so strongly that little more would make the heat run away."""
    gain = case.report.leakage_gain
    if gain is not None and gain > NEAR_RUNAWAY:
        yield Finding(
            code="near_runaway",
            severity="serious" if gain > SURELY_NEAR else "warning",
            about=max(case.report.components, key=lambda row: row.t_max_c).id,
            text=f"Of every watt more that leaks, {percent(gain)} come back as still more leakage; at 100 % the heat runs away.",
            remedy="Cool better or ask for less power: small changes have large effects here.",
            numbers={"gain": gain},
        )


HEAT_RULES: tuple[Callable[[Case], Iterator[Finding]], ...] = (
    heat_pipe_limit,
    held_back,
    leads_nowhere,
    only_claimed,
    fins_across,
    near_runaway,
)
