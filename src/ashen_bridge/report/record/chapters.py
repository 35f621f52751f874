"""The chapters of the record, each from what the file and one prediction of it say."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field

from ashen_bridge.assess.result import Assessment
from ashen_bridge.logs.outcome import RunFigures
from ashen_bridge.model.bodies import Component, Plate, Side
from ashen_bridge.model.build import Build, OperatingPoint
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.joints import Piece
from ashen_bridge.model.project import Project
from ashen_bridge.planning.cutting.orders import CutPlan
from ashen_bridge.planning.cutting.pieces import Cut
from ashen_bridge.planning.cutting.volumes import Dispensed
from ashen_bridge.planning.practice import cautions
from ashen_bridge.planning.tray import tray
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.rows import AtRest
from ashen_bridge.report.board_drawing import board_drawing
from ashen_bridge.report.cut_drawing import sheet_svg
from ashen_bridge.report.record.blocks import Block, Chapter, answer, figure, listed, rows, words
from ashen_bridge.report.record.elevation import elevation_svg
from ashen_bridge.report.record.gaps import gaps_chapter
from ashen_bridge.report.record.kept import conclusions_of, history_chapter
from ashen_bridge.report.record.measured import runs_chapter
from ashen_bridge.report.record.photos import photos_chapter
from ashen_bridge.report.record.seen import evidence_chapter, readings_chapter
from ashen_bridge.uncertainty.assumptions import Assumption, assumptions
from ashen_bridge.words.numbers import number, percent, short

_MOST_ASSUMED = 60


@dataclass(frozen=True)
class Spread:
    """What is not known of a prediction: standard uncertainty [K] by sensor, and the chance that every limit holds."""

    pm_k: dict[str, float]
    holds: float | None


@dataclass(frozen=True)
class Known:
    """What the chapters are written from. `plan` is None where nothing can be cut; `figures` are those of runs known already."""

    project: Project
    build: Build
    point: OperatingPoint
    assessment: Assessment
    half: AtRest
    plan: CutPlan | None
    dispensed: tuple[Dispensed, ...]
    spread: Spread = field(default_factory=lambda: Spread({}, None))
    engine: Engine = field(default_factory=Engine)
    figures: Mapping[str, RunFigures] = field(default_factory=dict)


def verdict(known: Known) -> Iterator[Block]:
    """Yield what is predicted against the limits, the nearest first."""
    report = known.assessment.report
    limited = sorted((row for row in report.sensors if row.margin_k is not None), key=lambda row: row.margin_k or 0.0)
    if limited:
        worst = limited[0]
        left = worst.margin_k or 0.0
        holds = f"{number(left, 1)} K to spare" if left >= 0 else f"{number(-left, 1)} K over"
        yield answer(f"{worst.name}: {number(worst.value_c, 1)} °C predicted, {holds} to {number(worst.limit_c or 0.0)} °C")
    air = f"{number(report.power_w)} W in air of {number(report.ambient_c)} °C"
    yield words(f"Build “{known.build.label}” at “{known.point.label}”: {air}.")
    if known.spread.holds is not None:
        yield words(
            f"With everything drawn that is not known for sure, every limit holds in {percent(known.spread.holds)} of cases."
        )
    pm = {name: number(value, 1) for name, value in known.spread.pm_k.items()}
    body = [
        [
            *(row.name, number(row.value_c, 1), pm.get(row.id, "–")),
            *("–" if row.limit_c is None else number(row.limit_c), _margin(row.margin_k)),
        ]
        for row in report.sensors
    ]
    yield rows(["Sensor", "°C", "± K", "limit °C", "to spare K"], body, numbers=(1, 2, 3, 4))
    mesh = "" if report.mesh.refinement_k is None else f", mesh ± {number(report.mesh.refinement_k, 1)} K"
    balance = f"energy closes to {report.balance.energy_rel:.0e}, forces to {report.balance.force_rel:.0e}"
    yield words(f"Computed on {report.mesh.cells} cells{mesh}; {balance}.", quiet=True)


def _margin(value: float | None) -> str:
    return "–" if value is None else f"{value:+.1f}".replace("-", "−")


def device(known: Known) -> Iterator[Block]:
    """Yield what the device is made of."""
    project, one = known.project, known.project.device
    if project.notes:
        yield words(project.notes)
    kinds: dict[str, list[str]] = {}
    for body in project.bodies_known(known.build).values():
        kinds.setdefault(body.role.value if isinstance(body, Component | Plate) else body.kind, []).append(body.label)
    yield rows(["Kind", "Count", "Which"], [[kind, len(some), ", ".join(some)] for kind, some in kinds.items()], numbers=(1,))
    hold = [[f.label, f.kind, " – ".join(f.joins)] for f in one.fasteners]
    if hold:
        yield rows(["Fastener", "Kind", "Joins"], hold)
    aims = project.aims
    said = [aims.complaint, aims.warranty and f"Warranty: {aims.warranty}"]
    yield from (words(text) for text in said if text)


def drawings(known: Known) -> Iterator[Block]:
    """Yield the board from both sides, and the stack in section."""
    resolved = known.half.resolved
    slots = tray(known.project, known.build.id).slots
    for side in Side:
        if side is Side.FRONT or any(getattr(body, "side", Side.FRONT) is side for body in resolved.bodies):
            drawn = board_drawing(resolved, slots, known.project.device.plugs, side, 170)
            yield figure(drawn, f"The {side.value} of the board; screws are numbered as in the tray.")
    drawn = elevation_svg(known.half, known.assessment.report.joints)
    if drawn:
        yield figure(drawn, "The stack in section through the first die. Heights are stretched: thin layers get more room.")


def build(known: Known) -> Iterator[Block]:
    """Yield what lies between, and how it is pressed."""
    if known.build.notes:
        yield words(known.build.notes)
    pressed = {(row.id, row.lower): row for row in known.assessment.report.joints}
    body = []
    for joint in known.build.joints:
        said = " + ".join(_piece(known.project, piece) for piece in joint.pieces) or "nothing"
        for low in joint.lower:
            row = pressed.get((joint.id, low))
            kpa = "–" if row is None else number(row.pressure_kpa.mean)
            gap = "–" if row is None else short(row.gap_mm, 3)
            squeezed = "–" if row is None or row.compression is None else percent(row.compression)
            body.append([joint.label, said, gap, squeezed, kpa])
    yield rows(["Joint", "What lies in it", "gap mm", "squeezed", "kPa"], body, numbers=(2, 3, 4))
    washers = [
        [one.fastener, f"{short(one.washers_mm.value)} mm {one.washer_material}"]
        for one in known.build.fastener_settings
        if one.washers_mm.value
    ]
    if washers:
        yield rows(["Screw", "Washers"], washers)


def _piece(project: Project, piece: Piece) -> str:
    name = project.material(piece.material).name
    return name if piece.thickness_mm is None else f"{short(piece.thickness_mm.value)} mm {name}"


def findings(known: Known) -> Iterator[Block]:
    """Yield what the rules find, and what was switched off with its reason."""
    off = {(one.code, one.about): one.reason for one in known.project.silenced}
    heard = [one for one in known.assessment.findings if (one.code, one.about) not in off]
    if heard:
        yield listed(f"{one.text} → {one.remedy}" for one in heard)
    if off:
        yield rows(
            ["Switched off", "At", "Because"], [[code.replace("_", " "), about, why] for (code, about), why in off.items()]
        )


def cut(known: Known) -> Iterator[Block]:
    """Yield pieces, sheets and what is dispensed."""
    plan = known.plan
    if plan is None or not (plan.cuts or known.dispensed):
        return
    if plan.cuts:
        body = [
            [
                c.number,
                c.label,
                c.name,
                f"{short(c.size_mm[0])} × {short(c.size_mm[1])} × {short(c.sheet_mm)}",
                "; ".join(c.wrong),
            ]
            for c in plan.cuts
        ]
        yield rows(["No.", "For", "Of", "mm", ""], body, numbers=(0,))
    for n, one in enumerate(plan.laid, 1):
        name = one.placed[0].cut.name if one.placed else ""
        yield figure(sheet_svg(one), f"Sheet {n}: {name}, {one.sheet.says}; at 1:1 in print.")
    if known.dispensed:
        yield rows(["On", "Of", "How much"], [[one.label, one.name, one.says] for one in known.dispensed])
    if plan.orders:
        yield rows(["How many", "What", "Why"], [[o.quantity, o.what, o.why] for o in plan.orders], numbers=(0,))


def _size(one: Cut) -> str:
    return f"{short(one.size_mm[0])} × {short(one.size_mm[1])} × {short(one.sheet_mm)}"


def steps(known: Known) -> Iterator[Block]:
    """Yield every procedure with what was ticked when."""
    for procedure in known.project.procedures:
        body = [
            [n, "✓" if one.done else "", one.text, one.done_at.replace("T", " "), one.note]
            for n, one in enumerate(procedure.steps, 1)
        ]
        done = sum(one.done for one in procedure.steps)
        caption = f"{procedure.label}: {done} of {len(procedure.steps)} done"
        yield rows(["No.", "", "Step", "When", "Note"], body, caption, numbers=(0,), whole=(3,))


def assumed(known: Known) -> Iterator[Block]:
    """Yield the numbers that the prediction stands on, the vaguest first."""
    found = sorted(
        assumptions(known.project, known.build.id, known.point.id),
        key=lambda one: -abs(one.uncertainty / one.value) if one.value else -one.uncertainty,
    )
    body = [
        [_field(one), ", ".join(one.owners[:4]), f"{short(one.value, 4)} ± {short(one.uncertainty, 2)}", one.origin, one.note]
        for one in found[:_MOST_ASSUMED]
    ]
    yield rows(["Number", "Of", "Value ± standard uncertainty", "Origin", "Note"], body, whole=(2, 3))
    if len(found) > _MOST_ASSUMED:
        yield words(f"And {len(found) - _MOST_ASSUMED} more, known better than these.", quiet=True)


def _field(one: Assumption) -> str:
    return one.field.rsplit(".", 1)[-1].replace("_", " ")


def sources(known: Known) -> Iterator[Block]:
    """Yield where the figures of every material in use come from."""
    used = {piece.material for joint in known.build.joints for piece in joint.pieces}
    used |= {name for body in known.project.bodies_known(known.build).values() for name in body.made_of}
    body = []
    for material in known.project.materials:
        if material.id in used:
            for source in material.sources:
                claimed = " (claimed)" if source.claimed else ""
                k = f"{short(material.conductivity_w_mk.value, 3)} ± {short(material.conductivity_w_mk.uncertainty, 2)}"
                body.append([material.name, k, f"{source.text}{claimed}", source.method])
    yield rows(["Material", "W/m·K", "Source", "Method"], body, whole=(1,))


def warned(known: Known) -> Iterator[Block]:
    """Yield the cautions of this device."""
    hazards = known.project.device.hazards
    yield listed(dict.fromkeys(one.text for one in cautions() if one.applies(hazards) and not one.stops))


CHAPTERS: dict[str, tuple[str, Callable[[Known], Iterator[Block]]]] = {
    "verdict": ("What is predicted", verdict),
    "device": ("The device", device),
    "drawings": ("Drawings", drawings),
    "build": ("The build", build),
    "findings": ("Findings", findings),
    "photos": ("Photographs", photos_chapter),
    "evidence": ("What was seen", evidence_chapter),
    "readings": ("Readings", readings_chapter),
    "gaps": ("Gaps to fill", gaps_chapter),
    "plan": ("Plan and refusals", conclusions_of("plan")),
    "cut": ("Cut list", cut),
    "steps": ("Steps", steps),
    "runs": ("Runs", runs_chapter),
    "comparison": ("Runs compared", conclusions_of("comparison")),
    "diagnosis": ("Diagnosis", conclusions_of("diagnosis")),
    "burn": ("Burn-in", conclusions_of("burn in")),
    "proof": ("What the repair came to", conclusions_of("proof")),
    "check": ("Quick checks", conclusions_of("check")),
    "assumptions": ("What it stands on", assumed),
    "sources": ("Sources", sources),
    "cautions": ("Cautions", warned),
    "history": ("History", history_chapter),
}
"""Part → its title, and what writes it."""


def written(known: Known, parts: tuple[str, ...]) -> list[Chapter]:
    """Return the chapters that are wanted and have something to say; one that cannot be written says why."""
    found = []
    for name in parts:
        title, write = CHAPTERS[name]
        try:
            blocks = tuple(write(known))
        except AshenError as error:
            blocks = (words(str(error), quiet=True),)
        if blocks:
            found.append(Chapter(name, title, blocks))
    return found
