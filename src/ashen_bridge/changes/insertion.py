"""One copy of parts going into a project: new ids and names, moved rectangles, references led over to the copy."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from ashen_bridge.changes.names import fresh_id, fresh_name
from ashen_bridge.changes.parts import Parts
from ashen_bridge.changes.places import Place, placed_body, placed_piece, placed_sensor
from ashen_bridge.model.bodies import Board, Body
from ashen_bridge.model.build import Build
from ashen_bridge.model.device import Device
from ashen_bridge.model.fasteners import Fastener
from ashen_bridge.model.joints import Joint
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import replaced


class _Names:
    """Ids and names given out so far in one list of the project."""

    def __init__(self, items: Iterable[Any]) -> None:
        listed = list(items)
        self.ids = {item.id for item in listed}
        self.labels = [item.name for item in listed]
        self.renamed: dict[str, str] = {}

    def fresh(self, item: Any) -> dict[str, str]:
        """Return id and name of a copy of an item."""
        new = fresh_id(item.id, self.ids)
        name = fresh_name(item.name, self.labels) if item.name else item.name
        self.ids.add(new)
        self.labels.append(name)
        self.renamed[item.id] = new
        return {"id": new, "name": name}

    def now(self, name: str) -> str:
        """Return what the copy calls that which was called so."""
        return self.renamed.get(name, name)


class Insertion:
    """One copy, with its place. The project that comes out is loose: references it could not lead over are still there."""

    def __init__(self, project: Project, build: str, place: Place) -> None:
        self._project, self._place = project, place
        self._build = project.build(build)
        self._bodies = _Names(project.all_bodies)

    def of(self, parts: Parts) -> Project:
        """Return the project with a copy of the parts."""
        project = self._project
        known = {material.id for material in project.materials}
        told = [self._bodies.fresh(body) for body in parts.bodies]
        boards = [body.id for body in project.device.bodies if isinstance(body, Board)]
        bodies = tuple(self._body(body, said, boards) for body, said in zip(parts.bodies, told, strict=True))
        fasteners = _Names(project.device.fasteners)
        device = replaced(
            project.device,
            bodies=(*project.device.bodies, *bodies),
            fasteners=(*project.device.fasteners, *(self._fastener(one, fasteners) for one in parts.fasteners)),
        )
        joints = _Names(self._build.joints)
        added = tuple(self._joint(joint, joints) for joint in parts.joints)
        return project.model_copy(
            update={
                "materials": (*project.materials, *(one for one in parts.materials if one.id not in known)),
                "device": self._with_sensors(device, parts),
                "builds": tuple(self._with_joints(build, added) for build in project.builds),
                "points": tuple(self._with_powers(point, parts) for point in project.points),
                "groups": tuple(self._in_group(group, parts, joints) for group in project.groups),
            }
        )

    def _body(self, body: Body, said: dict[str, str], boards: list[str]) -> Body:
        on = self._bodies.now(body.on)
        there = self._bodies.ids | {"ground", "case", "floating"}
        return replaced(placed_body(body, self._place), **said, on=on if on in there or not boards else boards[0])

    def _fastener(self, one: Fastener, names: _Names) -> Fastener:
        x, y, _, _ = self._place((one.x_mm, one.y_mm, one.x_mm, one.y_mm))
        joins = (self._bodies.now(one.joins[0]), self._bodies.now(one.joins[1]))
        return replaced(one, **names.fresh(one), joins=joins, x_mm=round(x, 4), y_mm=round(y, 4))

    def _joint(self, joint: Joint, names: _Names) -> Joint:
        return replaced(
            joint,
            **names.fresh(joint),
            lower=tuple(self._bodies.now(name) for name in joint.lower),
            upper=self._bodies.now(joint.upper),
            pieces=tuple(placed_piece(piece, self._place) for piece in joint.pieces),
        )

    def _with_joints(self, build: Build, joints: tuple[Joint, ...]) -> Build:
        if build.id != self._build.id:
            return build
        return replaced(build, joints=(*build.joints, *(one for one in joints if one.upper in self._bodies.ids)))

    def _in_group(self, group: Any, parts: Parts, names: _Names) -> Any:
        more = tuple(names.now(joint.id) for joint in parts.joints if parts.groups.get(joint.id) == group.id)
        return replaced(group, joints=(*group.joints, *more))

    def _with_powers(self, point: Any, parts: Parts) -> Any:
        powers = parts.powers_w.get(point.id) or next(iter(parts.powers_w.values()), {})
        renamed = self._bodies.renamed
        more = {renamed[name]: value for name, value in powers.items() if name in renamed}
        return replaced(point, powers_w={**point.powers_w, **more})

    def _with_sensors(self, device: Device, parts: Parts) -> Device:
        names = _Names((*device.sensors, *device.limits))
        names.labels = [sensor.name for sensor in device.sensors]
        sensors = [
            replaced(
                placed_sensor(one, self._place),
                **names.fresh(one),
                body=self._bodies.now(one.body),
                also=tuple(self._bodies.now(name) for name in one.also),
            )
            for one in parts.sensors
        ]
        limits = []
        for one in parts.limits:
            new = fresh_id(one.id, names.ids)
            names.ids.add(new)
            sensor = names.renamed.get(one.sensor or "")
            body = self._bodies.renamed.get(one.body or "")
            if sensor or body:
                limits.append(replaced(one, id=new, sensor=sensor, body=body))
        return replaced(device, sensors=(*device.sensors, *sensors), limits=(*device.limits, *limits))
