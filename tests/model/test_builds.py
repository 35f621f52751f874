"""What a build can change about a device: shims added, bodies removed, values overridden; rear sides, plates that do not move."""

from __future__ import annotations

import pytest

from ashen_bridge.model.bodies import Plate
from ashen_bridge.model.errors import AssemblyError, PathError, ProjectError
from ashen_bridge.model.footprint import rectangle
from ashen_bridge.model.joints import Joint, Piece
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.resolve import resolve
from ashen_bridge.predict.engine import predict
from ashen_bridge.predict.report import Report
from devices import FOUR, Card, Part, project


def coarse(made: Project) -> Report:
    return predict(made, fidelity="coarse").report


def with_shim(thickness: float, size: float = 22.0) -> Project:
    """The test card with a copper shim between die and cooler, paste on both faces; springs set for its thickness."""
    made = project(Card(tuple(Part(p.x, p.y, 1.2, None) for p in FOUR), travel=3.0 - thickness))
    corner = 40 - size / 2
    shim = Plate(
        id="shim", role="shim", footprint=rectangle(corner, corner, size, size), thickness_mm=q(thickness), material="copper"
    )

    def paste(name: str, upper: str, lower: str) -> Joint:
        return Joint(id=name, upper=upper, lower=(lower,), pieces=(Piece(id="p", material="paste_filled", volume_mm3=q(30)),))

    build = made.builds[0].model_copy(
        update={"added": (shim,), "joints": (paste("below", "shim", "die"), paste("above", "plate", "shim"))}
    )
    return Project.parse({**dict(made), "builds": (build,), "groups": ()})


def test_a_shim_is_a_plate_that_floats_between_two_pastes() -> None:
    report = coarse(with_shim(0.8))
    below, above = (next(row for row in report.joints if row.id == name) for name in ("below", "above"))
    assert below.force_n == pytest.approx(above.force_n, rel=0.02), "the same force goes through both faces"
    assert 20 < below.bond_line_um.mean < 60
    shim, plate = (next(row for row in report.plates if row.id == name) for name in ("shim", "plate"))
    assert plate.z_mm - shim.z_mm == pytest.approx(0.8 + above.gap_mm, abs=0.02)
    descent = next(d for d in report.descents if d.component == "die")
    assert [step.about for step in descent.steps if step.kind == "joint"] == ["below", "above"], "the way leads through the shim"


def test_a_shim_larger_than_the_die_spreads_and_still_costs_an_interface() -> None:
    small, large = (coarse(with_shim(0.8, size)).component("die").t_mean_c for size in (20.0, 34.0))
    assert large < small


def test_overrides_reach_the_device_and_nothing_else() -> None:
    made = project(Card(FOUR))
    bad = made.builds[0].model_copy(update={"overrides": {"builds.now.name": 1.0}})
    with pytest.raises(PathError, match="only device and materials can be overridden"):
        resolve(Project.parse({**dict(made), "builds": (bad,)}))
    nonsense = made.builds[0].model_copy(update={"overrides": {"device.bodies.die.height_mm": -4.0}})
    with pytest.raises(ProjectError, match="out of range"):
        resolve(Project.parse({**dict(made), "builds": (nonsense,)}))


def test_joints_and_fasteners_of_removed_bodies_go_with_them() -> None:
    made = project(Card(FOUR))
    removed = made.builds[0].model_copy(update={"removed": ("part_0",)})
    resolved = resolve(Project.parse({**dict(made), "builds": (removed,)}))
    assert "pad_0" not in {joint.id for joint in resolved.joints}
    assert coarse(Project.parse({**dict(made), "builds": (removed,)})).joint_over("part_1") is not None
    bare = made.builds[0].model_copy(update={"removed": ("plate",)})
    resolved = resolve(Project.parse({**dict(made), "builds": (bare,)}))
    assert resolved.joints == ()
    assert resolved.fasteners == ()
    hot = coarse(Project.parse({**dict(made), "builds": (bare,)}))
    assert hot.component("die").t_max_c > 300, "a bare die without its cooler burns"


def test_carried_by_what_was_removed_is_said() -> None:
    made = project(Card(FOUR))
    data = made.model_dump(mode="json")
    data["builds"][0]["removed"] = ["board"]
    with pytest.raises(AssemblyError, match="no board yet"):
        coarse(Project.parse(data))


def test_a_rear_plate_reads_like_a_front_one() -> None:
    """The same card turned over gives the same numbers: heights count outwards on either side."""
    front = project(Card(FOUR))
    data = front.model_dump(mode="json")
    for body in data["device"]["bodies"]:
        if "side" in body:
            body["side"] = "rear"
    rear = coarse(Project.parse(data))
    assert rear.plates[0].z_mm == pytest.approx(coarse(front).plates[0].z_mm, abs=1e-6)
    assert rear.component("die").t_max_c == pytest.approx(coarse(front).component("die").t_max_c, abs=0.1)


def test_a_plate_fixed_to_the_case_stands_where_it_is_said_to() -> None:
    made = project(Card(FOUR, die=False, springs=()))
    data = made.model_dump(mode="json")
    plate = next(body for body in data["device"]["bodies"] if body["id"] == "plate")
    plate.update(on="case", height_mm=2.1)
    report = coarse(Project.parse(data))
    row = report.joint_over("part_0")
    assert row is not None
    assert row.gap_mm == pytest.approx(0.9, abs=0.01)
    assert not report.plates[0].floats
    plate.pop("height_mm")
    with pytest.raises(ProjectError, match="does not move .* so it needs height_mm"):
        Project.parse(data)
