"""Gaps from readings, against whole devices moved by hand, closed forms and truths that were drawn."""

from __future__ import annotations

import numpy as np
import pytest

from ashen_bridge.changes.materials import make_pads_limp
from ashen_bridge.changes.readings import before_readings, set_aside, take_over
from ashen_bridge.files.demos import open_anything
from ashen_bridge.measuring.gauging import Gauging, gauging
from ashen_bridge.measuring.numbers import separate_numbers
from ashen_bridge.measuring.practice import practice
from ashen_bridge.measuring.pushed import Pushed
from ashen_bridge.measuring.route import candidates, next_for, offered
from ashen_bridge.measuring.taking import taken_over
from ashen_bridge.model import paths
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from cards import MODULUS_KPA, card, height, imprint


def gauged(project: Project, engine: Engine | None = None) -> Gauging:
    *_, (_, found) = gauging(engine or Engine(), project)
    assert found is not None
    return found


def gap(found: Gauging, joint: str) -> tuple[float, float]:
    return next(one.now for one in found.gaps if one.joint == joint)


def prepared(project: Project, build: str) -> tuple[Pushed, np.ndarray]:
    numbers = separate_numbers(project, (build,))
    made = Pushed(Engine(), project, build, numbers)
    list(made.prepare())
    return made, np.array([0.0] * len(numbers))


@pytest.mark.parametrize(("demo", "build"), [("correlator", "as_found"), ("buoy", "as_found")])
def test_gaps_in_a_batch_are_those_of_whole_devices_moved_one_by_one(demo: str, build: str) -> None:
    project = open_anything(f"demo:{demo}").project
    numbers = separate_numbers(project, (build,))
    made = Pushed(Engine(), project, build, numbers)
    list(made.prepare())
    random = np.random.default_rng(5)
    for n in random.choice(len(numbers), size=12, replace=False):
        state = np.zeros(len(numbers))
        state[n] = random.choice([-0.7, 0.7])
        one = numbers[n]
        moved = paths.set_numbers(project, {one.paths[0]: one.value + state[n] * one.uncertainty})
        whole = {(row.joint, row.lower): row.gap_mm for row in Engine().mechanics(moved, build)[0]}
        found = dict(zip(made.keys, made.gaps(state[None])[0], strict=True))
        for key, value in whole.items():
            assert found[key] == pytest.approx(value, abs=1.5e-3), (one.paths[0], key)


def test_pads_that_hold_the_cooler_off_carry_the_springs() -> None:
    """A plate on springs and four linear pads, by hand: 4·A·M·(1 − g/t) is what the springs pull with."""
    project, thick = card(), 1.5
    project = paths.set_values(project, {f"builds.now.joints.pad_{n}.pieces.pad.thickness_mm": thick for n in range(4)})
    engine = Engine()
    rows, pull = engine.mechanics(project, "now")
    assert next(row for row in rows if row.joint == "die_joint").force_n == pytest.approx(0.0, abs=0.01)
    area = 12e-3 * 12e-3
    wanted = thick * (1 - pull / (4 * area * MODULUS_KPA * 1e3))
    made, nowhere = prepared(project, "now")
    found = dict(zip(made.keys, made.gaps(nowhere[None])[0], strict=True))
    assert found["pad_0", "part_0"] == pytest.approx(wanted, abs=1e-3)
    # An imprint of such a closing is too thick by the lift, and by what the pad recovered.
    filled = next(row.gap_mm for row in engine.mechanics(make_pads_limp(project), "now")[0] if row.joint == "pad_0")
    share = practice().recovered["pad"][0]
    read = wanted + share * (thick - wanted)
    seen = Project.parse(project.model_dump(mode="json") | {"readings": [imprint("i", 0, read)]})
    closed = next(one for one in gauged(seen).gaps if one.joint == "pad_0").closed[0]
    assert closed.read_mm == pytest.approx(read)
    assert closed.lift_mm == pytest.approx(wanted - filled, abs=2e-3)
    assert closed.lift_mm > 0.2
    assert closed.fills_mm == pytest.approx(filled, abs=4e-3)


