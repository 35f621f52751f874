"""The procedure that opens a device up, as it follows from the device and one of its builds."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from ashen_bridge.changes.names import fresh_id
from ashen_bridge.model.bodies import PlateRole
from ashen_bridge.model.build import Build
from ashen_bridge.model.fasteners import Fastener
from ashen_bridge.model.hardware import Hazards
from ashen_bridge.model.procedures import Procedure
from ashen_bridge.model.project import Project
from ashen_bridge.planning.crosswise import crosswise
from ashen_bridge.planning.lifting import Lift, lifts
from ashen_bridge.planning.practice import cautions, cautions_at, practice
from ashen_bridge.planning.step_writer import StepWriter, at_place
from ashen_bridge.planning.tray import tray
from ashen_bridge.words.numbers import short

Static = Literal["strap", "touch"]
_STATIC = {
    "strap": "Wear a wrist strap that is clipped to bare metal of the case; work on a mat.",
    "touch": "Touch bare earthed metal now and whenever you come back to the bench; work on a mat, not on a carpet.",
}
_SPRUNG, _ARM = "sprung", "spring arm"


@dataclass(frozen=True)
class Schools:
    """Where practitioners disagree: a strap holds you discharged all the time, a touch is what most people really do."""

    static: Static = "strap"


def opening(project: Project, build: str | None = None, schools: Schools = Schools()) -> Procedure:
    """Return the steps that open a build up, hold points first.

    Where work belongs to licensed people, the procedure ends with its first step, which says why. Raises `AshenError` for a
    build that cannot be resolved.
    """
    chosen = project.build(build)
    name = fresh_id(f"open_{chosen.id}"[:48], [one.id for one in project.procedures])
    stops = " ".join(one.text for one in cautions() if one.stops and one.applies(project.device.hazards))
    steps = StepWriter()
    if stops:
        steps.add("hold", "Stop here. This device is not for this bench.", caution=stops, hold="licensed")
    else:
        off = lifts(project, chosen.id)
        numbers = {one.id: one.number for one in tray(project, chosen.id).slots}
        _hold_points(steps, project, schools)
        _before(steps)
        _way_in(steps, project, off)
        for lift in off:
            _take_off(steps, project, lift, numbers)
        if off:
            _inside(steps, project, chosen, off)
        _expected_time(steps)
    return Procedure(id=name, name=f"Open up {chosen.label}", kind="open up", build=chosen.id, steps=tuple(steps.made))


def _hold_points(steps: StepWriter, project: Project, schools: Schools) -> None:
    hazards, minutes = project.device.hazards, practice().minutes["hold"]
    if "unknown" in (hazards.mains, hazards.regulated, hazards.battery_state):
        asked = "No mains voltage inside, nothing medical or out of a vehicle, no swollen or pierced battery: then go on."
        if hazards.battery == "no":
            asked = "No mains voltage inside, nothing medical or out of a vehicle: then go on."
        steps.add("hold", asked, hold="licensed", caution="Else stop: that is work for licensed people.", minutes=minutes)
    terms = project.aims.warranty.strip()
    said = f"On the warranty it is written: “{terms}”" if terms else "Nothing is written down about the warranty."
    steps.add(
        "hold",
        f"{said} Read its conditions before the first screw; write to the seller first if it still runs.",
        hold="warranty",
        minutes=minutes,
        caution="Seals and stickers over screws may end it. Law differs from place to place.",
    )
    power = "Shut it down, switch it off, pull out mains and all cables. Press its button: nothing may light up."
    steps.add("hold", power, hold="power", minutes=minutes, caution=cautions_at("power", hazards))
    if hazards.battery != "no":
        text = "Take the battery out or its plug off, as the first thing inside if it is not outside."
        steps.add("hold", text, hold="battery", minutes=minutes, caution=cautions_at("battery", hazards))
    if hazards.charged_parts != "no":
        text = "Hold the power button for ten seconds, then wait a minute: what is charged runs down."
        steps.add("hold", text, hold="charge", minutes=minutes, timer_s=60, caution=cautions_at("charge", hazards))
    steps.add("hold", _STATIC[schools.static], hold="static", minutes=minutes, caution=cautions_at("static", hazards))
    text = "Photograph it from all sides, every cable and every screw, before anything is loose."
    steps.add("hold", text, hold="photos", minutes=2 * minutes)


def _before(steps: StepWriter) -> None:
    steps.add(
        "look",
        "Before it is open: shake it gently, tap the plate, look at the fan for oil, feel where the case was hot. "
        "Note it under Evidence.",
        minutes=practice().minutes["look"],
    )


def _way_in(steps: StepWriter, project: Project, off: Sequence[Lift]) -> None:
    """Covers, and the plugs that are not under what comes off later; the battery's first."""
    device, minutes = project.device, practice().minutes
    for holds in dict.fromkeys(one.holds for one in device.screws):
        screws = [one for one in device.screws if one.holds == holds]
        text = f"Take out {_counted(len(screws))} of the {holds}, into the tray as numbered."
        about = [one.id for one in screws]
        steps.add("unscrew", text, about, minutes=len(screws) * minutes["screw"], **at_place(screws))
    later = {plug.id for lift in off for plug in lift.plugs if plug.hidden}
    for plug in sorted(device.plugs, key=lambda one: one.what != "battery"):
        if plug.id not in later:
            _unplug(steps, project, plug.id)


