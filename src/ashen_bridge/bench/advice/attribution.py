"""Several things were changed at once: what share may each have had, and which one further run would settle it?

Each change is made alone on the build before, and taken back alone from the build after. Where the two agree the share is
decided; where they do not, the changes act on each other.
"""

from __future__ import annotations

import copy
from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from ashen_bridge.bench.advice.verdicts import Attribution, Share
from ashen_bridge.bench.judgement import ComparedSensor, Comparison
from ashen_bridge.bench.outcome import RunError
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

Plain = dict[str, Any]
MOST_CHANGES = 12
_TRIED = "tried_out"


@dataclass(frozen=True)
class Change:
    """One thing that differs between two builds: its words, and where it stands in a build's plain data."""

    label: str
    joints: tuple[str, ...] = ()
    settings: tuple[str, ...] = ()
    overrides: tuple[str, ...] = ()
    fields: tuple[str, ...] = ()

    def carried(self, source: Plain, target: Plain) -> Plain:
        """Return the build `target` with this one thing as it is in `source`."""
        made = copy.deepcopy(target)
        for key, name_of, wanted in (("joints", "id", self.joints), ("fastener_settings", "fastener", self.settings)):
            if wanted:
                theirs = {one[name_of]: one for one in source[key] if one[name_of] in wanted}
                kept = [theirs.pop(one[name_of], None) if one[name_of] in wanted else one for one in made[key]]
                made[key] = [one for one in kept if one is not None] + list(theirs.values())
        for path in self.overrides:
            made["overrides"].pop(path, None)
            if path in source["overrides"]:
                made["overrides"][path] = source["overrides"][path]
        for field in self.fields:
            made[field] = source[field]
        return made


def changes_between(project: Project, before: str, after: str) -> tuple[Change, ...]:
    """Return what differs between two builds, joints of one group that changed alike as one."""
    a, b = (project.build(name).model_dump(mode="json") for name in (before, after))
    found: list[Change] = []
    if a["removed"] != b["removed"] or a["added"] != b["added"]:
        # Plates that come or go take the joints with them: that is one change.
        found.append(Change("plates added or taken out, with all joints", _joint_ids(a, b), (), (), ("removed", "added")))
    else:
        found += _joint_changes(project, a, b)
    for setting in sorted({one["fastener"] for one in (*a["fastener_settings"], *b["fastener_settings"])}):
        if _of(a["fastener_settings"], "fastener", setting) != _of(b["fastener_settings"], "fastener", setting):
            found.append(Change(f"how {setting} is set", (), (setting,)))
    found += [
        Change(f"{path.rsplit('.', 1)[-1]} of {path.split('.')[-2]}", (), (), (path,))
        for path in sorted({*a["overrides"], *b["overrides"]})
        if a["overrides"].get(path) != b["overrides"].get(path)
    ]
    return tuple(found)


def _joint_ids(a: Plain, b: Plain) -> tuple[str, ...]:
    return tuple(dict.fromkeys(joint["id"] for joint in (*a["joints"], *b["joints"])))


def _joint_changes(project: Project, a: Plain, b: Plain) -> Iterator[Change]:
    """Joints between the same faces are one place; places of one group that changed alike are one change."""
    places: dict[tuple[str, ...], list[str]] = {}
    for joint in (*a["joints"], *b["joints"]):
        names = places.setdefault((joint["upper"], *sorted(joint["lower"])), [])
        names += [joint["id"]] if joint["id"] not in names else []
    alike: dict[tuple[str, str, str], list[list[str]]] = {}
    for names in places.values():
        was, now = ([_of(side["joints"], "id", name) for name in names] for side in (a, b))
        if was != now:
            group = project.group_of(names[0])
            key = (group.id if group else names[0], str([_content(one) for one in was]), str([_content(one) for one in now]))
            alike.setdefault(key, []).append(names)
    labels = {joint["id"]: joint["name"] or joint["id"] for joint in (*a["joints"], *b["joints"])}
    for found in alike.values():
        some = ", ".join(labels[names[0]] for names in found[:3])
        more = f" and {len(found) - 3} more" if len(found) > 3 else ""
        yield Change(some + more, tuple(name for names in found for name in names))


def _content(joint: Plain | None) -> object:
    return None if joint is None else [{k: v for k, v in piece.items() if k != "footprint"} for piece in joint["pieces"]]


def _of(items: list[Plain], key: str, wanted: str) -> Plain | None:
    return next((one for one in items if one[key] == wanted), None)


def attributing(
    engine: Engine, project: Project, before: str, after: str, point: str, found: Comparison, sensor: str
) -> Iterator[tuple[float, Attribution | None]]:
    """Yield (progress, None), and (1, attribution) at the end, for one sensor of a comparison of two builds' runs.

    Raises `RunError` where the builds do not differ, or in too many ways.
    """
    row = next((one for one in found.sensors if one.sensor == sensor), None)
    if row is None:
        raise RunError("That sensor is not in both runs, so there is nothing to share out.")
    changes = changes_between(project, before, after)
    if not changes:
        raise RunError("Both runs are of builds that do not differ, so there is no change to share it out to.")
    if len(changes) > MOST_CHANGES:
        raise RunError(f"{len(changes)} things differ between these builds; up to {MOST_CHANGES} can be told apart.")
    a, b = (project.build(name).model_dump(mode="json") for name in (before, after))
    # The whole is what a prediction shows; what each change has of it are differences on the coarse field.
    shown = [_shown(engine, project, name, point, sensor) for name in (before, after)]
    start, end = (_value(engine, project, one, point, sensor) for one in (a, b))
    if start is None or end is None or shown[0] is None or shown[1] is None:
        raise RunError("One of the two builds cannot be computed as it is.")
    shares = []
    for n, change in enumerate(changes):
        yield n / len(changes), None
        first = _value(engine, project, change.carried(b, a), point, sensor)
        last = _value(engine, project, change.carried(a, b), point, sensor)
        shares.append(Share(change.label, None if first is None else first - start, None if last is None else end - last))
    shares.sort(key=lambda one: -abs(one.middle_k))
    yield 1.0, _attribution(found, row, shown[1] - shown[0], shares)


def _shown(engine: Engine, project: Project, build: str, point: str, sensor: str) -> float | None:
    try:
        report = engine.predict(project, build, point).report
    except AshenError:
        return None
    return next((row.value_c for row in report.sensors if row.id == sensor), None)


def _value(engine: Engine, project: Project, build: Plain, point: str, sensor: str) -> float | None:
    tried = {**build, "id": _TRIED}
    data = project.model_dump(mode="json")
    data["builds"] = [*data["builds"], tried]
    try:
        sensors, _ = engine.shown(Project.parse(data), _TRIED, point)
    except AshenError:
        return None
    return next((row.value_c for row in sensors if row.id == sensor), None)


def _attribution(found: Comparison, row: ComparedSensor, model_k: float, shares: list[Share]) -> Attribution:
    open_ones = [one for one in shares if one.undecided_k > 0.5]
    if len(shares) == 1:
        settle = "Only this one thing was changed, so it is all its doing."
    elif not open_ones:
        settle = "What each did alone adds up: no further run is needed to tell them apart."
    else:
        widest = max(open_ones, key=lambda one: one.undecided_k)
        settle = f"One run with only this taken back would settle it: {widest.label}."
    return Attribution(found.before, found.after, row.sensor, row.name, row.rise.difference, model_k, tuple(shares), settle)
