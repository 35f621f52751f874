"""Edits of bodies, fasteners, joints and what hangs on them, as pure values."""

from __future__ import annotations

import json
from collections.abc import Callable
from functools import partial

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ashen_bridge.changes.edit import Edit
from ashen_bridge.changes.parts import read_parts
from ashen_bridge.editing import changes, create, fragment, joining, materials, points, reshape
from ashen_bridge.editing.targets import Target, body_path, find, targets, under, within
from ashen_bridge.files.demos import open_anything
from ashen_bridge.geometry.checks import check_assembly
from ashen_bridge.model.bodies import Component, Plate, Side
from ashen_bridge.model.build import Build
from ashen_bridge.model.errors import AshenError, ProjectError
from ashen_bridge.model.material import MaterialKind
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from devices import FOUR, Card, project

BASE = project(Card(FOUR))
DEMO = open_anything("demo:correlator").project


def target(path: str, of: Project = BASE, build: str = "now") -> Target:
    found = find(targets(of, build), path)
    assert found is not None, path
    return found


def body(of: Project, name: str) -> Component | Plate:
    return next(one for one in of.device.bodies if one.id == name)  # type: ignore[return-value]


# ---- targets


def test_everything_in_plan_is_a_target_once() -> None:
    found = targets(DEMO, "plan_a")
    paths = [one.path for one in found]
    assert len(set(paths)) == len(paths)
    assert {"device.bodies.die", "device.fasteners.spring_sw", "device.bodies.cooler.landings.pocket"} <= set(paths)
    assert body_path(DEMO, "plan_a", "die") == "device.bodies.die"
    with pytest.raises(KeyError):
        body_path(DEMO, "plan_a", "nobody")


def test_the_smallest_thing_under_the_pointer_comes_first() -> None:
    found = under(targets(DEMO, "plan_a"), 104, 52, Side.FRONT, 1.0)
    assert [one.id for one in found] == ["die", "substrate", "cooler", "board"]
    assert under(targets(DEMO, "plan_a"), 84.3, 24.2, Side.FRONT, 1.0)[0].kind == "fastener"
    assert all(one.side is not Side.FRONT for one in under(targets(DEMO, "plan_a"), 95, 87, Side.REAR, 1.0) if one.side)


def test_a_band_takes_what_lies_wholly_inside_and_no_landing_of_a_taken_plate() -> None:
    found = within(targets(DEMO, "plan_a"), (55, 5, 195, 100), Side.FRONT)
    kinds = {one.kind for one in found}
    assert "landing" not in kinds
    assert "board" not in kinds
    assert {"die", "cooler", "mem_l1"} <= {one.id for one in found}


# ---- moving and sizing


def test_what_stands_on_a_body_and_lies_on_it_moves_with_it() -> None:
    half = joining.outline_piece("now", "pad_0", "pad", (8, 34, 14, 46)).applied(BASE)
    moved = reshape.move([target("device.bodies.part_0", half)], 3.0, -2.0).applied(half)
    assert body(moved, "part_0").footprint.bounds == (11, 32, 23, 44)
    assert moved.build().joint("pad_0").pieces[0].footprint.bounds == (11, 32, 17, 44)  # type: ignore[union-attr]
    carried = reshape.move([target("device.bodies.substrate", DEMO, "plan_a")], 5.0, 0.0).applied(DEMO)
    assert body(carried, "die").footprint.bounds[0] == body(DEMO, "die").footprint.bounds[0] + 5
    both = [target(f"device.bodies.{name}", DEMO, "plan_a") for name in ("substrate", "die")]
    once = reshape.move(both, 5.0, 0.0).applied(DEMO)
    assert body(once, "die").footprint.bounds == body(carried, "die").footprint.bounds, "never twice"


def test_landings_move_with_their_plate_and_alone() -> None:
    plate, pocket = "device.bodies.cooler", "device.bodies.cooler.landings.pocket"
    for chosen in ([plate], [plate, pocket]):
        moved = reshape.move([target(path, DEMO, "plan_a") for path in chosen], 1.0, 1.0).applied(DEMO)
        assert moved.device.bodies[-2].landings[-1].area.bounds == (176, 11, 192, 86)  # type: ignore[union-attr]
    alone = reshape.move([target(pocket, DEMO, "plan_a")], 1.0, 1.0).applied(DEMO)
    assert body(alone, "cooler").footprint == body(DEMO, "cooler").footprint
    assert alone.device.bodies[-2].landings[-1].area.bounds == (176, 11, 192, 86)  # type: ignore[union-attr]


