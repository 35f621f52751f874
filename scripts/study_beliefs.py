"""Whether beliefs are honest: of what is believed at eighty in a hundred, about eight in ten are so.

Devices of the generator are drawn from their own ±, with a fault or none as the stated priors have it, read with noise, and
computed on the fine field; they are judged by the preparation of the device as it is said to be, from a run before it was opened
and one after.
"""

from __future__ import annotations

import math
import sys
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path
from statistics import fmean

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

from ashen_bridge.bench.diagnosis.diagnose import judging
from ashen_bridge.bench.diagnosis.since import Case as FaultCase
from ashen_bridge.bench.diagnosis.trial import Trial
from ashen_bridge.bench.readings import AIR_K, POWER_SHARE
from ashen_bridge.changes.builds import copy_build
from ashen_bridge.changes.closings import set_closing
from ashen_bridge.changes.records import add_run
from ashen_bridge.logs.outcome import Channel, PassFigures, RunFigures
from ashen_bridge.model import paths
from ashen_bridge.model.closings import Closing
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import Run, RunChannel
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.fingerprint import input_hash
from ashen_bridge.uncertainty.drawing import draw
from described import change, changes, truth
from study import Case, Plain, Study

DEVICES, EACH, OTHER = 25, 40, 12  # devices, cases of each by the stated priors, and by another mix
_TURN = 4  # cases of a device before the next one's
NOISE_K = 0.15
BINS = 5
_SMALLER = 2.0
_RARE_K = 3.0


@dataclass(frozen=True)
class Bench:
    """A device with a run before and one after its pads were changed, and the trial that judges them."""

    engine: Engine
    project: Project
    before: RunFigures
    after: RunFigures
    trial: Trial


