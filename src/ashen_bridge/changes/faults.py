"""Changes that make something wrong with a device: what a diagnosis tries, and a simulated device may have."""

from __future__ import annotations

from typing import Any

from ashen_bridge.changes import bodies, builds
from ashen_bridge.changes.layers import in_build
from ashen_bridge.changes.materials import with_joint_of_its_own
from ashen_bridge.model.bodies import Landing
from ashen_bridge.model.inner import BaseKind
from ashen_bridge.model.paths import set_numbers
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import find, replaced, with_each

FILM_MM2K_W = 300.0
"""What a forgotten film of 50 to 80 µm leaves in the way: at 0.2 to 0.3 W/m·K (handbook, polyester)."""


def slacken(project: Project, build: str, fasteners: tuple[str, ...], share: float) -> Project:
    """Take a share of what fasteners press with away, in one build."""
    values: dict[str, float] = {}
    for name in fasteners:
        one = find(project.device.fasteners, name, "fastener")
        field = "preload_n" if one.kind in ("fixed", "shouldered") else "travel_mm"
        stated = getattr(one, field)
        if stated is not None:
            path = f"device.fasteners.{name}.{field}"
            now = project.build(build).overrides.get(path, stated.value)
            values[path] = now * (1 - share)
    return in_build(project, build, lambda one: replaced(one, overrides={**one.overrides, **values}))


def leave_film(project: Project, build: str, joint: str) -> Project:
    """Leave a film in a joint."""

    def filmed(material: Any) -> Any:
        was = material.contact_mm2k_w
        return replaced(material, contact_mm2k_w=replaced(was, value=was.value + FILM_MM2K_W))

    return with_joint_of_its_own(project, build, joint, "film", filmed)


def lower_landing(project: Project, plate: str, landing: str, more_mm: float) -> Project:
    """Let a landing be set back by more than it is said to be."""

    def change(one: Landing) -> Landing:
        return replaced(one, step_mm=replaced(one.step_mm, value=one.step_mm.value + more_mm))

    return bodies.everywhere(project, plate, lambda one: with_each(one, "landings", change, (landing,)))


def dry_pipes(project: Project, plate: str) -> Project:
    """Let the heat pipes or the vapour chamber of a plate have run dry: they conduct as their metal does."""

    def change(one: Any) -> Any:
        return replaced(one, heat_pipes=(), base=BaseKind.SOLID, spreads_w_mk=None)

    return bodies.everywhere(project, plate, change)


def lose_air(project: Project, plate: str, share: float) -> Project:
    """Let a share of the fans' air go beside a plate's fins."""

    def change(one: Any) -> Any:
        sink = one.sink
        left = (1 - sink.air_lost.value) * (1 - share)
        return replaced(one, sink=replaced(sink, air_lost=replaced(sink.air_lost, value=min(1 - left, 0.9))))

    return bodies.everywhere(project, plate, change)


def warm_room(project: Project, point: str, more_k: float) -> Project:
    """Let the room be warmer than its thermometer says, and all air with it."""
    one = project.point(point)
    names = [name for name in ("ambient_c", "inlet_c", "front_air_c", "rear_air_c") if getattr(one, name) is not None]
    return set_numbers(project, {f"points.{point}.{name}": getattr(one, name).value + more_k for name in names})


def unchanged_since(project: Project, build: str, before: str) -> Project:
    """Let a build have the joints that another one has: what was said to be changed was not."""
    names = tuple(joint.id for joint in (*project.build(build).joints, *project.build(before).joints))
    return builds.take_joints(project, build, before, tuple(dict.fromkeys(names)))
