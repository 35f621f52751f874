"""The values of one model object as fields to show and type: label, unit, kind, choices, read off the model's own types."""

from __future__ import annotations

import types
from collections.abc import Iterator
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel

from ashen_bridge.model.bodies import Board, Substrate
from ashen_bridge.model.paths import node_at
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Bounds, Quantity
from ashen_bridge.model.signs import unit_of, without_unit

LABELS = {
    "x_mm": "x (left edge)",
    "y_mm": "y (lower edge)",
    "w_mm": "Width",
    "h_mm": "Height in plan",
    "height_mm": "Height",
    "on": "Stands on",
    "crown_um": "Crown (+) or hollow (−)",
    "step_mm": "Step, set back = +",
    "resistance_mm2k_w": "Resistance to its carrier",
    "rate_n_mm": "Spring rate",
    "travel_mm": "Spring travel when closed",
    "reference_mm": "Plate above board when measured",
    "coil_bind_mm": "Coil bind at travel",
    "seat_mm": "Seat height",
    "active_w_mm": "Active layer, width",
    "active_h_mm": "Active layer, height",
    "convective_k_w": "Resistance base to air",
    "fixed_k_w": "Resistance of the base",
    "exponent": "Falls with fan speed to the power",
    "air_reference": "Rated against",
    "base_reference": "Rated from",
    "air_rise_k_w": "Air rise per watt",
    "pressure_min_kpa": "Least pressure",
    "pressure_max_kpa": "Most pressure",
    "max_c": "At most",
    "offset_k": "Reads too high by",
    "compliance_um_n": "Gives way by",
    "mean_coil_mm": "Mean coil diameter",
    "wire_mm": "Wire diameter",
    "active_turns": "Active turns",
    "contact_mm2k_w": "Contact resistance per face",
    "filler_um": "Largest filler grain",
    "relative_uncertainty": "Curve, relative ±",
    "price_per_cm2": "Price",
    "youngs_modulus_gpa": "Young's modulus",
    "poisson_ratio": "Poisson's ratio",
    "in_plane_conductivity_w_mk": "Conductivity in plane",
    "max_pressure_kpa": "Highest pressure",
    "max_temperature_c": "Highest temperature",
    "temperature_exponent": "k goes with T to the power",
    "spot_w_mm": "Spot, width",
    "spot_h_mm": "Spot, height",
    "kind": "Kind",
    "convection": "Bare faces lose heat by",
    "inside": "Air inside the case is",
    "vent_k_w": "Air rise per watt, vented",
    "room_noise_db": "Noise of the room",
    "give_um_n": "Bulges by",
    "closing_force_n": "Held shut with",
    "at_c": "Stated at",
    "per_k": "Grows e-fold in",
    "share": "Share",
    "fixed_w": "Without load",
    "film_front_w_m2k": "Air takes from the front",
    "film_rear_w_m2k": "Air takes from the rear",
    "claim_factor": "Believed of a printed conductivity",
    "contact_reference_kpa": "Contact resistance at",
    "contact_exponent": "Falls with pressure to the power",
    "ageing_per_year": "Resistance grows per year by",
    "microhardness_gpa": "Microhardness",
    "relaxed_share": "Pressure left after a day",
    "pitch_mm": "Thread pitch",
    "diameter_mm": "Thread diameter",
    "nut_factor": "Nut factor",
    "count": "Number of fins",
    "runs": "Fins run along",
    "block_k_w": "Block to coolant",
    "radiator_k_w": "Radiator to air",
    "power_w": "Power",
    "shear_gpa_mm": "Shear stiffness",
    "film_mm": "Mean film",
    "thickness_um": "Thickness",
    "cover": "Covers",
    "land_cover": "Copper on the faces covers",
    "through_w_mk": "Conductivity through",
    "spreads_w_mk": "Conducts along itself",
    "conductance_w_k": "Conductance",
    "coolant_j_l_k": "Heat the coolant carries",
    "max_w": "Most heat",
    "max_lift_mm": "Highest lift",
    "board_w": "Power of the whole board",
    "base": "Base",
    "air_lost": "Air lost beside it",
    "rated_rpm": "Rated speed",
    "drill_mm": "Drill",
    "plating_um": "Plating",
    "pea_mm": "Pea, across",
    "bead_mm": "Bead, across",
    "length_mm": "Length",
    "bond_line_um": "Bond line",
    "rest": "What the power map leaves goes to",
    "grams": "Weighed",
    "bare_share": "Left bare",
    "from_mm": "Sheet it came from",
    "stated_mm2k_w": "Stated as a whole",
    "age_days": "In service",
    "fan_percent": "Fan speed",
}
SECTIONS = {
    "footprint": "Outline",
    "form": "Face form",
    "finish": "Surface",
    "attach": "To its carrier",
    "make_up": "Inside",
    "sink": "Heatsink",
    "spring": "Spring, as measured",
    "area": "Area",
    "spot": "Spot",
    "compression": "Compression curve",
    "flow": "Flow",
    "leakage": "Leakage",
    "loss": "Loss for feeding others",
    "arm": "Spring arm",
    "foil": "Foil on it",
    "vias": "Vias",
    "worked": "Thinned by hand",
    "amount": "Dispensed",
}
PARTS_OF_LISTS = {
    "rects": "Outline",
    "holes": "Hole",
    "copper": "Copper layer",
    "regions": "Region",
    "recesses": "Pocket",
    "voids": "Void",
}
"""Lists whose items are shown with the object that has them → what one of them is called."""
SINK_KINDS = (
    ("rated", "Rated, by its data sheet"),
    ("fins", "Plate fins under a fan"),
    ("natural", "Rising air"),
    ("liquid", "Liquid loop"),
)
_SKIPPED = {
    *("id", "type", "landings", "power_map", "removed", "added", "points", "sources", "fans", "heat_pipes", "connectors", "of"),
    *("joins", "lower", "upper", "pieces"),
}
Kind = Literal["quantity", "number", "text", "choice", "flag", "numbers", "absent"]


