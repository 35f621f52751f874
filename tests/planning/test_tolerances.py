"""Tolerances backwards: closed forms of a linear stack, draws through the model, and what cannot be reached."""

from __future__ import annotations

import numpy as np
import pytest

from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced
from ashen_bridge.planning.tolerances import Tolerances, allotted, tolerating
from ashen_bridge.predict.engine import Engine
from devices import FOUR, Card, certain
from devices import project as card_project

SLOPES, WEIGHTS = np.array([[4.0], [1.0], [0.5]]), np.array([1.0, 1.0, 2.0])


def test_statistical_allotment_is_that_of_the_closed_form() -> None:
    """One linear stack: u ∝ (w/a²)^(1/3), scaled so that κ²·Σa²u² = margin² − fixed² (Lagrange, by hand)."""
    found = allotted(SLOPES, np.array([1.0]), np.array([9.0]), 3.0, WEIGHTS)
    shape = (WEIGHTS / SLOPES[:, 0] ** 2) ** (1 / 3)
    by_hand = shape * np.sqrt((9.0 - 1.0) / (SLOPES[:, 0] ** 2 @ shape**2))
    assert found == pytest.approx(by_hand, rel=1e-4)


def test_worst_case_allotment_is_that_of_the_closed_form() -> None:
    """Σ a·u = margin/span − fixed, u ∝ (w/a)^(1/2); always narrower than statistically."""
    found = allotted(SLOPES, np.array([0.5]), np.array([9.0]), 2.0, WEIGHTS, worst_case=True)
    shape = np.sqrt(WEIGHTS / SLOPES[:, 0])
    assert found == pytest.approx(shape * (4.5 - 0.5) / (SLOPES[:, 0] @ shape), rel=1e-4)


def test_nothing_helps_where_the_rest_alone_is_too_much() -> None:
    assert allotted(SLOPES, np.array([4.0]), np.array([9.0]), 3.0, WEIGHTS) is None
    assert allotted(SLOPES, np.array([0.0]), np.array([-1.0]), 3.0, WEIGHTS, worst_case=True) is None


@pytest.fixture(scope="module")
def stack() -> Project:
    """Parts whose heights, and springs whose travel, are all that is not known; little is left to the limits."""
    plain = card_project(Card(parts=FOUR, die_power=110.0))
    bodies = tuple(
        replaced(one, height_mm=q(one.height_mm.value, 0.06, "measured")) if one.id.startswith("part") else one
        for one in plain.device.bodies
    )
    device = replaced(plain.device, bodies=bodies)
    sure = certain(replaced(plain, device=device), ("height_mm",))
    report = Engine().predict(sure, "now", "load").report
    limits = tuple(
        replaced(
            limit,
            max_c=q(
                next(row.value_c for row in report.sensors if row.id == limit.sensor) + (3.0 if limit.id == "l_die" else 2.0)
            ),
        )
        for limit in sure.device.limits
    )
    return replaced(sure, device=replaced(sure.device, limits=limits))


def allowed(project: Project, chance: float) -> Tolerances:
    *_, (_, found) = tolerating(Engine(), project, "now", "load", chance)
    assert found is not None
    return found


@pytest.mark.long
def test_draws_with_the_allowed_tolerances_hold_as_often_as_is_wanted(stack: Project) -> None:
    found = allowed(stack, 0.9)
    assert found.rows
    if all(row.advice != "tighten" for row in found.rows):
        assert found.now >= 0.88
    assert found.drawn >= 0.87
    wider = allowed(stack, 0.6)
    assert sum(row.statistical for row in wider.rows) >= sum(row.statistical for row in found.rows)


@pytest.mark.long
def test_a_limit_that_is_passed_already_is_said(stack: Project) -> None:
    cold = replaced(
        stack, device=replaced(stack.device, limits=tuple(replaced(one, max_c=q(40.0)) for one in stack.device.limits))
    )
    assert "no tolerance helps" in allowed(cold, 0.9).says


def test_without_limits_there_is_nothing_to_allot(stack: Project) -> None:
    free = replaced(stack, device=replaced(stack.device, limits=()))
    with pytest.raises(AssemblyError, match="nothing to allot"):
        allowed(free, 0.9)