def _unplug(steps: StepWriter, project: Project, name: str) -> None:
    plug = next(one for one in project.device.plugs if one.id == name)
    hidden = " It lies hidden: lift nothing before it is off." if plug.hidden else ""
    steps.add(
        "unplug",
        f"Unplug “{plug.label}” ({plug.what}).{hidden}",
        [plug.id],
        caution=cautions_at("unplug", project.device.hazards),
        minutes=practice().minutes["plug"],
        **at_place([plug]),
    )


def _take_off(steps: StepWriter, project: Project, lift: Lift, numbers: Mapping[str, int]) -> None:
    hazards, p = project.device.hazards, practice()
    name = lift.plate.label
    _loosen(steps, lift, hazards, numbers)
    for plug in lift.plugs:
        if plug.hidden:
            _unplug(steps, project, plug.id)
    if lift.joints and lift.plate.role is not PlateRole.CASE_WALL:
        text = f"If “{name}” sticks, warm it for {p.warm_s / 60:g} minutes, then twist it a little to and fro. Never lever."
        says = {"caution": cautions_at("warm", hazards), "minutes": p.minutes["warm"], "timer_s": p.warm_s}
        steps.add("wait", text, [lift.plate.id], side=lift.plate.side, **says)
    steps.add(
        "lift",
        f"Lift “{name}” straight up, by hand; stop if anything pulls.",
        [lift.plate.id],
        caution=cautions_at("lift", hazards),
        minutes=p.minutes["lift"],
        side=lift.plate.side,
    )
    if lift.joints:
        steps.add(
            "look",
            f"Photograph both faces of “{name}” and note what every pad and paste shows, before anything is wiped.",
            lift.joints,
            minutes=p.minutes["look"],
            side=lift.plate.side,
        )


def _loosen(steps: StepWriter, lift: Lift, hazards: Hazards, numbers: Mapping[str, int]) -> None:
    p = practice()
    arms = [one for one in lift.fasteners if one.kind == _ARM]
    sprung = [one for one in lift.fasteners if one.kind == _SPRUNG]
    plain = [one for one in lift.fasteners if one.kind not in (_SPRUNG, _ARM)]
    if arms:
        ordered = [arms[n] for n in crosswise([(one.x_mm, one.y_mm) for one in arms])]
        text = f"Unhook the spring arms, opposite ones after each other: {', '.join(one.label for one in ordered)}."
        caution = "A spring arm that slips off jumps: hold it down, eyes away."
        about = [one.id for one in ordered]
        steps.add("do", text, about, caution=caution, minutes=len(arms) * p.minutes["screw"], side=lift.plate.side)
    for group in (plain, sprung):
        ordered = [group[n] for n in crosswise([(one.x_mm, one.y_mm) for one in group])]
        if not ordered:
            continue
        about = [one.id for one in ordered]
        names = ", ".join(f"{numbers[one.id]} {one.label}" if one.id in numbers else one.label for one in ordered)
        rounds = p.rounds if group is sprung and len(ordered) > 1 else 1
        for n in range(rounds - 1):
            turns = _turns(ordered, rounds)
            text = f"Loosen crosswise, {turns} each, round {n + 1} of {rounds}: {names}."
            caution = cautions_at("unscrew", hazards) if n == 0 else ""
            steps.add("do", text, about, caution=caution, minutes=len(ordered) * p.minutes["sprung"], side=lift.plate.side)
        last = f"Round {rounds} of {rounds}: take them out in the same order" if rounds > 1 else "Take them out crosswise"
        text = f"{last}, into the tray as numbered: {names}."
        steps.add("unscrew", text, about, minutes=len(ordered) * p.minutes["screw"], side=lift.plate.side)


def _turns(screws: Sequence[Fastener], rounds: int) -> str:
    """Return how far to turn in one round: from travel and pitch where both are known."""
    known = [
        one.travel_mm.value / one.pitch_mm.value / rounds
        for one in screws
        if one.travel_mm is not None and one.pitch_mm is not None and one.pitch_mm.value > 0
    ]
    if len(known) < len(screws):
        return "about a turn"
    turns = max(round(2 * min(known)) / 2, 0.5)
    return "half a turn" if turns == 0.5 else "one turn" if turns == 1 else f"{short(turns)} turns"


def _inside(steps: StepWriter, project: Project, build: Build, off: Sequence[Lift]) -> None:
    pads = {
        piece.material
        for lift in off
        for joint in build.joints
        if joint.id in lift.joints
        for piece in joint.pieces
        if piece.thickness_mm is not None
    }
    if pads:
        text = "Keep one whole old pad of every kind in a labelled bag: what it was is known only from it."
        steps.add("keep", text, minutes=practice().minutes["keep"])
    text = "Blow the dust out with the fan held still; wipe nothing that has not been noted."
    steps.add("do", text, minutes=practice().minutes["keep"], caution=cautions_at("clean", project.device.hazards))


def _expected_time(steps: StepWriter) -> None:
    """Say at the photographs, the last hold point, how long it takes."""
    total = sum(one.minutes for one in steps.made)
    for n, one in enumerate(steps.made):
        if one.hold == "photos":
            text = f"{one.text} From here it takes about {max(5 * round(total / 5), 5)} minutes."
            steps.made[n] = one.model_copy(update={"text": text})


def _counted(n: int) -> str:
    return "the screw" if n == 1 else f"the {n} screws"
