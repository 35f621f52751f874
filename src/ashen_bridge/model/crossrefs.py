"""References between model objects: every id that is named must exist, and no id may name two things."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import TYPE_CHECKING, Any

from ashen_bridge.model.bodies import CASE, GROUND, Component, DieMakeUp, PackageMakeUp, Plate, SolidMakeUp
from ashen_bridge.model.material import MaterialKind

if TYPE_CHECKING:
    from ashen_bridge.model.project import Project


def reference_problems(project: Project) -> list[str]:
    """Return one sentence per broken reference, in the order a reader would meet them."""
    return [
        *_repeated_ids(project),
        *_materials(project),
        *_carriers(project),
        *_device(project),
        *_builds(project),
        *_points(project),
        *_records(project),
        *_runs(project),
        *_calibrations(project),
    ]


def _repeated_ids(project: Project) -> Iterator[str]:
    lists: list[tuple[str, Iterable[Any]]] = [
        ("bodies", project.device.bodies),
        ("fasteners", project.device.fasteners),
        ("sensors", project.device.sensors),
        ("limits", project.device.limits),
        ("materials", project.materials),
        ("builds", project.builds),
        ("operating points", project.points),
        ("groups", project.groups),
        ("goals", project.goals),
        ("runs", project.runs),
        ("calibrations", project.calibrations),
        ("images", project.images),
        ("tracings", project.tracings),
    ]
    lists += [(f"joints of build '{build.id}'", build.joints) for build in project.builds]
    lists += [(f"bodies of build '{build.id}'", (*project.device.bodies, *build.added)) for build in project.builds]
    for what, items in lists:
        seen: set[str] = set()
        for item in items:
            if item.id in seen:
                yield f"Two {what} have the id '{item.id}'."
            seen.add(item.id)


def _all_bodies(project: Project) -> Iterator[tuple[str, Any]]:
    yield from (("device", body) for body in project.device.bodies)
    for build in project.builds:
        yield from ((f"build '{build.id}'", body) for body in build.added)


def _materials(project: Project) -> Iterator[str]:
    known = {material.id: material for material in project.materials}
    for where, body in _all_bodies(project):
        for material in _materials_of(body):
            if material not in known:
                yield f"Body '{body.id}' ({where}) is made of '{material}', which is not among the project's materials."
    for build in project.builds:
        for joint in build.joints:
            for piece in joint.pieces:
                if piece.material not in known:
                    yield (
                        f"Piece '{piece.id}' of joint '{joint.id}' (build '{build.id}') is made of '{piece.material}', "
                        "which is not among the project's materials."
                    )
                elif not piece.has_amount and known[piece.material].kind is not MaterialKind.GAS:
                    yield (
                        f"Piece '{piece.id}' of joint '{joint.id}' (build '{build.id}') needs thickness_mm (a sheet), or "
                        "volume_mm3 or amount (a paste)."
                    )


def _materials_of(body: Any) -> Iterator[str]:
    if isinstance(body, Component):
        if isinstance(body.make_up, SolidMakeUp | DieMakeUp):
            yield body.make_up.material
        elif isinstance(body.make_up, PackageMakeUp):
            yield body.make_up.active_material
    else:
        yield body.material
        if isinstance(body, Plate) and body.foil is not None:
            yield body.foil.material


def _carriers(project: Project) -> Iterator[str]:
    device_ids = {body.id for body in project.device.bodies}
    for build in (None, *project.builds):
        added = build.added if build else ()
        ids = device_ids | {body.id for body in added}
        for body in added if build else project.device.bodies:
            if isinstance(body, Plate):
                continue
            if body.on not in ids | {GROUND, CASE}:
                yield f"Body '{body.id}' is carried by '{body.on}', which does not exist."
    parents = {body.id: body.on for _, body in _all_bodies(project) if not isinstance(body, Plate)}
    for start in parents:
        seen = {start}
        current = parents[start]
        while current in parents:
            if current in seen:
                yield f"Body '{start}' is carried by itself in a circle."
                break
            seen.add(current)
            current = parents[current]


def _device(project: Project) -> Iterator[str]:
    ids = {body.id for _, body in _all_bodies(project)}
    for fastener in project.device.fasteners:
        for end in fastener.joins:
            if end not in ids | {GROUND, CASE}:
                yield f"Fastener '{fastener.id}' joins '{end}', which does not exist."
    for sensor in project.device.sensors:
        for body in (sensor.body, *sensor.also):
            if body not in ids:
                yield f"Sensor '{sensor.id}' reads body '{body}', which does not exist."
    for _, body in _all_bodies(project):
        for fed in body.loss.of if isinstance(body, Component) and body.loss else ():
            if fed not in ids or fed == body.id:
                wrong = "is itself" if fed in ids else "does not exist"
                yield f"Body '{body.id}' loses power for feeding '{fed}', which {wrong}."
    sensors = {sensor.id for sensor in project.device.sensors}
    for limit in project.device.limits:
        if limit.sensor is not None and limit.sensor not in sensors:
            yield f"Limit '{limit.id}' is on sensor '{limit.sensor}', which does not exist."
        if limit.body is not None and limit.body not in ids:
            yield f"Limit '{limit.id}' is on body '{limit.body}', which does not exist."


def _builds(project: Project) -> Iterator[str]:
    device_ids = {body.id for body in project.device.bodies}
    fasteners = {fastener.id for fastener in project.device.fasteners}
    for build in project.builds:
        ids = device_ids | {body.id for body in build.added}
        for removed in build.removed:
            if removed not in device_ids:
                yield f"Build '{build.id}' removes body '{removed}', which does not exist."
        for joint in build.joints:
            for end in (joint.upper, *joint.lower):
                if end not in ids:
                    yield f"Joint '{joint.id}' of build '{build.id}' leads to '{end}', which does not exist."
        for setting in build.fastener_settings:
            if setting.fastener not in fasteners:
                yield f"Build '{build.id}' sets fastener '{setting.fastener}', which does not exist."


def _points(project: Project) -> Iterator[str]:
    builds = {build.id for build in project.builds}
    bodies = {body.id for _, body in _all_bodies(project)}
    blocks = {
        block.id: body.id
        for _, body in _all_bodies(project)
        if isinstance(body, Component) and isinstance(body.make_up, DieMakeUp)
        for block in body.make_up.power_map
    }
    if project.main_build is not None and project.main_build not in builds:
        yield f"The main build '{project.main_build}' does not exist."
    for point in project.points:
        for body in point.powers_w:
            if body not in bodies:
                hint = f" (it is a power block of '{blocks[body]}')" if body in blocks else ""
                yield f"Operating point '{point.id}' gives power to '{body}', which does not exist{hint}."
        for body in point.split:
            if body not in bodies:
                yield f"Operating point '{point.id}' gives a share of the board's power to '{body}', which does not exist."
        for body in (*point.fans_percent, *point.fans_rpm):
            if body not in bodies:
                yield f"Operating point '{point.id}' sets the fan of '{body}', which does not exist."
        for body in (*point.power_limits_w, *point.throttle_at_c):
            if body not in bodies:
                yield f"Operating point '{point.id}' limits '{body}', which does not exist."


def _records(project: Project) -> Iterator[str]:
    joints = {joint.id for build in project.builds for joint in build.joints}
    materials = {material.id for material in project.materials}
    for group in project.groups:
        for joint in group.joints:
            if joint not in joints:
                yield f"Group '{group.id}' names joint '{joint}', which no build has."
    images = {image.id for image in project.images}
    for tracing in project.tracings:
        if tracing.image not in images:
            yield f"Tracing '{tracing.id}' shows image '{tracing.image}', which does not exist."
    for item in project.stock:
        if item.material not in materials:
            yield f"Stock item '{item.id}' is of '{item.material}', which is not among the project's materials."


def _runs(project: Project) -> Iterator[str]:
    builds = {build.id for build in project.builds}
    points = {point.id for point in project.points}
    sensors = {sensor.id for sensor in project.device.sensors}
    for goal in project.goals:
        if goal.sensor not in sensors:
            yield f"Goal '{goal.id}' is about sensor '{goal.sensor}', which does not exist."
    for run in project.runs:
        if run.build not in builds or run.point not in points:
            yield f"Run '{run.id}' belongs to build '{run.build}' at '{run.point}', which does not exist."
        for spot in run.spots:
            if spot.sensor not in sensors:
                yield f"Run '{run.id}' holds a reading of sensor '{spot.sensor}', which does not exist."
        for channel in run.channels:
            if channel.sensor is not None and channel.sensor not in sensors:
                yield f"Run '{run.id}': column '{channel.column}' is mapped to sensor '{channel.sensor}', which does not exist."
    for name in project.aims.sensors:
        if name not in sensors:
            yield f"Sensor '{name}' is said to matter, but does not exist."


def _calibrations(project: Project) -> Iterator[str]:
    runs = {run.id for run in project.runs}
    for calibration in project.calibrations:
        for name in calibration.runs:
            if name not in runs:
                yield f"Calibration '{calibration.id}' was fitted to run '{name}', which does not exist."
    if project.calibration is not None and project.calibration not in {one.id for one in project.calibrations}:
        yield f"Calibration '{project.calibration}' is to be used, but does not exist."