def test_sizing_keeps_power_map_and_active_layer_in_proportion() -> None:
    x0, y0, x1, y1 = target("device.bodies.die", DEMO, "plan_a").box
    wider = reshape.resize(target("device.bodies.die", DEMO, "plan_a"), (x0, y0, x0 + 2 * (x1 - x0), y1)).applied(DEMO)
    old, new = body(DEMO, "die").make_up.power_map[0].area, body(wider, "die").make_up.power_map[0].area  # type: ignore[union-attr]
    assert (new.x_mm, new.w_mm, new.h_mm) == (2 * old.x_mm, 2 * old.w_mm, old.h_mm)
    smaller = reshape.resize(target("device.bodies.mem_l1", DEMO, "plan_a"), (69, 28, 75, 35)).applied(DEMO)
    make_up = body(smaller, "mem_l1").make_up  # type: ignore[union-attr]
    assert (make_up.active_w_mm, make_up.active_h_mm) == pytest.approx((4.32, 5.04))


def test_holes_are_cut_moved_and_removed() -> None:
    plate = target("device.bodies.plate")
    holed = reshape.add_hole(plate, (24, 24, 28, 28)).applied(BASE)
    hole = target("device.bodies.plate.footprint.holes.0", holed)
    moved = reshape.move([hole], 1.0, 0.0).applied(holed)
    assert body(moved, "plate").footprint.holes[0].bounds == (25, 24, 29, 28)
    assert reshape.remove([hole]).applied(holed) == BASE


# ---- removing


@pytest.mark.parametrize("name", [one.id for one in DEMO.device.bodies])
def test_removing_any_body_leaves_no_reference_behind(name: str) -> None:
    left = reshape.remove([target(f"device.bodies.{name}", DEMO, "plan_a")]).applied(DEMO)
    assert left.problems() == []
    assert all(one.id != name for one in left.device.bodies)
    if name == "substrate":
        assert all(one.id != "die" for one in left.device.bodies), "what stood on it went with it"


def test_removing_a_build_override_with_its_body() -> None:
    build = Build.model_validate({**dict(BASE.build()), "overrides": {"device.bodies.part_0.height_mm": 1.0}})
    lapped = Project.parse({**dict(BASE), "builds": (build,)})
    assert reshape.remove([target("device.bodies.part_0", lapped)]).applied(lapped).build().overrides == {}


# ---- copies


def test_a_copy_brings_joint_sensor_limit_power_and_group_along() -> None:
    text = fragment.copy(BASE, "now", [target("device.bodies.part_0")])
    parts = read_parts(text)
    assert parts is not None
    pasted = fragment.paste(parts, "now", 0.0, -20.0).applied(BASE)
    new = body(pasted, "part_4")
    assert new.footprint.bounds == (8, 14, 20, 26)
    joint = next(joint for joint in pasted.build().joints if joint.lower == ("part_4",))
    assert joint.id in pasted.groups[0].joints
    assert pasted.points[0].powers_w["part_4"] == pasted.points[0].powers_w["part_0"]
    sensor = next(one for one in pasted.device.sensors if one.body == "part_4")
    assert any(limit.sensor == sensor.id for limit in pasted.device.limits)
    check_assembly(resolve(pasted))


def test_parts_paste_into_another_project_with_their_materials() -> None:
    bare = create.new_board(Project(), (0, 0, 100, 100)).applied(Project())
    parts = read_parts(fragment.copy(DEMO, "plan_a", [target("device.bodies.substrate", DEMO, "plan_a")]))
    assert parts is not None
    pasted = fragment.paste(parts, bare.builds[0].id, -60.0, 0.0).applied(bare)
    assert {"substrate", "die"} <= {one.id for one in pasted.device.bodies}
    assert body(pasted, "substrate").on == "board"
    assert {"silicon", "substrate_organic"} <= {material.id for material in pasted.materials}
    assert pasted.build().joints == (), "the cooler is not here, so neither is the paste under it"


