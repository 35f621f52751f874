"""Edits that copy what was chosen: the clipboard, rows, mirror images, rings of parts."""

from __future__ import annotations

from collections.abc import Sequence

from ashen_bridge.changes import copies
from ashen_bridge.changes.boxes import Box, hull
from ashen_bridge.changes.edit import Edit, edit
from ashen_bridge.changes.parts import Parts
from ashen_bridge.editing.arrange import Move
from ashen_bridge.editing.reshape import words
from ashen_bridge.editing.targets import Target
from ashen_bridge.model.project import Project


def copy(project: Project, build_id: str, chosen: Sequence[Target]) -> str:
    """Return what was chosen as text for the clipboard."""
    return copies.parts_of(project, build_id, _paths(chosen)).model_dump_json()


def paste(parts: Parts, build_id: str, dx: float, dy: float) -> Edit:
    """Put copied parts in, moved by dx, dy [mm]."""
    return edit(f"Paste {parts.count} part{'s' if parts.count != 1 else ''}", copies.paste, build_id, parts, dx, dy)


def repeat(chosen: Sequence[Target], build_id: str, offsets: Sequence[Move], name: str = "") -> Edit:
    """Duplicate what was chosen once per offset [mm]: a row, a ring, a second one beside the first."""
    return edit(name or f"Duplicate {words(chosen)}", copies.repeat, build_id, _paths(chosen), tuple(offsets))


def mirror(chosen: Sequence[Target], build_id: str, axis: str, at: float) -> Edit:
    """Add a copy of what was chosen, mirrored left to right (`x`) or bottom to top (`y`) at a line [mm]."""
    return edit(f"Mirror {words(chosen)}", copies.mirror, build_id, _paths(chosen), "x" if axis == "x" else "y", at)


def ring(chosen: Sequence[Target], build_id: str, places: Sequence[tuple[str, Box]], name: str = "Ring of parts") -> Edit:
    """Copy one chosen part to every place around a box; at top and bottom it stands turned by a quarter."""
    old = hull([target.box for target in chosen])
    return edit(name, copies.ring, build_id, _paths(chosen), old, tuple(box for _, box in places))


def _paths(chosen: Sequence[Target]) -> tuple[str, ...]:
    return tuple(target.path for target in chosen)
