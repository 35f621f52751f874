"""What advice is worth: the adviser against the trade's rule and against the old pad's thickness, on devices it does not know.

The adviser sees a device as it is described; the real one is drawn from the ± of that description, its pads from their tolerance
and their curves, and computed on the fine field.
"""

from __future__ import annotations

import sys
from collections.abc import Iterator, Mapping, Sequence
from functools import partial
from pathlib import Path
from statistics import fmean, median

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

from ashen_bridge.changes.layers import STOCK_MM
from ashen_bridge.changes.materials import make_pads_limp, with_library
from ashen_bridge.changes.plans import Filling, fill_joints
from ashen_bridge.model import paths
from ashen_bridge.model.device import Limit
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.joints import Piece
from ashen_bridge.model.material import MaterialKind
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced
from ashen_bridge.planning.choosing.advise import advise
from ashen_bridge.planning.choosing.places import gaps_to_fill
from ashen_bridge.planning.choosing.search import NAIVE_OVER
from ashen_bridge.planning.choosing.settled import applied
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.fingerprint import input_hash
from ashen_bridge.uncertainty.assumptions import assumptions
from ashen_bridge.uncertainty.drawing import draw
from described import truth
from study import Case, Plain, Study

DEVICES, DRAWN = 40, 2
_SPARE_K = 2.0  # over what a device shows whose gaps are filled without pushing: what every sensor is allowed
_PAD = "pad_medium"
_WAYS = ("advice", "rule", "old")
_LEAST = 3  # joints with pads, so that there is something to choose together
_NEVER = 4  # openings that are counted where no plan holds


def _wanted(engine: Engine, project: Project) -> Project:
    """Return the device with limits that ask for a good fill everywhere: as if pads filled every gap and pushed nothing."""
    filled = make_pads_limp(_by_rule(engine, project))
    shown = {row.id: row.value_c for row in engine.predict(filled, "now", "load", fidelity="fine").report.sensors}
    limits = tuple(
        Limit(id=f"l_{n}", sensor=one.id, max_c=q(round(shown[one.id] + _SPARE_K, 1)))
        for n, one in enumerate(project.device.sensors)
        if one.id in shown
    )
    return replaced(project, device=replaced(project.device, limits=limits), goals=())


def _padded(project: Project) -> list[str]:
    kinds = {one.id: one.kind for one in project.materials}
    return [
        joint.id
        for joint in project.build("now").joints
        if any(kinds[piece.material] is MaterialKind.PAD for piece in joint.pieces)
    ]


def _by_rule(engine: Engine, project: Project) -> Project:
    """Return the device by the trade's rule: a fifth more than the gap, the next stock step, each joint by itself."""
    gaps = gaps_to_fill(engine, project, "now")
    fillings = []
    for name in _padded(project):
        thick = next((one for one in STOCK_MM if one >= NAIVE_OVER * gaps[name] - 1e-9), STOCK_MM[-1])
        fillings.append(Filling(joints=(name,), pieces=(Piece(id="pad", material=_PAD, thickness_mm=q(thick, 0.05 * thick)),)))
    return fill_joints(with_library(project, [_PAD]), "now", tuple(fillings))


def _as_old(project: Project) -> Project:
    """Return the device with new pads as thick as the old ones."""
    fillings = []
    for name in _padded(project):
        sheets = [one.thickness_mm.value for one in project.build("now").joint(name).pieces if one.thickness_mm is not None]
        thick = STOCK_MM[int(np.argmin(np.abs(np.array(STOCK_MM) - sum(sheets))))]
        fillings.append(Filling(joints=(name,), pieces=(Piece(id="pad", material=_PAD, thickness_mm=q(thick, 0.05 * thick)),)))
    return fill_joints(with_library(project, [_PAD]), "now", tuple(fillings))


def _real(project: Project, told: Project, build: str, chance: np.random.Generator) -> Project:
    """Return a build of the device as it really is: its own numbers drawn, its pads as thick and firm as they happen to be."""
    numbers = [
        one
        for one in assumptions(project, "now", "load")
        if one.uncertainty > 0 and one.plays.mechanics and one.paths[0].startswith("device.")
    ]
    x = draw(numbers, 1, int(chance.integers(1 << 31)))[0]
    moved = paths.set_numbers(
        told, {p: one.value + by * one.uncertainty for one, by in zip(numbers, x, strict=True) for p in one.paths}
    )
    thick = {one.id: 1 + 0.05 * float(chance.standard_normal()) for one in moved.materials}
    firm = {one.id: max(1 + 0.2 * float(chance.standard_normal()), 0.3) for one in moved.materials}
    made = []
    for one in moved.materials:
        if one.compression is not None:
            points = tuple(p.model_copy(update={"pressure_kpa": p.pressure_kpa * firm[one.id]}) for p in one.compression.points)
            one = one.model_copy(update={"compression": one.compression.model_copy(update={"points": points})})
        made.append(one)
    joints = []
    for joint in moved.build(build).joints:
        pieces = tuple(
            p.model_copy(update={"thickness_mm": q(p.thickness_mm.value * thick[p.material])})
            if p.thickness_mm is not None
            else p
            for p in joint.pieces
        )
        joints.append(joint.model_copy(update={"pieces": pieces}))
    builds = tuple(one.model_copy(update={"joints": tuple(joints)}) if one.id == build else one for one in moved.builds)
    return moved.model_copy(update={"materials": tuple(made), "builds": builds})


