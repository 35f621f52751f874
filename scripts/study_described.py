"""Whether a device that was described by answers behaves like the device itself, after a change that was not fitted."""

from __future__ import annotations

import sys
from collections.abc import Iterator, Mapping
from pathlib import Path
from statistics import median

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

from ashen_bridge.guided.fit import fitting
from ashen_bridge.guided.result import Described
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.fingerprint import input_hash
from ashen_bridge.uncertainty.chance import chances
from ashen_bridge.uncertainty.preparation import prepared
from ashen_bridge.uncertainty.sampling import draw_samples
from described import Truth, answers, change, changes, shown, truth
from study import Case, Plain, Study

COUNT, SAMPLES = 40, 600
_FIELDS = {"die": "hot_spot", "memory": "memory_hot"}


def _cases() -> Iterator[Case]:
    for seed in range(1, COUNT + 1):
        one = truth(seed)
        what = changes(one)[seed // 3 % len(changes(one))]
        key = input_hash(one.project, "now", "load")
        yield Case(f"{one.kind} {seed}, other {what}", key, lambda one=one, what=what: described(one, what))  # type: ignore[misc]


def described(of: Truth, what: str) -> Plain:
    """Describe a device, change it and the description alike, and set both beside each other."""
    engine = Engine()
    given = answers(engine, of)
    told: Described | None = None
    for _, step in fitting(engine, given):
        told = step if step is not None else told
    assert told is not None
    data = told.project.model_dump(mode="json")
    change(data, "as_found", "load", what)
    used = in_force(Project.parse(data))
    found = chances(draw_samples(prepared(engine, used, "as_found", "load"), SAMPLES))
    room = used.point("load").ambient_c.value
    after = shown(Engine(), of.changed(what), "now", "s_die_max")
    rows = {}
    for name, true in after.items():
        chance = found.of(_FIELDS[name])
        if chance is not None and (name == "die" or given.memory_c is not None):
            rows[name] = {
                "true": true,
                "shown": chance.shown_c,
                "low": chance.low_c,
                "high": chance.high_c,
                "width": (chance.high_c - chance.low_c) / 2 / max(chance.shown_c - room, 1.0),
                "inside": chance.low_c <= true <= chance.high_c,
            }
    seen = [[one.name, one.seen_c, one.after_c, one.met] for one in told.seen]
    return {"rows": rows, "seen": seen, "misfits": list(told.misfits)}


def _line(one: Plain) -> str:
    told = [
        f"{name} {row['true']:.0f} in {row['low']:.0f}…{row['high']:.0f}" if row["inside"] else
        f"{name} {row['true']:.0f} NOT in {row['low']:.0f}…{row['high']:.0f}"
        for name, row in one["rows"].items()
    ]  # fmt: skip
    return f"{'; '.join(told)}; {sum(row[3] for row in one['seen'])} of {len(one['seen'])} readings fitted"


def _tell(done: Mapping[str, Plain]) -> str:
    rows = [row for one in done.values() for row in one["rows"].values()]
    whole = [all(row["inside"] for row in one["rows"].values()) for one in done.values()]
    seen = [row[3] for one in done.values() for row in one["seen"]]
    inside, fitted = sum(row["inside"] for row in rows), sum(seen)
    return (
        f"{inside} of {len(rows)} temperatures lie inside their 95 % interval after the change, all of them on {sum(whole)} of "
        f"{len(whole)} devices; half width {median(row['width'] for row in rows):.0%} of the rise in the middle; {fitted} of "
        f"{len(seen)} readings were fitted, the others said."
    )


STUDY = Study(
    "described",
    "Devices described by answers",
    "Invented devices are described as somebody would who has a ruler, a thumb and the device's own readings; then pads, paste "
    "or fan are changed on both, and the die's hot spot and the hottest memory compared with their 95 % intervals.",
    _cases,
    _line,
    _tell,
)
