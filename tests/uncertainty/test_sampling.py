"""Samples of everything that carries an uncertainty: against full predictions, closed forms and plain statistics."""

from __future__ import annotations

import json
import math
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ashen_bridge.cli.main import main
from ashen_bridge.files.archive import save_project
from ashen_bridge.model import paths
from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Bounds
from ashen_bridge.predict.engine import Engine
from ashen_bridge.simulated.devices import device
from ashen_bridge.thermal.reduced import Change, ReducedModel, basis_of
from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.uncertainty.chance import chances
from ashen_bridge.uncertainty.directions import HeatChange, bend_of
from ashen_bridge.uncertainty.drawing import draw, highest, lowest
from ashen_bridge.uncertainty.outcome import chance_words, standard_error
from ashen_bridge.uncertainty.preparation import Preparation, prepared
from ashen_bridge.uncertainty.sampling import Samples, draw_samples
from ashen_bridge.uncertainty.variants import factors
from devices import FOUR, Card, project

SPREADS = {
    "device.bodies.die.height_mm": 0.02,
    "device.bodies.part_0.height_mm": 0.04,
    "device.bodies.plate.sink.convective_k_w": 0.02,
    "device.fasteners.spring_0.rate_n_mm": 1.5,
    "device.fasteners.spring_1.travel_mm": 0.2,
    "builds.now.joints.pad_1.pieces.pad.thickness_mm": 0.06,
    "builds.now.joints.die_joint.pieces.paste.volume_mm3": 5.0,
    "builds.now.joints.die_joint.compliance_um_n": 0.01,
    "points.load.powers_w.die": 5.0,
    "points.load.ambient_c": 1.0,
    "device.sensors.s_part_2.offset_k": 0.8,
    "materials.paste_filled.conductivity_w_mk": 1.4,
    "materials.paste_filled.flow.yield_stress_kpa": 0.05,
    "materials.pad_medium.conductivity_w_mk": 0.9,
    "materials.pad_medium.contact_mm2k_w": 8.0,
    "materials.pad_medium.compression.shape_coefficient": 0.008,
}


def uncertain(spreads: dict[str, float] | None = None, card: Card | None = None) -> Project:
    """Return the test card on which only the named numbers carry an uncertainty."""
    plain = project(card or Card(FOUR)).model_dump(mode="json")
    _still(plain)
    made = Project.parse(plain)
    return paths.set_values(made, {f"{path}.uncertainty": by for path, by in (SPREADS if spreads is None else spreads).items()})


def _still(node: Any) -> None:
    if isinstance(node, dict):
        if paths.is_quantity(node):
            node["uncertainty"] = 0.0
        for child in node.values():
            _still(child)
    elif isinstance(node, list):
        for child in node:
            _still(child)


@pytest.fixture(scope="module")
def sampler() -> Preparation:
    return prepared(Engine(), uncertain(), report=Engine().predict(uncertain(), fidelity="coarse").report)


def moved(sampler: Preparation, drawn: np.ndarray) -> np.ndarray:
    """Return what a full prediction says of one sample."""
    values = {p: one.value + one.uncertainty * by for one, by in zip(sampler.numbers, drawn, strict=True) for p in one.paths}
    report = Engine().predict(paths.set_values(sampler.project, values), fidelity="coarse").report
    return np.array([row.value_c for row in report.sensors])


def test_every_number_alone_moves_sensors_as_a_full_prediction_does(sampler: Preparation) -> None:
    base = np.array([row.value_c for row in Engine().predict(sampler.project, fidelity="coarse").report.sensors])
    for n, one in enumerate(sampler.numbers):
        for by in (1.0, -1.0):
            drawn = np.zeros((1, len(sampler.numbers)))
            drawn[0, n] = by
            shown, _ = sampler.temperatures(drawn)
            full = moved(sampler, drawn[0])
            assert shown[0] - sampler.nominal == pytest.approx(full - base, abs=0.06 + 0.05 * np.abs(full - base).max()), (
                one.field,
                by,
            )


def test_numbers_all_at_once_on_samples_it_has_not_seen(sampler: Preparation) -> None:
    base = np.array([row.value_c for row in Engine().predict(sampler.project, fidelity="coarse").report.sensors])
    drawn = draw(sampler.numbers, 8, 4242)
    shown, fine = sampler.temperatures(drawn)
    assert fine.all()
    full = np.array([moved(sampler, one) for one in drawn])
    error = (shown - sampler.nominal) - (full - base)
    assert np.sqrt((error**2).mean()) < 0.2
    assert np.abs(full - base).max() > 4.0, "else nothing was asked of it"


def test_the_middle_is_what_the_prediction_shows(sampler: Preparation) -> None:
    shown, _ = sampler.temperatures(np.zeros((1, len(sampler.numbers))))
    assert shown[0] == pytest.approx(sampler.nominal, abs=1e-6)