@pytest.mark.parametrize(
    "text", ["", "hello", "{}", "[1]", '{"what": "ashen-bridge parts"}', '{"what": "other", "bodies": []}', "{" * 5000]
)
def test_other_things_on_the_clipboard_are_no_parts(text: str) -> None:
    assert read_parts(text) is None


@given(st.recursive(st.none() | st.booleans() | st.integers() | st.text(max_size=6), lambda c: st.lists(c, max_size=3)))
def test_a_spoilt_clipboard_is_refused_in_words(junk: object) -> None:
    parts = read_parts(fragment.copy(BASE, "now", [target("device.bodies.part_0")]))
    assert parts is not None
    for key in ("bodies", "joints", "sensors", "powers_w", "materials"):
        spoilt = read_parts(json.dumps({**parts.model_dump(mode="json"), key: junk}))
        if spoilt is None:
            continue
        try:
            fragment.paste(spoilt, "now", 1.0, 1.0).applied(BASE)
        except AshenError as error:
            assert str(error)


def test_mirror_and_ring_turn_packages_with_their_active_layer() -> None:
    chosen = [target("device.bodies.mem_l1", DEMO, "plan_a")]
    ring = fragment.ring(chosen, "plan_a", [("top", (90.0, 200.0, 104.0, 212.0))]).applied(DEMO)
    new = ring.device.bodies[-1]
    assert new.footprint.bounds == (90, 200, 104, 212)
    assert (new.make_up.active_w_mm, new.make_up.active_h_mm) == (8.64, 10.08)  # type: ignore[union-attr]
    mirrored = fragment.mirror(chosen, "plan_a", "x", 109.0).applied(DEMO)
    assert mirrored.device.bodies[-1].footprint.bounds == (137, 28, 149, 42)


# ---- new parts


def test_every_role_can_be_drawn_and_marks_its_numbers_assumed() -> None:
    for role in ("die", "memory", "regulator", "inductor", "other", "substrate"):
        edit, path = create.new_component(BASE, "now", role, (2, 2, 6, 6), Side.REAR)
        made = body(edit.applied(BASE), path.rsplit(".", 1)[1])
        assert made.height_mm.origin == "assumed"  # type: ignore[union-attr]
        assert made.height_mm.uncertainty > 0  # type: ignore[union-attr]
    for role in ("cooler", "lid", "backplate", "spreader", "shim", "stiffener", "case wall"):
        edit, path = create.new_plate(BASE, "now", role, (2, 2, 60, 60), Side.REAR)
        made = body(edit.applied(BASE), path.rsplit(".", 1)[1])
        assert (made.on == "case") is (role == "case wall")  # type: ignore[comparison-overlap]


def test_new_parts_say_what_is_missing() -> None:
    with pytest.raises(ProjectError, match="board first"):
        create.new_component(Project.parse({"builds": [{"id": "a"}]}), "a", "die", (0, 0, 5, 5), Side.FRONT)
    with pytest.raises(ProjectError, match="where a plate is"):
        joining.new_fastener(BASE, "now", 1.0, 1.0, Side.FRONT)
    with pytest.raises(ProjectError, match="too small"):
        create.new_plate(BASE, "now", "shim", (0, 0, 0, 5), Side.FRONT)
    with pytest.raises(ProjectError, match="board already"):
        create.new_board(BASE, (0, 0, 5, 5)).applied(BASE)
    with pytest.raises(ProjectError, match="No plate is over"):
        joining.new_joint(_without_plate(), "now", ["part_0"], "pad")


def _without_plate() -> Project:
    return reshape.remove([target("device.bodies.plate")]).applied(BASE)


def test_screws_get_a_height_from_what_lies_under_the_plate() -> None:
    edit, path = joining.new_fastener(DEMO, "plan_a", 109.0, 20.0, Side.FRONT)
    screw = next(one for one in edit.applied(DEMO).device.fasteners if one.id == path.rsplit(".", 1)[1])
    assert screw.kind == "sprung"
    assert screw.reference_mm.value == pytest.approx(2.44), "substrate 1.55, die 0.85, film 0.04"  # type: ignore[union-attr]


