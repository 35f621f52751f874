"""What each kind of sensor means: maximum, mean, a spot of stated size, a point, and its offset."""

from __future__ import annotations

from typing import Any

import pytest

from ashen_bridge.assess.assessment import assess
from ashen_bridge.model.bodies import PowerBlock
from ashen_bridge.model.device import Limit, Sensor
from ashen_bridge.model.errors import AshenError, AssemblyError
from ashen_bridge.model.footprint import Rect
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.report import Report
from devices import FOUR, Card, Part, project

ENGINE = Engine()
HOT = PowerBlock(id="hot", area=Rect(x_mm=2, y_mm=2, w_mm=5, h_mm=5), share=0.7)
DIE = (30.0, 30.0, 20.0, 20.0)


def rect(x: float, y: float, w: float, h: float) -> Rect:
    return Rect(x_mm=x, y_mm=y, w_mm=w, h_mm=h)


def reading(*sensors: Sensor, card: Card | None = None, fidelity: Any = "coarse") -> dict[str, float]:
    report = predicted(*sensors, card=card, fidelity=fidelity)
    return {row.id: row.value_c for row in report.sensors}


def predicted(*sensors: Sensor, card: Card | None = None, fidelity: Any = "coarse") -> Report:
    made = project(card or Card(FOUR, sensors=False))
    device = made.device.model_copy(update={"sensors": sensors, "limits": ()})
    return ENGINE.predict(made.model_copy(update={"device": device}), fidelity=fidelity).report


def spot(name: str, *place: float, body: str = "die") -> Sensor:
    return Sensor(id=name, body=body, reads="spot", spot=rect(*place))


def point(name: str, x: float, y: float, body: str = "die") -> Sensor:
    return Sensor(id=name, body=body, reads="point", x_mm=x, y_mm=y)


def test_a_spot_as_large_as_the_die_is_its_mean_and_halves_average_to_it() -> None:
    found = reading(
        Sensor(id="mean", body="die", reads="mean"),
        spot("whole", *DIE),
        spot("left", 30, 30, 10, 20),
        spot("right", 40, 30, 10, 20),
        spot("beyond", 20, 20, 40, 40),
    )
    assert found["whole"] == pytest.approx(found["mean"], abs=1e-9)
    assert (found["left"] + found["right"]) / 2 == pytest.approx(found["mean"], abs=1e-6)
    assert found["beyond"] == pytest.approx(found["mean"], abs=1e-9), "only what lies on the body counts"


def test_the_middle_is_hotter_than_the_mean_and_the_maximum_is_the_hottest() -> None:
    found = reading(
        Sensor(id="max", body="die", reads="max"),
        Sensor(id="mean", body="die", reads="mean"),
        spot("middle", 38, 38, 4, 4),
        spot("corner", 30, 30, 3, 3),
        point("point", 40.2, 40.2),
    )
    assert found["max"] > found["middle"] - 1e-9
    assert found["middle"] > found["mean"] > found["corner"]
    assert found["point"] == pytest.approx(found["middle"], abs=0.5)


def test_a_spot_does_not_hang_on_the_mesh() -> None:
    place = spot("spot", 36.3, 37.1, 5.2, 3.9)
    coarse, fine = (reading(place, fidelity=fidelity)["spot"] for fidelity in ("coarse", "fine"))
    report = predicted(place, fidelity="fine")
    assert report.mesh.refinement_k is not None
    assert coarse == pytest.approx(fine, abs=max(1.0, 3 * report.mesh.refinement_k))


def test_four_points_of_a_symmetric_die_read_the_same() -> None:
    found = reading(*(point(f"p_{x}_{y}", x, y) for x in (33, 47) for y in (33, 47)))
    values = list(found.values())
    assert max(values) - min(values) < 0.02


def test_the_offset_is_added_to_the_reading_and_counts_against_the_limit() -> None:
    plain = Sensor(id="plain", body="die", reads="max")
    off = Sensor(id="off", body="die", reads="max", offset_k=q(4.0, 1.0))
    found = reading(plain, off)
    assert found["off"] - found["plain"] == pytest.approx(4.0, abs=1e-9)
    made = project(Card(FOUR, sensors=False))
    limits = tuple(Limit(id=f"l_{name}", sensor=name, max_c=q(95)) for name in ("plain", "off"))
    device = made.device.model_copy(update={"sensors": (plain, off), "limits": limits})
    rows = {row.id: row for row in ENGINE.predict(made.model_copy(update={"device": device}), fidelity="coarse").report.sensors}
    assert rows["plain"].margin_k is not None
    assert rows["off"].margin_k is not None
    assert rows["plain"].margin_k - rows["off"].margin_k == pytest.approx(4.0, abs=1e-9)


def test_the_lowest_of_several_limits_counts() -> None:
    made = project(Card(FOUR, sensors=False))
    limits = tuple(Limit(id=f"l_{value}", sensor="s", max_c=q(value)) for value in (105, 90, 95))
    device = made.device.model_copy(update={"sensors": (Sensor(id="s", body="die", reads="max"),), "limits": limits})
    row = ENGINE.predict(made.model_copy(update={"device": device}), fidelity="coarse").report.sensors[0]
    assert row.limit_c == 90
    assert row.margin_k == pytest.approx(90 - row.value_c)


