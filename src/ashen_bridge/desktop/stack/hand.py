"""What mouse and keys do on the plan while the device is edited: choose, move, size, draw, nudge. Edits go to the session."""

from __future__ import annotations

import itertools
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Literal

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent

from ashen_bridge.changes.boxes import SMALLEST_MM, Box, contains, hull
from ashen_bridge.desktop.stack.drawing_tools import draw_with
from ashen_bridge.editing.reshape import move, resize
from ashen_bridge.editing.snapping import Guide, snap_move, snap_value
from ashen_bridge.editing.targets import Target, find, under, within

if TYPE_CHECKING:
    from ashen_bridge.desktop.charts.placement import Placement
    from ashen_bridge.desktop.stack.desk import StackDesk

GRID_MM = 0.5
NUDGE_MM, BIG_NUDGE_MM = 0.1, 1.0
_SNAP_PX, _HANDLE_PX, _START_PX = 7.0, 9.0, 4.0
_SMALL_PX, _TINY_PX = 34.0, 20.0

Handle = tuple[int, int]
HANDLES: tuple[Handle, ...] = tuple((i, j) for i in (-1, 0, 1) for j in (-1, 0, 1) if (i, j) != (0, 0))
_keys = itertools.count()


@dataclass
class Drag:
    """A drag that is going on, from where it was pressed [mm]."""

    kind: Literal["maybe", "move", "resize", "band", "draw"]
    start: tuple[float, float]
    pixel: QPointF
    hit: Target | None = None
    handle: Handle = (0, 0)
    boxes: dict[str, Box] = field(default_factory=dict)
    applied: tuple[float, float] = (0.0, 0.0)
    at: tuple[float, float] = (0.0, 0.0)
    merge_key: str = ""


@dataclass(frozen=True)
class HandPicture:
    """What the hand shows over the plan [mm]: chosen extents, whether they have handles, guides, a band or a drawn box, words."""

    chosen: tuple[Box, ...] = ()
    points: tuple[tuple[float, float], ...] = ()
    handles: Box | None = None
    guides: tuple[Guide, ...] = ()
    band: Box | None = None
    drawn: Box | None = None
    words: str = ""


def handle_place(box: Box, handle: Handle) -> tuple[float, float]:
    """Return where a handle sits on a box."""
    x0, y0, x1, y1 = box
    return (x0 + x1) / 2 + handle[0] * (x1 - x0) / 2, (y0 + y1) / 2 + handle[1] * (y1 - y0) / 2


def shown_handles(width: float, height: float) -> tuple[Handle, ...]:
    """Return the handles for which a box of this size [px] has room: on a small one only the corners, on a tiny one one."""
    if min(width, height) < _TINY_PX:
        return ((1, 1),)
    if min(width, height) < _SMALL_PX:
        return tuple(handle for handle in HANDLES if handle[0] and handle[1])
    return HANDLES


