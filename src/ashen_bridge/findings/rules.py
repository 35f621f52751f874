"""The rules. Thresholds without a source are common practice and named with the rules."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from ashen_bridge.findings.bond_line_rules import uneven_bond_line
from ashen_bridge.findings.contact_rules import nothing_between
from ashen_bridge.findings.finding import Case, Finding
from ashen_bridge.findings.heat_rules import HEAT_RULES
from ashen_bridge.findings.holding_rules import HOLDING_RULES
from ashen_bridge.findings.hot_spot_rules import hot_spot_above_average
from ashen_bridge.findings.material_rules import MATERIAL_RULES
from ashen_bridge.findings.order import in_order
from ashen_bridge.predict.report import JointRow
from ashen_bridge.words.numbers import number, percent, short
from ashen_bridge.words.verdict import is_over

BARELY = 0.05  # compression below which contact is by luck; common practice, no source
TOO_MUCH = 0.40  # compression above which a pad is damaged and pushes hard; common practice, no source
HELD_OFF_K = 1.0  # kelvins on the die that make pads' push worth a word
NOTHING = 0.05  # share of today's force that counts as nothing left
FULL = 0.98
BOW_BOARD_UM, BOW_DIE_UM = 250.0, 25.0  # between screws, and as a curve under a die; common practice, no source

Rule = Callable[[Case], Iterator[Finding]]


def findings(case: Case) -> tuple[Finding, ...]:
    """Return everything the rules have to say, the gravest first, causes before what follows from them."""
    return in_order([finding for rule in RULES for finding in rule(case)], case)


def limit_exceeded(case: Case) -> Iterator[Finding]:
    """A sensor is predicted above its limit; of several on one part the worst."""
    over = [row for row in case.report.sensors if is_over(row.margin_k)]
    said = set[str]()
    for row in sorted(over, key=lambda row: row.margin_k or 0.0):
        if row.body in said:
            continue
        said.add(row.body)
        assert row.limit_c is not None  # a margin comes with its limit
        assert row.margin_k is not None
        yield Finding(
            code="limit_exceeded",
            severity="serious",
            about=row.body,
            text=(
                f"{row.name} is predicted at {number(row.value_c)} °C, {number(-row.margin_k)} K above its "
                f"limit of {number(row.limit_c)} °C."
            ),
            remedy=_largest_step(case, row.body),
            numbers={"value_c": row.value_c, "limit_c": row.limit_c, "margin_k": row.margin_k},
        )


def _largest_step(case: Case, body: str) -> str:
    """Where on the way of a part's heat most kelvins lie, in words."""
    descent = next((one for one in case.report.descents if one.component == body), None)
    if descent is None or not descent.steps:
        return "Less power, or a way out for its heat."
    largest = max(descent.steps, key=lambda one: one.t_from_c - one.t_to_c)
    return f"Work pays most where most kelvins lie: {largest.label}, {number(largest.t_from_c - largest.t_to_c)} K."


def pads_hold_die_off(case: Case) -> Iterator[Finding]:
    """Pads carry force that the die needs, so that its bond line is thicker than it could be."""
    for row in filter(case.is_die, case.report.joints):
        free = case.without_pads.get(row.id)
        if free is None:
            continue
        cost = free.t_max_now_c - free.t_max_c
        pads = [other for other in case.report.joints if other.upper == row.upper and case.is_pad(other)]
        pad_force = sum(other.force_n for other in pads)
        total = pad_force + row.force_n
        if cost < HELD_OFF_K or total <= 0 or not pads:
            continue
        worst = max(case.grouped(pads), key=lambda item: sum(member.force_n for member in item[2]))
        share = pad_force / total
        yield Finding(
            code="pads_hold_die_off",
            severity="serious" if cost > 4 else "warning",
            about=row.id,
            text=(
                f"The pads take {percent(share)} of the screws' force, so the die's bond line is "
                f"{number(row.bond_line_um.mean)} µm "
                f"instead of {number(free.bond_line_um)} µm and the die {number(cost)} K hotter."
            ),
            remedy=f"Go thinner or softer on {worst[0]} (it pushes hardest), or raise the screws' force.",
            numbers={
                "pad_force_share": share,
                "bond_line_um": row.bond_line_um.mean,
                "bond_line_without_um": free.bond_line_um,
                "cost_k": cost,
            },
            also=tuple(member.id for member in worst[2]),
        )


