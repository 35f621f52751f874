"""Two runs side by side: every sensor as rise over ambient, worse first."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.bench.beside import beside
from ashen_bridge.bench.compare import rise_over_power
from ashen_bridge.bench.judgement import ComparedSensor, Comparison
from ashen_bridge.bench.response import PowerResponse
from ashen_bridge.bench.spread import USUAL_K, Passes, differences, spread_between
from ashen_bridge.logs.outcome import Refusal, RunError, RunFigures
from ashen_bridge.model.device import Device
from ashen_bridge.words.numbers import number, short

Responses = tuple[PowerResponse | None, PowerResponse | None]
"""How the builds of the two runs answer power."""

FAR_APART_K = 3.0
"""From here on passes of one build are not repeats of each other; common practice, no source."""

_ORDER = {"worse": 0, "no difference that this test can show": 1, "better": 2}


def compare_runs(
    before: RunFigures, after: RunFigures, device: Device, *, equal_power: bool = False, responses: Responses | None = None
) -> Comparison:
    """Return the comparison of two runs. Raises `RunError` if they have no sensor in common.

    At equal power every pass is brought from its own power to the mean of the first run, by `responses` of the two builds
    where there are any, else by one ratio.
    """
    cautions = _cautions(before, after, device)
    wanted = _power(before) if equal_power else None
    if equal_power:
        _power(after)
        if responses is None:
            cautions.append("The device cannot be computed as it stands, so all rises were taken as proportional to the power.")
    answers = responses or (None, None)
    over_air = all(any(one.ambient_c is not None for one in run.passes) for run in (before, after))
    counted = [
        (sensor, first.at_power(wanted, answers[0], sensor.id), second.at_power(wanted, answers[1], sensor.id))
        for sensor in device.sensors
        if (first := _rises(before, sensor.id, over_air)) and (second := _rises(after, sensor.id, over_air))
    ]
    tables = _table([first for _, first, _ in counted], before), _table([second for *_, second in counted], after)
    spread = spread_between(tables)
    found = differences([Passes(a.values, b.values, a.error, b.error) for _, a, b in counted], spread)
    rows = [
        ComparedSensor(sensor.id, sensor.label, difference, (_resistance(before, a), _resistance(after, b)))
        for (sensor, a, b), difference in zip(counted, found, strict=True)
    ]
    if not rows:
        raise RunError(f"Runs '{before.run.label}' and '{after.run.label}' have no mapped sensor in common.")
    rows.sort(key=lambda row: (_ORDER[row.rise.verdict], -row.rise.difference))
    return Comparison(
        before.run.id,
        after.run.id,
        equal_power,
        tuple(rows),
        _hot_minus_mean(before, after, device),
        tuple(cautions),
        beside(before, after),
    )


def pooled(first: RunFigures, again: RunFigures) -> RunFigures:
    """Return a run with the passes of its repeat: before, after, and before again tells a drift from a repair.

    Raises `RunError` where they are not of one build and point.
    """
    if (first.run.build, first.run.point) != (again.run.build, again.run.point):
        raise RunError(
            f"Run '{again.run.label}' is of another build or operating point, so it is no repeat of '{first.run.label}'."
        )
    names = {again.column_of(one.sensor): one.column for one in first.run.channels if one.sensor and again.column_of(one.sensor)}
    power = [next((one.column for one in run.run.channels if one.role == "power"), None) for run in (again, first)]
    if None not in power:
        names[power[0]] = power[1] or ""
    passes = tuple(
        replace(
            one,
            channels={names.get(column, column): figures for column, figures in one.channels.items()},
            climbing={names.get(column, column): ahead for column, ahead in one.climbing.items()},
        )
        for one in again.passes
    )
    return RunFigures(first.run, (*first.passes, *passes))


def drift(first: RunFigures, again: RunFigures, device: Device) -> str:
    """Return how far a repeat is from the run it repeats, in a sentence; empty where nothing differs."""
    found = [one for one in compare_runs(first, again, device).sensors if one.rise.verdict in ("better", "worse")]
    if not found:
        return ""
    most = max(found, key=lambda one: abs(one.rise.difference))
    return (
        f"Run '{again.run.label}' repeats '{first.run.label}' and differs by "
        f"{number(most.rise.difference, 1, sign=True)} K at {most.name}: "
        "something drifted, so smaller differences mean nothing."
    )


@dataclass(frozen=True)
class _Rises:
    """Rises over ambient [K] of the passes that count, the power of each where it is known, the largest standard error of one."""

    values: list[float]
    powers: list[float]
    error: float
    passes: list[int]
    unscaled: list[float]

    def at_power(self, wanted: float | None, response: PowerResponse | None, sensor: str) -> _Rises:
        """Return the rises at a power [W], each from its own; rise over power stays what it was. None leaves them."""
        if wanted is None or len(self.powers) != len(self.values):
            return self
        factors = [response.factor(sensor, was, wanted) if response is not None else wanted / was for was in self.powers]
        values = [factor * value for factor, value in zip(factors, self.values, strict=True)]
        return replace(self, values=values, error=max(factors) * self.error)


def _table(rises: list[_Rises], run: RunFigures) -> Floats:
    """Return rises (n_sensor, n_pass), NaN where a pass does not count."""
    found = np.full((len(rises), len(run.passes)), np.nan)
    for row, one in zip(found, rises, strict=True):
        row[one.passes] = one.values
    return found


def _resistance(run: RunFigures, rises: _Rises) -> tuple[float, float, float] | None:
    """Return rise over power [K/W] with its 95 % interval over the passes; None without a power channel."""
    if len(rises.powers) != len(rises.values):
        return None
    found = rise_over_power(rises.powers, rises.unscaled)
    return (found.k_w, found.low, found.high) if found is not None else None


def _rises(run: RunFigures, sensor: str, over_air: bool) -> _Rises | None:
    """Return what counts of a sensor; a pass that says no ambient counts only where all are taken as they are.

    Of a channel that still climbs its end counts; where that cannot be told, the pass does not count.
    """
    column = run.column_of(sensor)
    values, powers, errors, passes = [], [], [], []
    watts = next((one.column for one in run.run.channels if one.role == "power"), "")
    for index, one in enumerate(run.passes):
        ahead = one.climbing.get(column or "")
        if column is None or column not in one.channels or isinstance(ahead, Refusal) or (over_air and one.ambient_c is None):
            continue
        air = one.ambient_c or 0.0 if over_air else 0.0
        passes.append(index)
        if watts in one.channels and over_air:
            powers.append(one.channels[watts].mean)
        if ahead is not None and run.run.settled_s is None:
            values.append(ahead.end - air)
            errors.append((ahead.high - ahead.low) / 4)
        else:
            values.append(run.counted(one.channels[column]) - air)
            errors.append(one.channels[column].standard_error)
    return _Rises(values, powers, max(errors), passes, values) if values else None


def _power(run: RunFigures) -> float:
    """Return the mean power of a run's passes [W]. Raises `RunError` where none is known."""
    column = next((one.column for one in run.run.channels if one.role == "power"), None)
    values = run.values(column) if column else []
    if not values:
        raise RunError(f"Run '{run.run.label}' has no power channel, so it cannot be brought to equal power.")
    if min(values) <= 0:
        raise RunError(f"Run '{run.run.label}' made no power, so it cannot be brought to equal power.")
    return sum(values) / len(values)