class Hand:
    """Editing on one plan."""

    def __init__(self, desk: StackDesk) -> None:
        self.desk, self.session = desk, desk.session
        self.drag: Drag | None = None
        self.guides: tuple[Guide, ...] = ()

    # ---- what is shown

    def picture(self) -> HandPicture:
        """Return what to show now."""
        chosen = self.desk.chosen
        boxes = tuple(target.box for target in chosen if target.kind != "fastener")
        points = tuple((target.box[0], target.box[1]) for target in chosen if target.kind == "fastener")
        single = chosen[0] if len(chosen) == 1 and chosen[0].kind != "fastener" else None
        band = drawn = None
        words = ""
        if self.drag is not None and self.drag.kind in ("band", "draw"):
            box = _box(self.drag.start, self.drag.at)
            band, drawn = (box, None) if self.drag.kind == "band" else (None, box)
            words = size_words(box) if drawn else ""
        elif self.drag is not None and self.drag.kind == "resize" and single:
            words = size_words(single.box)
        elif self.drag is not None and self.drag.kind == "move":
            words = f"moved {self.drag.applied[0]:+.4g}, {self.drag.applied[1]:+.4g} mm".replace("-", "−")
        return HandPicture(boxes, points, single.box if single else None, self.guides, band, drawn, words)

    def handle_at(self, pixel: QPointF, place: Placement) -> Handle | None:
        """Return the handle under the pointer."""
        box = self.picture().handles
        if box is None:
            return None
        seen = place.rect(box)
        reach = min(_HANDLE_PX, max(seen.width(), seen.height()) / 4)
        for handle in shown_handles(seen.width(), seen.height()):
            at = place.point(*handle_place(box, handle))
            if abs(at.x() - pixel.x()) <= reach and abs(at.y() - pixel.y()) <= reach:
                return handle
        return None

    # ---- mouse

    def press(self, event: QMouseEvent, place: Placement) -> None:
        """Begin whatever the tool does here."""
        pixel = event.position()
        at = place.place(pixel)
        key = f"drag:{next(_keys)}"
        if self.desk.view.tool != "choose":
            at = self._snapped_point(at, place, event)
            self.drag = Drag("draw", at, pixel, at=at, merge_key=key)
            return
        handle = self.handle_at(pixel, place)
        if handle is not None:
            chosen = self.desk.chosen[0]
            self.drag = Drag("resize", at, pixel, chosen, handle, {chosen.path: chosen.box}, at=at, merge_key=key)
            return
        found = under(self.desk.targets(), *at, self.desk.view.side, _SNAP_PX / place.scale)
        hit = found[0] if found else None
        chosen_paths = self.desk.view.chosen
        if event.modifiers() & (Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier):
            if hit is not None:
                kept = [path for path in chosen_paths if path != hit.path]
                self.desk.choose(*(kept if hit.path in chosen_paths else [*chosen_paths, hit.path]))
            return
        already = hit is not None and hit.path in chosen_paths
        movable = hit is not None and (already or hit.kind in ("substrate", "component", "piece", "hole", "fastener"))
        if hit is not None and movable and not already:
            self.desk.choose(hit.path)
        boxes = {target.path: target.box for target in self.desk.chosen} if movable else {}
        self.drag = Drag("maybe", at, pixel, hit, boxes=boxes, at=at, merge_key=key)

    def move(self, event: QMouseEvent, place: Placement) -> None:
        """Go on with the drag."""
        drag = self.drag
        if drag is None:
            return
        drag.at = place.place(event.position())
        if drag.kind == "maybe" and (event.position() - drag.pixel).manhattanLength() >= _START_PX:
            drag.kind = "move" if drag.boxes else "band"
        if drag.kind == "move":
            self._move(drag, place, event)
        elif drag.kind == "resize":
            self._resize(drag, place, event)
        elif drag.kind == "draw":
            drag.at = self._snapped_point(drag.at, place, event)

    def release(self, event: QMouseEvent, place: Placement) -> None:
        """End the drag."""
        drag, self.drag, self.guides = self.drag, None, ()
        if drag is None:
            return
        if drag.kind == "maybe":
            self.desk.choose(*((drag.hit.path,) if drag.hit else ()))
        elif drag.kind == "band":
            inside = within(self.desk.targets(), _box(drag.start, drag.at), self.desk.view.side)
            self.desk.choose(*(target.path for target in inside))
        elif drag.kind == "draw":
            box = _box(drag.start, drag.at)
            small = (event.position() - drag.pixel).manhattanLength() < _START_PX
            draw_with(self.desk, self.desk.view.tool, None if small else box, drag.start)
        del place

    def cancel(self) -> bool:
        """Escape: give up the drag, then the tool, then the choice; returns whether there was anything to give up."""
        view = self.desk.view
        if self.drag is not None:
            moved = self.drag.kind in ("move", "resize") and self.drag.applied != (0.0, 0.0)
            self.drag, self.guides = None, ()
            if moved:
                self.session.document.undo_stack.undo()
        elif view.tool != "choose":
            self.desk.look(replace(self.desk.view, tool="choose"))
        elif view.chosen:
            self.desk.choose()
        else:
            return False
        return True

    def _others(self, boxes: dict[str, Box]) -> list[Box]:
        """Return what to snap to: everything on this side that does not move along."""
        moving = hull(list(boxes.values())) if boxes else None
        found = []
        for target in self.desk.targets():
            if target.path in boxes or target.side not in (None, self.desk.view.side):
                continue
            if any(target.owner == path for path in boxes):
                continue
            if moving is not None and target.kind != "board" and contains(moving, target.box):
                continue  # carried along, or covered by what moves
            found.append(target.box)
        return found

    def _move(self, drag: Drag, place: Placement, event: QMouseEvent) -> None:
        dx, dy = drag.at[0] - drag.start[0], drag.at[1] - drag.start[1]
        free = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        if free:
            self.guides = ()
        else:
            box = hull(list(drag.boxes.values()))
            snapped = snap_move(box, dx, dy, self._others(drag.boxes), _SNAP_PX / place.scale, GRID_MM)
            dx, dy, self.guides = snapped.dx, snapped.dy, snapped.guides
        dx, dy = round(dx, 3), round(dy, 3)
        step = dx - drag.applied[0], dy - drag.applied[1]
        if step != (0.0, 0.0) and self.session.apply(move(self.desk.chosen, *step, merge_key=drag.merge_key)):
            drag.applied = dx, dy

    def _resize(self, drag: Drag, place: Placement, event: QMouseEvent) -> None:
        path = next(iter(drag.boxes))
        target = find(self.desk.targets(), path)
        if target is None:
            return
        grid, reach = (GRID_MM, _SNAP_PX / place.scale)
        if event.modifiers() & Qt.KeyboardModifier.AltModifier:
            grid = reach = 0.0
        box = list(drag.boxes[path])
        others = self._others(drag.boxes)
        smallest = 2 * SMALLEST_MM
        for axis, way, name in ((0, drag.handle[0], "x"), (1, drag.handle[1], "y")):
            if way:
                at = axis + (2 if way > 0 else 0)
                value = box[at] + drag.at[axis] - drag.start[axis]
                value = round(snap_value(value, "x" if name == "x" else "y", others, reach, grid), 3)
                box[at] = max(value, box[axis] + smallest) if way > 0 else min(value, box[axis + 2] - smallest)
        new = (box[0], box[1], box[2], box[3])
        if new != target.box and self.session.apply(resize(target, new, drag.merge_key)):
            drag.applied = (1.0, 0.0)

    def _snapped_point(self, at: tuple[float, float], place: Placement, event: QMouseEvent) -> tuple[float, float]:
        if event.modifiers() & Qt.KeyboardModifier.AltModifier:
            return round(at[0], 3), round(at[1], 3)
        others, reach = self._others({}), _SNAP_PX / place.scale
        return snap_value(at[0], "x", others, reach, GRID_MM), snap_value(at[1], "y", others, reach, GRID_MM)

    # ---- keys

    def key(self, event: QKeyEvent, mirrored: bool) -> bool:
        """Nudge with the arrows, walk with `[` and `]`; returns whether the key was used."""
        ways = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
        way = ways.get(Qt.Key(event.key()))
        if way is not None and self.desk.chosen and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            step = BIG_NUDGE_MM if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else NUDGE_MM
            across = -way[0] if mirrored else way[0]
            key = f"nudge:{self.desk.view.chosen}"
            self.session.apply(move(self.desk.chosen, step * across, step * way[1], merge_key=key))
            return True
        if event.key() in (Qt.Key.Key_BracketLeft, Qt.Key.Key_BracketRight):
            self._walk(1 if event.key() == Qt.Key.Key_BracketRight else -1)
            return True
        return event.key() == Qt.Key.Key_Escape and self.cancel()

    def _walk(self, by: int) -> None:
        side = self.desk.view.side
        listed = [target.path for target in self.desk.targets() if target.side in (None, side)]
        if not listed:
            return
        here = self.desk.view.chosen[0] if self.desk.view.chosen else ""
        at = listed.index(here) + by if here in listed else 0
        self.desk.choose(listed[at % len(listed)])


def size_words(box: Box) -> str:
    """Return a size as it is shown beside the pointer."""
    return f"{box[2] - box[0]:.4g} × {box[3] - box[1]:.4g} mm"


def _box(a: tuple[float, float], b: tuple[float, float]) -> Box:
    return min(a[0], b[0]), min(a[1], b[1]), max(a[0], b[0]), max(a[1], b[1])