def test_without_readings_nothing_is_known_but_what_was_known() -> None:
    found = gauged(card())
    for one in found.gaps:
        assert one.now == pytest.approx(one.before)
        assert not one.methods
    assert not found.odd


def test_readings_narrow_the_gaps_they_are_about_and_a_little_those_of_alike_parts() -> None:
    before = gauged(card())
    found = gauged(card(readings=(height("h0", "part_0", 1.16, 1.17, 1.16), height("hd", "die", 2.01, 2.0))))
    mean, sd = gap(found, "pad_0")
    assert sd < 0.5 * gap(before, "pad_0")[1]
    assert mean == pytest.approx(gap(before, "pad_0")[0] + (2.005 - 2.0) - (1.163 - 1.2), abs=0.012)
    # Packages of one kind came from one look: what one is off, the others are likely off as well.
    assert gap(found, "pad_1")[0] > gap(before, "pad_1")[0] + 0.01
    assert gap(found, "pad_0")[1] < gap(found, "pad_1")[1] < gap(before, "pad_1")[1]
    best = next(one for one in found.gaps if one.joint == "pad_0")
    assert sum(one.share for one in best.budget) == pytest.approx(1.0, abs=0.01)


def test_two_heights_of_one_sitting_lose_its_zero_in_their_difference() -> None:
    both = tuple(height(f"h{body}", body, value) for body, value in (("part_0", 1.2), ("die", 2.0)))
    together = gauged(card(readings=both))
    apart = gauged(card(readings=(both[0], {**both[1], "sitting": "tomorrow"})))
    assert gap(together, "pad_0")[1] < 0.93 * gap(apart, "pad_0")[1]


def test_a_slip_is_named_with_what_it_should_have_been() -> None:
    readings = (
        *(height(f"h{n}", f"part_{n}", 1.20, 1.21) for n in range(4)),
        height("again", "part_2", 1.20, sitting="tomorrow"),
        height("slip", "part_2", 1.70, sitting="tomorrow"),
        height("hd", "die", 2.0, 2.01),
    )
    odd = gauged(card(readings=readings)).odd
    assert [one.label for one in odd] == ["slip"]
    assert odd[0].off == pytest.approx(0.5, abs=0.03)
    assert odd[0].expected[0] == pytest.approx(1.2, abs=0.03)
    clean = gauged(card(readings=tuple(one for one in readings if one["id"] != "slip")))
    assert not clean.odd
    aside = gauged(card(readings=tuple(one | {"aside": one["id"] == "slip"} for one in readings)))
    assert aside.read.refused == (("slip", "It was set aside."),)
    without = gauged(card(readings=readings))
    for one, other, without_it in zip(clean.gaps, aside.gaps, without.without(odd[0]), strict=True):
        assert other.now == pytest.approx(one.now, abs=1e-9)
        assert without_it == pytest.approx(one.now, abs=2e-3)


def test_what_nothing_checks_is_said() -> None:
    free = card(readings=(height("hd", "die", 2.0),))
    assert gauged(free).unchecked == (), "what was known beforehand checks it"
    vague = paths.set_values(free, {"device.bodies.die.height_mm": {"value": 2.0, "uncertainty": 0.5, "origin": "assumed"}})
    assert gauged(vague).unchecked == ("hd",)