@dataclass(frozen=True)
class Field:
    """One value: where it is, what to call it, and what it may be. `absent` is a part that is not there but could be."""

    path: str
    label: str
    unit: str
    kind: Kind
    value: Any
    section: str = ""
    choices: tuple[tuple[str, str], ...] = ()
    optional: bool = False
    low: float | None = None
    high: float | None = None


def fields_of(project: Project, path: str) -> tuple[Field, ...]:
    """Return all fields of the object at `path`, its inner parts included, its lists of further objects left out."""
    return tuple(_walk(project, node_at(project, path), path, ""))


def label_of(name: str) -> str:
    """Return what to call a field.

    >>> label_of("thickness_mm"), label_of("step_mm")
    ('Thickness', 'Step, set back = +')
    """
    if name in LABELS:
        return LABELS[name]
    words = without_unit(name).replace("_", " ")
    return words[:1].upper() + words[1:]


def _walk(project: Project, node: BaseModel, path: str, section: str) -> Iterator[Field]:
    for name, info in type(node).model_fields.items():
        if name in _SKIPPED or (name == "rest" and not getattr(node, "power_map", ())):
            continue
        value = getattr(node, name)
        where = f"{path}.{name}"
        inner, optional, bounds = _strip(info.annotation, info.metadata)
        if isinstance(value, tuple) and value and isinstance(value[0], BaseModel):
            for n, one in enumerate(value if name in PARTS_OF_LISTS else ()):
                heading = PARTS_OF_LISTS[name] + (f" {n + 1}" if len(value) > 1 else "")
                yield from _walk(project, one, f"{where}.{getattr(one, 'id', n)}", heading)
            continue
        if name == "sink" and value is not None:
            yield Field(f"{where}.type", "Kind", "", "choice", value.type, SECTIONS[name], SINK_KINDS)
        if isinstance(value, BaseModel) and not isinstance(value, Quantity):
            yield from _walk(project, value, where, SECTIONS.get(name, label_of(name)))
            continue
        field = _leaf(project, where, name, value, inner)
        if field is not None:
            low, high = (bounds.low, bounds.high) if bounds else (None, None)
            yield replace(field, section=section, optional=optional, low=low, high=high)


def _leaf(project: Project, path: str, name: str, value: Any, inner: Any) -> Field | None:
    label, unit = label_of(name), unit_of(name)
    choices = _named_choices(project, name)
    if choices is None and isinstance(inner, type) and issubclass(inner, StrEnum):
        choices = tuple((member.value, member.value.capitalize()) for member in inner)
    if choices is None and get_origin(inner) is Literal:
        choices = tuple((choice, str(choice).replace("_", " ").capitalize()) for choice in get_args(inner))
    if choices is not None:
        # A literal of one value says what kind of object this is; there is nothing to choose.
        return Field(path, label, "", "choice", value, choices=choices) if len(choices) > 1 else None
    if inner is Quantity or isinstance(value, Quantity):
        return Field(path, label, unit, "quantity", value)
    if get_origin(inner) is tuple and get_args(inner)[0] is float:
        return Field(path, label, unit, "numbers", value)
    if value is None and isinstance(inner, type) and issubclass(inner, BaseModel):
        return Field(path, SECTIONS.get(name, label), "", "absent", None)
    kinds: dict[Any, Kind] = {bool: "flag", float: "number", int: "number", str: "text"}
    return Field(path, label, unit, kinds[inner], value) if inner in kinds else None


def _named_choices(project: Project, name: str) -> tuple[tuple[str, str], ...] | None:
    if name in ("material", "active_material"):
        return tuple((material.id, material.name) for material in project.materials)
    if name == "on":
        bodies = [body for body in project.device.bodies if isinstance(body, Board | Substrate)]
        return (*((body.id, body.label) for body in bodies), ("floating", "Floats"), ("case", "The case"), ("ground", "Nothing"))
    return None


def _strip(annotation: Any, metadata: list[Any]) -> tuple[Any, bool, Bounds | None]:
    """Return the bare type behind `X | None` and `Annotated`, whether None is allowed, and bounds if it has them."""
    bounds = next((one for one in metadata if isinstance(one, Bounds)), None)
    optional = False
    while True:
        origin = get_origin(annotation)
        if origin is Annotated:
            annotation, *more = get_args(annotation)
            bounds = bounds or next((one for one in more if isinstance(one, Bounds)), None)
        elif origin in (Union, types.UnionType):
            kept = [one for one in get_args(annotation) if one is not type(None)]
            optional = optional or len(kept) < len(get_args(annotation))
            if len(kept) > 1:
                return annotation, optional, bounds
            annotation = kept[0]
        else:
            return annotation, optional, bounds
