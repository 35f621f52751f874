"""The route for the verdict: against brute force where lines mislead, and in few moves."""

from __future__ import annotations

import numpy as np
import pytest

from ashen_bridge.files.demos import open_anything
from ashen_bridge.measuring.gauging import gauging
from ashen_bridge.measuring.result import Stop
from ashen_bridge.measuring.route import candidates, error_of
from ashen_bridge.measuring.verdict_route import _draws, _in_few_moves, _worst, route_of, routing
from ashen_bridge.model.sharing import replaced
from ashen_bridge.predict.engine import Engine
from ashen_bridge.uncertainty.preparation import prepared


@pytest.fixture(scope="module")
def engine() -> Engine:
    return Engine()


def test_what_a_reading_would_take_is_what_brute_force_says(engine: Engine) -> None:
    """On the buoy as it was found: draws sorted by what would be read, and the verdict's variance within each narrow heap.

    Another way than weighing draws by a likelihood: no formula, no straight line.
    """
    project = replaced(open_anything("demo:buoy").project, readings=(), taken_over=())
    *_, (_, gauged) = gauging(engine, project, "as_found")
    assert gauged is not None
    ready = prepared(engine, project, gauged.build, None, numbers=gauged.numbers)
    random = np.random.default_rng(9)
    root = gauged.found.root[: len(gauged.numbers)]
    x = random.standard_normal((4000, root.shape[1])) @ root.T
    temperatures, fine = ready.temperatures(x)
    x = x[fine]
    name, target = _worst(project, ready, temperatures)
    listed = [one for one in candidates(project, gauged) if one.slopes.any()]
    route = route_of(project, listed, x, target, name, gauged)
    assert route.stops
    for stop in route.stops[:3]:
        one = next(each for each in listed if (each.form, tuple(each.of.items())) == (stop.form, stop.of))
        read = one.value + x @ one.slopes + error_of(one.form, project.instruments[0]) * random.standard_normal(len(x))
        heaps = np.array_split(np.argsort(read), 60)
        left = np.sqrt(np.mean([target[heap].var() for heap in heaps]))
        assert stop.then_k == pytest.approx(float(left), rel=0.12)
    assert len(_draws(gauged)) == 500


@pytest.mark.long
def test_the_most_worth_comes_first_and_then_the_nearest(engine: Engine) -> None:
    project = open_anything("demo:correlator").project
    *_, (_, route) = routing(engine, project, "as_found")
    assert route is not None
    assert route.now_k > 0
    assert all(one.then_k < route.now_k for one in route.stops)

    def stop(body: str, form: str = "height") -> Stop:
        return Stop(form, (("body", body), ("above", "board")), body, 0.5, 1.0)

    ordered = _in_few_moves(project, [stop("mem_l1"), stop("mem_r1"), stop("mem_l2"), stop("mem_l3", "depth"), stop("mem_l3")])
    told = [(dict(one.of)["body"], one.form) for one in ordered]
    assert told[0] == ("mem_l1", "height")
    assert told[1:3] == [("mem_l2", "height"), ("mem_l3", "height")], "the nearest, with what is in hand"
