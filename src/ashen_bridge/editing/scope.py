"""Whether a changed number is said of the device, and so of every build, or holds in one build only."""

from __future__ import annotations

from typing import Any

from ashen_bridge.changes import builds
from ashen_bridge.changes.edit import Edit, edit
from ashen_bridge.model.project import Project


def new_number(path: str, old: float | None, value: Any) -> float | None:
    """Return the number that a change of a device's field sets, None where it sets none or leaves it as it is.

    Only numbers of the device can differ from build to build; its ± and origin are those of the device.
    """
    if not path.startswith("device."):
        return None
    found = value.get("value") if isinstance(value, dict) else value
    if isinstance(found, bool) or not isinstance(found, int | float) or old is None or float(found) == old:
        return None
    return float(found)


def only_here(build_id: str, path: str, value: float, name: str) -> Edit:
    """Let a number hold in one build only."""
    return edit(name, builds.set_override, build_id, path, value)


def as_the_device(project: Project, build_id: str, under: str) -> Edit | None:
    """Let all numbers of a part that hold in one build only be those of the device again; None where there are none."""
    paths = held_here(project, build_id, under)
    name = f"As the device: {len(paths)} numbers" if len(paths) > 1 else "As the device"
    return edit(name, builds.drop_overrides, build_id, paths) if paths else None


def held_here(project: Project, build_id: str, under: str) -> tuple[str, ...]:
    """Return the paths of a part's numbers that hold in one build only."""
    if not project.builds or not under:
        return ()
    return tuple(path for path in project.build(build_id).overrides if path.startswith(f"{under}."))