def compare_with_repeat(
    before: RunFigures,
    after: RunFigures,
    again: RunFigures | None,
    device: Device,
    *,
    equal_power: bool = False,
    responses: Responses | None = None,
) -> Comparison:
    """Return the comparison of two runs, the first with a repeat that was logged after the second, if there is one."""
    if again is None:
        return compare_runs(before, after, device, equal_power=equal_power, responses=responses)
    drifted = drift(before, again, device)
    found = compare_runs(pooled(before, again), after, device, equal_power=equal_power, responses=responses)
    return replace(found, cautions=(drifted, *found.cautions)) if drifted else found


def _cautions(before: RunFigures, after: RunFigures, device: Device) -> list[str]:
    said = []
    single = [run.run.label for run in (before, after) if len(run.passes) < 2]
    if len(single) == 2:
        said.append(f"Both runs have one pass: the usual spread between passes, {short(USUAL_K)} K, stands in for their own.")
    elif single:
        said.append(f"Run '{single[0]}' has one pass: the spread of the other run's passes stands in for its own.")
    for run in (before, after):
        said += _apart(run, device)
        silent = sum(one.ambient_c is None for one in run.passes)
        if silent == len(run.passes):
            said.append(f"Run '{run.run.label}' says no ambient: temperatures are compared as they are, not as rises.")
        elif silent:
            said.append(f"{silent} of the {len(run.passes)} passes of run '{run.run.label}' say no ambient and do not count.")
        if any(one.throttled is not None for one in run.passes):
            said.append(
                f"Run '{run.run.label}' throttled: the same temperature may hide a real difference; compare by equal power."
            )
        if any(one.climbing for one in run.passes):
            untold = any(isinstance(ahead, Refusal) for one in run.passes for ahead in one.climbing.values())
            rest = "where that cannot be told, the pass does not count" if untold else "with its margin"
            said.append(f"Run '{run.run.label}' was still climbing: what it was heading for counts, {rest}.")
        said += _odd_passes(run)
    if before.run.statistic != after.run.statistic:
        said.append("The runs count different statistics; only the same one before and after can be compared.")
    return said


def _apart(run: RunFigures, device: Device) -> list[str]:
    """Say it where passes lie so far apart that their mean says little."""
    over_air = all(one.ambient_c is not None for one in run.passes)
    found = [
        (max(rises.values) - min(rises.values), sensor.label)
        for sensor in device.sensors
        if (rises := _rises(run, sensor.id, over_air))
    ]
    widest, label = max(found, default=(0.0, ""))
    if widest <= FAR_APART_K:
        return []
    return [
        f"The passes of run '{run.run.label}' lie {number(widest, 1)} K apart at {label}: look at each before their mean counts."
    ]


def _odd_passes(run: RunFigures) -> list[str]:
    """Name passes whose rise does not go with their power as the others' do."""
    over_air = all(one.ambient_c is not None for one in run.passes)
    odd: dict[int, int] = {}
    sensors = [one.sensor for one in run.run.channels if one.sensor]
    for sensor in sensors:
        rises = _rises(run, sensor, over_air)
        if rises is None or len(rises.powers) != len(run.passes):
            continue
        found = rise_over_power(rises.powers, rises.values)
        for index in found.outside if found is not None else ():
            odd[index] = odd.get(index, 0) + 1
    # One sensor in a hundred does so by chance; a pass that is off is off at many.
    return [
        f"Pass {index + 1} of run '{run.run.label}' does not go with the others at {count} of {len(sensors)} sensors."
        for index, count in sorted(odd.items())
        if count > max(1, len(sensors) // 3)
    ]


def _hot_minus_mean(before: RunFigures, after: RunFigures, device: Device) -> tuple[float, float] | None:
    """Return hot spot minus average of the first body that has both [K], before and after."""
    was, now = ({body: value for body, value, _ in run.hot_minus_mean(device)} for run in (before, after))
    both = [body for body in was if body in now]
    return (was[both[0]], now[both[0]]) if both else None
