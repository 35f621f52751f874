"""Changes in plan: moving, sizing, cutting and removing. What stands on a body, and what is cut to it, moves with it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from ashen_bridge.changes.boxes import Box, rect_of
from ashen_bridge.changes.dangling import settled
from ashen_bridge.model import paths
from ashen_bridge.model.bodies import Body, Component, DieMakeUp, PackageMakeUp, Plate
from ashen_bridge.model.fasteners import Fastener
from ashen_bridge.model.footprint import Footprint, Rect
from ashen_bridge.model.joints import Piece
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import replaced, with_each, with_more

_DIGITS = 4
_NOISE_MM = 1e-6
_IN_PLAN = {"plate": ("landings", "recesses", "heat_pipes"), "board": ("regions", "connectors")}
"""What kinds of body have an area of their own on."""
Place = Callable[[Box], Box]
"""Where a rectangle goes [mm]."""
Steps = dict[str, tuple[float, float]]
_Moves = dict[str, Callable[[Any], Any]]


def move_each(project: Project, moves: Steps) -> Project:
    """Move what is at each path by its own dx, dy [mm]; nothing is moved twice because its carrier moves too."""
    made: _Moves = {}
    moved: set[str] = set()
    for path, (dx, dy) in moves.items():
        node = paths.node_at(project, path)
        place = shifting(dx, dy)
        if isinstance(node, Piece):
            made.setdefault(path, _moving(node, place))
        elif isinstance(node, Fastener):
            made[path] = _moving(node, place)
        elif not isinstance(node, Rect) and hasattr(node, "footprint"):
            for body in _with_what_it_carries(project, node):
                if body.id not in moved:
                    moved.add(body.id)
                    made |= _following(project, body, place)
    for path, (dx, dy) in moves.items():
        node = paths.node_at(project, path)
        if _owner(path, node) not in moves:
            made |= {path: _moving(node, shifting(dx, dy))} if isinstance(node, Rect) or hasattr(node, "area") else {}
    return paths.changed_all(project, made)


def _owner(path: str, node: Any) -> str:
    return path.rsplit(".", 3 if isinstance(node, Rect) else 2)[0]


def _moving(node: Any, place: Place) -> Callable[[Any], Any]:
    if isinstance(node, Fastener):
        return lambda one: replaced(one, **_placed_point(one, place))
    if isinstance(node, Piece):
        return lambda one: placed_piece(one, place)
    if isinstance(node, Rect):
        return lambda one: placed_rect(one, place)
    return lambda one: replaced(one, area=placed_rect(one.area, place))


def shifting(dx: float, dy: float) -> Place:
    """Return the place of everything moved by dx, dy [mm]."""
    return lambda box: (box[0] + dx, box[1] + dy, box[2] + dx, box[3] + dy)


def placed_rect(rect: Rect, place: Place) -> Rect:
    """Return a rectangle where it goes."""
    x0, y0, x1, y1 = place(rect.bounds)
    return replaced(
        rect, x_mm=round(x0, _DIGITS), y_mm=round(y0, _DIGITS), w_mm=round(x1 - x0, _DIGITS), h_mm=round(y1 - y0, _DIGITS)
    )


def placed_outline(footprint: Footprint, place: Place) -> Footprint:
    """Return an outline where it goes."""
    moved = {name: tuple(placed_rect(rect, place) for rect in getattr(footprint, name)) for name in ("rects", "holes")}
    return replaced(footprint, **moved)


def placed_body(body: Body, place: Place) -> Body:
    """Return a body where it goes, with all that is told in plan of it; what is in a turned package is turned too."""
    said: dict[str, Any] = {"footprint": placed_outline(body.footprint, place)}
    for field in _IN_PLAN.get(body.kind, ()):
        said[field] = tuple(replaced(one, area=placed_rect(one.area, place)) for one in getattr(body, field))
    if isinstance(body, Plate) and body.sink is not None and body.sink.footprint is not None:
        said["sink"] = replaced(body.sink, footprint=placed_outline(body.sink.footprint, place))
    if isinstance(body, Component) and isinstance(body.make_up, PackageMakeUp):
        inner = body.make_up
        x0, y0, x1, y1 = said["footprint"].bounds
        if inner.active_w_mm > x1 - x0 + _NOISE_MM or inner.active_h_mm > y1 - y0 + _NOISE_MM:
            said["make_up"] = replaced(inner, active_w_mm=inner.active_h_mm, active_h_mm=inner.active_w_mm)
    return replaced(body, **said)


def placed_piece(piece: Piece, place: Place) -> Piece:
    """Return a piece with its outline and voids where they go."""
    voids = tuple(replaced(void, area=placed_rect(void.area, place)) for void in piece.voids)
    return replaced(piece, footprint=piece.footprint and placed_outline(piece.footprint, place), voids=voids)


def placed_sensor(sensor: Any, place: Place) -> Any:
    """Return a sensor with its spot or point where it goes."""
    made = replaced(sensor, spot=sensor.spot and placed_rect(sensor.spot, place))
    return made if made.x_mm is None or made.y_mm is None else replaced(made, **_placed_point(made, place))


def _placed_point(one: Any, place: Place) -> dict[str, float]:
    x, y, _, _ = place((one.x_mm, one.y_mm, one.x_mm, one.y_mm))
    return {"x_mm": round(x, _DIGITS), "y_mm": round(y, _DIGITS)}


def _with_what_it_carries(project: Project, body: Body) -> Iterator[Body]:
    yield body
    for other in project.all_bodies:
        if other.on == body.id:
            yield from _with_what_it_carries(project, other)


def _following(project: Project, body: Body, place: Place) -> _Moves:
    """Return the moves of a body, of sensor places on it, and of pieces that lie on it alone."""
    homes = [("device.bodies", project.device.bodies), *((f"builds.{one.id}.added", one.added) for one in project.builds)]
    made: _Moves = {
        f"{home}.{body.id}": lambda one: placed_body(one, place)
        for home, bodies in homes
        if any(one.id == body.id for one in bodies)
    }
    for sensor in project.device.sensors:
        if sensor.body == body.id:
            made[f"device.sensors.{sensor.id}"] = lambda one: placed_sensor(one, place)
    for build in project.builds:
        for joint in build.joints:
            for piece in joint.pieces if joint.lower == (body.id,) else ():
                if piece.footprint is not None or piece.voids:
                    made[f"builds.{build.id}.joints.{joint.id}.pieces.{piece.id}"] = _moving(piece, place)
    return made


@dataclass(frozen=True)
class _Fit:
    """The stretch that takes one box to another."""

    old: Box
    new: Box

    @property
    def sx(self) -> float:
        return (self.new[2] - self.new[0]) / max(self.old[2] - self.old[0], 1e-9)

    @property
    def sy(self) -> float:
        return (self.new[3] - self.new[1]) / max(self.old[3] - self.old[1], 1e-9)

    def __call__(self, box: Box) -> Box:
        x = [self.new[0] + (at - self.old[0]) * self.sx for at in (box[0], box[2])]
        y = [self.new[1] + (at - self.old[1]) * self.sy for at in (box[1], box[3])]
        return x[0], y[0], x[1], y[1]


def resize(project: Project, path: str, old: Box, new: Box) -> Project:
    """Take what is at a path from one extent to another [mm]; rectangles, power map and active layer keep their proportions."""
    fit = _Fit(old, new)

    def change(node: Any) -> Any:
        if isinstance(node, Rect):
            return placed_rect(node, fit)
        if hasattr(node, "area"):
            return replaced(node, area=placed_rect(node.area, fit))
        rects = tuple(placed_rect(rect, fit) for rect in node.footprint.rects)
        said: dict[str, Any] = {"footprint": replaced(node.footprint, rects=rects)}
        if isinstance(node, Component):
            said["make_up"] = _fitted(node.make_up, fit)
        return replaced(node, **said)

    return paths.changed_at(project, path, change)


def _fitted(make_up: Any, fit: _Fit) -> Any:
    if isinstance(make_up, DieMakeUp):
        # A power map is told from the die's own corner.
        own = _Fit((0.0, 0.0, 1.0, 1.0), (0.0, 0.0, fit.sx, fit.sy))
        return with_each(make_up, "power_map", lambda block: replaced(block, area=placed_rect(block.area, own)))
    if isinstance(make_up, PackageMakeUp):
        w, h = make_up.active_w_mm * fit.sx, make_up.active_h_mm * fit.sy
        return replaced(make_up, active_w_mm=round(w, _DIGITS), active_h_mm=round(h, _DIGITS))
    return make_up


def remove(project: Project, doomed: tuple[str, ...]) -> Project:
    """Remove what is at some paths, with everything that stands on it or speaks of it."""
    outer = [path for path in doomed if not any(path.startswith(f"{other}.") for other in doomed)]
    nodes = [(path.rsplit(".", 1)[0], paths.node_at(project, path)) for path in outer]
    gone: Mapping[str, list[Any]] = {home: [node for where, node in nodes if where == home] for home, _ in nodes}
    made = {home: _without(gone[home]) for home in gone}
    return settled(project, paths.changed_all(project, made, loose=True))


def _without(gone: list[Any]) -> Callable[[Any], Any]:
    return lambda items: tuple(item for item in items if not any(item is node for node in gone))


def add_hole(project: Project, path: str, box: Box) -> Project:
    """Cut a hole into a body's outline, or into a piece that has an outline of its own [mm]."""
    return paths.changed_at(project, f"{path}.footprint", lambda outline: with_more(outline, "holes", rect_of(box)))
