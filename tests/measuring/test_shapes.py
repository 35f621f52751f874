"""Gaps in a batch: how they tilt, what presses in them and where, against whole devices; and what is kept between questions."""

from __future__ import annotations

import numpy as np
import pytest

from ashen_bridge.files.demos import open_anything
from ashen_bridge.measuring.numbers import separate_numbers
from ashen_bridge.measuring.pushed import Pushed
from ashen_bridge.model import paths
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine


@pytest.fixture(scope="module")
def card() -> Project:
    return open_anything("demo:correlator").project


@pytest.fixture(scope="module")
def engine() -> Engine:
    return Engine()


def shapes(engine: Engine, project: Project, build: str = "as_found") -> dict[tuple[str, str], dict[str, float]]:
    """Return the shape of every gap of a project as it is said to be, by name."""
    made = Pushed(engine, project, build, ())
    list(made.prepare())
    found = made.shapes(np.zeros((1, 0)))
    return {key: {name: float(getattr(found, name)[0, n]) for name in vars(found)} for n, key in enumerate(made.keys)}


def test_gap_and_pressed_share_are_those_of_the_whole_prediction(engine: Engine, card: Project) -> None:
    told = shapes(engine, card)
    for row in engine.predict(card, "as_found", None).report.joints:
        there = told[row.id, row.lower]
        assert there["gap_mm"] == pytest.approx(row.gap_mm, abs=2e-3)
        assert (there["pressed"] > 0.01) == (row.pressure_kpa.mean > 1.0), row.id


def test_the_centre_of_pressure_is_that_of_the_pressure_map(engine: Engine, card: Project) -> None:
    """The map is drawn from its own raster, gaps from their own sample points."""
    told = shapes(engine, card)
    for one in engine.predict(card, "as_found", None).maps.joints:
        force = np.nan_to_num(one.pressure_kpa.astype(float))
        if force.sum() <= 0:
            continue
        rows, columns = force.shape
        x = ((np.arange(columns) + 0.5) / columns - 0.5) * (one.box[2] - one.box[0])
        y = ((np.arange(rows) + 0.5) / rows - 0.5) * (one.box[3] - one.box[1])
        centre = (force.sum(axis=0) @ x / force.sum(), force.sum(axis=1) @ y / force.sum())
        there = told[one.joint, one.lower]
        assert there["centre_x_mm"] == pytest.approx(centre[0], abs=0.6), one.joint
        assert there["centre_y_mm"] == pytest.approx(centre[1], abs=0.6), one.joint


def test_a_slack_side_tilts_the_gap_towards_it(engine: Engine, card: Project) -> None:
    """Weaker springs at the right: the cooler comes up there, in every gap under it."""
    springs = [f"device.fasteners.spring_{name}.rate_n_mm" for name in ("se", "ne")]
    slack = paths.set_numbers(card, dict.fromkeys(springs, 0.8))
    before, after = shapes(engine, card), shapes(engine, slack)
    for name in ("mem_l1", "mem_r1", "die"):
        key = next(key for key in before if key[1] == name)
        assert after[key]["across_x_mm"] > before[key]["across_x_mm"]


def test_a_mirrored_device_tilts_the_other_way(engine: Engine, card: Project) -> None:
    """Left and right pads changed for each other: the die's wedge points the other way."""
    plain = card.model_dump(mode="json")
    build = next(one for one in plain["builds"] if one["id"] == "as_found")
    joints = {one["id"]: one for one in build["joints"]}
    for n in (1, 2, 3):
        left, right = joints[f"pad_l{n}"]["pieces"], joints[f"pad_r{n}"]["pieces"]
        joints[f"pad_l{n}"]["pieces"], joints[f"pad_r{n}"]["pieces"] = right, left
    turned = shapes(engine, Project.parse(plain))["die_joint", "die"]
    straight = shapes(engine, card)["die_joint", "die"]
    assert straight["across_x_mm"] * turned["across_x_mm"] < 0


def test_free_thickness_follows_the_number_that_says_it(engine: Engine, card: Project) -> None:
    numbers = separate_numbers(card, ("as_found",))
    made = Pushed(engine, card, "as_found", numbers)
    list(made.prepare())
    path = "builds.as_found.joints.pad_l1.pieces.pad.thickness_mm"
    n = next(k for k, one in enumerate(numbers) if one.paths[0] == path)
    x = np.zeros((2, len(numbers)))
    x[1, n] = 2.0
    at = made.keys.index(("pad_l1", "mem_l1"))
    free = made.shapes(x).free_mm[:, at]
    assert free[1] - free[0] == pytest.approx(2 * numbers[n].uncertainty, rel=0.05)
    others = np.delete(made.shapes(x).free_mm, at, axis=1)
    assert others[0] == pytest.approx(others[1], abs=1e-9)


def test_what_was_prepared_is_kept_until_a_number_or_its_error_changes(card: Project) -> None:
    """Asked again it comes at once and is the same; another ± is another preparation."""
    engine = Engine()
    numbers = separate_numbers(card, ("as_found",))[:6]

    def prepared(project: Project, some: tuple) -> Pushed:  # type: ignore[type-arg]
        *_, (_, made) = Pushed.preparing(engine, project, "as_found", some)
        assert made is not None
        return made

    first = prepared(card, numbers)
    assert prepared(card, numbers) is first
    moved = paths.set_numbers(card, {"device.bodies.die.height_mm": 0.77})
    assert prepared(moved, separate_numbers(moved, ("as_found",))[:6]) is not first
    assert prepared(card, numbers[:5]) is not first
