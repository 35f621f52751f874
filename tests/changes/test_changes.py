"""Changes on values: what did not change is the same object, what did is checked as a whole file would be, an edit is a value."""

from __future__ import annotations

import inspect
import json
import pickle
import tracemalloc
from collections.abc import Iterator
from importlib import import_module
from pkgutil import iter_modules
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import BaseModel

import ashen_bridge.changes as package
from ashen_bridge.changes import bodies, builds, layers, materials, places, points, records, screws, values
from ashen_bridge.changes.difference import difference, reverse
from ashen_bridge.changes.edit import Edit, edit, is_change, read_edit, together
from ashen_bridge.editing import create, fragment, joining
from ashen_bridge.editing.targets import targets
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model import paths
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.errors import AshenError, ProjectError
from ashen_bridge.model.project import Project

DEMO = open_anything("demo:correlator").project
PLAN = DEMO.build("plan_a")
PADS = DEMO.groups[0].joints


def objects(node: Any) -> Iterator[Any]:
    """Every model object of a project."""
    if isinstance(node, BaseModel):
        yield node
        for name in type(node).model_fields:
            yield from objects(getattr(node, name))
    elif isinstance(node, tuple):
        for item in node:
            yield from objects(item)
    elif isinstance(node, dict):
        for item in node.values():
            yield from objects(item)


def made_anew(before: Project, after: Project) -> list[str]:
    old = {id(one) for one in objects(before)}
    return [type(one).__name__ for one in objects(after) if id(one) not in old]


@pytest.mark.parametrize(
    ("change", "anew"),
    [
        (edit("", layers.set_thickness, "plan_a", PADS[:1], 0, 1.23), {"Project", "Build", "Joint", "Piece", "Quantity"}),
        (edit("", values.set_values, {"device.bodies.die.height_mm": 0.81}), {"Project", "Device", "Component", "Quantity"}),
        (edit("", screws.set_washers, "plan_a", ("spring_1",), 0.7), {"Project", "Build", "FastenerSetting", "Quantity"}),
        (edit("", points.set_ambient, "load", 31.0), {"Project", "OperatingPoint", "Quantity"}),
        (edit("", records.set_aim, "complaint", "Loud."), {"Project", "Aims"}),
        (edit("", builds.rename_build, "plan_a", "Other"), {"Project", "Build"}),
    ],
    ids=lambda value: value.path if isinstance(value, Edit) else "",
)
def test_what_did_not_change_is_the_same_object(change: Edit, anew: set[str]) -> None:
    if change.path == "screws.set_washers":
        change = edit("", screws.set_washers, "plan_a", (DEMO.device.fasteners[0].id,), 0.7)
    if change.path == "points.set_ambient":
        change = edit("", points.set_ambient, DEMO.points[0].id, 31.0)
    after = change.applied(DEMO)
    assert set(made_anew(DEMO, after)) == anew
    assert after.materials is DEMO.materials
    assert after == Project.parse(after.model_dump(mode="json"))
    assert change.applied(after) is after, "what changes nothing is the same project"


