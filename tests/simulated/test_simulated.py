"""Invented devices: the same from the same seed, of every sort, and all of them can be computed."""

from __future__ import annotations

import pytest

from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from ashen_bridge.simulated.devices import KINDS, any_of, device


def test_a_seed_is_a_device() -> None:
    assert device(7) == device(7)
    assert device(7) != device(8)
    assert device(7, "lidded")["name"] == "Invented lidded 7"


def test_devices_are_of_every_sort() -> None:
    many = [Project.parse(one) for one in any_of(1, 60)]
    bodies = [body for one in many for body in one.device.bodies]
    dies = [body for body in bodies if body.id == "die"]
    assert min(len(die.make_up.power_map) for die in dies) == 0  # type: ignore[union-attr]
    assert max(len(die.make_up.power_map) for die in dies) == 8  # type: ignore[union-attr]
    assert {body.role.value for body in bodies if body.kind == "plate"} >= {"cooler", "lid", "backplate", "spreader", "case wall"}
    assert {screw.kind for one in many for screw in one.device.fasteners} == {"sprung", "spring arm", "shouldered", "fixed"}
    pieces = [piece for one in many for joint in one.builds[0].joints for piece in joint.pieces]
    assert any(piece.footprint is not None for piece in pieces)
    assert max(sum(body.id.startswith("mem_") for body in one.device.bodies) for one in many) >= 11
    assert max(sum(body.id.startswith("reg_") for body in one.device.bodies) for one in many) >= 11


@pytest.mark.parametrize("seed", [11, 12])
@pytest.mark.parametrize("kind", KINDS)
def test_an_invented_device_can_be_computed(kind: str, seed: int) -> None:
    report = Engine().predict(Project.parse(device(seed, kind)), fidelity="coarse").report  # type: ignore[arg-type]
    assert report.balance.energy_rel < 1e-2
    assert report.balance.force_rel < 1e-6
    assert all(report.ambient_c < row.t_max_c < 400 for row in report.components)