def test_the_refined_prediction_is_taken_over_in_proportion() -> None:
    made = uncertain({"points.load.powers_w.die": 20.0, "points.load.powers_w.part_0": 0.6})
    fine = Engine().predict(made).report
    sampler = prepared(Engine(), made, report=fine)
    at = [row.id for row in fine.sensors].index("s_die")
    shown, _ = sampler.temperatures(np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]]))
    assert shown[0, at] == pytest.approx(fine.sensors[at].value_c, abs=1e-6)
    rise = fine.sensors[at].value_c - 25.0
    die_only = rise - (shown[2, at] - shown[0, at]) / 0.2
    assert shown[1, at] - shown[0, at] == pytest.approx(0.2 * die_only, rel=0.15), "rises are in proportion to power, nearly"


def test_uncertain_power_alone_gives_its_own_spread() -> None:
    """T is linear in the die's power but for radiation: u(T) = (T − T₀)/P·u(P) for the die's own part."""
    made = uncertain({"points.load.powers_w.die": 5.0})
    samples = draw_samples(prepared(Engine(), made), 1000)
    found = chances(samples).of("s_die")
    assert found is not None
    slope = (
        Engine().predict(paths.set_values(made, {"points.load.powers_w.die": 105.0})).report.sensors[0].value_c - found.shown_c
    )
    assert found.sd_k == pytest.approx(slope, rel=0.05)
    assert found.shares[0].field == "power_w"
    assert found.shares[0].share == pytest.approx(1.0, abs=0.01)
    assert found.unexplained < 0.01
    assert found.low_c == pytest.approx(found.shown_c - 1.96 * found.sd_k, abs=0.3 * found.sd_k)


def synthetic(limit: float | None, count: int = 4000) -> Samples:
    """Samples of one sensor: 80 + 3·a + 1·b, a and b standard normal."""
    numbers = tuple(Assumption((name,), name, (name,), 1.0, 1.0, "assumed", "") for name in ("a", "b"))
    drawn = draw(numbers, count, 3, 1.0)
    drawn = np.where(np.isfinite(drawn), drawn, 0.0)
    values = (80 + 3 * drawn[:, [0]] + drawn[:, [1]]).astype(float)
    return Samples(("s",), ("Sensor",), (limit,), np.array([80.0]), values, drawn, numbers, 2, 0)


def test_chances_and_shares_of_a_known_sum() -> None:
    samples = synthetic(80.0)
    spread = float(np.std(samples.values_c, ddof=1))
    found = chances(samples)
    (one,) = found.sensors
    assert one.within == pytest.approx(0.5, abs=0.05)
    assert found.all_within == one.within
    assert one.sd_k == pytest.approx(spread)
    parts = {share.field: share.share for share in one.shares}
    assert parts["a"] / parts["b"] == pytest.approx(9.0, rel=0.1)
    assert sum(parts.values()) == pytest.approx(1.0, abs=0.02)
    assert chances(synthetic(None)).all_within is None
    assert chances(synthetic(-50.0)).all_within == 0.0


def test_samples_without_a_steady_state_keep_no_limit() -> None:
    samples = synthetic(200.0, 900)
    found = chances(replace(samples, failed=100))
    assert found.count == 1000
    assert found.all_within == pytest.approx(0.9)
    assert found.sensors[0].within == pytest.approx(0.9)


def test_words_say_no_more_than_there_is() -> None:
    assert chance_words(1.0, standard_error(1.0, 1000)) == "above 99 %"
    assert chance_words(0.42, 0.02) == "42 %"
    assert standard_error(0.5, 100) == pytest.approx(math.sqrt(0.25 / 100))


def test_each_number_is_drawn_once_in_every_interval() -> None:
    """What makes a hypercube Latin."""
    numbers = [Assumption(("x",), "height_mm", ("x",), 10.0, 0.1, "measured", "") for _ in range(3)]
    from scipy.stats import norm

    drawn = draw(numbers, 200, 1)
    for column in drawn.T:
        assert sorted(np.floor(norm.cdf(column) * 200)) == list(range(200))


def test_what_cannot_be_negative_or_above_one_is_not_drawn_there() -> None:
    resistance = Assumption(("x",), "attach.resistance_mm2k_w", ("x",), 5.0, 3.0, "assumed", "", bounds=Bounds(0.0, 1e5))
    share = Assumption(("x",), "finish.emissivity", ("x",), 0.9, 0.05, "assumed", "", bounds=Bounds(0.0, 1.0))
    crown = Assumption(("x",), "form.crown_um", ("x",), 0.0, 8.0, "assumed", "", bounds=Bounds(-2000.0, 2000.0))
    drawn = draw((resistance, share, crown), 4000, 2)
    assert (5.0 + 3.0 * drawn[:, 0]).min() >= 0.5 - 1e-9
    assert (0.9 + 0.05 * drawn[:, 1]).max() <= 1.0 + 1e-9
    assert drawn[:, 2].min() < -3
    assert (lowest((resistance,)) < highest((resistance,))).all()


