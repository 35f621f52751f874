"""Moving, sizing and removing what was chosen in plan. What stands on a body, and what is cut to it, moves with it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence

from ashen_bridge.editing.arrange import Edge, Move, align, distribute
from ashen_bridge.editing.boxes import Box
from ashen_bridge.editing.plain import Edit, Plain, all_bodies, edit_project
from ashen_bridge.editing.references import drop_dangling
from ashen_bridge.editing.targets import Target
from ashen_bridge.model.paths import descend

_DIGITS = 4


def move(chosen: Sequence[Target], dx: float, dy: float, merge_key: str = "") -> Edit:
    """Move everything chosen by dx, dy [mm]."""
    return move_each(f"Move {words(chosen)}", {target.path: (dx, dy) for target in chosen}, merge_key)


def align_targets(chosen: Sequence[Target], edge: Edge) -> Edit:
    """Line what was chosen up at an edge or a middle."""
    moves = align([target.box for target in chosen], edge)
    return move_each(f"Align {words(chosen)}", {t.path: by for t, by in zip(chosen, moves, strict=True)})


def distribute_targets(chosen: Sequence[Target], axis: str) -> Edit:
    """Make the gaps between what was chosen equal along an axis."""
    moves = distribute([target.box for target in chosen], "x" if axis == "x" else "y")
    return move_each(f"Distribute {words(chosen)}", {t.path: by for t, by in zip(chosen, moves, strict=True)})


def move_each(name: str, moves: Mapping[str, Move], merge_key: str = "") -> Edit:
    """Move each path by its own dx, dy [mm]; nothing is moved twice because its carrier moves too."""

    def change(data: Plain) -> None:
        done: set[int] = set()
        for path, (dx, dy) in moves.items():
            node = descend(data, path)
            if path.split(".")[-2:-1] == ["holes"] or "area" in node:
                continue
            for part in _with_what_it_carries(data, node) if "kind" in node and "footprint" in node else [node]:
                if id(part) not in done:
                    done.add(id(part))
                    _shift(data, part, dx, dy)
        for path, (dx, dy) in moves.items():
            node = descend(data, path)
            owner = path.rsplit(".", 3)[0] if path.split(".")[-2:-1] == ["holes"] else path.rsplit(".", 2)[0]
            if ("area" in node or "w_mm" in node) and owner not in moves:
                _shift_rect(node.get("area", node), dx, dy)

    return edit_project(name, change, merge_key)


def _with_what_it_carries(data: Plain, body: Plain) -> Iterator[Plain]:
    yield body
    for other in all_bodies(data):
        if other["on"] == body["id"]:
            yield from _with_what_it_carries(data, other)


def _shift(data: Plain, node: Plain, dx: float, dy: float) -> None:
    if "x_mm" in node:
        _shift_rect(node, dx, dy)
        return
    if node.get("footprint"):
        _shift_footprint(node["footprint"], dx, dy)
    if "kind" not in node:
        return
    for landing in node.get("landings", ()):
        _shift_rect(landing["area"], dx, dy)
    if node.get("sink") and node["sink"]["footprint"]:
        _shift_footprint(node["sink"]["footprint"], dx, dy)
    _shift_what_is_cut_to_it(data, node["id"], dx, dy)


def _shift_what_is_cut_to_it(data: Plain, body: str, dx: float, dy: float) -> None:
    """Move sensor places on a body, and pieces that lie on it alone."""
    for sensor in data["device"]["sensors"]:
        if sensor["body"] == body:
            if sensor["spot"]:
                _shift_rect(sensor["spot"], dx, dy)
            if sensor["x_mm"] is not None and sensor["y_mm"] is not None:
                _shift_rect(sensor, dx, dy)
    joints = (joint for build in data["builds"] for joint in build["joints"])
    for piece in (piece for joint in joints if joint["lower"] == [body] for piece in joint["pieces"]):
        if piece["footprint"]:
            _shift_footprint(piece["footprint"], dx, dy)


def _shift_footprint(footprint: Plain, dx: float, dy: float) -> None:
    for rect in (*footprint["rects"], *footprint["holes"]):
        _shift_rect(rect, dx, dy)


def _shift_rect(rect: Plain, dx: float, dy: float) -> None:
    rect["x_mm"], rect["y_mm"] = round(rect["x_mm"] + dx, _DIGITS), round(rect["y_mm"] + dy, _DIGITS)


def resize(target: Target, box: Box, merge_key: str = "") -> Edit:
    """Give a target another extent [mm]; several rectangles, a power map and an active layer keep their proportions."""
    x0, y0, x1, y1 = box

    def change(data: Plain) -> None:
        node = descend(data, target.path)
        fit = _Fit(target.box, box)
        if "area" in node or "w_mm" in node:
            fit.rect(node.get("area", node))
            return
        for rect in node["footprint"]["rects"]:
            fit.rect(rect)
        make_up = node.get("make_up", {})
        for block in make_up.get("power_map", ()):
            area = block["area"]
            area.update(
                {key: round(area[key] * by, _DIGITS) for key, by in zip(area, (fit.sx, fit.sy, fit.sx, fit.sy), strict=True)}
            )
        if make_up.get("type") == "package":
            make_up["active_w_mm"] = round(make_up["active_w_mm"] * fit.sx, _DIGITS)
            make_up["active_h_mm"] = round(make_up["active_h_mm"] * fit.sy, _DIGITS)

    return edit_project(f"Size of {target.label}: {x1 - x0:.4g} × {y1 - y0:.4g} mm", change, merge_key)


class _Fit:
    """The stretch that takes one box to another."""

    def __init__(self, old: Box, new: Box) -> None:
        self.old, self.new = old, new
        self.sx = (new[2] - new[0]) / max(old[2] - old[0], 1e-9)
        self.sy = (new[3] - new[1]) / max(old[3] - old[1], 1e-9)

    def rect(self, rect: Plain) -> None:
        """Stretch a rectangle in place."""
        rect.update(
            x_mm=round(self.new[0] + (rect["x_mm"] - self.old[0]) * self.sx, _DIGITS),
            y_mm=round(self.new[1] + (rect["y_mm"] - self.old[1]) * self.sy, _DIGITS),
            w_mm=round(rect["w_mm"] * self.sx, _DIGITS),
            h_mm=round(rect["h_mm"] * self.sy, _DIGITS),
        )


def remove(chosen: Sequence[Target]) -> Edit:
    """Remove what was chosen, with everything that stands on it or speaks of it."""

    def change(data: Plain) -> None:
        doomed = [(descend(data, target.path.rsplit(".", 1)[0]), descend(data, target.path)) for target in chosen]
        for holder, node in doomed:
            holder[:] = [one for one in holder if one is not node]
        drop_dangling(data)

    return edit_project(f"Remove {words(chosen)}", change)


def add_hole(target: Target, box: Box) -> Edit:
    """Cut a hole into a body's footprint, or into a piece that has an outline of its own."""
    x0, y0, x1, y1 = box
    rect = {"x_mm": x0, "y_mm": y0, "w_mm": round(x1 - x0, _DIGITS), "h_mm": round(y1 - y0, _DIGITS)}

    def change(data: Plain) -> None:
        descend(data, target.path)["footprint"]["holes"].append(rect)

    return edit_project(f"Hole in {target.label}", change)


def words(chosen: Iterable[Target]) -> str:
    """Return what to call a choice in the undo list."""
    listed = list(chosen)
    if len(listed) == 1:
        return listed[0].label
    kinds = {target.kind for target in listed}
    return f"{len(listed)} {next(iter(kinds))}s" if len(kinds) == 1 else f"{len(listed)} parts"
