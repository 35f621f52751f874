"""Edits of what was chosen in plan: moved, lined up, sized, cut, removed."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from ashen_bridge.changes import places
from ashen_bridge.changes.boxes import Box
from ashen_bridge.changes.edit import Edit, edit, merging
from ashen_bridge.editing.arrange import Edge, Move, align, distribute
from ashen_bridge.editing.targets import Target


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
    return merging(merge_key, edit(name, places.move_each, dict(moves)))


def resize(target: Target, box: Box, merge_key: str = "") -> Edit:
    """Give a target another extent [mm]; several rectangles, a power map and an active layer keep their proportions."""
    x0, y0, x1, y1 = box
    name = f"Size of {target.label}: {x1 - x0:.4g} × {y1 - y0:.4g} mm"
    return merging(merge_key, edit(name, places.resize, target.path, target.box, box))


def remove(chosen: Sequence[Target]) -> Edit:
    """Remove what was chosen, with everything that stands on it or speaks of it."""
    return edit(f"Remove {words(chosen)}", places.remove, tuple(target.path for target in chosen))


def add_hole(target: Target, box: Box) -> Edit:
    """Cut a hole into a body's footprint, or into a piece that has an outline of its own."""
    return edit(f"Hole in {target.label}", places.add_hole, target.path, box)


def words(chosen: Iterable[Target]) -> str:
    """Return what to call a choice in the undo list."""
    listed = list(chosen)
    if len(listed) == 1:
        return listed[0].label
    kinds = {target.kind for target in listed}
    return f"{len(listed)} {next(iter(kinds))}s" if len(kinds) == 1 else f"{len(listed)} parts"
