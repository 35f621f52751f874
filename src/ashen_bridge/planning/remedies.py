"""What a finding asks for, as edits: a step thinner or thicker, washers, more paste, a whole piece; and what each would do."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from ashen_bridge.changes import layers, plans
from ashen_bridge.changes.edit import Edit, edit
from ashen_bridge.changes.layers import stock_of
from ashen_bridge.findings.finding import Finding
from ashen_bridge.library import materials as library
from ashen_bridge.model.amounts import FilmAmount
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.joints import Joint, Piece
from ashen_bridge.model.material import MaterialKind
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.words.numbers import number, short

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine
    from ashen_bridge.predict.report import SensorRow

_WASHERS_MM, _GENEROUS_MM = 0.5, 0.35
_SOFT = "pad_soft"
_PASTE = "paste_filled"


@dataclass(frozen=True)
class Effect:
    """What a remedy would do: die [°C] before and after, the sensor nearest to its limit and its margin [K] before and after.

    `problem` is why it cannot be computed, empty if it can.
    """

    name: str
    die_before_c: float | None
    die_after_c: float | None
    nearest: str
    margin_before_k: float | None
    margin_after_k: float | None
    problem: str = ""

    @property
    def words(self) -> str:
        """It in words."""
        if self.problem:
            return self.problem
        said = []
        if self.die_before_c is not None and self.die_after_c is not None:
            said.append(f"die {number(self.die_before_c, 1)} → {number(self.die_after_c, 1)} °C")
        if self.margin_before_k is not None and self.margin_after_k is not None:
            said.append(f"{self.nearest}: {number(self.margin_before_k, 1)} → {number(self.margin_after_k, 1)} K to spare")
        return ", ".join(said) or "no sensor tells"


def remedies(project: Project, build: str, finding: Finding) -> tuple[Edit, ...]:
    """Return the edits that a finding's remedy may mean, the usual one first; none where it is no edit."""
    make = _REMEDIES.get(finding.code)
    if make is None:
        return ()
    return tuple(one for one in make(project, build, finding) if one is not None)


@dataclass(frozen=True)
class Standing:
    """How something stands on the coarse field: the hottest die [°C], and what sensors show."""

    die_c: float | None
    sensors: tuple[SensorRow, ...]


def standing_of(engine: Engine, project: Project, build: str, point: str) -> Standing:
    """Return how a build stands at a point. Raises `AshenError` where it cannot be computed."""
    sensors = engine.shown(project, build, point)[0]
    hot = engine.hottest(project, build, point)[0]
    dies = [body.id for body in project.all_bodies if getattr(body, "role", None) == "die" and body.id in hot]
    return Standing(max((hot[name] for name in dies), default=None), sensors)


def effect_of(name: str, before: Standing, after: Standing) -> Effect:
    """Return what leads from one to the other, told by the sensor that is nearest to its limit afterwards."""
    limited = [row for row in after.sensors if row.margin_k is not None]
    worst = min(limited, key=lambda row: row.margin_k or 0.0, default=None)
    was = next((row for row in before.sensors if worst is not None and row.id == worst.id), None)
    return Effect(
        name,
        before.die_c,
        after.die_c,
        worst.name if worst is not None else "",
        was.margin_k if was is not None else None,
        worst.margin_k if worst is not None else None,
    )


def effects(
    engine: Engine, project: Project, build: str, point: str, edits: Sequence[Edit]
) -> Iterator[tuple[float, tuple[Effect, ...]]]:
    """Yield (progress, what each edit would do so far), by differences of the coarse field."""
    before = standing_of(engine, project, build, point)
    found: list[Effect] = []
    for n, made in enumerate(edits):
        try:
            found.append(effect_of(made.name, before, standing_of(engine, made.applied(project), build, point)))
        except AshenError as error:
            found.append(Effect(made.name, None, None, "", None, None, str(error)))
        yield (n + 1) / len(edits), tuple(found)


# -- one function for every kind of remedy


def _stepped(project: Project, build: str, finding: Finding, up: bool) -> Edit | None:
    """Return the edit that makes the sheets of the joints a finding is about a stock step thicker or thinner."""
    here = {joint.id: joint for joint in project.build(build).joints}
    named = (finding.about, *finding.also)
    joints = tuple(name for name in named if name in here and _sheet_mm(here[name]) is not None)
    if not joints:
        return None
    now = max(_sheet_mm(here[name]) or 0.0 for name in joints)
    stock = sorted(stock_of(project, build, joints))
    others = [one for one in stock if one > now + 1e-6] if up else [one for one in reversed(stock) if one < now - 1e-6]
    if not others:
        return None
    group = project.group_of(joints[0])
    label = group.label if group is not None and len(joints) > 1 else here[joints[0]].label
    return edit(f"{short(others[0])} mm on {label}", layers.set_sheets, build, joints, others[0])


