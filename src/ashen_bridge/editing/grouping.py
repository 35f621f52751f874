"""How the fields of a part are laid out: what decides first, what seldom does folded away, what cannot apply absent."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from pydantic import BaseModel

from ashen_bridge.editing.fields import Field
from ashen_bridge.model.bodies import Component, Plate
from ashen_bridge.model.build import OperatingPoint
from ashen_bridge.model.fasteners import Fastener
from ashen_bridge.model.inner import BaseKind
from ashen_bridge.model.material import Material
from ashen_bridge.model.quantity import Quantity
from ashen_bridge.words.numbers import short

_DECIDES = (
    *("name", "type", "kind", "role", "height_mm", "thickness_mm", "step_mm", "material", "base", "spreads_w_mk", "rate_n_mm"),
    *("travel_mm", "reference_mm", "preload_n", "seat_mm", "conductivity_w_mk", "contact_mm2k_w", "board_w", "ambient_c"),
    *("convective_k_w", "fixed_k_w", "exponent", "junction_to_case_k_w", "junction_to_board_k_w", "base_reference"),
)
_RATED, _METAL, _TIME = "How it was rated, and ages", "As a metal, and when bent", "Over time"
_OF_MATERIALS = {
    **dict.fromkeys(("stock_thicknesses_mm", "price_per_cm2"), "Bought as"),
    **dict.fromkeys(("max_pressure_kpa", "max_temperature_c", "least_thickness_mm"), "Limits"),
    **dict.fromkeys(("contains_gallium", "attacked_by_gallium", "electrically_conductive"), "Handling"),
    **dict.fromkeys(("claim_factor", "contact_reference_kpa", "contact_exponent", "ageing_per_year"), _RATED),
    **dict.fromkeys(("microhardness_gpa", "temperature_exponent", "youngs_modulus_gpa", "poisson_ratio"), _METAL),
    **dict.fromkeys(("density_kg_m3", "specific_heat_j_kgk"), _TIME),
}
_OF_PARTS = ("Face form", "Surface", "To its carrier", "Copper layer", "Hole", "Region", "Could be added")
_AIR, _ROUND, _NOISE = "Air", "What bare faces lose", "Noise"
_OF_POINTS = {
    **dict.fromkeys(("ambient_c", "inlet_c", "front_air_c", "rear_air_c", "inside", "vent_k_w"), _AIR),
    **dict.fromkeys(("orientation", "convection", "film_front_w_m2k", "film_rear_w_m2k"), _ROUND),
    **dict.fromkeys(("noise_db", "room_noise_db"), _NOISE),
}
_SELDOM = (_RATED, _METAL, _TIME, _NOISE, *_OF_PARTS)
_SCREWED = ("rate_n_mm", "travel_mm", "reference_mm", "coil_bind_mm", "spring", "arm")
_SEATED = ("preload_n", "seat_mm", "pitch_mm", "diameter_mm", "nut_factor", "stiffness_n_mm")


@dataclass(frozen=True)
class Group:
    """Fields under one heading; the first group has none. One that is `seldom` wanted starts folded, with a line about it."""

    title: str
    fields: tuple[Field, ...]
    seldom: bool = False

    @property
    def summary(self) -> str:
        """What it holds, in a line: its numbers as far as they go."""
        said = [
            f"{one.label.split(',')[0].lower()} {text}{f' {one.unit}' if one.unit else ''}"
            for one in self.fields
            if (text := _text(one))
        ]
        return " · ".join(said[:3]) if said else ", ".join(one.label.lower() for one in self.fields[:4])


def grouped(node: BaseModel | None, fields: Sequence[Field]) -> tuple[Group, ...]:
    """Return the fields of an object in groups: its own first, then those of its inner parts, then what could be added."""
    there = [one for one in fields if applies(node, one)]
    own = [one for one in there if not one.section and one.kind != "absent"]
    titles = _OF_MATERIALS if isinstance(node, Material) else _OF_POINTS if isinstance(node, OperatingPoint) else {}
    titled = {one.path: titles.get(_name(one), "") for one in own}
    groups = []
    for title in ("", *dict.fromkeys(titles.values())):
        inner = [one for one in own if titled[one.path] == title]
        if inner:
            groups.append(Group(title, _by_weight(inner), title in _SELDOM))
    for title in dict.fromkeys(one.section for one in there if one.section):
        inner = [one for one in there if one.section == title and one.kind != "absent"]
        spot = any(_name(one) == "base_reference" and one.value == "source_spot" for one in inner)
        shown = [one for one in inner if spot or one.value is not None or _name(one) not in ("spot_w_mm", "spot_h_mm")]
        if shown:
            groups.append(Group(title, _by_weight(shown), title.rstrip(" 0123456789") in _SELDOM))
    absent = tuple(one for one in there if one.kind == "absent")
    return tuple([*groups, Group("Could be added", absent, True)] if absent else groups)


def applies(node: BaseModel | None, field: Field) -> bool:
    """Whether a field says anything of an object as it is: a spring has no seat, a plate that floats no height."""
    name = _name(field)
    if field.section or (field.value is not None and name in ("spring", "arm")):
        return True
    if isinstance(node, Fastener):
        springs = node.kind in ("sprung", "spring arm")
        stated = field.kind == "quantity" and field.value is not None and name not in ("nut_factor", "stiffness_n_mm")
        return stated or (name not in _SEATED if springs else name not in _SCREWED)
    if isinstance(node, Plate):
        floats = node.on == "floating"
        hidden = ("height_mm", "give_um_n", "closing_force_n") if floats else ()
        return name not in hidden and (name != "spreads_w_mk" or node.base is not BaseKind.SOLID or field.value is not None)
    if isinstance(node, OperatingPoint):
        if name == "vent_k_w":
            return node.inside == "vented" or field.value is not None
        return node.convection == "stated" or name not in ("film_front_w_m2k", "film_rear_w_m2k")
    if isinstance(node, Component):
        return node.role == "die" or name not in ("pressure_min_kpa", "pressure_max_kpa") or field.value is not None
    return True


def _by_weight(fields: Sequence[Field]) -> tuple[Field, ...]:
    """What decides first, the rest in the model's order."""
    return tuple(sorted(fields, key=lambda one: _DECIDES.index(name) if (name := _name(one)) in _DECIDES else len(_DECIDES)))


def _name(field: Field) -> str:
    return field.path.rpartition(".")[2]


def _text(field: Field) -> str:
    bare = field.value.value if isinstance(field.value, Quantity) else field.value
    return short(bare, 4) if isinstance(bare, int | float) and not isinstance(bare, bool) else ""