def _seen(engine: Engine, project: Project, told: Project, build: str, seed: Sequence[int]) -> tuple[bool, float]:
    """Return whether all limits hold in a real device, and its hottest die [°C]; the same draws for every way."""
    try:
        report = engine.predict(
            _real(project, told, build, np.random.default_rng(list(seed))), build, "load", fidelity="fine"
        ).report
    except AshenError:
        return False, float("nan")
    holds = all(row.margin_k is None or row.margin_k >= 0 for row in report.sensors)
    return holds, max((row.t_max_c for row in report.components if row.kind == "die"), default=float("nan"))


def judged(seed: int) -> Plain:
    """Let the adviser and both rules choose for one device, and see what becomes of real ones."""
    engine = Engine()
    plain = paths.set_values(truth(seed).project, {"points.load.throttle_at_c": {}})
    project = _wanted(engine, plain)
    try:
        found = advise(engine, project, "now", "load")
    except AshenError as error:
        return {"skipped": True, "why": str(error)}
    rule, old = _by_rule(engine, project), _as_old(project)
    rows = []
    for number in range(DRAWN):
        at = (seed, number, 16)
        first = [_seen(engine, project, applied(project, "now", plan), "a_plan_as_it_is_tried", at) for plan in found.plans]
        rows.append(
            {
                "advice": first[0],
                "rule": _seen(engine, project, rule, "now", at),
                "old": _seen(engine, project, old, "now", at),
                "openings": next((n + 1 for n, (holds, _) in enumerate(first) if holds), 0),
            }
        )
    return {"plans": len(found.plans), "rows": rows, "says": found.says}


def _cases() -> Iterator[Case]:
    padded = 0
    for seed in range(1, 4 * DEVICES):
        if padded == DEVICES:
            return
        if len(_padded(truth(seed).project)) < _LEAST:
            continue
        padded += 1
        yield Case(f"device {seed}", input_hash(truth(seed).project, "now", "load"), partial(judged, seed))


def _line(one: Plain) -> str:
    if "rows" not in one:
        return f"left out: {one.get('why', 'no pads')}"
    rows = one["rows"]
    parts = [
        f"{way} {sum(row[way][0] for row in rows)} of {len(rows)}, {median(row[way][1] for row in rows):.1f} °C" for way in _WAYS
    ]
    return f"{'; '.join(parts)}; {one['plans']} plans. {one['says']}"


def _tell(done: Mapping[str, Plain]) -> str:
    rows = [row for one in done.values() for row in one.get("rows", ())]
    if not rows:
        return "Nothing yet."
    share = {way: fmean(row[way][0] for row in rows) for way in _WAYS}
    can = [row for row in rows if row["openings"] or row["rule"][0] or row["old"][0]]
    openings = [row["openings"] or _NEVER for row in can]
    hotter = {}
    for way in _WAYS[1:]:
        apart = [row["advice"][1] - row[way][1] for row in rows]
        hotter[way] = median(one for one in apart if np.isfinite(one))
    lost = sum(not row["advice"][0] and (row["rule"][0] or row["old"][0]) for row in rows)
    kinds = sum("rows" in one for one in done.values())
    rules = f"{share['rule']:.0%} by the trade's rule, {share['old']:.0%} by the old pad's thickness"
    cooler = f"{-hotter['rule']:.1f} K cooler in the median than by the rule, {-hotter['old']:.1f} K than by the old thickness"
    mean = f"{fmean(openings or [0]):.2f} in the mean over the {len(can)} that some plan here holds"
    held = f"{len(rows)} real devices of {kinds} kinds. All limits hold in {share['advice']:.0%} by the advice, {rules}."
    return (
        f"{held} The die is {cooler}. Openings until all hold: {mean} "
        f"(one that no plan of the advice holds counts as {_NEVER}). In {lost} a rule held and the advice did not."
    )


STUDY = Study(
    "advice",
    "Advice against the trade's rules",
    "The trade's rule: a fifth more than the gap, the next stock step, each joint by itself; or new pads as thick as the old. "
    "Both of a medium pad (common practice, no source). Limits ask of every sensor what it would show with every gap filled and "
    f"nothing pushing, and {_SPARE_K:g} K. Devices with {_LEAST} padded joints or more. Real ones are drawn from the ± of the "
    "lengths and forces that are told of them, pads by a tenth, curves by a fifth, and computed on the fine field.",
    _cases,
    _line,
    _tell,
)
