"""Plates lie over each other as joints and heights say, whatever they are called and in whatever order they come."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
import pytest

from ashen_bridge.geometry.checks import check_assembly
from ashen_bridge.geometry.stacking import Stacking
from ashen_bridge.guided.answers import Answers, DeviceKind
from ashen_bridge.guided.build import project_from
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.report import Report
from ashen_bridge.simulated.devices import KINDS, device

Plain = dict[str, Any]


def box(*, wall_pad: bool) -> Plain:
    """The guided fanless box, with or without the pad between spreader and wall."""
    plain = project_from(Answers(kind=DeviceKind.BOX, around=(0, 0, 0, 0), reach="pad")).model_dump(mode="json")
    if not wall_pad:
        for build in plain["builds"]:
            build["joints"] = [joint for joint in build["joints"] if joint["upper"] != "case_wall"]
        left = {joint["id"] for joint in plain["builds"][0]["joints"]}
        plain["groups"] = [group for group in plain["groups"] if set(group["joints"]) <= left]
    return dict(plain)


def renamed(plain: Plain, old: str, new: str) -> Plain:
    return dict(json.loads(json.dumps(plain).replace(f'"{old}"', f'"{new}"')))


def predicted(plain: Plain) -> Report:
    return Engine().predict(Project.parse(plain), fidelity="coarse").report


def test_a_wall_without_its_pad_stays_beyond_the_spreader_under_any_name() -> None:
    """By names, the spreader once lay beyond the wall, its screws pulled 3.4 kN, and the die was colder than with the pad."""
    with_pad, without = predicted(box(wall_pad=True)), predicted(box(wall_pad=False))
    assert without.component("die").t_max_c > with_pad.component("die").t_max_c + 5
    assert max(row.force_n for row in without.fasteners) < 200
    for name in ("a_wall", "zzz_wall"):
        other = renamed(box(wall_pad=False), "case_wall", name)
        other["device"]["bodies"].reverse()
        again = predicted(other)
        assert again.component("die").t_max_c == pytest.approx(without.component("die").t_max_c, abs=0.02)
        walls = {row.id: row.z_mm for row in again.plates}
        assert walls["spreader"] + 1.0 < walls[name]


@pytest.mark.parametrize("kind", KINDS)
def test_renaming_and_reordering_changes_nothing(kind: str) -> None:
    plain = device(1003, kind)  # type: ignore[arg-type]
    shuffled: Plain = json.loads(json.dumps(plain))
    shuffled = named_otherwise(shuffled)
    for where in (shuffled["device"]["bodies"], shuffled["device"]["fasteners"], shuffled["builds"][0]["joints"]):
        where.reverse()
    before, after = predicted(plain), predicted(shuffled)
    for row in before.components:
        assert after.component(f"z{hash_of(row.id)}").t_max_c == pytest.approx(row.t_max_c, abs=0.05), row.id
    forces = [sorted(row.force_n for row in one.fasteners) for one in (before, after)]
    assert forces[0] == pytest.approx(forces[1], rel=1e-4)


def named_otherwise(node: Any, key: str = "") -> Any:
    """The same device with other ids for all bodies: where bodies are named, and nowhere else."""
    if isinstance(node, dict):
        told = key in ("powers_w", "fans_percent")
        of_body = "footprint" in node and "kind" in node
        return {
            (f"z{hash_of(name)}" if told else name): (
                f"z{hash_of(value)}"
                if (name in ("on", "upper", "body") and value not in ("case", "ground")) or (name == "id" and of_body)
                else named_otherwise(value, name)
            )
            for name, value in node.items()
        }
    if isinstance(node, list):
        return [f"z{hash_of(one)}" if key in ("lower", "joins") else named_otherwise(one) for one in node]
    return node


def hash_of(name: str) -> str:
    return "".join(chr(ord("a") + (ord(letter) * 7 + at) % 26) for at, letter in enumerate(name))


def test_joints_and_heights_that_contradict_each_other_are_refused_by_name() -> None:
    plain = box(wall_pad=True)
    lid = {**body(plain, "case_wall"), "id": "inner_wall", "height_mm": {"value": 40.0}}
    plain["device"]["bodies"].append(lid)
    plain["points"][0]["fans_percent"]["inner_wall"] = {"value": 100.0}
    plain["builds"][0]["joints"].append(
        {**plain["builds"][0]["joints"][0], "id": "odd", "upper": "case_wall", "lower": ["inner_wall"]}
    )
    with pytest.raises(AssemblyError, match="'odd' says that 'case_wall' lies over 'inner_wall'.*3.24 mm .*41 mm"):
        check_assembly(resolve(Project.parse(plain)))


def test_plates_in_a_circle_are_refused() -> None:
    plain = box(wall_pad=True)
    joints = plain["builds"][0]["joints"]
    joints.append({**joints[-1], "id": "back_again", "upper": "spreader", "lower": ["case_wall"]})
    with pytest.raises(AssemblyError, match="over 'spreader' and 'spreader' over|over 'case_wall' and 'case_wall' over"):
        check_assembly(resolve(Project.parse(plain)))


def test_a_plate_that_has_no_room_under_a_wall_is_refused() -> None:
    plain = box(wall_pad=True)
    body(plain, "case_wall")["height_mm"] = {"value": 1.9}
    with pytest.raises(AssemblyError, match="'spreader' is .* thick, but between '.*' and 'case_wall' .*cannot lie anywhere"):
        check_assembly(resolve(Project.parse(plain)))


def body(plain: Plain, name: str) -> Plain:
    return next(one for one in plain["device"]["bodies"] if one["id"] == name)


def test_the_order_is_that_of_heights_where_no_joint_says() -> None:
    plain = box(wall_pad=False)
    body(plain, "case_wall")["height_mm"] = {"value": 30.0}
    stacking = Stacking(resolve(Project.parse(plain)))
    assert stacking.order(Side.FRONT) == ("spreader", "case_wall")
    assert stacking.height("case_wall") == 30.0
    assert np.isfinite(stacking.height("spreader"))