def test_stated_intervals_hold_the_truth_with_zero_errors_in_common() -> None:
    """A thousand drawn devices, measured with one caliper set wrongly each time: two standard deviations hold the truth."""
    base = card(readings=(*(height(f"h{n}", f"part_{n}", 1.2, 1.2, 1.2) for n in range(4)), height("hd", "die", 2.0, 2.0, 2.0)))
    found = gauged(base)
    rows, slopes = found.found.rows, found.slopes
    random = np.random.default_rng(20_261_129)
    root = np.linalg.cholesky(rows.prior_covariance)
    held, count = 0, 1000
    targets = np.hstack([slopes.of_gaps, np.zeros((len(slopes.gaps), rows.n_number - slopes.of_gaps.shape[1]))])
    gain = found.found.covariance @ rows.slopes.T @ np.linalg.inv(rows.covariance)
    spread = np.sqrt(np.diag(found.covariance))
    for _ in range(count):
        x = root @ random.normal(size=rows.n_number)
        # The instrument reads to its last digit, what is stated is a mean of three.
        y = rows.start + rows.slopes @ x + np.sqrt(np.diag(rows.covariance)) * random.normal(size=rows.n_reading)
        error = targets @ (gain @ (np.round(y, 2) - rows.start)) - targets @ x
        held += int(np.sum(np.abs(error[1:]) < 2 * spread[1:]))
    assert 0.93 < held / (count * 4) < 0.975


def test_taking_over_names_every_number_and_counts_no_reading_twice() -> None:
    engine = Engine()
    project = card(readings=(height("h0", "part_0", 1.16, 1.17), height("h1", "part_1", 1.22), height("hd", "die", 2.03, 2.02)))
    found = gauged(project, engine)
    numbers, ties = taken_over(before_readings(project), found)
    told = {one.path: one for one in numbers}
    assert told["device.bodies.part_0.height_mm"].now.value < 1.19
    assert told["device.bodies.part_0.height_mm"].now.uncertainty < 0.03
    assert told["device.bodies.part_0.height_mm"].was.value == 1.2
    assert any(set(tie.paths) >= {"device.bodies.part_0.height_mm", "device.bodies.die.height_mm"} for tie in ties)
    after = take_over(project, numbers, ties)
    assert before_readings(after).device == project.device
    again = gauged(after, engine)
    for one, other in zip(found.gaps, again.gaps, strict=True):
        assert other.now == pytest.approx(one.now, abs=1e-9)
    # A reading that is set aside leaves nothing behind when numbers are taken over again.
    less = set_aside(set_aside(after, "h0"), "h1")
    again_numbers, again_ties = taken_over(before_readings(less), gauged(less, engine))
    fresh = set_aside(set_aside(project, "h0"), "h1")
    wanted = take_over(fresh, again_numbers, again_ties)
    assert take_over(less, again_numbers, again_ties) == wanted
    # What somebody changed by hand since is what is known beforehand.
    path = "device.bodies.die.height_mm"
    by_hand = paths.set_values(after, {path: {"value": 2.1, "uncertainty": 0.01, "origin": "data sheet", "note": ""}})
    assert paths.get(before_readings(by_hand), path) == 2.1


def test_the_next_reading_is_what_is_known_least() -> None:
    project = card(readings=(height("h0", "part_0", 1.2, 1.2, 1.2),))
    found = gauged(project)
    at = next(n for n, one in enumerate(found.gaps) if one.joint == "pad_0")
    can = candidates(project, found)
    listed = next_for(project, found, at, can)
    assert (listed[0].form, listed[0].of) == ("height", "die.board")
    expected = {(one.form, one.of): one.expected for one in offered(project, found, can)}
    assert expected["height", (("body", "part_0"), ("above", "board"))][0] == pytest.approx(1.2, abs=0.01)
    assert expected["height", (("body", "die"), ("above", "board"))] == pytest.approx((2.0, 0.05), abs=0.006)
    assert ("imprint", (("closing", "first"), ("joint", "pad_2"), ("lower", "part_2"))) in expected
    for one in listed:
        assert one.then_mm < one.now_mm
    # What it promises is what comes of it.
    done = gauged(card(readings=(height("h0", "part_0", 1.2, 1.2, 1.2), height("hd", "die", 2.0, 2.0, 2.0, sitting="later"))))
    assert gap(done, "pad_0")[1] == pytest.approx(listed[0].then_mm, rel=0.1)
