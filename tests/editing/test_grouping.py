"""Fields of a part in groups: what decides first, what cannot apply absent, nothing lost on the way."""

from __future__ import annotations

import pytest

from ashen_bridge.editing.fields import fields_of
from ashen_bridge.editing.grouping import grouped
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model.paths import node_at

PROJECT = open_anything("demo:correlator").project


def groups(path: str):  # type: ignore[no-untyped-def]
    return grouped(node_at(PROJECT, path), fields_of(PROJECT, path))


def names(path: str, title: str) -> list[str]:
    return next([one.path.rpartition(".")[2] for one in group.fields] for group in groups(path) if group.title == title)


def test_what_decides_comes_first_and_what_cannot_apply_is_absent() -> None:
    cooler = names("device.bodies.cooler", "")
    assert cooler[:4] == ["name", "role", "thickness_mm", "material"]
    assert not {"height_mm", "give_um_n", "closing_force_n", "spreads_w_mk"} & set(cooler), "it floats, and is solid"
    assert names("device.bodies.cooler", "Heatsink")[:4] == ["type", "convective_k_w", "fixed_k_w", "exponent"]
    assert "spot_w_mm" not in names("device.bodies.cooler", "Heatsink"), "it is rated from its whole base"
    spring = names("device.fasteners.spring_nw", "")
    assert {"rate_n_mm", "travel_mm"} <= set(spring)
    assert not {"preload_n", "seat_mm", "nut_factor"} & set(spring)
    assert "pressure_max_kpa" in names("device.bodies.die", "")
    assert "pressure_max_kpa" not in names("device.bodies.mem_l1", "")
    assert [group.title for group in groups("materials.pad_medium")][:2] == ["", "Bought as"]
    assert names("materials.pad_medium", "")[1:4] == ["kind", "conductivity_w_mk", "contact_mm2k_w"]


@pytest.mark.parametrize("path", ["device.bodies.die", "device.bodies.mem_l1", "device.bodies.board", "materials.pad_medium"])
def test_every_field_that_says_something_is_somewhere(path: str) -> None:
    found = [field.path for group in groups(path) for field in group.fields]
    assert len(set(found)) == len(found)
    stated = {field.path for field in fields_of(PROJECT, path) if field.kind == "quantity" and field.value is not None}
    assert stated <= set(found)


def test_a_folded_group_says_in_a_line_what_is_in_it() -> None:
    by_title = {group.title: group for group in groups("device.bodies.die")}
    assert by_title["Surface"].seldom
    assert by_title["Surface"].summary == "emissivity 0.9 · roughness 1 µm"
    assert by_title["Could be added"].summary == "leakage, loss for feeding others"
    assert not by_title["Outline"].seldom


def test_a_point_lists_the_film_only_where_it_is_stated() -> None:
    assert "film_front_w_m2k" in names(f"points.{PROJECT.points[0].id}", "What bare faces lose")
    buoy = open_anything("demo:buoy").project
    path = f"points.{buoy.points[0].id}"
    found = [one.path.rpartition(".")[2] for group in grouped(node_at(buoy, path), fields_of(buoy, path)) for one in group.fields]
    assert not {"film_front_w_m2k", "film_rear_w_m2k", "vent_k_w"} & set(found), "sealed, under rising air"


def test_a_point_tells_air_faces_and_noise_apart() -> None:
    found = {group.title: group for group in groups(f"points.{PROJECT.points[0].id}")}
    assert [one.path.rpartition(".")[2] for one in found["Air"].fields][:2] == ["ambient_c", "inlet_c"]
    assert found["Noise"].seldom
    assert not found["Air"].seldom
