"""What a click costs before anything is computed: the edit, the undo step, and how many heat fields it comes to."""

from __future__ import annotations

import statistics
import tracemalloc
from collections.abc import Callable

from ashen_bridge.assess import errands
from ashen_bridge.changes import layers, values
from ashen_bridge.changes.edit import edit
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine

Say = Callable[[str, float, str, str], None]
Seconds = Callable[[Callable[[], object]], float]
_STOCK = (0.5, 0.75, 1.0, 1.25, 1.5, 2.0, 2.5, 3.0)


def edits(say: Say, seconds: Seconds, project: Project) -> None:
    """Edits of the demo: a group's pads, and one value by its path."""
    joints = project.groups[0].joints
    group = [edit("", layers.set_thickness, "plan_a", joints, 0, 0.9 + 1e-3 * n) for n in range(50)]
    single = [edit("", values.set_values, {"device.bodies.die.height_mm": 0.7 + 1e-3 * n}) for n in range(50)]
    asked = (("edit with validation, a group of eight pads, median", group), ("edit with validation, one value, median", single))
    for words, made in asked:
        spent = statistics.median(seconds(lambda one=one: one.applied(project)) for one in made)  # type: ignore[misc]
        say(words, spent * 1e3, "ms", "<= 3")
    tracemalloc.start()
    kept = [project]
    for n in range(1000):
        kept.append(layers.set_thickness(kept[-1], "plan_a", joints, 0, 0.5 + n * 1e-3))
    size, _ = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    say("undo step, a group of eight pads", size / 1000 / 1e3, "kB", "<= 20")
    say("1,000 edits kept", size / 1e6, "MB", "<= 60")


def clicks(say: Say, project: Project) -> None:
    """Heat fields per click on a stock thickness: until the first numbers, and until prediction, findings and strip are there."""
    engine, joints = Engine(), project.groups[0].joints

    def settle(made: Project) -> None:
        *_, (_, found) = errands.predict(engine, made, "plan_a", project.point().id)
        list(errands.thickness_strip(engine, made, found.report, joints, _STOCK))

    settle(project)
    clicked = layers.set_sheets(project, "plan_a", joints, 1.5)
    before = engine.fields_solved
    next(errands.predict(engine, clicked, "plan_a", project.point().id))
    say("heat fields of a click until the first numbers", engine.fields_solved - before, "1", "0")
    settle(clicked)
    say("heat fields of a click in all, strip of 8 included", engine.fields_solved - before, "1", "<= 4")
