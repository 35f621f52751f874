"""Every number a prediction stands on, with origin and ±, and how much each one matters to the temperatures that have a limit."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from ashen_bridge.model import paths
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.joints import PieceState
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine
    from ashen_bridge.predict.report import Report

# These play no part in a steady prediction: they store heat, judge a result, or describe what is bought.
_NOT_USED = {
    *("density_kg_m3", "specific_heat_j_kgk", "heat_capacity_j_k", "mould_density_kg_m3", "mould_specific_heat_j_kgk"),
    *("pressure_min_kpa", "pressure_max_kpa", "max_pressure_kpa", "max_temperature_c", "max_c", "price_per_cm2"),
    *("relative_uncertainty", "coil_bind_mm", "noise_db", "room_noise_db", "closing_force_n", "max_w", "max_lift_mm", "lift_mm"),
}
_LATER = {"relaxed_share", "ageing_per_year"}  # play a part once a build has been in service
_TURNED = {"nut_factor": "torque_nm", "pitch_mm": "turns", "diameter_mm": "torque_nm"}
_TABLES = {
    "powers_w": "power_w",
    "split": "share_of_board",
    "fans_percent": "fan_percent",
    "fans_rpm": "fan_rpm",
    "power_limits_w": "power_limit_w",
    "throttle_at_c": "throttle_at_c",
}
"""Tables by body of an operating point → what one of their numbers is called."""
_ELASTIC = {"youngs_modulus_gpa", "poisson_ratio"}  # play a part where the board bends
_BEND = ("board", "substrate", "component")


@dataclass(frozen=True)
class Assumption:
    """One number, or several alike that are one assumption (the height of eight packages of one kind).

    `effect_k` is by how much the temperature that moves most does so when all of them are off by one standard
    uncertainty, None until that has been computed; `sensor` is the one that moves. `effects`: by how much
    every sensor does, by id.
    """

    paths: tuple[str, ...]
    field: str
    owners: tuple[str, ...]
    value: float
    uncertainty: float
    origin: str
    note: str
    effect_k: float | None = None
    sensor: str = ""
    effects: tuple[tuple[str, float], ...] = ()

    @property
    def assumed(self) -> bool:
        """Whether nobody measured it or looked it up."""
        return self.origin == "assumed"


def assumptions(project: Project, build_id: str, point_id: str) -> tuple[Assumption, ...]:
    """Return the numbers that a prediction of this build at this point stands on, alike ones together, in file order."""
    data = project.model_dump(mode="json")
    build = next(build for build in data["builds"] if build["id"] == build_id)
    point = next(point for point in data["points"] if point["id"] == point_id)
    gone = set(build["removed"])
    found: dict[tuple[Any, ...], Assumption] = {}
    roots = [
        *((f"device.bodies.{b['id']}", b, b) for b in data["device"]["bodies"] if b["id"] not in gone),
        *((f"builds.{build_id}.added.{b['id']}", b, b) for b in build["added"]),
        *((f"device.fasteners.{f['id']}", f, f) for f in data["device"]["fasteners"]),
        *((f"builds.{build_id}.joints.{j['id']}", j, j) for j in build["joints"]),
        *((f"materials.{m['id']}", m, m) for m in data["materials"] if m["id"] in _used_materials(data, build)),
        (f"points.{point_id}", point, point),
    ]
    idle = _idle(data, build)
    for root, node, owner in roots:
        for path, quantity in _quantities(node, root):
            if idle(path):
                continue
            field = path.rsplit(".", 1)[1]
            about = field if field in type_fields(path) else _part_of(data, path)
            if field in _NOT_USED or (quantity["uncertainty"] == 0 and quantity["origin"] != "assumed"):
                continue
            if quantity["uncertainty"] == 0 and quantity["value"] == 0:
                continue  # nothing is assumed by "there is none"
            key = (_kind_of(owner), _inner(path, root), *(quantity[name] for name in ("value", "uncertainty", "origin", "note")))
            if path.startswith(("materials.", "points.")) and ".powers_w." not in path:
                key = (*key, root)
            if ".powers_w." in path:
                part = next((b for b in data["device"]["bodies"] if b["id"] == field), owner)
                key = ("power", _kind_of(part), *key[2:])
            label = about if ".powers_w." in path else owner["name"] or owner["id"]
            old = found.get(key)
            if old is None:
                name = _TABLES.get(path.split(".")[-2]) or _inner(path, root)
                values = (quantity["value"], quantity["uncertainty"], quantity["origin"], quantity["note"])
                found[key] = Assumption((path,), name, (label,), *values)
            else:
                found[key] = replace(old, paths=(*old.paths, path), owners=(*old.owners, label))
    return tuple(found.values())


def type_fields(path: str) -> tuple[str, ...]:
    """Return the last step of a path unless it is an id inside a table of powers or fans."""
    head, _, last = path.rpartition(".")
    return () if head.rpartition(".")[2] in _TABLES else (last,)


def _part_of(data: dict[str, Any], path: str) -> str:
    name = path.rsplit(".", 1)[1]
    bodies = [*data["device"]["bodies"], *(body for build in data["builds"] for body in build["added"])]
    return next((body["name"] or body["id"] for body in bodies if body["id"] == name), name)


def _idle(data: dict[str, Any], build: dict[str, Any]) -> Callable[[str], bool]:
    """Return which numbers play no part although others of their name do: moduli of what is rigid, roughness under paste."""
    bodies = [*data["device"]["bodies"], *build["added"]]
    bends = any(body["kind"] == "board" and body["bends"] for body in bodies)
    bent = {name for body in bodies if bends and body["kind"] in _BEND for name in _materials_of(body)}
    bent |= {body["material"] for body in bodies if body["kind"] == "plate" and body["bends"] and body["on"] == "floating"}
    kinds = {material["id"]: material["kind"] for material in data["materials"]}
    wet = {
        end
        for joint in build["joints"]
        if any(kinds.get(piece["material"]) == "liquid metal" for piece in joint["pieces"])
        for end in (joint["upper"], *joint["lower"])
    }

    claimed = {
        material["id"]
        for material in data["materials"]
        if any(one["claimed"] for one in material["sources"]) and not any(one["method"] for one in material["sources"])
    }
    aged = {
        piece["material"]
        for joint in build["joints"]
        for piece in joint["pieces"]
        if piece["age_days"] or piece["state"] == PieceState.DRIED
    }
    bare = {
        end
        for joint in build["joints"]
        for end in (joint["upper"], *joint["lower"])
        if not joint["pieces"] and not joint["stated_mm2k_w"]
    }
    settings = {one["fastener"]: one for one in build["fastener_settings"]}
    metal = {name for body in bodies if body["id"] in bare for name in _materials_of(body)}

    def plays_no_part(path: str) -> bool:
        field = path.rsplit(".", 1)[1]
        if field in _LATER:
            return path.split(".")[1] not in aged
        if field in _TURNED:
            return settings.get(path.split(".")[2], {}).get(_TURNED[field]) is None
        if field == "claim_factor":
            return path.split(".")[1] not in claimed
        if field == "microhardness_gpa":
            return path.split(".")[1] not in metal
        if field == "shear_gpa_mm":
            return not bends
        if field in _ELASTIC:
            return path.split(".")[1] not in bent
        return field == "roughness_um" and not any(f".bodies.{body}." in path or f".added.{body}." in path for body in wet | bare)

    return plays_no_part


def _materials_of(body: dict[str, Any]) -> set[str]:
    inner = body.get("make_up") or body
    return {inner[key] for key in ("material", "active_material") if inner.get(key)}


def _inner(path: str, root: str) -> str:
    """Return the path inside its owner, ids of landings and pieces left out so that alike ones meet."""
    steps = path.removeprefix(root + ".").split(".")
    return ".".join(step for n, step in enumerate(steps) if n == 0 or steps[n - 1] not in ("landings", "pieces", "copper"))


def _kind_of(owner: dict[str, Any]) -> tuple[Any, ...]:
    return owner.get("kind"), owner.get("role"), owner.get("side")


def _used_materials(data: dict[str, Any], build: dict[str, Any]) -> set[str]:
    used = {piece["material"] for joint in build["joints"] for piece in joint["pieces"]}
    for body in (*data["device"]["bodies"], *build["added"]):
        used |= _materials_of(body)
    return used


def _quantities(node: Any, prefix: str) -> Iterator[tuple[str, dict[str, Any]]]:
    if paths.is_quantity(node):
        yield prefix, node
    elif isinstance(node, dict):
        for key, child in node.items():
            yield from _quantities(child, f"{prefix}.{key}")
    elif isinstance(node, list):
        for number, child in enumerate(node):
            if isinstance(child, dict):
                yield from _quantities(child, f"{prefix}.{child.get('id', number)}")


def weigh(
    engine: Engine, project: Project, build_id: str, point_id: str, listed: Sequence[Assumption]
) -> Iterator[tuple[float, tuple[int, Assumption]]]:
    """Yield (progress, (number, assumption with its effect)) for each of some assumptions.

    Each is moved by one standard uncertainty on the coarse field. One whose moved state cannot even be assembled keeps
    `effect_k` None.
    """
    base = engine.predict(project, build_id, point_id, fidelity="coarse").report
    for n, assumption in enumerate(listed):
        yield (n + 1) / len(listed), (n, _weighed(engine, project, base, assumption))


def _weighed(engine: Engine, project: Project, base: Report, assumption: Assumption) -> Assumption:
    if assumption.uncertainty == 0:
        return replace(assumption, effect_k=0.0)
    for sign in (1.0, -1.0):
        try:
            moved = paths.set_values(project, dict.fromkeys(assumption.paths, assumption.value + sign * assumption.uncertainty))
            if base.sensors:
                sensors, _ = engine.shown(moved, base.build, base.point)
                watched = [(abs(b.value_c - a.value_c), a.id, a.name) for a, b in zip(base.sensors, sensors, strict=True)]
            else:
                report = engine.predict(moved, base.build, base.point, fidelity="coarse").report
                pairs = zip(base.components, report.components, strict=True)
                watched = [(abs(b.t_max_c - a.t_max_c), a.id, a.id) for a, b in pairs]
        except AshenError:
            continue
        effect, _, sensor = max(watched, default=(0.0, "", ""))
        return replace(assumption, effect_k=effect, sensor=sensor, effects=tuple((one, k) for k, one, _ in watched))
    return assumption


def combined(weighed: Sequence[Assumption]) -> dict[str, float] | None:
    """Return the combined standard uncertainty [K] of every sensor by id; None while one of the numbers has not been weighed.

    Root of the sum of squares of the single effects: JCGM 100:2008 (GUM), 5.1.2. Numbers that are one assumption move together,
    different ones independently. First order: near a cliff, where a pad lets go, it says too little.
    """
    if any(one.effect_k is None for one in weighed):
        return None
    squares: dict[str, float] = {}
    for one in weighed:
        for sensor, effect in one.effects:
            squares[sensor] = squares.get(sensor, 0.0) + effect**2
    return {sensor: math.sqrt(square) for sensor, square in squares.items()}