def test_a_resistance_bends_as_its_inverse() -> None:
    def change(scale: float) -> Change:
        return Change(np.array([0]), np.array([scale]), np.zeros(2), np.zeros(2))

    relative = 0.4  # G = 1/(1 + 0.4·δ)
    up, half = 1 / (1 + relative) - 1, 1 / (1 - 0.5 * relative) - 1
    bend = bend_of(change(up), change(half), 0.5)
    assert bend == pytest.approx(relative)
    acts = HeatChange(change(up), bend, None).acts(np.array([0.0, 1.0, -0.5, 2.0]))
    assert up * acts == pytest.approx([0.0, up, half, 1 / 1.8 - 1])
    assert bend_of(change(0.3), change(-0.15), 0.5) == pytest.approx(0.0), "a conductance acts in proportion"


def test_factors_multiply() -> None:
    assert factors(np.array([[1.0, -1.0]]), np.array([[0.1], [0.2]])) == pytest.approx(np.array([[1.1 * 0.8]]))


def test_a_reduced_model_is_exact_on_what_its_basis_spans() -> None:
    """Three nodes in a row to air at one end, one link that varies: the basis of two solutions holds any mixture's space."""
    from types import SimpleNamespace

    system = SimpleNamespace(
        i=np.array([0, 1]), j=np.array([1, 2]), conductance=np.array([2.0, 3.0]),
        diagonal=np.array([0.0, 0.0, 1.0]), right=np.array([5.0, 0.0, 0.0]), n=3,
    )  # fmt: skip

    def exact(link: float) -> np.ndarray:
        g = np.array([link, 3.0])
        matrix = np.array([[g[0], -g[0], 0], [-g[0], g[0] + g[1], -g[1]], [0, -g[1], g[1] + 1.0]])
        return np.linalg.solve(matrix, system.right)

    basis = basis_of(np.stack([exact(2.0), exact(0.5)], axis=1))
    model = ReducedModel(system, basis, (), np.array([0]))  # type: ignore[arg-type]
    found = model.solve(np.zeros((2, 0)), np.array([[0.0], [6.0]])) @ basis.T
    assert found[0] == pytest.approx(exact(2.0))
    assert found[1] == pytest.approx(exact(8.0)), "solutions move along one line here, so any link is spanned"


def test_nothing_uncertain_is_said_in_words() -> None:
    with pytest.raises(AssemblyError, match="nothing to draw"):
        prepared(Engine(), uncertain({}))


def test_runaways_are_counted_not_averaged() -> None:
    made = uncertain({"points.load.powers_w.die": 40.0})
    leaking = paths.set_values(
        made, {"device.bodies.die.leakage": {"share": {"value": 0.12}, "at_c": {"value": 55.0}, "per_k": {"value": 20.0}}}
    )
    samples = draw_samples(prepared(Engine(), leaking), 400)
    assert samples.failed > 0
    assert len(samples.values_c) + samples.failed == 400
    assert samples.values_c.max() < 600.0


def test_the_command_line_tells_chances(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    save_project(tmp_path / "card.json", uncertain({"points.load.powers_w.die": 30.0, "device.bodies.die.height_mm": 0.02}))
    main(["predict", str(tmp_path / "card.json"), "--chance", "200", "--json"])
    found = json.loads(capsys.readouterr().out)["chance"]
    by_name = {one["sensor"]: one for one in found["sensors"]}
    assert by_name["s_die"]["limit_c"] == 95.0
    assert by_name["s_die"]["shares"][0]["field"] == "power_w"
    assert found["count"] == 200
    assert 0 <= found["all_within"] <= min(one["within"] for one in found["sensors"])
    main(["predict", str(tmp_path / "card.json"), "--chance", "200"])
    assert "All limits hold in" in capsys.readouterr().out


def test_an_air_gap_without_a_joint_answers() -> None:
    """A spreader that reaches the case wall through air alone: chances once said ± 0.000 K where first order says kelvins."""
    plain = Project.parse(device(1002, "fanless")).model_dump(mode="json")
    plain["builds"][0]["joints"] = [joint for joint in plain["builds"][0]["joints"] if joint["upper"] != "wall"]
    _still(plain)
    height = "device.bodies.wall.height_mm"
    made = paths.set_values(Project.parse(plain), {f"{height}.uncertainty": 0.05, "points.load.inside": "given"})
    engine = Engine()
    drawn = draw_samples(prepared(engine, made, report=engine.predict(made, fidelity="coarse").report), 400)
    value = float(paths.get(made, height))
    ends = [engine.predict(paths.set_values(made, {height: value + by}), fidelity="coarse").report for by in (-0.05, 0.05)]
    rises = [{row.id: row.value_c for row in one.sensors} for one in ends]
    for name, spread in zip(drawn.sensors, drawn.values_c.std(axis=0), strict=True):
        first_order = abs(rises[1][name] - rises[0][name]) / 2
        assert spread == pytest.approx(first_order, rel=0.15, abs=0.01), name
    assert drawn.values_c.std(axis=0).max() > 0.1
