"""Invented logs of the demonstration devices, made by the simulated device from what is really true of each.

`TRUTH` is what the projects do not say: tests hold what is found against it.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path

from ashen_bridge.bench.diagnosis.hypotheses import hypotheses
from ashen_bridge.bench.logbook import record_run
from ashen_bridge.bench.simulated import Habits, simulated_device
from ashen_bridge.logs.log import Column, Log
from ashen_bridge.logs.packing import as_csv
from ashen_bridge.logs.reading import parse_log
from ashen_bridge.model import paths
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine

LOGS = Path(__file__).parents[1] / "src/ashen_bridge/files/demos/logs"


@dataclass(frozen=True)
class Logged:
    """One run: what build was tested and how long, and by how much the room was warmer than said.

    `faults` are hypotheses, by id, with the value that is true; `foreign` the pass that another logger wrote.
    """

    id: str
    name: str
    build: str
    point: str
    minutes: float
    every_s: int = 1
    warmer_k: float = 0.0
    workload: str = ""
    fan_rule: str = ""
    faults: dict[str, float] = field(default_factory=dict)
    foreign: int | None = None


@dataclass(frozen=True)
class Truth:
    """What is true of a device: factors on its numbers by path, what sensors read too much [K], and its runs."""

    factors: dict[str, float]
    offsets_k: dict[str, float]
    seed: int
    runs: tuple[Logged, ...]


TRUTH = {
    "correlator": Truth(
        {
            "device.bodies.cooler.sink.convective_k_w": 1.06,
            "points.correlate.powers_w.die": 1.02,
            "materials.pad_medium.conductivity_w_mk": 0.94,
        },
        {"die_hot": 0.6, "die_mean": -0.4},
        100,
        (
            Logged(
                "stock", "As delivered", "stock", "correlate", 20, workload="Full correlation, all lanes",
                fan_rule="fixed at rated speed",
            ),
            Logged(
                "pads", "After the pad change", "as_found", "correlate", 20, workload="Full correlation, all lanes",
                fan_rule="fixed at rated speed",
            ),
            Logged(
                "repaired", "After the repair", "plan_a", "correlate", 20, warmer_k=4.0, workload="Full correlation, all lanes",
                fan_rule="fixed at rated speed", faults={"touch-pad_b2": 3.0}, foreign=2,
            ),
        ),
    ),
    "beamformer": Truth(
        {"device.bodies.cooler.sink.convective_k_w": 1.05, "points.listen.powers_w.die": 0.99},
        {"die_hot": -0.5},
        200,
        (
            Logged("stock", "Three years old", "as_found", "listen", 20, workload="Full array", fan_rule="80 %"),
            Logged("pad", "With a pad on the lid", "pad_on_lid", "listen", 20, workload="Full array", fan_rule="80 %"),
            Logged("repaired", "New paste", "new_paste", "listen", 20, workload="Full array", fan_rule="80 %"),
        ),
    ),
    "buoy": Truth(
        {"points.bench.powers_w.processor": 1.03, "materials.pad_soft.conductivity_w_mk": 0.95},
        {"cpu": 0.5},
        300,
        (
            Logged("stock", "As delivered", "as_found", "bench", 120, 5, workload="All channels"),
            Logged("pad", "After the pad change", "thick_memory", "bench", 25, 5, workload="All channels"),
            Logged("repaired", "Pad to the case wall", "pad_to_case", "bench", 120, 5, workload="All channels"),
        ),
    ),
}  # fmt: skip


def real_device(project: Project, name: str, run: Logged) -> Project:
    """Return the device as it really was during a run."""
    truth = TRUTH[name]
    values = {path: factor * float(paths.get(project, path)) for path, factor in truth.factors.items()}
    real = paths.set_values(project, values)
    for one in hypotheses(real, run.build, run.point):
        if one.id in run.faults:
            real = one.applied(real, run.faults[one.id])
    return real


def passes(engine: Engine, project: Project, name: str, run: Logged) -> list[Log]:
    """Return the logs of a run's three passes."""
    habits = Habits(warmer_k=run.warmer_k, offsets_k=TRUTH[name].offsets_k)
    real = real_device(project, name, run)
    device = simulated_device(engine, real, run.build, run.point, habits, minutes=max(run.minutes, 20.0))
    seed = TRUTH[name].seed + 10 * [one.id for one in TRUTH[name].runs].index(run.id)
    whole = [device.record(run.minutes * 60, seed + n) for n in range(3)]
    return [_thinned(log, run.every_s) for log in whole]


def _thinned(log: Log, every: int) -> Log:
    columns = tuple(Column(one.name, one.unit, one.values[::every]) for one in log.columns)
    return Log(log.time_s[::every], columns)


def foreign(log: Log, names: dict[str, str]) -> bytes:
    """Return a log as another logger writes it: semicolons, decimal commas, date and time apart, its own words, a cut end."""
    heads = ["Datum", "Uhrzeit", *(f"{names.get(one.name, one.name)} [{one.unit}]" for one in log.columns), "Bemerkung"]
    lines = ["Messprotokoll;Kanal 7", "", ";".join(heads)]
    start = 23 * 3600 + 54 * 60  # over midnight
    for n, second in enumerate(log.time_s):
        at = start + int(second)
        day = 14 + at // 86400
        clock = f"{at // 3600 % 24:02d}:{at // 60 % 60:02d}:{at % 60:02d}"
        values = ["-" if n == 40 else f"{one.values[n]:.1f}".replace(".", ",") for one in log.columns]
        lines.append(";".join([f"{day:02d}.03.2031", clock, *values, ""]))
    text = "\r\n".join(lines)
    return text[: text.rindex(";") - 25].encode("cp1252")


WORDS = {
    "Die hot spot": "Chip Hotspot",
    "Die average": "Chip Mittel",
    "Board power": "Leistung",
    "Room": "Raumluft",
    "Clock": "Takt",
    **{f"Memory {n}": f"Speicher {n}" for n in ("L1", "L2", "L3", "T1", "T2", "R1", "R2", "R3", "B1", "B2")},
    **{f"Regulator {n}": f"Regler {n}" for n in (1, 5)},
}


def with_runs(engine: Engine, project: Project, name: str) -> Project:
    """Return the project with its runs, their logs in the user's store."""
    for run in TRUTH[name].runs:
        for number, log in enumerate(passes(engine, project, name, run)):
            if number == run.foreign:
                content = foreign(log, WORDS)
                LOGS.mkdir(exist_ok=True)
                (LOGS / f"{name}-{run.id}-{number + 1}.csv").write_bytes(content)
            else:
                content = as_csv(log).encode()
            project = record_run(
                project, run.id, [parse_log(content, "log.csv")], build=run.build, point=run.point, name=run.name,
                workload=run.workload,
            )  # fmt: skip
        said = {"fan_rule": run.fan_rule, "supply": "mains"}
        runs = [one.model_dump(mode="json") | (said if one.id == run.id else {}) for one in project.runs]
        project = Project.parse(project.model_dump(mode="json") | {"runs": runs})
    return project
