"""What to lay out before the first screw, as it follows from fasteners, plugs and layers."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.model.material import MaterialKind
from ashen_bridge.model.project import Project
from ashen_bridge.planning.lifting import lifts
from ashen_bridge.planning.tray import tray

AGENTS = {
    "99": "isopropyl alcohol, 99 %: dries without a trace",
    "70": "isopropyl alcohol, 70 %: gentler to plastics, dries slower",
}


@dataclass(frozen=True)
class Need:
    """One thing to have at hand, and what for."""

    what: str
    why: str


def needs(project: Project, build: str | None = None, agent: str = "99") -> tuple[Need, ...]:
    """Return what is needed to open a build up. `agent`: "99" or "70" per cent alcohol, two schools."""
    chosen = project.build(build)
    slots = tray(project, chosen.id).slots
    drivers: dict[str, int] = {}
    for one in slots:
        drivers[one.hardware.driver] = drivers.get(one.hardware.driver, 0) + 1
    found = [Need(f"driver {name}", f"{count} screws") for name, count in sorted(drivers.items()) if name]
    if drivers.get(""):
        found.append(Need("a set of small drivers", f"{drivers['']} screws whose head is not written down"))
    if slots:
        found.append(Need(f"a tray of {len(slots)} cells or more", "every screw in its own"))
    if project.device.plugs:
        found.append(Need("a plastic pick", "no metal at small plugs"))
    off = {joint for lift in lifts(project, chosen.id) for joint in lift.joints}
    kinds = {project.material(piece.material).kind for joint in chosen.joints if joint.id in off for piece in joint.pieces}
    if kinds & {MaterialKind.PAD, MaterialKind.PHASE_CHANGE}:
        found.append(Need("tweezers, finger cots", "pads tear, and fingers grease them"))
        found.append(Need("a caliper", "old pads, heights and landings are measured while they lie open"))
    if off:
        found.append(Need(f"lint-free wipes, {AGENTS[agent]}", "after everything was noted"))
        found.append(Need("a camera", "both faces, before anything is wiped"))
    return tuple(found)
