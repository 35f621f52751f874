"""Fields of model objects: every value of every object of the demo can be shown, typed back, and is found by the right name."""

from __future__ import annotations

import pytest

from ashen_bridge.editing.fields import Field, fields_of, label_of, node_at
from ashen_bridge.editing.targets import targets
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model import paths
from ashen_bridge.model.errors import PathError
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Quantity
from ashen_bridge.model.signs import unit_of
from devices import FOUR, Card, project

DEMO = open_anything("demo:correlator").project
OBJECTS = [
    *(one.path for one in targets(DEMO, "plan_a")),
    *(f"materials.{material.id}" for material in DEMO.materials),
    *(f"points.{point.id}" for point in DEMO.points),
]


def back(field: Field) -> object:
    """Return a field's value as it would be typed back."""
    return field.value.model_dump(mode="json") if isinstance(field.value, Quantity) else field.value


@pytest.mark.parametrize("path", OBJECTS)
def test_every_value_of_every_object_can_be_set_to_what_it_is(path: str) -> None:
    fields = fields_of(DEMO, path)
    assert fields
    assert len({field.path for field in fields}) == len(fields)
    values = {field.path: back(field) for field in fields if field.kind != "absent"}
    assert paths.set_values(DEMO, values) == DEMO


def test_every_number_with_a_unit_in_its_name_shows_that_unit() -> None:
    for path in OBJECTS:
        for field in fields_of(DEMO, path):
            name = field.path.rsplit(".", 1)[1]
            if field.kind in ("quantity", "number") and name.endswith(("_mm", "_w", "_c", "_kpa", "_um", "_n")):
                assert field.unit, field.path


@pytest.mark.parametrize(
    ("name", "unit"),
    [
        ("height_mm", "mm"),
        ("rate_n_mm", "N/mm"),
        ("preload_n", "N"),
        ("conductivity_w_mk", "W/m·K"),
        ("in_plane_conductivity_w_mk", "W/m·K"),
        ("resistance_mm2k_w", "mm²·K/W"),
        ("film_front_w_m2k", "W/m²·K"),
        ("convective_k_w", "K/W"),
        ("crown_um", "µm"),
        ("compliance_um_n", "µm/N"),
        ("volume_mm3", "mm³"),
        ("yield_stress_kpa", "kPa"),
        ("heat_capacity_j_k", "J/K"),
        ("offset_k", "K"),
        ("max_c", "°C"),
        ("exponent", ""),
        ("w_mm", "mm"),
    ],
)
def test_units_are_read_off_names(name: str, unit: str) -> None:
    assert unit_of(name) == unit


def test_choices_bounds_and_missing_parts() -> None:
    fields = {field.path.rsplit(".", 1)[1]: field for field in fields_of(DEMO, "device.bodies.cooler")}
    assert ("copper", "Copper") in fields["material"].choices
    assert (fields["thickness_mm"].low, fields["thickness_mm"].high) == (0.0, 200.0)
    assert fields["height_mm"].optional
    screw = {field.path.rsplit(".", 1)[1]: field for field in fields_of(DEMO, "device.fasteners.spring_sw")}
    assert screw["spring"].kind == "absent"
    assert screw["kind"].choices[0] == ("sprung", "Sprung")
    assert label_of("landing_step") == "Landing step"


def test_paths_that_lead_nowhere_say_so() -> None:
    with pytest.raises(PathError, match="no 'nobody'"):
        node_at(DEMO, "device.bodies.nobody")
    with pytest.raises(PathError):
        node_at(Project(), "builds.0")


def test_pieces_and_inner_lists_have_fields_of_their_own() -> None:
    of = project(Card(FOUR))
    fields = fields_of(of, "builds.now.joints.pad_0.pieces.pad")
    names = {field.path.rsplit(".", 1)[1] for field in fields}
    assert names == {*("material", "thickness_mm", "volume_mm3", "footprint", "state", "age_days", "bare_share", "worked")}