@pytest.mark.parametrize(
    ("sensor", "words"),
    [
        ({"id": "s", "body": "die", "reads": "spot"}, "needs the spot's area"),
        ({"id": "s", "body": "die", "reads": "point", "x_mm": 3}, "needs x_mm and y_mm"),
        ({"id": "s", "body": "die", "reads": "feel"}, "reads"),
    ],
)
def test_a_sensor_without_its_place_is_refused(sensor: dict[str, Any], words: str) -> None:
    plain = project(Card(FOUR)).model_dump(mode="json")
    plain["device"]["sensors"].append(sensor)
    with pytest.raises(AshenError, match=words):
        Project.parse(plain)


@pytest.mark.parametrize("sensor", [spot("s", 60, 60, 5, 5), point("s", 5.0, 5.0)])
def test_a_place_beside_the_body_is_refused(sensor: Sensor) -> None:
    with pytest.raises(AssemblyError, match="beside 'die'"):
        predicted(sensor)


def test_a_sensor_of_a_part_that_a_build_removes_says_nothing() -> None:
    made = project(Card((*FOUR[:1], Part(60, 34, 1.2, 1.0))))
    build = made.builds[0]
    less = build.model_copy(update={"removed": ("part_1",), "joints": tuple(j for j in build.joints if "part_1" not in j.lower)})
    groups = tuple(g.model_copy(update={"joints": ("pad_0",)}) for g in made.groups)
    report = ENGINE.predict(made.model_copy(update={"builds": (less,), "groups": groups}), fidelity="coarse").report
    assert [row.body for row in report.sensors] == ["die", "part_0"]


def hot_corner() -> Card:
    """A die whose power is made in one corner, so that places matter."""
    return Card(FOUR, sensors=False, die_map=(HOT,))


def test_the_maximum_within_a_spot_lies_between_its_mean_and_the_dies() -> None:
    spot_at = rect(32, 32, 5, 5)
    found = reading(
        Sensor(id="max", body="die", reads="max"),
        Sensor(id="in_spot", body="die", reads="spot max", spot=spot_at),
        Sensor(id="over_spot", body="die", reads="spot", spot=spot_at),
        Sensor(id="elsewhere", body="die", reads="spot max", spot=rect(44, 44, 4, 4)),
        card=hot_corner(),
        fidelity="fine",
    )
    assert found["over_spot"] < found["in_spot"] <= found["max"] + 1e-9
    assert found["in_spot"] == pytest.approx(found["max"], abs=0.01), "the spot covers the block that makes the power"
    assert found["elsewhere"] < found["in_spot"] - 3


def test_several_bodies_together_are_the_hottest_or_the_mean() -> None:
    names = ("part_0", "part_1", "part_2", "part_3")
    each = [Sensor(id=name, body=name, reads="max") for name in names]
    means = [Sensor(id=f"mean_{name}", body=name, reads="mean") for name in names]
    found = reading(
        *each,
        *means,
        Sensor(id="hottest", body="part_0", also=names[1:], reads="max"),
        Sensor(id="all", body="part_0", also=names[1:], reads="mean"),
    )
    assert found["hottest"] == pytest.approx(max(found[name] for name in names))
    assert found["all"] == pytest.approx(sum(found[f"mean_{name}"] for name in names) / 4)


def test_a_sensor_at_an_unknown_place_shows_the_mean_and_how_far_it_may_be_off() -> None:
    report = predicted(
        Sensor(id="mean", body="die", reads="mean"),
        Sensor(id="core", body="die", reads="somewhere"),
        Sensor(id="rim", body="die", reads="edge"),
        Sensor(id="left", body="die", reads="spot", spot=rect(30, 30, 2, 20)),
        card=hot_corner(),
        fidelity="fine",
    )
    rows = {row.id: row for row in report.sensors}
    assert rows["core"].value_c == pytest.approx(rows["mean"].value_c)
    assert rows["mean"].place_k == 0.0
    die = report.component("die")
    assert 0.2 * die.hot_minus_mean_k < rows["core"].place_k < die.hot_minus_mean_k
    assert rows["rim"].value_c < rows["core"].value_c, "the edge is cooler than the whole"
    assert 0 < rows["rim"].place_k < rows["core"].place_k + 3


def test_a_hot_spot_far_above_the_average_is_a_finding() -> None:
    made = project(Card(FOUR, die_power=200.0, die_map=(HOT,)))
    found = {one.code: one for one in assess(made).findings}
    apart = ENGINE.predict(made).report.component("die").hot_minus_mean_k
    assert apart > 20
    assert found["hot_spot_above_average"].numbers["hot_minus_mean_k"] == pytest.approx(apart, abs=0.1)
    assert "hot_spot_above_average" not in {one.code for one in assess(project(Card(FOUR))).findings}


def test_sensors_that_mean_nothing_are_refused() -> None:
    for wrong in ({"reads": "spot max"}, {"reads": "point", "also": ["part_0"]}, {"reads": "max", "also": ["die"]}):
        with pytest.raises(ValueError, match="sensor 's'"):
            Sensor.model_validate({"id": "s", "body": "die", **wrong})
    with pytest.raises(AshenError, match="does not exist"):
        Project.parse({**Project().model_dump(mode="json"), "device": {"sensors": [{"id": "s", "body": "x", "reads": "max"}]}})
