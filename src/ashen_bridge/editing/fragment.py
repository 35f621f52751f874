"""Copies of chosen parts with all that belongs to them (joints, sensors, powers, materials), and putting them in again."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from functools import partial
from typing import Any

from ashen_bridge.editing.arrange import Move, mirrored
from ashen_bridge.editing.boxes import Box, hull, shifted
from ashen_bridge.editing.plain import Edit, Plain, edit_project, fresh_id, fresh_name, item
from ashen_bridge.editing.references import drop_dangling
from ashen_bridge.editing.reshape import words
from ashen_bridge.editing.targets import Target
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project

MARK = "ashen-bridge parts"
_KEYS = ("bodies", "fasteners", "joints", "sensors", "limits", "powers_w", "groups", "materials")
Place = Callable[[Box], Box]
"""Where a copy's rectangle goes [mm]."""


def copy(project: Project, build_id: str, chosen: Sequence[Target]) -> str:
    """Return what was chosen as text for the clipboard."""
    return json.dumps(fragment(project.model_dump(mode="json"), build_id, chosen), ensure_ascii=False)


def fragment(data: Plain, build_id: str, chosen: Sequence[Target]) -> Plain:
    """Return chosen bodies and fasteners, and what belongs to them alone, as plain data."""
    build = item(data["builds"], build_id)
    names = {target.id for target in chosen if target.kind in ("board", "substrate", "component", "plate")}
    grown = True
    bodies = [*data["device"]["bodies"], *build["added"]]
    while grown:
        more = {body["id"] for body in bodies if body["on"] in names} - names
        names |= more
        grown = bool(more)
    screws = {target.id for target in chosen if target.kind == "fastener"}
    taken = [body for body in bodies if body["id"] in names]
    joints = [joint for joint in build["joints"] if set(joint["lower"]) <= names]
    sensors = [sensor for sensor in data["device"]["sensors"] if sensor["body"] in names]
    read = {sensor["id"] for sensor in sensors}
    used = {piece["material"] for joint in joints for piece in joint["pieces"]}
    used |= {value for body in taken for value in _materials(body)}
    return {
        "what": MARK,
        "bodies": taken,
        "fasteners": [f for f in data["device"]["fasteners"] if f["id"] in screws],
        "joints": joints,
        "sensors": sensors,
        "limits": [one for one in data["device"]["limits"] if one["sensor"] in read or one["body"] in names],
        "powers_w": {p["id"]: {n: v for n, v in p["powers_w"].items() if n in names} for p in data["points"]},
        "groups": {joint["id"]: group["id"] for joint in joints for group in data["groups"] if joint["id"] in group["joints"]},
        "materials": [material for material in data["materials"] if material["id"] in used],
    }


def _materials(body: Plain) -> set[str]:
    inner = body.get("make_up") or body
    return {inner[key] for key in ("material", "active_material") if inner.get(key)}


def read_clipboard(text: str) -> Plain | None:
    """Return the parts on the clipboard, None if something else is there."""
    try:
        data = json.loads(text) if text.lstrip()[:1] == "{" else None
    except (json.JSONDecodeError, RecursionError):
        return None
    return data if isinstance(data, dict) and data.get("what") == MARK and _is_whole(data) else None


def _is_whole(data: Plain) -> bool:
    """Return whether every table of a fragment is there and of its kind."""
    tables = isinstance(data.get("powers_w"), dict) and isinstance(data.get("groups"), dict)
    lists = [data.get(key) for key in _KEYS if key not in ("powers_w", "groups")]
    return tables and all(isinstance(one, list) and all(isinstance(item, dict) for item in one) for one in lists)


def paste(parts: Plain, build_id: str, dx: float, dy: float) -> Edit:
    """Put copied parts in, moved by dx, dy [mm]."""

    def change(data: Plain) -> None:
        try:
            _insert(data, build_id, parts, partial(shifted, dx=dx, dy=dy))
        except (KeyError, TypeError, AttributeError) as error:
            raise ProjectError("What is on the clipboard cannot be read as parts; copy them again.") from error

    count = len(parts["bodies"]) + len(parts["fasteners"])
    return edit_project(f"Paste {count} part{'s' if count != 1 else ''}", change)


