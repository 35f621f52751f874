"""Compare two predictions, sensor by sensor."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.api.predict import Result


@dataclass(frozen=True)
class Difference:
    """One sensor in two predictions [°C], and what the second adds to its rise over ambient [K]."""

    sensor: str
    name: str
    before_c: float
    after_c: float
    rise_k: float


def compare(before: Result, after: Result) -> tuple[Difference, ...]:
    """Return what changed at every sensor that both have, in the order of the first.

    >>> from ashen_bridge import api
    >>> project = api.open("demo:correlator")
    >>> cool = api.predict(api.change(project, {"points.correlate.ambient_c": 20.0}), mesh="coarse")
    >>> warm = api.predict(api.change(project, {"points.correlate.ambient_c": 30.0}), mesh="coarse")
    >>> all(one.after_c > one.before_c for one in compare(cool, warm))
    True
    """
    later = after.sensors_c
    return tuple(
        Difference(
            row.id,
            row.name,
            row.value_c,
            later[row.id],
            (later[row.id] - after.ambient_c) - (row.value_c - before.ambient_c),
        )
        for row in before.report.sensors
        if row.id in later
    )
