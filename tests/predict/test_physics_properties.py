"""What must hold of any prediction, whatever the device: symmetry, order, linearity, reciprocity, monotony."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from ashen_bridge.model import paths
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.report import Report
from devices import FOUR, Card, Part, project

ENGINE = Engine()
UNEVEN = (Part(8, 34, 1.2, 1.0), Part(60, 30, 1.15, 1.0, (10, 14)), Part(34, 6, 1.2, 1.25))


def coarse(made: Project) -> Report:
    return ENGINE.predict(made, fidelity="coarse").report


def changed(made: Project, **values: Any) -> Project:
    return paths.set_values(made, {name.replace("__", "."): value for name, value in values.items()})


def linear(card: Card) -> Project:
    """Return the project of a card whose heat problem is linear: nothing radiates, the die conducts as copper does."""
    made = project(card)
    values: dict[str, Any] = {f"device.bodies.{body.id}.finish.emissivity": 0.0 for body in made.device.bodies}
    values["device.bodies.die.make_up.material"] = "copper"
    return paths.set_values(made, values)


def temperatures(report: Report) -> dict[str, float]:
    return {row.id: row.t_mean_c for row in report.components}


def test_twice_the_power_is_twice_the_rise_where_nothing_is_nonlinear() -> None:
    made = linear(Card(UNEVEN))
    powers = {f"points.load.powers_w.{name}": watts.value for name, watts in made.points[0].powers_w.items()}
    once = temperatures(coarse(made))
    twice = temperatures(coarse(paths.set_values(made, {path: 2 * watts for path, watts in powers.items()})))
    for name in once:
        assert twice[name] - 25 == pytest.approx(2 * (once[name] - 25), rel=2e-4), name


def test_rises_add_up_over_sources() -> None:
    """Superposition: the rise with all sources on is the sum of those with one on each."""
    made = linear(Card(UNEVEN))
    powers = {f"points.load.powers_w.{name}": watts.value for name, watts in made.points[0].powers_w.items()}
    together = temperatures(coarse(made))
    total = dict.fromkeys(together, 0.0)
    for path in powers:
        alone = coarse(paths.set_values(made, {other: powers[other] if other == path else 0.0 for other in powers}))
        for name, value in temperatures(alone).items():
            total[name] += value - 25
    for name, value in together.items():
        assert total[name] == pytest.approx(value - 25, rel=5e-4), name


def test_reciprocity_of_two_sources() -> None:
    """Conduction is symmetric: a watt in A warms B by as much as a watt in B warms A (Carslaw & Jaeger, on Green's functions)."""
    made = linear(Card(UNEVEN))
    zero = {f"points.load.powers_w.{name}": 0.0 for name in made.points[0].powers_w}
    rises = {}
    for source in ("die", "part_0", "part_1"):
        report = coarse(paths.set_values(made, {**zero, f"points.load.powers_w.{source}": 40.0}))
        rises[source] = {name: value - 25 for name, value in temperatures(report).items()}
    for a, b in (("die", "part_0"), ("die", "part_1"), ("part_0", "part_1")):
        assert rises[a][b] == pytest.approx(rises[b][a], rel=1e-3), (a, b)
        assert rises[a][b] < rises[a][a], "nowhere is it hotter than at the source"


def test_air_moved_by_some_kelvins_moves_everything_by_as_many() -> None:
    made = linear(Card(UNEVEN))
    base, warm = coarse(made), coarse(changed(made, points__load__ambient_c=37.0))
    for a, b in zip(base.sensors, warm.sensors, strict=True):
        assert b.value_c - a.value_c == pytest.approx(12.0, abs=5e-3)


def mirrored(card: Card) -> Card:
    parts = tuple(replace(part, x=80 - part.x - part.size[0]) for part in card.parts)
    return replace(card, parts=parts, springs=tuple((80 - x, y) for x, y in card.springs))


def turned(card: Card) -> Card:
    """The card turned by a quarter: x, y → y, x mirrored about the diagonal."""
    parts = tuple(replace(part, x=part.y, y=part.x, size=part.size[::-1]) for part in card.parts)
    return replace(card, parts=parts, springs=tuple((y, x) for x, y in card.springs))


@pytest.mark.parametrize("change", [mirrored, turned])
@pytest.mark.parametrize("bends", [False, True])
def test_a_mirrored_or_turned_card_has_the_same_numbers(change: Any, bends: bool) -> None:
    card = Card(UNEVEN, springs=((12, 14), (68, 12), (15, 66), (64, 68)), bends=bends)
    one, other = coarse(project(card)), coarse(project(change(card)))
    for a, b in zip(one.sensors, other.sensors, strict=True):
        assert b.value_c == pytest.approx(a.value_c, abs=0.03), a.id
    for a, b in zip(one.joints, other.joints, strict=True):
        assert b.force_n == pytest.approx(a.force_n, rel=2e-3, abs=0.02), a.id
        assert b.bond_line_um.mean == pytest.approx(a.bond_line_um.mean, rel=2e-3), a.id
    if one.bow is not None and other.bow is not None:
        assert other.bow.board_um == pytest.approx(one.bow.board_um, rel=0.01)


def test_the_order_in_the_file_does_not_matter() -> None:
    made = project(Card(UNEVEN))
    build = made.builds[0]
    other = made.model_copy(
        update={
            "device": made.device.model_copy(update={"fasteners": made.device.fasteners[::-1]}),
            "builds": (build.model_copy(update={"joints": build.joints[::-1]}),),
            "materials": made.materials[::-1],
        }
    )
    one, two = coarse(made), coarse(other)
    assert {row.id: row.value_c for row in two.sensors} == pytest.approx({row.id: row.value_c for row in one.sensors}, abs=5e-3)
    assert {row.id: row.force_n for row in two.fasteners} == pytest.approx(
        {row.id: row.force_n for row in one.fasteners}, rel=1e-6
    )


@pytest.mark.parametrize(
    ("path", "more", "hotter"),
    [
        ("points.load.powers_w.die", 130.0, True),
        ("points.load.powers_w.part_0", 6.0, True),
        ("materials.paste_filled.conductivity_w_mk", 12.0, False),
        ("device.bodies.plate.sink.convective_k_w", 0.3, True),
        ("device.bodies.plate.sink.fixed_k_w", 0.05, True),
        ("points.load.fans_percent.plate", 150.0, False),
        ("points.load.film_front_w_m2k", 40.0, False),
        ("device.bodies.die.attach.resistance_mm2k_w", 400.0, True),
    ],
)
def test_more_of_it_moves_the_die_the_way_it_must(path: str, more: float, hotter: bool) -> None:
    made = project(Card(FOUR))
    base = coarse(made).component("die").t_max_c
    after = coarse(paths.set_values(made, {path: more})).component("die").t_max_c
    assert (after > base + 1e-3) is hotter, (base, after)
    assert (after < base - 1e-3) is not hotter, (base, after)


def test_what_an_engine_has_kept_does_not_change_its_answers() -> None:
    rng = np.random.default_rng(3)
    made = project(Card(FOUR, bends=True))
    warm = Engine()
    pad, die = "builds.now.joints.pad_0.pieces.pad.thickness_mm", "points.load.powers_w.die"
    states = [{pad: float(rng.choice([0.75, 1.0, 1.25])), die: 80.0 + n} for n in range(4)]
    for values in states:
        state = paths.set_values(made, values)
        kept, fresh = (engine.predict(state, fidelity="coarse").report for engine in (warm, Engine()))
        for a, b in zip(kept.sensors, fresh.sensors, strict=True):
            assert a.value_c == pytest.approx(b.value_c, abs=5e-3)
        assert kept.bow is not None
        assert fresh.bow is not None
        assert kept.bow.board_um == pytest.approx(fresh.bow.board_um, rel=1e-5)
