"""The dominant layer: for one sensor, every layer and way by what it would gain if it were perfect."""

from __future__ import annotations

from collections.abc import Iterator

from ashen_bridge.assess.result import LayerGain
from ashen_bridge.model.bodies import Component, Plate, Substrate
from ashen_bridge.model.errors import AshenError, AssemblyError
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import ResolvedBuild, resolve
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.report import Report
from ashen_bridge.thermal import names

ROLES = {"die": "dies", "memory": "memory packages", "regulator": "regulators", "inductor": "inductors", "other": "other parts"}


def dominant_layers(
    engine: Engine, project: Project, build_id: str | None, point_id: str | None, sensor_id: str
) -> tuple[LayerGain, ...]:
    """Return layers and ways ranked by kelvin for one sensor, the greatest gain first.

    The forces stay as they are: only the heat's side of a layer is made perfect. Raises `AssemblyError` for a sensor that is not
    there.
    """
    *_, (_, found) = rank_layers(engine, project, build_id, point_id, sensor_id)
    return found


def rank_layers(
    engine: Engine, project: Project, build_id: str | None, point_id: str | None, sensor_id: str
) -> Iterator[tuple[float, tuple[LayerGain, ...]]]:
    """Yield (progress, what is ranked so far); see `dominant_layers`."""
    base = engine.predict(project, build_id, point_id, fidelity="coarse").report
    before = {row.id: row.value_c for row in base.sensors}
    if sensor_id not in before:
        raise AssemblyError(f"There is no sensor '{sensor_id}' in this build; there are: {', '.join(before)}.")
    found: list[LayerGain] = []
    ways = list(_ways(project, resolve(project, base.build), base))
    for n, (label, kind, about, perfect) in enumerate(ways):
        try:
            rows, _ = engine.shown(project, base.build, base.point, perfect)
        except AshenError:
            continue  # perfect ends can make what lies between them ill-posed; such a layer is not the one that limits
        after = {row.id: row.value_c for row in rows}
        found.append(LayerGain(label, kind, about, before[sensor_id] - after[sensor_id]))
        yield (n + 1) / len(ways), tuple(sorted(found, key=lambda one: -one.gain_k))


def _ways(
    project: Project, resolved: ResolvedBuild, report: Report
) -> Iterator[tuple[str, str, tuple[str, ...], list[names.Name]]]:
    """Yield label, kind, ids and names of contacts, films and slabs, alike ones together."""
    joints: dict[str, list[str]] = {}
    for row in report.joints:
        group = project.group_of(row.id)
        joints.setdefault(group.label if group else row.name, []).append(row.id)
    for label, ids in joints.items():
        yield label, "joint", tuple(ids), [names.facing(r.id, r.lower, r.upper) for r in report.joints if r.id in ids]
    parts: dict[str, list[str]] = {}
    for body in resolved.bodies:
        if isinstance(body, Plate):
            yield f"Conduction in {body.label}", "body", (body.id,), [names.slab(body.id)]
            if body.sink is not None:
                yield f"{body.label} to air", "sink", (body.id,), [names.sink(body.id)]
        elif isinstance(body, Substrate):
            yield f"{body.label} and its balls", "body", (body.id,), [names.slab(body.id), names.attachment(body.id)]
        elif isinstance(body, Component):
            parts.setdefault(body.role.value, []).append(body.id)
        else:
            yield f"Conduction in {body.label}", "body", (body.id,), [names.slab(body.id)]
    for role, ids in parts.items():
        label = resolved.body(ids[0]).label if len(ids) == 1 else f"The {ROLES[role]}"
        yield f"{label}, inside", "body", tuple(ids), [names.slab(name) for name in ids]
        yield (
            f"{label} to what {'it stands' if len(ids) == 1 else 'they stand'} on",
            "attach",
            tuple(ids),
            [names.attachment(name) for name in ids],
        )
