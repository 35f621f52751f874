"""The procedure that closes a device up, as it follows from a build: clean, lay, dispense, tighten crosswise, check, start."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Literal

from ashen_bridge.changes.names import fresh_id
from ashen_bridge.model.bodies import PlateRole
from ashen_bridge.model.build import Build
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.fasteners import Fastener
from ashen_bridge.model.hardware import Hazards
from ashen_bridge.model.procedures import Procedure
from ashen_bridge.model.project import Project
from ashen_bridge.planning.crosswise import crosswise
from ashen_bridge.planning.cutting.pieces import Cut, pieces
from ashen_bridge.planning.cutting.volumes import Dispensed, dispensing
from ashen_bridge.planning.lifting import Lift, lifts
from ashen_bridge.planning.needs import AGENTS
from ashen_bridge.planning.practice import cautions, cautions_at, practice
from ashen_bridge.planning.step_writer import StepWriter, at_place
from ashen_bridge.planning.tightening import STAGES, Tightening, tightening
from ashen_bridge.planning.tray import tray
from ashen_bridge.words.numbers import number, percent, short

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine
    from ashen_bridge.predict.mechanics_rows import JointMechanics

Agent = Literal["99", "70"]
_SPRUNG = "sprung"
_NO_TOUCH, _FAINT, _DEEP = 0.02, 0.05, 0.35  # shares that touch, and compressions, that show so; common practice, no source


def closing_up(engine: Engine, project: Project, build: str | None = None, agent: Agent = "99") -> Procedure:
    """Return the steps that close a build up.

    Where work belongs to licensed people, the procedure ends with its first step. Raises `AshenError` for a build that cannot be
    resolved or does not come to rest.
    """
    chosen = project.build(build)
    name = fresh_id(f"close_{chosen.id}"[:48], [one.id for one in project.procedures])
    stops = " ".join(one.text for one in cautions() if one.stops and one.applies(project.device.hazards))
    steps = StepWriter()
    if stops:
        steps.add("hold", "Stop here. This device is not for this bench.", caution=stops, hold="licensed")
    else:
        back_on = tuple(reversed(lifts(project, chosen.id)))
        numbers = {one.id: one.number for one in tray(project, chosen.id).slots}
        _hold_points(steps, project.device.hazards)
        _clean(steps, project, chosen, back_on, agent)
        cuts = pieces(project, chosen.id)
        dispensed = dispensing(engine, project, chosen.id)
        imprints = _imprints(engine, project, chosen)
        later = {plug.id for lift in back_on for plug in lift.plugs if plug.hidden}
        for lift in back_on:
            _put_on(steps, project, chosen, lift, numbers, cuts, dispensed, imprints)
        _shut(steps, project, later)
        _after(steps, project)
        _first_start(steps, engine, project, chosen)
    return Procedure(id=name, name=f"Close up {chosen.label}", kind="close up", build=chosen.id, steps=tuple(steps.made))


def _hold_points(steps: StepWriter, hazards: Hazards) -> None:
    minutes = practice().minutes["hold"]
    if "unknown" in (hazards.mains, hazards.regulated, hazards.battery_state):
        text = "No mains voltage inside, nothing medical or out of a vehicle, no swollen or pierced battery: then go on."
        steps.add("hold", text, hold="licensed", caution="Else stop: that is work for licensed people.", minutes=minutes)
    text = "Mains and all cables are still out; its button does nothing."
    steps.add("hold", text, hold="power", minutes=minutes, caution=cautions_at("power", hazards))
    if hazards.battery != "no":
        text = "The battery is still out, or its plug is off."
        steps.add("hold", text, hold="battery", minutes=minutes, caution=cautions_at("battery", hazards))
    if hazards.charged_parts != "no":
        text = "It has been without power for minutes: what was charged has run down."
        steps.add("hold", text, hold="charge", minutes=minutes, caution=cautions_at("charge", hazards))
    steps.add(
        "hold", "Discharge yourself again; work on a mat.", hold="static", minutes=minutes, caution=cautions_at("static", hazards)
    )


def _clean(steps: StepWriter, project: Project, build: Build, back_on: Sequence[Lift], agent: Agent) -> None:
    hazards = project.device.hazards
    bodies = project.bodies_known(build)
    wet = {joint.id for joint in build.joints if any(piece.flows for piece in joint.pieces)}
    for lift in back_on:
        if not lift.joints:
            continue
        lows = [bodies[low].label for name in lift.joints if name in wet for low in build.joint(name).lower]
        faces = f"“{lift.plate.label}”" + (f" and {_listed(lows)}" if lows else "")
        text = f"Clean {faces}: {AGENTS[agent]}. All old paste and pad off, both faces, until a wipe stays clean."
        steps.add(
            "clean",
            text,
            [lift.plate.id],
            caution=cautions_at("wipe", hazards),
            minutes=practice().minutes["clean"],
            side=lift.plate.side,
        )


def _put_on(
    steps: StepWriter,
    project: Project,
    build: Build,
    lift: Lift,
    numbers: Mapping[str, int],
    cuts: Sequence[Cut],
    dispensed: Sequence[Dispensed],
    imprints: Mapping[str, str],
) -> None:
    plate, hazards, p = lift.plate, project.device.hazards, practice()
    _place(steps, lift, hazards, [one for one in cuts if one.joint in lift.joints])
    expected = [imprints[name] for name in lift.joints if name in imprints]
    if expected and plate.role is not PlateRole.CASE_WALL:
        said = "; ".join(dict.fromkeys(expected))
        text = (
            f"Trial closing, without paste: lower “{plate.label}”, tighten a little crosswise, take it off and look. "
            f"Expected: {said}. A pad that shows nothing has more gap than planned, one that is crushed less: stop and measure."
        )
        steps.add("look", text, [plate.id], minutes=2 * p.minutes["look"], side=plate.side)
    for one in dispensed:
        if one.joint in lift.joints:
            text = f"{one.name} on {one.label}: {one.says}"
            steps.add(
                "dispense",
                text,
                [one.lower],
                caution=cautions_at("dispense", hazards),
                minutes=p.minutes["dispense"],
                side=plate.side,
            )
    for plug in lift.plugs:
        if plug.hidden:
            text = f"Plug in “{plug.label}” ({plug.what}) now: it lies hidden once “{plate.label}” is down."
            steps.add(
                "plug", text, [plug.id], caution=cautions_at("plug", hazards), minutes=p.minutes["plug"], **at_place([plug])
            )
    text = f"Lower “{plate.label}” straight down, all landings at once; do not slide it."
    steps.add("lower", text, [plate.id], minutes=p.minutes["lower"], side=plate.side)
    _tighten(steps, project, build, lift, numbers)
    for plug in lift.plugs:
        if not plug.hidden:
            steps.add("plug", f"Plug in “{plug.label}” ({plug.what}).", [plug.id], minutes=p.minutes["plug"], **at_place([plug]))


def _place(steps: StepWriter, lift: Lift, hazards: Hazards, cuts: Sequence[Cut]) -> None:
    """Say which pieces go where, those of one sheet together; metal shims on their paste."""
    for key in dict.fromkeys((one.material, one.sheet_mm, one.metal) for one in cuts):
        some = [one for one in cuts if (one.material, one.sheet_mm, one.metal) == key]
        where = _listed([f"{one.number} on {one.label}" for one in some])
        about = list(dict.fromkeys(one.lower for one in some))
        minutes = len(some) * practice().minutes["place"]
        if key[2]:
            text = f"Shims of {short(key[1])} mm {some[0].name}: {where}. They must not reach beyond the part."
            steps.add("place", text, about, caution=cautions_at("shim", hazards), minutes=minutes, side=lift.plate.side)
            continue
        notes = "; ".join(dict.fromkeys(note for one in some for note in one.notes))
        text = (
            f"{some[0].name}, {short(key[1])} mm: {where}. The lower film off first, pressed on lightly, the upper film off last."
            + (f" {notes[:1].upper()}{notes[1:]}." if notes else "")
        )
        steps.add("place", text, about, caution=cautions_at("place", hazards), minutes=minutes, side=lift.plate.side)


def _tighten(steps: StepWriter, project: Project, build: Build, lift: Lift, numbers: Mapping[str, int]) -> None:
    hazards, p = project.device.hazards, practice()
    screws = [one for one in lift.fasteners if one.kind != "spring arm"]
    arms = [one for one in lift.fasteners if one.kind == "spring arm"]
    if arms:
        names = ", ".join(one.label for one in arms)
        text = f"Hook the spring arms on, opposite ones after each other: {names}."
        steps.add("do", text, [one.id for one in arms], minutes=len(arms) * p.minutes["screw"], side=lift.plate.side)
    if not screws:
        return
    ordered = [screws[n] for n in crosswise([(one.x_mm, one.y_mm) for one in screws])]
    names = ", ".join(_named(one, numbers) for one in ordered)
    about = [one.id for one in ordered]
    text = f"Start every screw, until it just pushes, before any is tightened: {names}.{_under_heads(build, ordered)}"
    steps.add("screw", text, about, minutes=len(ordered) * p.minutes["screw"], side=lift.plate.side)
    turned = [tightening(one, build.setting_of(one.id)) for one in ordered]
    for n in range(STAGES):
        text = f"Crosswise, stage {n + 1} of {STAGES}: {_stage(ordered, turned, n, numbers)}."
        if n == STAGES - 1:
            text += f" Stop: {_stop(turned)}."
        caution = cautions_at("screw", hazards) if n == 0 else ""
        steps.add("do", text, about, caution=caution, minutes=len(ordered) * p.minutes["sprung"], side=lift.plate.side)


def _stage(screws: Sequence[Fastener], turned: Sequence[Tightening], stage: int, numbers: Mapping[str, int]) -> str:
    """Return how far each screw goes in one stage; those that go alike are said together."""
    by_turns: dict[str, list[str]] = {}
    for one, how in zip(screws, turned, strict=True):
        by_turns.setdefault(how.stage(stage), []).append(_named(one, numbers))
    return "; ".join(f"{turns} each: {', '.join(names)}" for turns, names in by_turns.items())


def _stop(turned: Sequence[Tightening]) -> str:
    return _listed(list(dict.fromkeys(one.stop for one in turned)))


def _under_heads(build: Build, screws: Sequence[Fastener]) -> str:
    under = [
        f"{short(one.washers_mm.value)} mm of {one.washer_material} under {screw.label}"
        for screw in screws
        for one in (build.setting_of(screw.id),)
        if one.washers_mm.value > 0
    ]
    return f" Washers: {_listed(under)}." if under else ""


def _shut(steps: StepWriter, project: Project, later: set[str]) -> None:
    """Plugs that hang on nothing, then covers."""
    device, p = project.device, practice()
    for plug in sorted(device.plugs, key=lambda one: one.what == "battery"):
        if plug.of is None and plug.id not in later:
            caution = cautions_at("plug", device.hazards)
            steps.add(
                "plug",
                f"Plug in “{plug.label}” ({plug.what}).",
                [plug.id],
                caution=caution,
                minutes=p.minutes["plug"],
                **at_place([plug]),
            )
    for holds in dict.fromkeys(one.holds for one in device.screws):
        screws = [one for one in device.screws if one.holds == holds]
        count = "its screw" if len(screws) == 1 else f"its {len(screws)} screws"
        text = f"Put the {holds} back on with {count}, as numbered; each where it came from."
        steps.add("screw", text, [one.id for one in screws], minutes=len(screws) * p.minutes["screw"], **at_place(screws))


def _after(steps: StepWriter, project: Project) -> None:
    minutes = practice().minutes["look"]
    text = "The tray is empty: no screw is left over, none is missing. Every plug is seated."
    steps.add("hold", text, hold="other", minutes=minutes)
    text = "Shake it gently: nothing rattles. Nothing bulges, and it shuts under light pressure."
    steps.add("look", text, minutes=minutes)
    del project


def _first_start(steps: StepWriter, engine: Engine, project: Project, build: Build) -> None:
    """Say what is to be seen before any load is put on; idle temperatures from the point with the least power."""
    p, hazards = practice(), project.device.hazards
    text = "Power back on: fans turn, it boots, no smell. Nothing is loaded yet."
    steps.add("hold", text, hold="other", caution=cautions_at("start", hazards), minutes=p.minutes["start"])
    idle = min(
        project.points, key=lambda one: sum(w.value for w in one.powers_w.values()) + (one.board_w.value if one.board_w else 0.0)
    )
    try:
        shown = engine.shown(project, build.id, idle.id)[0]
    except AshenError:
        shown = ()
    if shown and len(project.points) > 1:
        said = ", ".join(f"{row.name} {number(row.value_c)} °C" for row in shown[:6])
        text = f"Ten minutes at “{idle.label}”: expected {said}. More than 5 K above that: switch it off, look again."
        steps.add("look", text, minutes=10.0, timer_s=600.0)
    text = "Then the first-power check under load, sensor by sensor; after it burn-in and proof."
    steps.add("look", text, minutes=p.minutes["start"])


def _imprints(engine: Engine, project: Project, build: Build) -> dict[str, str]:
    """Return what a trial closing would show in each joint, in words; joints of a group that show alike say the same."""
    found: dict[str, list[JointMechanics]] = {}
    for row in engine.rest(project, build.id, None).joints:
        if row.compression is not None:
            group = project.group_of(row.joint)
            label = group.label if group is not None else build.joint(row.joint).label
            found.setdefault(f"{label} {_shows(row)}", []).append(row)
    said: dict[str, str] = {}
    for words, rows in found.items():
        gaps = sorted(row.gap_mm for row in rows)
        spread = f"{short(gaps[0], 2)}" if gaps[-1] - gaps[0] < 0.01 else f"{short(gaps[0], 2)} to {short(gaps[-1], 2)}"
        most = percent(max(max(row.compression or 0.0, 0.0) for row in rows))
        said |= {row.joint: f"{words} ({spread} mm left, squeezed by up to {most})" for row in rows}
    return said


def _shows(row: JointMechanics) -> str:
    squeezed = row.compression or 0.0
    if row.contact_fraction < _NO_TOUCH:
        return "no touch"
    return "faint" if squeezed < _FAINT else "deep" if squeezed > _DEEP else "even"


def _named(one: Fastener, numbers: Mapping[str, int]) -> str:
    return f"{numbers[one.id]} {one.label}" if one.id in numbers else one.label


def _listed(some: Sequence[str]) -> str:
    return some[0] if len(some) == 1 else f"{', '.join(some[:-1])} and {some[-1]}" if some else ""