def test_joining_pads_needs_two_under_one_plate() -> None:
    with pytest.raises(ProjectError, match="two or more"):
        joining.span_joint(BASE, "now", ["pad_0"])
    with pytest.raises(ProjectError, match="same plate"):
        joining.span_joint(DEMO, "plan_a", ["pad_l1", "pad_b1"])


def test_kinds_and_standing_change_with_what_they_need() -> None:
    shouldered = changes.change_value("now", "device.fasteners.spring_0.kind", "shouldered", "Kind").applied(BASE)
    screw = shouldered.device.fasteners[0]
    assert screw.seat_mm is not None
    assert screw.seat_mm.value == pytest.approx(2.04)
    back = changes.change_value("now", "device.fasteners.spring_0.kind", "sprung", "Kind").applied(shouldered)
    assert back.device.fasteners[0].rate_n_mm == BASE.device.fasteners[0].rate_n_mm, "what was stated stays"
    fixed = changes.change_value("now", "device.bodies.plate.on", "case", "On").applied(BASE)
    assert body(fixed, "plate").height_mm.value == pytest.approx(2.04)  # type: ignore[union-attr]
    floating = changes.change_value("now", "device.bodies.plate.on", "floating", "On").applied(fixed)
    assert body(floating, "plate").height_mm is None  # type: ignore[union-attr]
    part = body(BASE, "part_0")
    assert isinstance(part, Component)
    package = changes.change_make_up(part, "device.bodies.part_0", "package").applied(BASE)
    assert body(package, "part_0").make_up.type == "package"  # type: ignore[union-attr]


def test_optional_parts_come_with_typical_numbers_or_a_reason() -> None:
    sprung = changes.put_part("device.fasteners.spring_0.spring").applied(BASE)
    screw = sprung.device.fasteners[0]
    assert screw.rate_n_mm is None, "a measured spring says its rate itself"
    # k = G·d⁴/(8·D³·n) (Shigley, ch. 10): 79300·1⁴/(8·5.5³·5) = 79300/6655 = 11.92 N/mm.
    assert screw.spring is not None
    assert screw.spring.rate == pytest.approx(79300 / 6655)
    back = changes.change_value("now", "device.fasteners.spring_0.rate_n_mm", {"value": 12.0}, "Rate").applied(sprung)
    assert back == BASE, "a typed rate takes its place"
    both = changes.put_part("device.bodies.plate.sink.footprint").applied(BASE)
    assert changes.take_part("device.bodies.plate.sink.footprint").applied(both) == BASE
    sunk = changes.put_part("device.bodies.plate.sink.footprint").applied(BASE)
    assert body(sunk, "plate").sink.footprint == body(BASE, "plate").footprint  # type: ignore[union-attr]
    with pytest.raises(ProjectError, match="draw it in the plan"):
        changes.put_part("builds.now.joints.pad_0.pieces.pad.footprint").applied(BASE)


# ---- materials and points


def test_materials_are_made_copied_taken_and_kept_while_in_use() -> None:
    for kind in MaterialKind:
        edit, new_id = materials.new_material(BASE, kind, f"My {kind.value}")
        made = edit.applied(BASE)
        assert made.material(new_id).kind is kind
        assert materials.remove_material(made, new_id).applied(made) == BASE
    with pytest.raises(ProjectError, match="in use: pad_0"):
        materials.remove_material(BASE, "pad_medium")
    edit, new_id = materials.copy_material(BASE, "pad_medium")
    assert edit.applied(BASE).material(new_id).name == "Medium gap pad 2"
    with pytest.raises(ProjectError, match="already"):
        materials.from_library("copper").applied(BASE)


@pytest.mark.parametrize(
    "text",
    [
        "0 0\n10 32\n20 76\n30 140",
        "0 % 0\n10 % 32\n20 % 76\n30 % 140",
        "strain\tpressure [kPa]\n0\t0\n0.1\t32\n0.2\t76\n0.3\t140",
        "10;32\n20;76\n30;140",
        "0,0\n10,32\n20,76\n30,140",
        "0, 0\n10, 32\n20, 76\n30, 140",
        "deflection %, MPa\n0 0\n10 0.032\n20 0.076\n30 0.14",
    ],
)
def test_curves_are_read_as_they_are_pasted(text: str) -> None:
    read = materials.read_curve(text)
    assert [value for point in read for value in point] == pytest.approx([0, 0, 0.1, 32, 0.2, 76, 0.3, 140])