def some_edits() -> st.SearchStrategy[Edit]:
    """Edits of many kinds with values that may fit or not, ids that may be there or not."""
    joint = st.sampled_from([PADS, PADS[:1], ("die_joint",), ("gone",)])
    where = st.sampled_from(["plan_a", DEMO.builds[0].id, "gone"])
    number = st.one_of(st.floats(-1.0, 4.0), st.sampled_from([0.0, 1e4, -300.0]))
    paths_ = st.sampled_from([path for path, value in paths.list_paths(DEMO) if isinstance(value, float)])
    body = st.sampled_from([f"device.bodies.{body.id}" for body in DEMO.device.bodies] + ["device.bodies.gone"])
    chosen = st.lists(body, min_size=1, max_size=3, unique=True).map(tuple)
    point = st.sampled_from([DEMO.points[0].id, "gone"])
    return st.one_of(
        st.builds(lambda b, j, v: edit("", layers.set_thickness, b, j, 0, v), where, joint, number),
        st.builds(lambda b, j, v: edit("", layers.thicken_sheets, b, j, v), where, joint, number),
        st.builds(lambda b, j: edit("", layers.remove_layer, b, j, 0), where, joint),
        st.builds(lambda b, j: edit("", layers.add_pad, b, j), where, joint),
        st.builds(lambda b, j, v: edit("", layers.set_stated, b, j, v), where, joint, number),
        st.builds(lambda b, j, m: edit("", layers.set_material, b, j, 0, m), where, joint, st.sampled_from(["pad_soft", "x"])),
        st.builds(lambda p, v: edit("", values.set_values, {p: v}), paths_, number),
        st.builds(lambda c, v: edit("", places.move_each, dict.fromkeys(c, (v, 1.0))), chosen, number),
        st.builds(lambda c: edit("", places.remove, c), chosen),
        st.builds(lambda p, v: edit("", points.set_ambient, p, v), point, number),
        st.builds(lambda p, v: edit("", points.scale_load, p, v), point, number),
        st.builds(lambda b, v: edit("", screws.set_washers, b, (DEMO.device.fasteners[0].id,), v), where, number),
        st.builds(lambda b: edit("", builds.delete_build, b), where),
        st.builds(lambda b: edit("", builds.copy_build, b, "copied", "Copy"), where),
        st.builds(lambda m: edit("", materials.remove_material, m), st.sampled_from(["copper", "pad_firm", "gone"])),
        st.builds(lambda v: edit("", bodies.weaken_sink, "cooler", v), number),
    )


@settings(max_examples=60, deadline=None)
@given(st.lists(some_edits(), min_size=1, max_size=6))
def test_any_edits_come_to_a_project_that_the_full_parse_takes_too(made: list[Edit]) -> None:
    project = DEMO
    for one in made:
        before = project.model_dump_json()
        try:
            after = one.applied(project)
        except AshenError as error:
            said = str(error)
            assert said
            assert "\n" not in said
            assert said.endswith(".")
        else:
            assert Project.parse(json.loads(after.model_dump_json())) == after
            assert project.model_dump_json() == before, "nothing is changed in place"
            project = after


@settings(max_examples=60, deadline=None)
@given(some_edits())
def test_an_edit_survives_file_and_process(one: Edit) -> None:
    plain = json.loads(json.dumps(one.to_plain()))
    again = read_edit(plain)
    assert again.to_plain() == one.to_plain()
    assert pickle.loads(pickle.dumps(one)) == one
    try:
        after = one.applied(DEMO)
    except AshenError as error:
        with pytest.raises(AshenError) as refused:
            again.applied(DEMO)
        assert str(refused.value) == str(error)
    else:
        assert again.applied(DEMO) == after


def test_edits_made_by_hand_survive_a_file_too() -> None:
    """Those that carry whole objects: bodies, joints, runs, parts on the clipboard."""
    chosen = [one for one in targets(DEMO, "plan_a") if one.id in ("mem_l1", "mem_l2") and one.kind == "component"]
    board = next(one for one in targets(DEMO, "plan_a") if one.kind == "board").box
    corner = (board[0] + 1.0, board[1] + 1.0, board[0] + 6.0, board[1] + 6.0)
    made = [
        create.new_component(DEMO, "plan_a", "memory", corner, Side.FRONT)[0],
        create.new_plate(DEMO, "plan_a", "cooler", corner, Side.FRONT)[0],
        joining.new_joint(DEMO, "plan_a", ["die"], "pad"),
        fragment.repeat(chosen, "plan_a", [(0.0, 30.0)]),
        fragment.mirror(chosen, "plan_a", "x", 100.0),
    ]
    for one in made:
        again = read_edit(json.loads(json.dumps(one.to_plain())))
        assert again.applied(DEMO) == one.applied(DEMO), one.path


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (None, "That is no edit"),
        ({"change": "layers.set_thickness"}, "That is no edit"),
        ({"change": "os.system", "says": {}}, "no change called 'os.system'"),
        ({"change": "layers._of_thickness", "says": {}}, "no change called"),
        ({"change": "layers.in_build", "says": {}}, "'build' is missing"),
        ({"change": "edit.read_edit", "says": {}}, "no change called"),
        ({"change": "layers.set_thickness", "says": {"build": "a", "joints": ["b"], "at": 0}}, "'thickness_mm' is missing"),
        ({"change": "layers.add_pad", "says": {"build": "a", "joints": ["b"], "more": 0}}, "unknown field 'more'"),
        ({"change": "builds.rename_build", "says": {"build": ["a"], "name": "x"}}, "'build':"),
    ],
)
def test_what_is_no_edit_is_said(data: Any, words: str) -> None:
    with pytest.raises(ProjectError, match=words):
        read_edit(data)


