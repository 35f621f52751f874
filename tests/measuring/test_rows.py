"""Readings as rows: what is used, what is refused and why, what several have in common."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from ashen_bridge.estimate.posterior import posterior
from ashen_bridge.estimate.rows import Rows
from ashen_bridge.measuring.expected import Looks
from ashen_bridge.measuring.rows import Read, read_off
from ashen_bridge.model.errors import ProjectError
from cards import MODULUS_KPA, card, height, imprint


def read(*readings: dict[str, Any], **changes: Any) -> Read:
    project = card(readings=readings)
    data = project.model_dump(mode="json") | changes
    project = type(project).parse(data)
    return read_off(Looks(project, "now", {"now": {(f"pad_{n}", f"part_{n}"): 0.85 for n in range(4)}}), project.readings)


def depth(name: str, body: str, x: float, y: float, value: float, placement: str = "P") -> dict[str, Any]:
    return {"form": "depth", "id": name, "placement": placement, "body": body, "x_mm": x, "y_mm": y, "values_mm": [value]}


def test_repeats_are_kept_and_count_by_their_scatter() -> None:
    found = read(height("few", "part_0", 1.20), height("many", "part_1", *[1.19, 1.21] * 8), height("wild", "part_2", 1.0, 1.4))
    assert found.values == pytest.approx([1.2, 1.2, 1.2])
    few, many, wild = found.errors
    assert many < few < wild


def test_a_tilted_straight_edge_does_no_harm() -> None:
    """The plane through three known tops and the height of a fourth, against plain least squares of a linear-algebra library."""
    places = {"part_0": (18, 18), "part_1": (62, 18), "part_2": (18, 62), "part_3": (62, 62)}
    tilt = {name: 3.0 + 0.004 * x - 0.002 * y for name, (x, y) in places.items()}
    high = {"part_0": 1.2, "part_1": 1.2, "part_2": 1.2, "part_3": 1.26}
    found = read(*(depth(f"d{n}", name, *places[name], tilt[name] - high[name]) for n, name in enumerate(places)))
    assert not found.refused
    assert [one.free for one in found.common] == [True] * 3
    # The heights of three are known well, that of the fourth not at all.
    slopes = np.hstack([np.array([[0.0], [0.0], [0.0], [-1.0]]), *(one.slopes[:, None] for one in found.common)])
    start = np.array([-1.2, -1.2, -1.2, 0.0])
    rows = Rows(found.values, np.diag(found.errors**2), start, slopes, (), None, np.array([True] * 4))
    by_hand = np.linalg.lstsq(slopes, found.values - start, rcond=None)[0]
    assert posterior(rows).mean[0] == pytest.approx(1.26, abs=1e-9)
    assert posterior(rows).mean == pytest.approx(by_hand)


@pytest.mark.parametrize(
    ("reading", "why"),
    [
        (depth("d", "part_0", 1, 1, 1.0), "at 1 place"),
        (height("h", "nothing", 1.0), "'nothing' is not there"),
        ({"form": "step", "id": "s", "plate": "plate", "landing": "gone", "values_mm": [0.1]}, "no landing 'gone'"),
        ({"form": "step", "id": "s", "plate": "die", "landing": "gone", "values_mm": [0.1]}, "no plate"),
        ({**imprint("i", 0, 0.9), "closing": "never"}, "closing 'never'"),
        ({**imprint("i", 0, 0.9), "joint": "die_joint", "lower": "die"}, "no sheet"),
        ({**imprint("i", 0, 0.9), "lower": "part_1"}, "does not reach"),
        ({"form": "number", "id": "n", "path": "device.bodies.gone.height_mm", "values": [1.0], "uncertainty": 0.1}, "any more"),
        ({"form": "number", "id": "n", "path": "device.bodies.die.name", "values": [1.0], "uncertainty": 0.1}, "no number"),
        ({"form": "number", "id": "n", "path": "device.bodies.die.height_mm", "values": [1.0]}, "neither an instrument nor"),
    ],
)
def test_what_cannot_be_used_says_why_and_harms_nothing(reading: dict[str, Any], why: str) -> None:
    found = read(reading, height("good", "part_0", 1.2))
    assert found.labels == ("good",)
    assert [name for name, _ in found.refused] == [reading["id"]]
    assert why in found.refused[0][1]


def test_three_places_in_a_line_define_no_plane() -> None:
    found = read(*(depth(f"d{n}", f"part_{n}", 10.0 * n, 10.0 * n, 1.0) for n in range(3)))
    assert not found.readings
    assert all("no line" in why for _, why in found.refused)


def test_the_same_reading_twice_is_asked_about() -> None:
    found = read(height("one", "part_0", 1.2, 1.21), height("two", "part_0", 1.2, 1.21), height("three", "part_0", 1.2, 1.22))
    assert found.labels == ("one", "three")
    assert "'one'" in found.refused[0][1]


def test_jaws_squash_a_soft_pad_and_that_is_taken_back() -> None:
    hard = {"instruments": [{"id": "caliper", "jaw_force_n": 2.0}]}
    found, plain = read(imprint("i", 0, 0.9), **hard), read(imprint("i", 0, 0.9))
    # A linear pad, 2 N on 60 mm².
    squashed = 2.0 / 60e-6 / (MODULUS_KPA * 1e3)
    assert found.values[0] == pytest.approx(0.9 / (1 - squashed))
    assert found.errors[0] > plain.errors[0]


def test_leaves_and_stacks_are_intervals() -> None:
    goes = {
        "form": "feeler",
        "id": "f",
        "closing": "first",
        "joint": "pad_0",
        "lower": "part_0",
        "goes_mm": 0.8,
        "stops_mm": 0.85,
    }
    beside = {"form": "beside", "id": "b", "closing": "first", "joint": "pad_0", "piece": "pad", "least_mm": 1.0, "most_mm": 1.25}
    found = read(goes, beside)
    assert found.values == pytest.approx([0.825, 1.125])
    assert found.errors[0] == pytest.approx(np.hypot(0.05 / np.sqrt(12), 0.01))
    with pytest.raises(ProjectError, match="thinner than the one that does not"):
        read({**goes, "goes_mm": 0.9})


def test_instruments_that_are_not_there_are_refused() -> None:
    with pytest.raises(ProjectError, match="not among the project's instruments"):
        read({**height("h", "part_0", 1.2), "instrument": "gone"})
