"""Dragging heights in the elevation: a part's top is its height, a plate's far edge its thickness, a landing's edge its step."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

from ashen_bridge.changes.edit import Edit, merging
from ashen_bridge.desktop.parts.field_form import Scope
from ashen_bridge.desktop.stack.desk import StackDesk
from ashen_bridge.desktop.stack.where import Where
from ashen_bridge.editing.edits import set_values
from ashen_bridge.editing.scope import only_here
from ashen_bridge.editing.targets import body_path
from ashen_bridge.geometry.section import CutBody, Section
from ashen_bridge.model.bodies import Board, Component, Landing, Plate, Substrate
from ashen_bridge.model.paths import get
from ashen_bridge.words.numbers import number

STEP_MM, FINE_MM = 0.05, 0.01
_keys = itertools.count()


@dataclass(frozen=True)
class Grip:
    """What is held: the value's path, how it changes with height (+1 or −1), and where it was taken hold of [m]."""

    path: str
    chosen: str
    label: str
    sign: float
    start_mm: float
    from_m: float
    merge_key: str


class HeightHand:
    """Editing in one elevation."""

    def __init__(self, desk: StackDesk, where: Where) -> None:
        self._desk, self._session, self._where = desk, desk.session, where
        self._grip: Grip | None = None
        self._value: float | None = None
        self.words = ""

    @property
    def holding(self) -> bool:
        """Whether an edge is held."""
        return self._grip is not None

    def press(self, cut: Section, s: float, height: float, near: float) -> None:
        """Choose what is there and take hold of its edge if there is one within `near` [m]."""
        self._grip = self.grip_at(cut, s, height, near)
        if self._grip is not None:
            self._desk.choose(self._grip.chosen)
            return
        body = _body_at(cut, s, height)
        if body is not None:
            self._desk.choose(body_path(self._session.project, self._session.view.build, body.id))

    def grip_at(self, cut: Section, s: float, height: float, near: float) -> Grip | None:
        """Return the edge that could be held at a place along the cut and a height [m]."""
        found: list[tuple[float, Grip]] = []
        bodies = self._session.project.bodies_known(self._session.build)
        for body in cut.bodies:
            model = bodies.get(body.id)
            if model is None or not body.s[0] <= s <= body.s[-1]:
                continue
            middle = min(range(len(body.s)), key=lambda n: abs(float(body.s[n]) - s))
            for outer in (True, False):
                edge = float((body.high if outer else body.low)[middle])
                grip = self._grip_of(model, outer, (cut, s), height)
                if grip is not None and abs(edge - height) <= near:
                    found.append((abs(edge - height), grip))
        return min(found, key=lambda one: one[0])[1] if found else None

    def _grip_of(
        self, model: Board | Substrate | Component | Plate, outer: bool, at: tuple[Section, float], height: float
    ) -> Grip | None:
        """Return what an edge of a body means; on the rear, outwards is downwards."""
        rear = getattr(model, "side", None) == "rear"
        outwards = outer is not rear
        root = body_path(self._session.project, self._session.view.build, model.id)
        key = f"height:{next(_keys)}"
        way = -1.0 if rear else 1.0
        if isinstance(model, Board):
            return None
        if isinstance(model, Plate) and not outwards:
            landing = _landing_at(model, *at)
            if landing is None:
                return None
            path = f"{root}.landings.{landing.id}"
            step = f"{path}.step_mm"
            return Grip(step, path, landing.name or landing.id, way, self._stands(step), height, key)
        if not outwards:
            return None
        field = "height_mm" if isinstance(model, Component) else "thickness_mm"
        return Grip(f"{root}.{field}", root, model.label, way, self._stands(f"{root}.{field}"), height, key)

    def _stands(self, path: str) -> float:
        """Return what a number is in the build that is looked at."""
        held = self._session.build.overrides.get(path)
        return float(get(self._session.project, path)) if held is None else held

    def move(self, height: float, fine: bool) -> None:
        """Move the edge to a height [m]."""
        grip = self._grip
        if grip is None:
            return
        step = FINE_MM if fine else STEP_MM
        value = round(round((grip.start_mm + grip.sign * (height - grip.from_m) * 1e3) / step) * step, 4)
        name = {"step_mm": "step", "height_mm": "height", "thickness_mm": "thickness"}[grip.path.rsplit(".", 1)[1]]
        if name != "step":
            value = max(value, FINE_MM)
        self.words = f"{grip.label}: {name} {number(value, 2)} mm"
        if self._session.apply(self._edit(grip, value, self._where.known(grip.path) or "device")):
            self._value = value

    def _edit(self, grip: Grip, value: float, scope: Scope) -> Edit:
        """Return the edit that a drag makes so far."""
        if scope == "build":
            return merging(grip.merge_key, only_here(self._session.view.build, grip.path, value, self.words))
        return set_values(self.words, {grip.path: value}, grip.merge_key)

    def release(self) -> None:
        """Let go; where nobody said yet whether the device is meant or this build, it is asked now that it stands."""
        grip, value, self._grip, self._value = self._grip, self._value, None, None
        if grip is not None and value not in (None, grip.start_mm) and self._where.known(grip.path) is None:
            scope = self._where.ask(grip.path)
            if scope != "device":
                self._session.document.undo_stack.undo()
            if scope == "build" and value is not None:
                self._session.apply(self._edit(grip, value, scope))
        self.words = ""


def _body_at(cut: Section, s: float, height: float) -> CutBody | None:
    inside = [
        body for body in cut.bodies if body.s[0] <= s <= body.s[-1] and float(body.low.min()) <= height <= float(body.high.max())
    ]
    return min(inside, key=lambda body: float(body.s[-1] - body.s[0])) if inside else None


def _landing_at(plate: Plate, cut: Section, s: float) -> Landing | None:
    x, y = (s * 1e3, cut.cut.at * 1e3) if cut.cut.along == "x" else (cut.cut.at * 1e3, s * 1e3)
    for landing in plate.landings:
        x0, y0, x1, y1 = landing.area.bounds
        if x0 <= x <= x1 and y0 <= y <= y1:
            return landing
    return None
