"""Rows about what carries heat away: fans with their noise, heat pipes with what they carry, and what had to be held back."""

from __future__ import annotations

import numpy as np

from ashen_bridge.geometry.scene import Scene
from ashen_bridge.model.bodies import Plate
from ashen_bridge.model.build import OperatingPoint
from ashen_bridge.model.sinks import FinSink, HeatPipes
from ashen_bridge.predict.operating import Operating
from ashen_bridge.predict.report import FanRow, HeldBackRow, PipeRow
from ashen_bridge.thermal.columns import SlabCells
from ashen_bridge.thermal.conductances import link_edges
from ashen_bridge.thermal.fan_speeds import fan_speed
from ashen_bridge.thermal.films import sink_place, surroundings
from ashen_bridge.thermal.parts import Link
from ashen_bridge.thermal.sink_films import fan_found, fan_noise, together
from ashen_bridge.thermal.steady import HeatField
from ashen_bridge.words.numbers import short


def fan_rows(scene: Scene, point: OperatingPoint, inside: float | None) -> tuple[FanRow, ...]:
    """Return speed, noise and working point of the fans of every sink that has any, or whose resistance hangs on a speed."""
    rows = []
    for name, body in scene.bodies.items():
        sink = body.model.sink if isinstance(body.model, Plate) else None
        if sink is None or not (sink.fans or sink.fanned):
            continue
        speed = fan_speed(scene, point, name)
        found = None
        if isinstance(sink, FinSink):
            air = surroundings(point, inside).inlet
            found = fan_found(sink, sink_place(scene, point, body), speed, round(air, 1))
        rows.append(
            FanRow(
                id=name,
                name=body.model.label,
                speed_percent=speed * 100,
                rpm=next((speed * fan.rated_rpm.value for fan in sink.fans if fan.rated_rpm is not None), None),
                noise_db=fan_noise(sink.fans, speed) if sink.fans and speed > 0 else None,
                flow_m3_h=found.flow * 3600 if found else None,
                pressure_pa=found.pressure if found else None,
            )
        )
    return tuple(rows)


def noise(rows: tuple[FanRow, ...], point: OperatingPoint) -> float | None:
    """Return the noise of all fans together over the room's own [dB]; None where no fan says how loud it is."""
    levels = [row.noise_db for row in rows if row.noise_db is not None]
    return together([*levels, point.room_noise_db.value]) if levels else None


def pipe_rows(scene: Scene, field: HeatField) -> tuple[PipeRow, ...]:
    """Return what every set of heat pipes carries at most along its run [W], against its limit at its tilt."""
    rows = []
    for link in field.links:
        assert link.name is not None  # pipes always have one
        plate, pipes_id = link.name.ids
        model = scene.bodies[plate].model
        assert isinstance(model, Plate)  # only plates carry pipes
        pipes = next(one for one in model.heat_pipes if one.id == pipes_id)
        carried = _carried(field, link)
        rows.append(PipeRow(id=pipes_id, plate=plate, name=_label(pipes), carried_w=carried, limit_w=pipes.limit_w))
    return tuple(rows)


def _label(pipes: HeatPipes) -> str:
    return pipes.name or f"{pipes.count} heat pipe{'s' if pipes.count > 1 else ''} of {short(pipes.diameter_mm.value)} mm"


def _carried(field: HeatField, link: Link) -> float:
    """Return the greatest heat through any cut across the pipes [W]."""
    edges = link_edges(field.grid, link)
    cells: SlabCells = field.grid.slabs[link.slab]
    flow = edges.gap * (field.temperature[edges.i] - field.temperature[edges.j])
    number = len(cells.slab.layers) // 2
    start = cells.layer(number).start
    lines = field.grid.lines.x if link.axis == 0 else field.grid.lines.y
    # A link crosses every line between the middles of its two columns.
    middle = cells.columns[number].middle(link.axis)
    low, high = (np.searchsorted(lines, middle[end - start]) for end in (edges.i, edges.j))
    sums = np.zeros(len(lines) + 1)
    np.add.at(sums, low, flow)
    np.add.at(sums, high, -flow)
    return float(np.abs(np.cumsum(sums)).max())


def held_back_rows(found: Operating) -> tuple[HeldBackRow, ...]:
    """Return every component that makes less than it was told to, and why."""
    rows = []
    for name, told in found.told.items():
        if name not in found.point.throttle_at_c and name not in found.point.power_limits_w:
            continue  # what feeds others makes less when they do: that is not held back
        made = found.point.powers_w[name].value if name in found.point.powers_w else 0.0
        if told - made > 1e-3 * max(told, 1.0):
            reason = "throttled" if made < found.wanted.get(name, made) - 1e-6 else "limited"
            rows.append(HeldBackRow(component=name, wanted_w=told, power_w=made, reason=reason))
    return tuple(rows)
