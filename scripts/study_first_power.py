"""Whether the first minutes name what went wrong in closing, and leave healthy devices alone.

Devices of the generator are drawn from their own ±, with a fault of closing or none, run from idle air (courses of the coarse
field, brought to what the fine one settles to) and read with noise at some times; the check knows the device only as it is said
to be. Limits are set aside: what is judged is belief.
"""

from __future__ import annotations

import sys
from collections.abc import Iterator, Mapping
from functools import lru_cache
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

from ashen_bridge.arrays import Floats
from ashen_bridge.bench.diagnosis.hypotheses import Hypothesis, hypotheses
from ashen_bridge.bench.first_power.expecting import expect
from ashen_bridge.bench.first_power.judging import judge
from ashen_bridge.bench.first_power.result import Expected
from ashen_bridge.bench.first_power.shapes import KINDS, TIMES_S
from ashen_bridge.model import paths
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import replaced
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.fingerprint import input_hash
from ashen_bridge.predict.patterns import Pattern, Watch
from ashen_bridge.thermal.transient import Stage
from ashen_bridge.uncertainty.assumptions import assumptions
from ashen_bridge.uncertainty.drawing import draw
from described import truth
from study import Case, Plain, Study

DEVICES, FAULTS, HEALTHY = 25, 4, 8  # devices; of each so many tries with a fault, and without
_READ_AT = (60.0, 120.0, 180.0, 240.0, 300.0)
_NOISE_K, _MOVES_K = 0.5, 5.0  # a reading's error; what a fault must move some sensor by to count


@lru_cache(maxsize=1)
def _told(seed: int) -> tuple[Engine, Project, Expected]:
    plain = truth(seed).project
    project = replaced(plain, device=replaced(plain.device, limits=()))
    engine = Engine()
    return engine, project, expect(engine, project, "now", "load")


def _drawn(project: Project, chance: np.random.Generator) -> Project:
    """Return the device as it may really be: every number drawn from its ±."""
    numbers = assumptions(project, "now", "load")
    moved = draw(numbers, 1, int(chance.integers(2**31)))[0]
    values = {path: one.value + by * one.uncertainty for one, by in zip(numbers, moved, strict=True) for path in one.paths}
    return paths.set_numbers(project, values)


def _course(engine: Engine, project: Project) -> dict[str, Floats]:
    pattern = Pattern(0.0, (Stage(300.0, 1.0),))
    found = engine.transient(project, "now", "load", pattern, fidelity="coarse", watch=Watch(TIMES_S, 0.2)).asked()
    labels = {one.label: one.id for one in project.device.sensors}
    rows = [int(np.argmin(np.abs(found.time_s - at))) for at in _READ_AT]
    return {labels[label]: found.values_c[rows, n] for n, label in enumerate(found.sensors) if label in labels}


def _planted(project: Project, chance: np.random.Generator) -> tuple[Hypothesis, float]:
    """Draw a fault of closing: every kind met alike, of any size."""
    some = [one for one in hypotheses(project, "now", "load") if one.kind in KINDS]
    kinds = sorted({one.kind for one in some})
    kind = kinds[int(chance.integers(len(kinds)))]
    alike = [one for one in some if one.kind == kind]
    one = alike[int(chance.integers(len(alike)))]
    share = 1.0 if one.all_or_nothing else float(chance.uniform(0.4, 1.0))
    return one, one.healthy + share * (one.worst - one.healthy)


def _cases() -> Iterator[Case]:
    for seed in range(DEVICES):
        for n in range(max(FAULTS, HEALTHY)):
            key = f"3 {input_hash(truth(seed).project, 'now', 'load')}"
            if n < FAULTS:
                yield Case(f"{seed} fault {n}", key, lambda seed=seed, n=n: _run(seed, n, True))  # type: ignore[misc]
            if n < HEALTHY:
                yield Case(f"{seed} healthy {n}", key, lambda seed=seed, n=n: _run(seed, n, False))  # type: ignore[misc]


def _run(seed: int, n: int, faulty: bool) -> Plain:
    engine, project, expected = _told(seed)
    chance = np.random.default_rng([seed, n, faulty])
    planted, moves = "", 0.0
    for _ in range(6):
        try:
            real = _drawn(project, chance)
            sound = _course(Engine(), real)
            shown = sound
            if faulty:
                fault, value = _planted(project, chance)
                shown = _course(Engine(), fault.applied(real, value))
                planted = fault.id
                moves = max(float(np.abs(shown[name] - sound[name]).max()) for name in sound)
                if moves < _MOVES_K:
                    continue
            break
        except AshenError:
            continue
    else:
        return {"planted": planted, "moves": moves, "counts": False, "stopped": False, "first_two": False, "first": ""}
    stopped, first_two, first = False, False, ""
    for m, at in enumerate(_READ_AT):
        readings = {name: float(values[m] + _NOISE_K * chance.standard_normal()) for name, values in shown.items()}
        told = judge(expected, at, readings)
        stopped = stopped or told.stop
        first = told.suspects[0].id if told.suspects else ""
        first_two = first_two or planted in [one.id for one in told.suspects[:2]]
        if stopped:
            break
    del engine
    return {"planted": planted, "moves": moves, "counts": True, "stopped": stopped, "first_two": first_two, "first": first}


def _line(one: Plain) -> str:
    if not one["planted"]:
        return f"healthy: {'stopped' if one['stopped'] else 'left alone'}"
    return (
        f"{one['planted']} ({one['moves']:.0f} K): {'among the first two' if one['first_two'] else 'first ' + str(one['first'])}"
    )


def _tell(done: Mapping[str, Plain]) -> str:
    faulty = [one for one in done.values() if one["planted"] and one["counts"] and one["moves"] >= _MOVES_K]
    healthy = [one for one in done.values() if not one["planted"] and one["counts"]]
    named, seen = sum(one["first_two"] for one in faulty), sum(one["stopped"] for one in faulty)
    false = sum(one["stopped"] for one in healthy)
    kinds: dict[str, list[Plain]] = {}
    for one in faulty:
        kinds.setdefault(str(one["planted"]).partition("-")[0], []).append(one)
    rows = [
        f"| {kind} | {len(some)} | {sum(o['first_two'] for o in some)} | {sum(o['stopped'] for o in some)} |"
        for kind, some in sorted(kinds.items())
    ]
    return "\n".join(
        [
            f"- {named} of {len(faulty)} faults that move a sensor by {_MOVES_K:g} K or more within five minutes are among the "
            f"first two by then ({named / max(len(faulty), 1):.0%}); {seen} stop the run.",
            f"- {false} of {len(healthy)} healthy devices are stopped ({false / max(len(healthy), 1):.1%}).",
            "",
            "| kind of fault | planted | among the first two | stopped |",
            "|---|---|---|---|",
            *rows,
        ]
    )


STUDY = Study(
    "first_power",
    "The first minutes under load",
    "Devices drawn from their own ±, with a fault of closing or none, run from idle air (coarse courses brought to the fine "
    "field) and read with noise at 1, 2, 3, 4 and 5 minutes; "
    "the check knows the device only as it is said to be. Readings stop at the first stop.",
    _cases,
    _line,
    _tell,
)