def _sheet_mm(joint: Joint) -> float | None:
    if joint.sheet_at is None:
        return None
    thickness = joint.pieces[joint.sheet_at].thickness_mm
    return None if thickness is None else thickness.value


def _softer(project: Project, build: str, finding: Finding) -> Edit | None:
    here = {joint.id: joint for joint in project.build(build).joints}
    joints = [here[name] for name in (finding.about, *finding.also) if name in here and _sheet_mm(here[name]) is not None]
    pads = [one for one in joints if any(piece.material != _SOFT and _is_pad(project, piece.material) for piece in one.pieces)]
    if not pads:
        return None
    fillings = tuple(
        plans.Filling(
            joints=(one.id,),
            pieces=tuple(p.model_copy(update={"material": _SOFT}) if _is_pad(project, p.material) else p for p in one.pieces),
        )
        for one in pads
    )
    return edit("softer pads there", plans.fill_joints, build, fillings)


def _is_pad(project: Project, material: str) -> bool:
    return project.material(material).kind is MaterialKind.PAD


def _washers(build: str, more_mm: float) -> Edit:
    said = f"{short(abs(more_mm))} mm {'more' if more_mm > 0 else 'less'} of washers under the sprung screws, plastic"
    return edit(said, plans.add_washers, build, more_mm)


def _fewer_washers(project: Project, build: str) -> Edit | None:
    there = [one.washers_mm.value for one in project.build(build).fastener_settings if one.washers_mm.value > 0]
    return _washers(build, -min(there)) if there else None


def _more_paste(project: Project, build: str, finding: Finding) -> Edit | None:
    joint = project.build(build).joint(finding.about)
    flowing = [piece for piece in joint.pieces if piece.flows]
    if not flowing:
        return None
    amount = FilmAmount(film_mm=q(_GENEROUS_MM, 0.1, "assumed", "generous"))
    pieces = tuple(p.model_copy(update={"amount": amount, "volume_mm3": None}) if p is flowing[0] else p for p in joint.pieces)
    return edit(f"more paste on {joint.label}", plans.fill_joints, build, (plans.Filling(joints=(joint.id,), pieces=pieces),))


def _paste_instead(project: Project, build: str, finding: Finding) -> Edit | None:
    joint = project.build(build).joint(finding.about)
    piece = Piece(id="paste", material=_PASTE, amount=FilmAmount())
    made = plans.Filling(joints=(joint.id,), pieces=(piece,))
    return edit(f"{library()[_PASTE].name.lower()} on {joint.label}", plans.fill_joints, build, (made,))


def _whole(project: Project, build: str, finding: Finding) -> Iterator[Edit]:
    joint = project.build(build).joint(finding.about)
    if any(piece.footprint is not None or piece.voids for piece in joint.pieces):
        pieces = tuple(piece.model_copy(update={"footprint": None, "voids": ()}) for piece in joint.pieces)
        made = plans.Filling(joints=(joint.id,), pieces=pieces)
        yield edit(f"a piece as large as the part on {joint.label}", plans.fill_joints, build, (made,))


def _held_off(project: Project, build: str, finding: Finding) -> Iterator[Edit | None]:
    pads = finding.model_copy(update={"about": finding.also[0] if finding.also else finding.about, "also": finding.also[1:]})
    yield _stepped(project, build, pads, up=False)
    yield _softer(project, build, pads)
    if any(one.kind == "sprung" for one in project.device.fasteners):
        yield _washers(build, _WASHERS_MM)


def _low(project: Project, build: str, finding: Finding) -> Iterator[Edit | None]:
    del finding
    if any(one.kind == "sprung" for one in project.device.fasteners):
        yield _washers(build, _WASHERS_MM)


_Maker = Callable[[Project, str, Finding], Iterator[Edit | None]]
_REMEDIES: dict[str, _Maker] = {
    "pads_hold_die_off": _held_off,
    "die_pressure_low": _low,
    "die_pressure_high": lambda p, b, f: iter((_fewer_washers(p, b),)),
    "coil_bind": lambda p, b, f: iter((_fewer_washers(p, b),)),
    "not_touching": lambda p, b, f: iter((_stepped(p, b, f, up=True), _softer(p, b, f))),
    "barely_touching": lambda p, b, f: iter((_stepped(p, b, f, up=True), _softer(p, b, f))),
    "over_compressed": lambda p, b, f: iter((_stepped(p, b, f, up=False), _softer(p, b, f))),
    "lid_bulges": lambda p, b, f: iter((_stepped(p, b, f, up=False), _softer(p, b, f))),
    "will_not_close": lambda p, b, f: iter((_stepped(p, b, f, up=False), _softer(p, b, f))),
    "too_little_paste": lambda p, b, f: iter((_more_paste(p, b, f),)),
    "gallium_on_aluminium": lambda p, b, f: iter((_paste_instead(p, b, f),)),
    "conductor_near_parts": lambda p, b, f: iter((_paste_instead(p, b, f),)),
    "bare_part": _whole,
}