def test_an_edit_whose_ids_are_gone_is_refused_and_changes_nothing() -> None:
    kept = [
        edit("", layers.set_thickness, "plan_a", PADS, 0, 1.5),
        edit("", values.set_values, {"device.bodies.mem_l1.height_mm": 1.3}),
        edit("", screws.set_washers, "plan_a", (DEMO.device.fasteners[0].id,), 0.5),
        edit("", points.set_ambient, "gone", 30.0),
        edit("", bodies.toggle_pocket, "cooler"),
    ]
    gone = tuple(f"device.bodies.{body.id}" for body in DEMO.device.bodies if body.id.startswith("mem") or body.id == "cooler")
    without = places.remove(DEMO, gone)
    text = without.model_dump_json()
    for one in kept:
        with pytest.raises(AshenError) as refused:
            one.applied(without)
        assert str(refused.value).endswith("."), one.path
    assert without.model_dump_json() == text


def test_a_refused_value_is_said_with_its_whole_path() -> None:
    with pytest.raises(ProjectError, match=r"builds\.plan_a\.joints\.\w+\.pieces\.\w+\.thickness_mm: 0 is out of range"):
        layers.set_thickness(DEMO, "plan_a", PADS, 0, 0.0)
    with pytest.raises(ProjectError, match=r"device\.bodies\.die\.height_mm: -1 is out of range"):
        values.set_values(DEMO, {"device.bodies.die.height_mm": -1})


def test_the_difference_of_two_builds_is_the_edits_between_them() -> None:
    other = DEMO.builds[0].id
    found = difference(DEMO, "plan_a", other)
    assert found
    same = together(DEMO, found)
    assert difference(same, "plan_a", other) == ()
    apart = {"id", "name", "notes", "joints", "fastener_settings"}
    assert same.build("plan_a").model_dump(exclude=apart) == same.build(other).model_dump(exclude=apart)
    assert {one.id: one for one in same.build("plan_a").joints} == {one.id: one for one in same.build(other).joints}
    back = [reverse(one) for one in found]
    assert difference(together(DEMO, tuple(back)), other, "plan_a") == ()


def test_edits_share_what_they_do_not_change() -> None:
    """Undo keeps every project: a step takes as much as it changed."""
    tracemalloc.start()
    try:
        kept = [DEMO]
        for n in range(100):
            kept.append(layers.set_thickness(kept[-1], "plan_a", PADS, 0, 0.5 + n * 1e-3))
        size, _ = tracemalloc.get_traced_memory()
    finally:
        tracemalloc.stop()
    assert size / 100 < 20_000, "a thousand of them are counted by the benchmark"


def test_every_change_can_be_named_in_a_file() -> None:
    """A public function of the package that takes a project and gives one is a change: its words must be data."""
    found = 0
    for module in iter_modules(package.__path__):
        home = import_module(f"{package.__name__}.{module.name}")
        for name, function in inspect.getmembers(home, inspect.isfunction):
            if function.__module__ == home.__name__ and not name.startswith("_") and is_change(function):
                found += 1
    assert found > 45
