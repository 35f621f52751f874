"""Older project files are brought up to date step by step, on plain data, before validation."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from ashen_bridge.files.errors import FileError
from ashen_bridge.model.project import FORMAT_VERSION

Plain = dict[str, Any]


@dataclass(frozen=True)
class Migration:
    """What makes one version the next: the new data, and what now means something else, in words."""

    apply: Callable[[Plain], Plain]
    changed: Callable[[Plain], Iterator[str]] = lambda data: iter(())


def _dicts(node: Any, key: str) -> list[Plain]:
    """Return the objects in a list of plain data that may be anything at all: validation comes later."""
    found = node.get(key) if isinstance(node, dict) else None
    return [one for one in found if isinstance(one, dict)] if isinstance(found, list) else []


def _age_per_piece(data: Plain) -> Plain:
    """Version 1 to 2: the age of a build becomes that of each of its pieces; burned in becomes a state."""

    def piece(old: Plain, days: Any) -> Plain:
        new = dict(old)
        burned = new.pop("burned_in", True)
        new["state"] = "burned in" if burned is True else "as fitted" if burned is False else burned
        return new if not days else {**new, "age_days": days}

    def build(old: Plain) -> Plain:
        new = dict(old)
        days = new.pop("age_days", 0.0)
        if isinstance(new.get("joints"), list):
            new["joints"] = [
                {**joint, "pieces": [piece(one, days) if isinstance(one, dict) else one for one in joint["pieces"]]}
                if isinstance(joint, dict) and isinstance(joint.get("pieces"), list)
                else joint
                for joint in new["joints"]
            ]
        return new

    if isinstance(data.get("builds"), list):
        data = {**data, "builds": [build(one) if isinstance(one, dict) else one for one in data["builds"]]}
    return data


def _mean_bases(data: Plain) -> Plain:
    """Version 1 to 2: sinks that do not say what they were rated from are rated from their mean base, as they were."""

    def body(old: Any) -> Any:
        sink = old.get("sink") if isinstance(old, dict) else None
        if not isinstance(sink, dict) or sink.get("type", "rated") not in ("rated", "liquid") or "base_reference" in sink:
            return old
        return {**old, "sink": {**sink, "base_reference": "mean_base"}}

    def holding(owner: Any, key: str) -> Any:
        if not isinstance(owner, dict) or not isinstance(owner.get(key), list):
            return owner
        return {**owner, key: [body(one) for one in owner[key]]}

    new = {**data, "device": holding(data["device"], "bodies")} if "device" in data else dict(data)
    if isinstance(new.get("builds"), list):
        new["builds"] = [holding(one, "added") for one in new["builds"]]
    return new


def _aged_builds(data: Plain) -> Iterator[str]:
    old = [one for one in _dicts(data, "builds") if one.get("age_days")]
    if old:
        names = ", ".join(f"“{one.get('name') or one.get('id')}”" for one in old[:3])
        more = f" and {len(old) - 3} more" if len(old) > 3 else ""
        yield f"Age is kept for each piece now: every pad and paste of {names}{more} got the age that the build had."


def _readings(data: Plain) -> Plain:
    """Version 6 to 7: a measured number becomes a reading of that number, what it says kept."""
    if not isinstance(data.get("measurements"), list):
        return {key: value for key, value in data.items() if key != "measurements"}
    new = {key: value for key, value in data.items() if key != "measurements"}
    found: list[Any] = []
    taken: set[str] = set()
    for old in data["measurements"]:
        if not isinstance(old, dict):
            found.append(old)
            continue
        name = str(old.get("id", ""))
        while name in taken:
            name += "_"
        taken.add(name)
        value = old.get("value")
        value = value if isinstance(value, dict) else {"value": value}
        said = (str(old.get(key) or "") for key in ("method", "taken"))
        note = "; ".join((*filter(None, said), *filter(None, [str(value.get("note") or "")])))
        reading = {"form": "number", "id": name, "path": old.get("about"), "values": [value.get("value")]}
        reading |= {"unit": old.get("unit", ""), "note": note[:200]}
        found.append({**reading, **({"uncertainty": value["uncertainty"]} if value.get("uncertainty") else {})})
    return {**new, "readings": found} if found else new


def _procedures(data: Plain) -> Plain:
    """Version 7 to 8: a checklist becomes a procedure, its ticks kept; a step of one becomes a step of the other."""

    def step(n: int, old: Any) -> Any:
        if not isinstance(old, dict):
            return old
        return {**old, "id": f"step_{n + 1}"}

    found = data.get("checklists")
    new = {key: value for key, value in data.items() if key != "checklists"}
    if not isinstance(found, list) or not found:
        return new
    made = []
    for old in found:
        steps = old.get("steps") if isinstance(old, dict) else None
        made.append({**old, "steps": [step(n, one) for n, one in enumerate(steps)]} if isinstance(steps, list) else old)
    return {**new, "procedures": made}


STEPS: dict[int, Migration] = {
    1: Migration(lambda data: _mean_bases(_age_per_piece(data)), _aged_builds),
    2: Migration(dict),  # a column of a run may be its work rate
    3: Migration(dict),  # a paste may have a bond line, a power map's rest may lie beside its blocks, convection may be none
    4: Migration(dict),  # a sensor may read the skin, a fitted number says what the readings took of it
    5: Migration(dict),  # a run may say when it was taken; closings and ties may be there
    6: Migration(_readings),  # instruments and readings, in place of measurements
    7: Migration(_procedures),  # procedures in place of checklists; screws, plugs and what is dangerous
    8: Migration(dict),  # wishes, stock with volumes, a shop with prices, findings that were switched off
    9: Migration(dict),  # how materials are handled and sold; what screws, headers and fans bear; steps that close
    10: Migration(dict),  # history and conclusions
}
"""Format version → what makes it the next one."""


def migrate(data: Any, steps: dict[int, Migration] | None = None, target: int = FORMAT_VERSION) -> tuple[Plain, tuple[str, ...]]:
    """Return project data of version `target`, and in words what means something else than it did.

    Raises `FileError` for data from a newer program or without a version.
    """
    if not isinstance(data, dict) or data.get("format") != "ashen-bridge":
        raise FileError("This is not an Ashen Bridge project: its 'format' is not 'ashen-bridge'.")
    version = data.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise FileError("The project does not say which format version it is in.")
    if version > target:
        raise FileError(f"The project is in format version {version}; this program knows versions up to {target}.")
    known = STEPS if steps is None else steps
    current: Plain = data
    changed: list[str] = []
    while version < target:
        if version not in known:
            raise FileError(f"Format version {version} can no longer be read.")
        changed += known[version].changed(current)
        version += 1
        current = {**known[version - 1].apply(current), "version": version}
    return current, tuple(changed)