def cliff(case: Case) -> Iterator[Finding]:
    """A little more pad would take the die's force to nothing."""
    for (joint, group), after in case.force_after_more.items():
        row = next(row for row in case.report.joints if row.id == joint)
        if row.force_n > 1.0 and after < NOTHING * row.force_n:
            yield Finding(
                code="cliff",
                severity="warning",
                about=joint,
                text=(
                    f"Another {short(case.cliff_step_mm)} mm of pad on {group} takes the die's force from "
                    f"{number(row.force_n)} N to "
                    f"{'nothing' if after < 0.5 else f'{number(after)} N'}."
                ),
                remedy="Stay a step thinner, or take a softer pad: stock pads alone vary by a tenth of their thickness.",
                numbers={"force_n": row.force_n, "force_after_n": after, "step_mm": case.cliff_step_mm},
            )


def die_pressure(case: Case) -> Iterator[Finding]:
    """The mean pressure on a die is outside its window."""
    for row in filter(case.is_die, case.report.joints):
        body = case.resolved.body(row.lower)
        low, high = getattr(body, "pressure_min_kpa", None), getattr(body, "pressure_max_kpa", None)
        mean = row.pressure_kpa.mean
        if low is not None and mean < low.value:
            yield Finding(
                code="die_pressure_low",
                severity="warning",
                about=row.id,
                text=f"The mean pressure on the die is {number(mean)} kPa; at least {number(low.value)} kPa are wanted.",
                remedy="Thinner or softer pads, washers under the spring screws, or stiffer springs.",
                numbers={"pressure_kpa": mean, "min_kpa": low.value},
            )
        if high is not None and mean > high.value:
            yield Finding(
                code="die_pressure_high",
                severity="serious",
                about=row.id,
                text=(
                    f"The mean pressure on the die is {number(mean)} kPa, above the {number(high.value)} kPa "
                    f"it is meant to take: "
                    "it may crack."
                ),
                remedy="Take washers out or use softer springs; tighten crosswise in small equal turns.",
                numbers={"pressure_kpa": mean, "max_kpa": high.value},
            )


def board_bow(case: Case) -> Iterator[Finding]:
    """The board bends by more than pads forgive, or bends the die's substrate."""
    bow = case.report.bow
    if bow is None:
        return
    for name, under in bow.under_um.items():
        if under > BOW_DIE_UM or bow.board_um > BOW_BOARD_UM:
            yield Finding(
                code="board_bow",
                severity="warning",
                about=name,
                text=(
                    f"The board bows by {number(bow.board_um / 1000, 2)} mm between its screws "
                    f"({number(under)} µm of it as a curve under "
                    f"{case.label(name)}): gaps move by as much, and solder balls bear it."
                ),
                remedy="A brace or backplate behind the die, or less force from the screws.",
                numbers={"board_um": bow.board_um, "under_um": under},
            )


def not_touching(case: Case) -> Iterator[Finding]:
    """Pads that do not reach."""
    rows = [row for row in case.report.joints if case.is_pad(row) and row.contact_fraction <= 0.0]
    for label, total, members in case.grouped(rows):
        air = max(member.air_um for member in members)
        yield Finding(
            code="not_touching",
            severity="serious",
            about=members[0].id,
            text=(
                f"{_untouched(label, total, members)}: {number(air)} µm of air {'is' if len(members) == 1 else 'are'} left above."
            ),
            remedy="A thicker pad, or find out what holds the plate up: another group may be too thick.",
            numbers={"count": len(members), "air_um": air},
            also=tuple(member.id for member in members[1:]),
        )


