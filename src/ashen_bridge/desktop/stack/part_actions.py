"""What can be done with what is chosen, as buttons of the inspector."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Literal

from ashen_bridge.changes.bodies import Under, has_under
from ashen_bridge.changes.edit import Edit
from ashen_bridge.desktop.stack.desk import StackDesk
from ashen_bridge.editing import create, inside, joining, reshape
from ashen_bridge.editing.changes import change_make_up
from ashen_bridge.editing.targets import Target
from ashen_bridge.model.bodies import Component, Plate, Substrate
from ashen_bridge.model.errors import AshenError


@dataclass(frozen=True)
class PartAction:
    """One button: words, a tip, and what it does."""

    words: str
    tip: str
    act: Callable[[], object]


def actions_for(desk: StackDesk) -> tuple[PartAction, ...]:
    """Return what fits what is chosen."""
    chosen = desk.chosen
    if not chosen:
        return ()
    found: list[PartAction] = []
    bodies = [target for target in chosen if target.kind in ("component", "plate", "substrate")]
    if bodies and len(bodies) == len(chosen):
        found += _for_bodies(desk, bodies)
    screws = [target.id for target in chosen if target.kind == "fastener"]
    if screws and len(screws) == len(chosen):
        for feel in ("soft", "normal", "hard"):
            tip = f"Typical force of a screw that feels {feel}, marked assumed"
            found.append(PartAction(f"Feels {feel}", tip, partial(desk.session.apply, joining.set_feel(screws, feel))))
    if len(chosen) == 1 and chosen[0].kind == "piece":
        joint, piece = chosen[0].path.split(".")[3], chosen[0].path.split(".")[5]
        edit = joining.outline_piece(desk.session.view.build, joint, piece, None)
        found.append(
            PartAction("Whole face again", "Let the piece cover its lower faces exactly", partial(desk.session.apply, edit))
        )
        found.append(_void(desk, joint, piece, "Void in it"))
    if not any(target.kind == "board" for target in chosen):
        found.append(PartAction("Remove", "Take it out, with all that stands on it (Del)", lambda: _remove(desk)))
    return tuple(found)


def _for_bodies(desk: StackDesk, bodies: list[Target]) -> list[PartAction]:
    names = [target.id for target in bodies]
    joined = {low: joint for joint in desk.session.build.joints for low in joint.lower}
    bare = [name for name in names if name not in joined]
    found = []
    if bare:
        kinds: tuple[Literal["pad", "paste"], ...] = ("pad", "paste")
        for what in kinds:
            tip = f"Put {what} between this and the plate over it"
            found.append(PartAction(f"{what.capitalize()} on it", tip, partial(_joint, desk, bare, what)))
    else:
        joints = list(dict.fromkeys(joined[name].id for name in names))
        if len(joints) > 1:
            found.append(PartAction("One pad over all", "Join their pads into one piece", partial(one_pad, desk)))
        label = bodies[0].label if len(bodies) == 1 else f"{len(bodies)} parts"
        edit = joining.remove_joints(desk.session.view.build, joints, label)
        found.append(PartAction("Nothing on it", "Take out what lies on it", partial(desk.session.apply, edit)))
        if len(names) == 1 and (pieces := joined[names[0]].pieces):
            found.append(_void(desk, joined[names[0]].id, pieces[0].id, "Void in its layer"))
    sensed = {sensor.body for sensor in desk.session.project.device.sensors}
    if len(names) == 1 and names[0] not in sensed:
        found.append(PartAction("Sensor on it", "A sensor that reads its hottest point", lambda: _sensor(desk, names[0])))
    single = next((body for body in desk.session.project.device.bodies if len(names) == 1 and body.id == names[0]), None)
    if isinstance(single, Component | Substrate):
        found += _under(desk, single)
    if isinstance(single, Plate):
        words = "No pockets" if single.recesses else "Pocket in it"
        edit = inside.toggle_pocket(single)
        found.append(PartAction(words, "What is cut out of its outer face", partial(desk.session.apply, edit)))
    if isinstance(single, Component):
        for kind, words in (("die", "Bare die"), ("package", "A package"), ("solid", "Solid block")):
            if single.make_up.type != kind:
                edit = change_make_up(single, bodies[0].path, kind)
                found.append(PartAction(f"As: {words.lower()}", "What it is made of inside", partial(desk.session.apply, edit)))
    return found


def _under(desk: StackDesk, part: Component | Substrate) -> list[PartAction]:
    """What of the board lies under a part that stands on it."""
    board = next((body.id for body in desk.session.project.device.bodies if body.kind == "board"), None)
    if board is None or part.on != board:
        return []
    tips = {"vias": "Plated holes in the board that lead its heat through", "land": "Copper on the board's faces around it"}
    listed: tuple[tuple[Under, str], ...] = (("vias", "vias under it"), ("land", "copper land"))
    found = []
    for what, words in listed:
        there = has_under(desk.session.project, part.id, what)
        shown = f"No {words}" if there else words[0].upper() + words[1:]
        edit = inside.put_under(desk.session.project, part.id, what)
        found.append(PartAction(shown, tips[what], partial(desk.session.apply, edit)))
    return found


def _void(desk: StackDesk, joint: str, piece: str, words: str) -> PartAction:
    has = desk.session.build.joint(joint).piece(piece).voids
    edit = inside.toggle_void(desk.session.build, joint, piece)
    return PartAction("No voids" if has else words, "A place where the piece has nothing", partial(desk.session.apply, edit))


def _attempt(desk: StackDesk, make: Callable[[], Edit]) -> None:
    try:
        edit = make()
    except AshenError as error:
        desk.session.refused.emit(str(error))
        return
    desk.session.apply(edit)


def _joint(desk: StackDesk, names: list[str], what: Literal["pad", "paste"]) -> None:
    session = desk.session
    _attempt(desk, lambda: joining.new_joint(session.project, session.view.build, names, what))


def _sensor(desk: StackDesk, name: str) -> None:
    _attempt(desk, lambda: create.add_sensor(desk.session.project, name))


def _remove(desk: StackDesk) -> None:
    chosen = desk.chosen
    desk.choose()
    desk.session.apply(reshape.remove(chosen))


def one_pad(desk: StackDesk) -> None:
    """Join the pads of everything chosen into one piece."""
    names = {target.id for target in desk.chosen}
    joints = [joint.id for joint in desk.session.build.joints if names & set(joint.lower)]
    _attempt(desk, lambda: joining.span_joint(desk.session.project, desk.session.view.build, joints))