def repeat(chosen: Sequence[Target], build_id: str, offsets: Sequence[Move], name: str = "") -> Edit:
    """Duplicate what was chosen once per offset [mm]: a row, a ring, a second one beside the first."""

    def change(data: Plain) -> None:
        parts = fragment(data, build_id, chosen)
        for dx, dy in offsets:
            _insert(data, build_id, parts, partial(shifted, dx=dx, dy=dy))

    return edit_project(name or f"Duplicate {words(chosen)}", change)


def mirror(chosen: Sequence[Target], build_id: str, axis: str, at: float) -> Edit:
    """Add a copy of what was chosen, mirrored left to right (`x`) or bottom to top (`y`) at a line [mm]."""

    def change(data: Plain) -> None:
        parts = fragment(data, build_id, chosen)
        _insert(data, build_id, parts, lambda box: mirrored(box, "x" if axis == "x" else "y", at))

    return edit_project(f"Mirror {words(chosen)}", change)


def ring(chosen: Sequence[Target], build_id: str, places: Sequence[tuple[str, Box]], name: str = "Ring of parts") -> Edit:
    """Copy one chosen part to every place around a box; at top and bottom it stands turned by a quarter."""

    def change(data: Plain) -> None:
        parts = fragment(data, build_id, chosen)
        old = hull([target.box for target in chosen])
        for _, box in places:
            if max(abs(a - b) for a, b in zip(box, old, strict=True)) > 1e-6:
                _insert(data, build_id, parts, partial(_fit, old=old, new=box))

    return edit_project(name, change)


def _fit(rect: Box, old: Box, new: Box) -> Box:
    """Place a rectangle of the old box in the new one: as it is if the sizes agree, turned by a quarter otherwise."""
    turned = abs((new[2] - new[0]) - (old[2] - old[0])) > 1e-6
    a0, b0, a1, b1 = rect[0] - old[0], rect[1] - old[1], rect[2] - old[0], rect[3] - old[1]
    if turned:
        a0, b0, a1, b1 = b0, a0, b1, a1
    return new[0] + a0, new[1] + b0, new[0] + a1, new[1] + b1


def _insert(data: Plain, build_id: str, source: Plain, place: Place) -> None:
    parts = json.loads(json.dumps({key: source[key] for key in _KEYS}))
    _Insertion(data, build_id, place).insert(parts)
    drop_dangling(data)


