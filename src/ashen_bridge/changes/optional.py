"""Parts of an object that may be missing: put in with typical numbers, or taken out."""

from __future__ import annotations

from typing import Any

from pydantic_core import to_jsonable_python

from ashen_bridge.library.typical import typical
from ashen_bridge.model import paths
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import replaced

Plain = dict[str, Any]


def _spring(_: Plain) -> Any:
    # Of the size of a small cooler's springs: k = G·d⁴/(8·D³·n) comes to about 12 N/mm.
    numbers = {"wire_mm": (1.0, 0.02), "mean_coil_mm": (5.5, 0.1), "active_turns": (5.0, 0.25)}
    return {name: {"value": value, "uncertainty": spread, "origin": "assumed"} for name, (value, spread) in numbers.items()}


def _sink(_: Plain) -> Any:
    return {"fixed_k_w": typical("sink_fixed_k_w"), "convective_k_w": typical("sink_convective_k_w")}


def _outline(owner: Plain) -> Any:
    outline = owner.get("footprint")
    if outline is None:
        raise ProjectError("There is nothing yet that this outline could follow; draw it in the plan.")
    return outline


def _spot(_: Plain) -> Any:
    raise ProjectError("A spot needs a place: set it by its path.")


def _flow(_: Plain) -> Any:
    return {"yield_stress_kpa": {"value": 0.1, "uncertainty": 0.05}, "filler_um": {"value": 20.0, "uncertainty": 5.0}}


def _compression(_: Plain) -> Any:
    return {
        "points": [{"strain": 0.0, "pressure_kpa": 0.0}, {"strain": 0.3, "pressure_kpa": 140.0}],
        "sample_thickness_mm": {"value": 1.0},
        "sample_area_mm2": {"value": 645.0},
    }


def _number(value: float, spread: float) -> Plain:
    return {"value": value, "uncertainty": spread, "origin": "assumed"}


_SINKS: dict[str, Plain] = {
    "fins": {
        "count": 20,
        "fin_thickness_mm": _number(0.5, 0.1),
        "fin_height_mm": _number(30.0, 2.0),
        "fans": [
            {
                "id": "fan",
                "noise_db": _number(35.0, 3.0),
                "curve": [{"flow_m3_h": 0.0, "pressure_pa": 40.0}, {"flow_m3_h": 60.0, "pressure_pa": 0.0}],
            }
        ],
    },
    "natural": {},
    "liquid": {
        "block_k_w": _number(0.06, 0.02),
        "radiator_k_w": _number(0.12, 0.04),
        "flow_l_min": _number(1.0, 0.3),
        "rated_flow_l_min": _number(1.0, 0.0),
    },
}


def _leakage(_: Plain) -> Any:
    return {"share": _number(0.1, 0.05), "at_c": _number(60.0, 0.0)}


def _loss(owner: Plain) -> Any:
    raise ProjectError(f"What '{owner.get('id')}' feeds has to be named: set {owner.get('id')}.loss by its path.")


def _arm(_: Plain) -> Any:
    return {"length_mm": _number(20.0, 1.0), "width_mm": _number(6.0, 0.3), "thickness_mm": _number(0.6, 0.05)}


def _foil(owner: Plain) -> Any:
    return {"material": owner["material"], "thickness_mm": _number(0.1, 0.02)}


def _worked(owner: Plain) -> Any:
    if owner.get("thickness_mm") is None:
        raise ProjectError("Only a sheet can have been shaved or stretched.")
    return {"from_mm": {**owner["thickness_mm"], "value": round(owner["thickness_mm"]["value"] * 1.25, 2)}}


_PARTS = {
    "foil": _foil,
    "worked": _worked,
    "vias": lambda _: {},
    "spring": _spring,
    "sink": _sink,
    "footprint": _outline,
    "spot": _spot,
    "flow": _flow,
    "compression": _compression,
    "leakage": _leakage,
    "loss": _loss,
    "arm": _arm,
}


def put_part(project: Project, path: str) -> Project:
    """Put a missing part in at a path, every number assumed. Raises `ProjectError` in words where it cannot be guessed."""
    owner, _, name = path.rpartition(".")
    carrier = owner.rpartition(".")[0] if path.endswith(".sink.footprint") else owner
    said = {name: _PARTS[name](to_jsonable_python(paths.node_at(project, carrier)))}
    if name in ("spring", "arm"):
        said["rate_n_mm"] = None  # a spring that is measured says its rate itself
    return paths.changed_at(project, owner, lambda one: replaced(one, **said))


def take_part(project: Project, path: str) -> Project:
    """Take an optional part out again."""
    owner, _, name = path.rpartition(".")
    return paths.changed_at(project, owner, lambda one: replaced(one, **{name: None}))


def change_sink(project: Project, path: str, kind: str) -> Project:
    """Make the sink at a path one of another kind, every number of it assumed; where it stands and what it stores stay."""
    old = paths.node_at(project, path)
    kept: Plain = {name: getattr(old, name) for name in ("heat_capacity_j_k", "footprint")}
    if kind != "natural" and old.fans:
        kept["fans"] = old.fans
    made = {**(_sink({}) if kind == "rated" else _SINKS[kind]), **kept, "type": kind}
    return paths.changed_at(project, path.rpartition(".")[0], lambda one: replaced(one, sink=made))
