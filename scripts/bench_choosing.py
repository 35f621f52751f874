"""Speed of choosing: first plan, all plans, builds beside each other, an answer to a slider."""

from __future__ import annotations

import time
from collections.abc import Callable

from ashen_bridge.assess.glance import keep_for_glances
from ashen_bridge.changes.builds import copy_build
from ashen_bridge.changes.layers import thicken_sheets
from ashen_bridge.changes.points import copy_point, scale_load
from ashen_bridge.files.demos import open_anything
from ashen_bridge.planning.choosing.advise import advising
from ashen_bridge.planning.comparing import comparing
from ashen_bridge.planning.sliding import slid
from ashen_bridge.predict.engine import Engine

Say = Callable[[str, float, str, str], None]
Seconds = Callable[[Callable[[], object]], float]


def chosen(say: Say, seconds: Seconds) -> None:
    """Print the figures."""
    project, engine = open_anything("demo:correlator").project, Engine()
    prediction = engine.predict(project, "as_found", "correlate")
    start, first = time.perf_counter(), 0.0
    told = None
    for _, told in advising(engine, project, "as_found", "correlate"):
        if told is not None and not first:
            first = time.perf_counter() - start
    assert told is not None  # the last one always is
    say("advice, 19 joints in 4 groups, first plan", first, "s", "<= 3")
    say("advice, all plans, chances, refusals, on the full field", time.perf_counter() - start, "s", "<= 10")
    say("plans tried", told.tried, "", "none stated")
    joints = [joint.id for joint in project.build("as_found").joints if joint.sheet_at is not None]
    for n in range(10 - len(project.builds)):
        project = copy_build(project, "as_found", f"more_{n}", f"More {n}")
        project = thicken_sheets(project, f"more_{n}", (joints[n],), 0.1)
    project = scale_load(copy_point(project, "correlate", "warm", "Warm"), "warm", 0.9)
    builds, points = [one.id for one in project.builds], [one.id for one in project.points][:3]
    steps = comparing(engine, project, builds, points)
    say("comparison of 10 builds x 3 points, all seen", seconds(lambda: next(one for one in steps if one[0] >= 0.5)), "s", "<= 5")
    say("comparison of 10 builds x 3 points, refined", seconds(lambda: list(steps)), "s", "none stated")
    keep_for_glances(engine, project, prediction)
    values = {"points.correlate.ambient_c": 31.0, "materials.pad_medium.conductivity_w_mk": 7.0}
    list(slid(engine, project, "as_found", "correlate", values))
    warmer = {**values, "points.correlate.ambient_c": 32.0}
    say("answer to a slider", 1e3 * seconds(lambda: list(slid(engine, project, "as_found", "correlate", warmer))), "ms", "<= 60")
