"""What must go when something goes: everything that names an id that is no longer there. On plain project data, in place."""

from __future__ import annotations

from ashen_bridge.editing.plain import Plain, all_bodies

_HELD = {"ground", "case"}


def drop_dangling(data: Plain) -> None:
    """Take out every reference to bodies, fasteners, sensors, joints, materials or builds that do not exist any more."""
    _orphans(data)
    device = data["device"]
    everywhere = {body["id"] for body in all_bodies(data)}
    device["fasteners"] = [f for f in device["fasteners"] if set(f["joins"]) <= everywhere | _HELD]
    device["sensors"] = [sensor for sensor in device["sensors"] if sensor["body"] in everywhere]
    sensors = {sensor["id"] for sensor in device["sensors"]}
    device["limits"] = [
        limit
        for limit in device["limits"]
        if (limit["sensor"] is None or limit["sensor"] in sensors) and (limit["body"] is None or limit["body"] in everywhere)
    ]
    for body in all_bodies(data):
        if body.get("loss"):
            body["loss"]["of"] = [name for name in body["loss"]["of"] if name in everywhere and name != body["id"]]
            body["loss"] = body["loss"] if body["loss"]["of"] else None
    _in_builds(data)
    _in_points(data, everywhere)
    _in_records(data, sensors, everywhere)


def _orphans(data: Plain) -> None:
    """A body whose carrier has gone goes with it."""
    while True:
        there = {body["id"] for body in all_bodies(data)} | _HELD | {"floating"}
        lists = [data["device"], *data["builds"]]
        keys = ["bodies", *["added"] * len(data["builds"])]
        gone = False
        for holder, key in zip(lists, keys, strict=True):
            kept = [body for body in holder[key] if body["on"] in there]
            gone = gone or len(kept) < len(holder[key])
            holder[key] = kept
        if not gone:
            return


def _in_builds(data: Plain) -> None:
    own = {body["id"] for body in data["device"]["bodies"]}
    fasteners = {fastener["id"] for fastener in data["device"]["fasteners"]}
    for build in data["builds"]:
        here = own | {body["id"] for body in build["added"]}
        build["removed"] = [name for name in build["removed"] if name in own]
        for joint in build["joints"]:
            joint["lower"] = [name for name in joint["lower"] if name in here]
        build["joints"] = [joint for joint in build["joints"] if joint["upper"] in here and joint["lower"]]
        build["fastener_settings"] = [setting for setting in build["fastener_settings"] if setting["fastener"] in fasteners]
        build["overrides"] = {path: value for path, value in build["overrides"].items() if _leads_somewhere(data, path)}


def _leads_somewhere(data: Plain, path: str) -> bool:
    steps = path.split(".")
    lists = {"device.bodies": data["device"]["bodies"], "device.fasteners": data["device"]["fasteners"]}
    items = lists.get(".".join(steps[:2]), data["materials"] if steps[0] == "materials" else None)
    wanted = steps[2] if len(steps) > 2 and steps[0] == "device" else steps[1] if len(steps) > 1 else ""
    return items is None or any(one["id"] == wanted for one in items)


def _in_points(data: Plain, everywhere: set[str]) -> None:
    for point in data["points"]:
        for key in ("powers_w", "split", "fans_percent", "fans_rpm", "power_limits_w", "throttle_at_c"):
            point[key] = {name: value for name, value in point[key].items() if name in everywhere}


def _in_records(data: Plain, sensors: set[str], everywhere: set[str]) -> None:
    joints = {joint["id"] for build in data["builds"] for joint in build["joints"]}
    for group in data["groups"]:
        group["joints"] = [name for name in group["joints"] if name in joints]
    data["groups"] = [group for group in data["groups"] if group["joints"]]
    points = {point["id"] for point in data["points"]}
    data["goals"] = [g for g in data["goals"] if g["sensor"] in sensors and (g["point"] is None or g["point"] in points)]
    data["aims"]["sensors"] = [name for name in data["aims"]["sensors"] if name in sensors]
    for channel in data["mappings"]:
        if channel["sensor"] not in sensors:
            channel["sensor"] = None
    for run in data["runs"]:
        run["spots"] = [spot for spot in run["spots"] if spot["sensor"] in sensors]
        for channel in run["channels"]:
            if channel["sensor"] not in sensors:
                channel["sensor"] = None
            if channel["body"] not in everywhere:
                channel["body"] = None
    images = {image["id"] for image in data["images"]}
    data["tracings"] = [tracing for tracing in data["tracings"] if tracing["image"] in images]
