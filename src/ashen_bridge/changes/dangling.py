"""What must go when something goes: everything that names an id that is no longer there."""

from __future__ import annotations

from typing import Any

from ashen_bridge.model.bodies import Body, Component
from ashen_bridge.model.build import Build, OperatingPoint
from ashen_bridge.model.device import Device
from ashen_bridge.model.joints import Joint
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import Run, RunChannel
from ashen_bridge.model.sharing import replaced, with_each

_HELD = {"ground", "case"}
_TABLES = ("powers_w", "split", "fans_percent", "fans_rpm", "power_limits_w", "throttle_at_c")


def settled(project: Project, loose: Project) -> Project:
    """Return `project` as `loose` has it, without what speaks of bodies, fasteners, sensors or joints that are gone.

    `loose` is a changed copy whose references have not been checked. Raises `ProjectError` if it makes no sense even so.
    """
    loose = _without_orphans(loose)
    bodies = {body.id for body in loose.all_bodies}
    device = _device(loose.device, bodies)
    sensors = {sensor.id for sensor in device.sensors}
    builds = tuple(_build(build, device, loose) for build in loose.builds)
    joints = {joint.id for build in builds for joint in build.joints}
    groups = ((group, tuple(name for name in group.joints if name in joints)) for group in loose.groups)
    points = {point.id for point in loose.points}
    images = {image.id for image in loose.images}
    made: dict[str, Any] = {name: getattr(loose, name) for name in type(loose).model_fields}
    made |= {
        "device": device,
        "builds": builds,
        "points": tuple(_point(point, bodies) for point in loose.points),
        "groups": tuple(replaced(group, joints=names) for group, names in groups if names),
        "goals": tuple(g for g in loose.goals if g.sensor in sensors and (g.point is None or g.point in points)),
        "aims": replaced(loose.aims, sensors=tuple(name for name in loose.aims.sensors if name in sensors)),
        "mappings": tuple(_channel(one, sensors, None) for one in loose.mappings),
        "runs": tuple(_run(run, sensors, bodies) for run in loose.runs),
        "tracings": tuple(one for one in loose.tracings if one.image in images),
    }
    return replaced(project, **made)


def _without_orphans(loose: Project) -> Project:
    """A body whose carrier has gone goes with it."""
    while True:
        there = {body.id for body in loose.all_bodies} | _HELD | {"floating"}
        kept = tuple(body for body in loose.device.bodies if body.on in there)
        builds = tuple(_with_carried(build, there) for build in loose.builds)
        if len(kept) == len(loose.device.bodies) and builds == loose.builds:
            return loose
        loose = loose.model_copy(update={"device": replaced(loose.device, bodies=kept), "builds": builds})


def _with_carried(build: Build, there: set[str]) -> Build:
    return with_each(build, "added", lambda body: body if body.on in there else None)


def _device(device: Device, bodies: set[str]) -> Device:
    sensors = tuple(one for one in device.sensors if one.body in bodies)
    read = {sensor.id for sensor in sensors}
    limits = (one for one in device.limits if one.sensor is None or one.sensor in read)
    return replaced(
        device,
        bodies=tuple(_body(body, bodies) for body in device.bodies),
        fasteners=tuple(one for one in device.fasteners if set(one.joins) <= bodies | _HELD),
        sensors=tuple(replaced(one, also=tuple(name for name in one.also if name in bodies)) for one in sensors),
        limits=tuple(one for one in limits if one.body is None or one.body in bodies),
        plugs=tuple(one if one.of in (None, *bodies) else replaced(one, of=None) for one in device.plugs),
    )


def _body(body: Body, bodies: set[str]) -> Body:
    if not isinstance(body, Component) or body.loss is None:
        return body
    fed = tuple(name for name in body.loss.of if name in bodies and name != body.id)
    return replaced(body, loss=replaced(body.loss, of=fed) if fed else None)


def _build(build: Build, device: Device, loose: Project) -> Build:
    own = {body.id for body in device.bodies}
    here = own | {body.id for body in build.added}
    fasteners = {fastener.id for fastener in device.fasteners}
    joints = (_joint(joint, here) for joint in build.joints)
    return replaced(
        build,
        added=tuple(_body(body, here) for body in build.added),
        removed=tuple(name for name in build.removed if name in own),
        joints=tuple(joint for joint in joints if joint is not None),
        fastener_settings=tuple(one for one in build.fastener_settings if one.fastener in fasteners),
        overrides={path: value for path, value in build.overrides.items() if _leads_somewhere(device, loose, path)},
    )


def _joint(joint: Joint, here: set[str]) -> Joint | None:
    lower = tuple(name for name in joint.lower if name in here)
    return replaced(joint, lower=lower) if lower and joint.upper in here else None


def _leads_somewhere(device: Device, loose: Project, path: str) -> bool:
    steps = path.split(".")
    lists: dict[str, Any] = {"device.bodies": device.bodies, "device.fasteners": device.fasteners}
    items = lists.get(".".join(steps[:2]), loose.materials if steps[0] == "materials" else None)
    wanted = steps[2] if len(steps) > 2 and steps[0] == "device" else steps[1] if len(steps) > 1 else ""
    return items is None or any(one.id == wanted for one in items)


def _point(point: OperatingPoint, bodies: set[str]) -> OperatingPoint:
    tables = {key: {name: n for name, n in getattr(point, key).items() if name in bodies} for key in _TABLES}
    return replaced(point, **tables)


def _channel(channel: RunChannel, sensors: set[str], bodies: set[str] | None) -> RunChannel:
    said: dict[str, Any] = {} if channel.sensor in sensors else {"sensor": None}
    if bodies is not None and channel.body not in bodies:
        said["body"] = None
    return replaced(channel, **said)


def _run(run: Run, sensors: set[str], bodies: set[str]) -> Run:
    return replaced(
        run,
        spots=tuple(spot for spot in run.spots if spot.sensor in sensors),
        channels=tuple(_channel(one, sensors, bodies) for one in run.channels),
    )