def _told(seed: int) -> Project:
    of = truth(seed)
    project = copy_build(of.project, "now", "redone", "Redone")
    data = project.model_dump(mode="json")
    change(data, "redone", "load", changes(of)[seed // 3 % len(changes(of))])
    project = Project.parse(data)
    sensors = [RunChannel(column=one.id, unit="°C", sensor=one.id, role="temperature") for one in project.device.sensors]
    channels = (*sensors, RunChannel(column="board", unit="W", role="power"))
    for name, build in (("before", "now"), ("after", "redone")):
        spot = {"sensor": project.device.sensors[0].id, "value_c": 50.0}
        run = Run.model_validate({"id": name, "build": build, "point": "load", "channels": channels, "spots": [spot]})
        project = add_run(project, run)
        opened = () if name == "before" else tuple(joint.id for joint in project.build(build).joints)
        project = set_closing(project, Closing(id=f"c_{name}", builds=(build,), runs=(name,), opened=opened))
    return project


@lru_cache(maxsize=1)
def _bench(seed: int) -> Bench:
    engine, project = Engine(), _told(seed)
    nothing = np.random.default_rng(0)
    before, after = (_read(engine, project, project, project.run(name), nothing) for name in ("before", "after"))
    *_, (_, trial) = Trial.preparing(engine, project, [after], [before])
    assert trial is not None
    return Bench(engine, project, before, after, trial)


def _read(engine: Engine, told: Project, real: Project, run: Run, chance: np.random.Generator) -> RunFigures:
    """Return what a run measures of a device as it really is."""
    report = engine.predict(real, run.build, run.point, fidelity="fine").report
    air = AIR_K * chance.standard_normal()

    def channel(value: float) -> Channel:
        return Channel(value, NOISE_K, NOISE_K, value, value, 60, 60.0, 0)

    seen = {row.id: channel(row.value_c + air + NOISE_K * chance.standard_normal()) for row in report.sensors}
    seen["board"] = channel(report.power_w * (1 + POWER_SHARE * chance.standard_normal()))
    return RunFigures(run, (PassFigures((0.0, 60.0), seen, {}, None, told.point(run.point).ambient_c.value),))


def _chosen(cases: Sequence[FaultCase], chance: np.random.Generator, stated: bool) -> FaultCase | None:
    """Draw a fault: by the stated priors, or with every kind met alike and one device in five healthy."""
    if stated:
        weights = np.array([1.0, *(one.odds for one in cases)])
    else:
        kinds = [one.hypothesis.kind for one in cases]
        weights = np.array([0.25 * len(set(kinds)), *(1 / kinds.count(kind) for kind in kinds)])
    n = int(chance.choice(len(weights), p=weights / weights.sum()))
    return None if n == 0 else cases[n - 1]


def _size(case: FaultCase, chance: np.random.Generator) -> float:
    h = case.hypothesis
    if h.all_or_nothing:
        return h.worst
    if h.sensor:
        return math.copysign(abs(_RARE_K * float(chance.standard_normal())), h.worst)
    # Small faults are commoner: odds fall by e twice over the range.
    share = -math.log(1 - float(chance.random()) * (1 - math.exp(-_SMALLER))) / _SMALLER
    return h.healthy + max(share, 0.02) * (h.worst - h.healthy)


def judged(seed: int, number: int, stated: bool) -> Plain:
    """Draw a device and its fault, read it twice and judge it."""
    here = _bench(seed)
    chance = np.random.default_rng([seed, number, int(stated)])
    numbers = here.trial.model.numbers
    for attempt in range(20):
        x = draw(numbers, 1, int(chance.integers(1 << 31)))[0]
        moved = paths.set_numbers(
            here.project,
            {path: one.value + by * one.uncertainty for one, by in zip(numbers, x, strict=True) for path in one.paths},
        )
        fault = _chosen(here.trial.cases, chance, stated)
        size = 0.0 if fault is None else _size(fault, chance)
        try:
            runs, moves = {}, 0.0
            for name in ("before", "after"):
                run, real = here.project.run(name), moved
                if fault is not None and name in fault.runs:
                    real = fault.hypothesis.applied(moved, size)
                    if fault.hypothesis.sensor:
                        moves = max(moves, abs(size))
                    else:
                        shown = [
                            {row.id: row.value_c for row in here.engine.shown(one, run.build, run.point)[0]}
                            for one in (moved, real)
                        ]
                        moves = max(moves, *(abs(shown[1][key] - was) for key, was in shown[0].items()))
                runs[name] = _read(here.engine, here.project, real, run, chance)
                if fault is not None and fault.hypothesis.sensor and name in fault.runs:
                    runs[name] = _shifted(runs[name], fault.hypothesis.sensor, size)
        except AshenError:
            continue  # nobody would have such a device on the bench
        *_, (_, found) = judging(here.trial, [runs["after"]], [runs["before"]])
        assert found is not None
        return {
            "fault": None if fault is None else fault.hypothesis.id,
            "since": None if fault is None else fault.since,
            "size": size,
            "moves_k": moves,
            "none": found.healthy_weight,
            "groups": [[list(group.ids), group.weight] for group in found.groups],
            "named": found.named,
            "attempt": attempt,
        }
    return {"fault": "no device", "since": None, "size": 0.0, "moves_k": 0.0, "none": 0.0, "groups": [], "named": None}


def _shifted(figures: RunFigures, sensor: str, by: float) -> RunFigures:
    one = figures.passes[0]
    was = one.channels[sensor]
    return RunFigures(figures.run, (replace(one, channels={**one.channels, sensor: replace(was, mean=was.mean + by)}),))


def _cases(stated: bool) -> Iterator[Case]:
    each = EACH if stated else OTHER
    # Some of every device first: what is done so far then tells of all of them.
    for first in range(0, each, _TURN):
        for seed in range(1, DEVICES + 1):
            key = input_hash(truth(seed).project, "now", "load")
            for number in range(first, min(first + _TURN, each)):
                yield Case(f"device {seed}, {number}", key, lambda seed=seed, number=number: judged(seed, number, stated))  # type: ignore[misc]


def statements(done: Mapping[str, Plain]) -> list[tuple[float, bool]]:
    """Return every belief that was stated, in a group of faults or in none at all, and whether it was so."""
    found = []
    for one in done.values():
        found.append((one["none"], one["fault"] is None))
        found += [(weight, one["fault"] in ids) for ids, weight in one["groups"]]
    return found


def table(said: Sequence[tuple[float, bool]]) -> str:
    """Return believed against right, in bins."""
    lines = ["| believed | statements | mean belief | were so | ± two binomial errors |", "|---|---|---|---|---|"]
    for n in range(BINS):
        low, high = n / BINS, (n + 1) / BINS
        some = [(belief, so) for belief, so in said if low <= belief < high or (n == BINS - 1 and belief == 1.0)]
        if some:
            mean, right = fmean(belief for belief, _ in some), fmean(so for _, so in some)
            error = 2 * math.sqrt(max(mean * (1 - mean), 1e-4) / len(some))
            lines.append(f"| {low:.0%} to {high:.0%} | {len(some)} | {mean:.0%} | {right:.0%} | {error:.0%} |")
    return "\n".join(lines)


def _line(one: Plain) -> str:
    first = f"{', '.join(one['groups'][0][0][:3])} at {one['groups'][0][1]:.0%}" if one["groups"] else "nothing"
    return f"{one['fault'] or 'healthy'} ({one['moves_k']:.1f} K): {first}, none {one['none']:.0%}"


def _tell(done: Mapping[str, Plain]) -> str:
    seen = [one for one in done.values() if one["fault"] is not None and one["moves_k"] > 1]
    first = [bool(one["groups"]) and one["fault"] in one["groups"][0][0] for one in seen]
    sizes = [len(one["groups"][0][0]) for one in seen if one["groups"]]
    healthy = [one for one in done.values() if one["fault"] is None]
    accused = sum(bool(one["groups"]) and one["groups"][0][1] > 0.5 for one in healthy)
    noticed = [ok for one, ok in zip(seen, first, strict=True) if one["none"] <= 0.5]
    told = f"({len(noticed)} of them), it is first in {fmean(noticed or [0]):.0%}"
    size, share = fmean(sizes or [0]), accused / max(len(healthy), 1)
    return (
        f"{len(done)} cases. The group that holds the fault is first in {fmean(first or [0]):.0%} of the {len(seen)} that move "
        f"a sensor by more than 1 K; such groups hold {size:.1f} faults in the mean. Where the readings leave less than an even "
        f"chance that nothing is wrong {told}; in the others the fault moves less than what is not known of the device. Of "
        f"{len(healthy)} healthy devices {accused} are accused of a fault ({share:.1%}).\n\n{table(statements(done))}"
    )


STUDY = Study(
    "beliefs",
    "Whether beliefs are honest",
    "Devices drawn from their own ±, with a fault or none as often as the stated priors have it, read before and after they were "
    "opened, computed on the fine field, judged from the coarse one. A statement is a belief in a group of faults, or in none.",
    lambda: _cases(True),
    _line,
    _tell,
)
MIX = Study(
    "beliefs_other",
    "Beliefs where faults come in another mix",
    "As in the study of beliefs, but every kind of fault is met alike and one device in five is healthy. Only reported.",
    lambda: _cases(False),
    _line,
    _tell,
)
