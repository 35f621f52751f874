"""Numbers moved several at once against each moved alone: what they do to the heat model is told apart by place."""

from __future__ import annotations

import numpy as np
import pytest

from ashen_bridge.files.demos import open_anything
from ashen_bridge.model import paths
from ashen_bridge.predict.coarse_model import CoarseModel
from ashen_bridge.predict.engine import Engine
from ashen_bridge.thermal.linearised import LinearSystem
from ashen_bridge.thermal.reduced import Change
from ashen_bridge.uncertainty.assumptions import assumptions
from ashen_bridge.uncertainty.directions import Base
from ashen_bridge.uncertainty.heat_answers import HeatAnswers
from ashen_bridge.uncertainty.joint_links import JointLinks


class Case:
    def __init__(self, demo: str) -> None:
        self.project = open_anything(f"demo:{demo}").project
        build, point = self.project.builds[0].id, self.project.points[0]
        half = Engine().rest(self.project, build, None)
        self.coarse = CoarseModel(half, point)
        joints = JointLinks(half.scene, half.assembly, self.coarse.system, self.coarse.rises)
        base = Base(self.project, build, point.id, half.scene, half.assembly, half.coordinates, joints)
        self.answers = HeatAnswers(base, self.coarse)
        listed = assumptions(self.project, build, point.id)
        self.numbers = [one for one in listed if one.uncertainty > 0 and one.plays.heat]
        self.groups = self.answers.places.apart(self.numbers)


@pytest.fixture(scope="module", params=["correlator", "beamformer", "buoy"])
def case(request: pytest.FixtureRequest) -> Case:
    return Case(request.param)


def dense(change: Change, system: LinearSystem) -> np.ndarray:
    links = np.zeros(len(system.conductance))
    links[change.links] = change.conductance
    return np.concatenate([links, change.diagonal, change.right])


@pytest.mark.long
def test_together_they_do_what_each_does_alone(case: Case) -> None:
    several = [group for group in case.groups if len(group) > 1]
    assert several, "nothing is saved where no two go together"
    for group in several:
        numbers = [case.numbers[n] for n in group]
        found = case.answers.together(numbers)
        assert found is not None
        for number, one in zip(numbers, found, strict=True):
            alone = case.answers.alone(number)
            was, now = dense(alone.change, case.coarse.system), dense(one.change, case.coarse.system)
            assert now == pytest.approx(was, abs=1e-9 * np.abs(was).max()), number.paths[0]
            assert one.bend == pytest.approx(alone.bend, abs=1e-9)
            halves = [np.zeros(1) if each.halves is None else each.halves for each in (alone, one)]
            assert np.abs(halves[0] - halves[1]).max() < 1e-9


def test_what_is_in_no_group_does_nothing_to_the_heat_model(case: Case) -> None:
    grouped = {n for group in case.groups for n in group}
    for n, number in enumerate(case.numbers):
        if n not in grouped:
            alone = case.answers.alone(number)
            assert alone.halves is None, number.paths[0]
            assert not np.any(dense(alone.change, case.coarse.system)), number.paths[0]


def test_no_slab_of_a_group_meets_another(case: Case) -> None:
    system, slabs = case.coarse.system, list(case.coarse.system.grid.slabs.values())
    for group in case.answers.places.slabs_apart():
        cells = [np.arange(slabs[n].cells.start, slabs[n].cells.stop) for n in group]
        for at, some in enumerate(cells):
            others = np.concatenate([np.zeros(0, dtype=int), *cells[:at], *cells[at + 1 :]])
            assert not np.any(np.isin(system.i, some) & np.isin(system.j, others))


@pytest.mark.long
def test_each_bodys_warming_is_as_if_it_were_warmed_alone(case: Case) -> None:
    alone = [case.coarse.warmer(10.0, cells.cells) for cells in case.coarse.bodies()]
    for cells, change in case.answers.feedback():
        system = next(one for one, own in zip(alone, case.coarse.bodies(), strict=True) if np.array_equal(own.cells, cells.cells))
        apart = np.ones(len(system.conductance), dtype=bool)
        apart[case.answers.joined] = False
        moved = (system.conductance - case.coarse.system.conductance) / 10.0
        found = dense(change, system)[: len(moved)]
        assert found[apart] == pytest.approx(moved[apart], abs=1e-9 * max(np.abs(moved).max(), 1e-9))


def test_a_sheet_between_faces_is_not_taken_for_a_joint_that_only_leads_across() -> None:
    case = Case("correlator")
    # The regulators' pads lead heat along themselves: their material is part of the heat model.
    softer = paths.set_numbers(case.project, {"materials.pad_soft.conductivity_w_mk": 30.0})
    change, _ = case.answers.in_project(softer)
    assert len(change.links)
    screws = paths.set_numbers(case.project, {"device.fasteners.spring_sw.rate_n_mm": 3.0})
    change, _ = case.answers.in_project(screws)
    assert not len(change.links)