def test_a_curve_in_psi() -> None:
    # 1 psi = 6.894757 kPa (NIST SP 811).
    assert materials.read_curve("compression % pressure psi\n0 0\n10 10\n50 100")[2] == pytest.approx((0.5, 689.4757))


@pytest.mark.parametrize(
    ("text", "words"), [("", "two points"), ("0 0", "two points"), ("0 0\n1 2 3", "Line 2"), ("0 0\n1", "Line 2")]
)
def test_curves_that_cannot_be_read_name_the_line(text: str, words: str) -> None:
    from ashen_bridge.editing.typed import TypedError

    with pytest.raises(TypedError, match=words):
        materials.read_curve(text)


def test_a_falling_curve_is_refused_by_the_model() -> None:
    with pytest.raises(ProjectError, match="must rise"):
        materials.set_curve("pad_medium", ((0, 0), (0.2, 50), (0.3, 40))).applied(BASE)


def test_points_are_copied_scaled_and_the_last_one_stays() -> None:
    half = points.scale_load("load", 0.5).applied(BASE)
    assert half.points[0].powers_w["die"].value == 50.0
    base = {name: power.value for name, power in BASE.points[0].powers_w.items()}
    back = points.scale_load("load", 1.0, base).applied(half)
    assert back == BASE
    none = points.scale_load("load", 0.0, base).applied(BASE)
    assert points.scale_load("load", 1.0, base).applied(none).points[0].powers_w["die"].value == 100.0
    with pytest.raises(ProjectError, match="not a load"):
        points.scale_load("load", -1.0)
    with pytest.raises(ProjectError, match="only operating point"):
        points.remove_point(BASE, "load")
    edit, new_id = points.new_point(BASE, "load", "Half load")
    two = edit.applied(BASE)
    assert new_id == "half_load"
    assert points.remove_point(two, new_id).applied(two) == BASE


# ---- any edits in any order


@st.composite
def any_edit(draw: st.DrawFn, of: Project) -> Callable[[], Edit]:
    """Draw an edit that is made, and refused, outside of the drawing."""
    found = targets(of, "now")
    chosen = draw(st.lists(st.sampled_from(found), min_size=1, max_size=3, unique_by=lambda one: one.path))
    step = st.floats(-30, 30).map(lambda v: round(v, 2))
    kind = draw(st.integers(0, 6))
    if kind == 0:
        return partial(reshape.move, chosen, draw(step), draw(step))
    if kind == 1:
        return partial(reshape.remove, chosen)
    if kind == 2:
        return partial(fragment.repeat, chosen, "now", [(draw(step), draw(step))])
    if kind == 3:
        return partial(fragment.mirror, chosen, "now", draw(st.sampled_from("xy")), draw(step))
    if kind == 4 and chosen[0].kind != "fastener":
        x, y, w, h = draw(step), draw(step), draw(st.floats(0.2, 40)), draw(st.floats(0.2, 40))
        return partial(reshape.resize, chosen[0], (x, y, x + w, y + h))
    if kind == 5:
        return partial(reshape.align_targets, chosen, draw(st.sampled_from(["left", "top", "middle"])))
    x, y = draw(step), draw(step)
    role = draw(st.sampled_from(["die", "memory", "other"]))
    return lambda: create.new_component(of, "now", role, (x, y, x + 5, y + 5), Side.FRONT)[0]


@settings(max_examples=40)
@given(st.data())
def test_any_edits_in_any_order_keep_the_project_whole(data: st.DataObject) -> None:
    """Whatever is done, references hold, the file can be saved and read, and undoing is possible (projects are values)."""
    current = BASE
    for _ in range(data.draw(st.integers(1, 6))):
        if not targets(current, "now"):
            break
        edit = data.draw(any_edit(current))
        try:
            current = edit().applied(current)
        except AshenError:
            continue
        assert current.problems() == []
    assert Project.parse(json.loads(current.model_dump_json())) == current