class _Insertion:
    """One copy going in: new ids and names, moved rectangles, references led over to the copy."""

    def __init__(self, data: Plain, build_id: str, place: Place) -> None:
        self.data, self.place = data, place
        self.build = item(data["builds"], build_id)
        self.names: dict[str, str] = {}
        device = data["device"]
        self.bodies = {body["id"] for body in device["bodies"]} | {b["id"] for build in data["builds"] for b in build["added"]}
        self.labels = [body["name"] for body in device["bodies"]]

    def insert(self, parts: Plain) -> None:
        """Put the parts in."""
        data, device = self.data, self.data["device"]
        known = {material["id"] for material in data["materials"]}
        data["materials"] += [material for material in parts["materials"] if material["id"] not in known]
        for body in parts["bodies"]:
            self.names[body["id"]] = fresh_id(body["id"], self.bodies)
            self.bodies.add(self.names[body["id"]])
        boards = [body["id"] for body in device["bodies"] if body["kind"] == "board"]
        for body in parts["bodies"]:
            self._body(body, boards)
        device["bodies"] += parts["bodies"]
        self._fasteners(parts["fasteners"])
        self._joints(parts)
        self._sensors(parts)
        for point in data["points"]:
            powers: Plain = parts["powers_w"].get(point["id"]) or next(iter(parts["powers_w"].values()), {})
            point["powers_w"].update({self.names[name]: value for name, value in powers.items() if name in self.names})

    def _body(self, body: Plain, boards: list[str]) -> None:
        body["id"] = self.names[body["id"]]
        if body["name"]:
            body["name"] = fresh_name(body["name"], self.labels)
            self.labels.append(body["name"])
        on = self.names.get(body["on"], body["on"])
        there = self.bodies | {"ground", "case", "floating"}
        body["on"] = on if on in there or not boards else boards[0]
        self._footprint(body["footprint"])
        for landing in body.get("landings", ()):
            self._rect(landing["area"])
        if body.get("sink") and body["sink"]["footprint"]:
            self._footprint(body["sink"]["footprint"])
        make_up = body.get("make_up", {})
        x0, y0, x1, y1 = _bounds(body["footprint"]["rects"])
        if make_up.get("type") == "package" and (make_up["active_w_mm"] > x1 - x0 or make_up["active_h_mm"] > y1 - y0):
            make_up["active_w_mm"], make_up["active_h_mm"] = make_up["active_h_mm"], make_up["active_w_mm"]

    def _fasteners(self, fasteners: list[Plain]) -> None:
        device = self.data["device"]
        used = {fastener["id"] for fastener in device["fasteners"]}
        labels = [fastener["name"] for fastener in device["fasteners"]]
        for fastener in fasteners:
            fastener["id"] = fresh_id(fastener["id"], used)
            used.add(fastener["id"])
            if fastener["name"]:
                fastener["name"] = fresh_name(fastener["name"], labels)
                labels.append(fastener["name"])
            x, y, _, _ = self.place((fastener["x_mm"], fastener["y_mm"], fastener["x_mm"], fastener["y_mm"]))
            fastener["x_mm"], fastener["y_mm"] = round(x, 4), round(y, 4)
            fastener["joins"] = [self.names.get(end, end) for end in fastener["joins"]]
        device["fasteners"] += fasteners

    def _joints(self, parts: Plain) -> None:
        used = {joint["id"] for joint in self.build["joints"]}
        labels = [joint["name"] for joint in self.build["joints"]]
        groups = {group["id"]: group for group in self.data["groups"]}
        there = self.bodies
        for joint in parts["joints"]:
            old = joint["id"]
            joint["id"] = fresh_id(old, used)
            used.add(joint["id"])
            if joint["name"]:
                joint["name"] = fresh_name(joint["name"], labels)
                labels.append(joint["name"])
            joint["lower"] = [self.names.get(name, name) for name in joint["lower"]]
            joint["upper"] = self.names.get(joint["upper"], joint["upper"])
            for piece in joint["pieces"]:
                if piece["footprint"]:
                    self._footprint(piece["footprint"])
            group = groups.get(parts["groups"].get(old, ""))
            if group is not None and joint["upper"] in there:
                group["joints"].append(joint["id"])
        self.build["joints"] += [joint for joint in parts["joints"] if joint["upper"] in there]

    def _sensors(self, parts: Plain) -> None:
        device = self.data["device"]
        used = {one["id"] for one in (*device["sensors"], *device["limits"])}
        labels = [sensor["name"] for sensor in device["sensors"]]
        renamed: dict[str, str] = {}
        for sensor in parts["sensors"]:
            renamed[sensor["id"]] = fresh_id(sensor["id"], used)
            sensor["id"] = renamed[sensor["id"]]
            used.add(sensor["id"])
            if sensor["name"]:
                sensor["name"] = fresh_name(sensor["name"], labels)
                labels.append(sensor["name"])
            sensor["body"] = self.names[sensor["body"]]
            if sensor["spot"]:
                self._rect(sensor["spot"])
            if sensor["x_mm"] is not None and sensor["y_mm"] is not None:
                x, y, _, _ = self.place((sensor["x_mm"], sensor["y_mm"], sensor["x_mm"], sensor["y_mm"]))
                sensor["x_mm"], sensor["y_mm"] = round(x, 4), round(y, 4)
        for limit in parts["limits"]:
            limit["id"] = fresh_id(limit["id"], used)
            used.add(limit["id"])
            limit["sensor"] = renamed.get(limit["sensor"]) if limit["sensor"] else None
            limit["body"] = self.names.get(limit["body"]) if limit["body"] else None
        device["sensors"] += parts["sensors"]
        device["limits"] += [limit for limit in parts["limits"] if limit["sensor"] or limit["body"]]

    def _footprint(self, footprint: Plain) -> None:
        for rect in (*footprint["rects"], *footprint["holes"]):
            self._rect(rect)

    def _rect(self, rect: Plain) -> None:
        x, y, w, h = (rect[key] for key in ("x_mm", "y_mm", "w_mm", "h_mm"))
        x0, y0, x1, y1 = self.place((x, y, x + w, y + h))
        rect.update(x_mm=round(x0, 4), y_mm=round(y0, 4), w_mm=round(x1 - x0, 4), h_mm=round(y1 - y0, 4))


def _bounds(rects: list[dict[str, Any]]) -> Box:
    return hull([(r["x_mm"], r["y_mm"], r["x_mm"] + r["w_mm"], r["y_mm"] + r["h_mm"]) for r in rects])