def barely_touching(case: Case) -> Iterator[Finding]:
    """Pads that touch by luck."""
    rows = [
        row for row in case.report.joints if row.compression is not None and row.contact_fraction > 0 and row.compression < BARELY
    ]
    for label, total, members in case.grouped(rows):
        least = min(member.compression or 0.0 for member in members)
        yield Finding(
            code="barely_touching",
            severity="warning",
            about=members[0].id,
            text=(
                f"{_count(label, total, members)} barely touching: compressed by {percent(least)}, less than their own tolerance."
            ),
            remedy="A step thicker if the die can bear it, a softer pad, or putty.",
            numbers={"count": len(members), "compression": least},
            also=tuple(member.id for member in members[1:]),
        )


def over_compressed(case: Case) -> Iterator[Finding]:
    """Pads squeezed beyond what they are made for."""
    rows = [row for row in case.report.joints if row.compression is not None and row.compression > TOO_MUCH]
    for label, total, members in case.grouped(rows):
        most = max(member.compression or 0.0 for member in members)
        yield Finding(
            code="over_compressed",
            severity="warning",
            about=members[0].id,
            text=(
                f"{_count(label, total, members)} over-compressed: {percent(most)} "
                f"(more than {percent(TOO_MUCH)} harms the pad and pushes hard)."
            ),
            remedy="A step thinner, or a softer pad.",
            numbers={"count": len(members), "compression": most},
            also=tuple(member.id for member in members[1:]),
        )


def bare_part(case: Case) -> Iterator[Finding]:
    """A component whose joint covers only part of it."""
    for component in case.report.components:
        if component.covered is None or component.covered >= FULL:
            continue
        row = case.report.joint_over(component.id)
        yield Finding(
            code="bare_part",
            severity="warning",
            about=row.id if row else component.id,
            text=(
                f"{case.label(component.id)} is bare over {percent(1 - component.covered)} of its top: "
                "the heat under that part has no short way out."
            ),
            remedy="Cut the piece to the whole outline of the part.",
            numbers={"covered": component.covered},
        )


def too_little_paste(case: Case) -> Iterator[Finding]:
    """The dispensed paste does not fill the gap."""
    for row in case.report.joints:
        if row.paste_coverage is not None and row.paste_coverage < FULL:
            outside = " (below its yield stress, outside the bond-line law)" if row.paste_outside_law else ""
            yield Finding(
                code="too_little_paste",
                severity="serious" if row.paste_coverage < 0.7 else "warning",
                about=row.id,
                text=(
                    f"The paste on {case.label(row.lower)} fills only {percent(row.paste_coverage)} of a gap of "
                    f"{number(row.bond_line_um.mean)} µm{outside}."
                ),
                remedy="Close the gap first; if it must stay, dispense more paste.",
                numbers={"coverage": row.paste_coverage, "bond_line_um": row.bond_line_um.mean},
            )


def _untouched(label: str, total: int, members: list[JointRow]) -> str:
    if total == 1:
        return f"{label} does not touch"
    if len(members) == total:
        return f"{label}: none of the {total} pads touches"
    return f"{label}: {len(members)} of {total} pads {'does' if len(members) == 1 else 'do'} not touch"


def _count(label: str, total: int, members: list[JointRow]) -> str:
    if total == 1:
        return f"{label} is"
    if len(members) == total:
        return f"{label}: all {total} pads are"
    return f"{label}: {len(members)} of {total} pads {'is' if len(members) == 1 else 'are'}"


RULES: tuple[Rule, ...] = (
    nothing_between,
    *MATERIAL_RULES,
    *HOLDING_RULES,
    *HEAT_RULES,
    limit_exceeded,
    hot_spot_above_average,
    pads_hold_die_off,
    cliff,
    uneven_bond_line,
    die_pressure,
    board_bow,
    not_touching,
    barely_touching,
    over_compressed,
    bare_part,
    too_little_paste,
)
