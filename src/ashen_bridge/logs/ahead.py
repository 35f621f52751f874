"""While a test runs: has it settled, and if not how long will that take?"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from ashen_bridge.logs.log import Log
from ashen_bridge.logs.outcome import Heading
from ashen_bridge.logs.scales import celsius
from ashen_bridge.logs.settling import SETTLED_K, at_rest, last_step, loaded_span
from ashen_bridge.logs.standing import WANTED_S, Ahead
from ashen_bridge.model.records import RunChannel


def look_ahead(log: Log, channels: Sequence[RunChannel]) -> Ahead:
    """Return how a running test stands, by its temperatures under load."""
    columns = {one.name: one.values for one in log.columns}
    power = next((columns[one.column] for one in channels if one.role == "power" and one.column in columns), None)
    first, last = loaded_span(log.time_s, power)
    under = (log.time_s >= first) & (log.time_s <= last)
    time = log.time_s[under]
    since = last_step(time, power[under] if power is not None else None)
    settled, left, untold, slowest = math.inf, 0.0, False, ""
    for one in channels:
        if one.role != "temperature" or one.column not in columns:
            continue
        values = celsius(one, columns[one.column])[under]
        standing = at_rest(time, values, since)
        if standing.window is not None:
            if standing.window[1] - standing.window[0] < settled:
                settled = standing.window[1] - standing.window[0]
                slowest = slowest or one.column
            continue
        settled = 0.0
        ahead = standing.ahead
        if not isinstance(ahead, Heading):
            untold, slowest = True, one.column
            continue
        away = abs(ahead.end - float(np.nanmean(values[-max(3, len(values) // 20) :])))
        needed = max(ahead.constants_s) * math.log(max(away / SETTLED_K, 1.0)) + WANTED_S
        if needed > left:
            left, slowest = needed, one.column
    if settled == math.inf:
        return Ahead(0.0, None, "")
    return Ahead(settled, None if untold else left, slowest)
