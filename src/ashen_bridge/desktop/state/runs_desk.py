"""One window's dealings with runs: their logs are read and weighed in a process of their own, which starts when first needed."""

from __future__ import annotations

import math
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from ashen_bridge.bench import errands
from ashen_bridge.bench.errands import ReadFile, ReadRun
from ashen_bridge.bench.judgement import Comparison
from ashen_bridge.desktop.state.runner import Runner
from ashen_bridge.logs.log import Log
from ashen_bridge.logs.outcome import RunFigures
from ashen_bridge.logs.remarks import Triage
from ashen_bridge.logs.standing import Ahead
from ashen_bridge.model.device import Device
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import Run, RunChannel
from ashen_bridge.worker.protocol import Errand, Lane

_LOGS = 60  # kept in memory
_COUNTS = {"log_sha256", "further_passes", "channels", "ambient_c", "statistic", "settled_s", "spots"}
_ALIKE = 1.5  # a device that is slower or faster by less has the same figures
Taken = Callable[[Any, str], object]


@dataclass(frozen=True)
class _Job:
    key: str
    label: str
    errand: Errand
    arguments: tuple[Any, ...]
    take: Taken  # gets the value and nothing, or None and the sentence that says why there is none


class RunsDesk(QObject):
    """Runs as far as they have been read. `changed` tells that something more is known, `busy_changed` what is read."""

    changed = pyqtSignal()
    busy_changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.runner = Runner(lazy=True, tools="")
        self._asked: OrderedDict[str, _Job] = OrderedDict()
        self._figures: OrderedDict[str, RunFigures] = OrderedDict()
        self._latest: dict[str, RunFigures] = {}
        self._problems: dict[str, str] = {}
        self._logs: OrderedDict[str, Log] = OrderedDict()
        self._comparisons: OrderedDict[str, Comparison] = OrderedDict()
        self._slowest_s: float | None = None

    def is_as_slow_as(self, stored_s: float | None) -> None:
        """Take in how slow the device is by its prediction [s]; figures are worked out anew where it is another than thought."""
        known = self._slowest_s
        if stored_s is None or stored_s <= 0 or (known is not None and abs(math.log(stored_s / known)) < math.log(_ALIKE)):
            return
        self._slowest_s = stored_s
        self.changed.emit()

    @property
    def busy(self) -> str:
        """What is being read, in words; empty if nothing is."""
        return next((job.label for job in self._asked.values() if job.label), "")

    def stop(self) -> None:
        """End the process."""
        self._asked.clear()
        self.runner.stop()

    # ---- runs

    def figures(self, run: Run, device: Device) -> RunFigures | None:
        """Return a run's figures; if they are not known yet they are worked out, and `changed` tells."""
        key = self._key(run, device)
        found = self._figures.get(key)
        if found is None and key not in self._problems:
            known = frozenset(self._logs)
            self._ask(
                _Job(key, f"Reading {run.label}", errands.read_run, (run, device, known, self._slowest_s), self._taker(key))
            )
        # Its name or notes may have changed since; columns may have been put in for readings by hand.
        return RunFigures(run.model_copy(update={"channels": found.run.channels}), found.passes) if found is not None else None

    def latest(self, run: Run) -> RunFigures | None:
        """Return the figures a run had last, to be drawn while new ones are worked out; the window set by hand is the new one."""
        found = self._latest.get(run.id)
        if found is None or len(found.passes) != max(len(run.passes), 1):
            return None
        passes = tuple(replace(one, window_s=run.settled_s or one.window_s) for one in found.passes)
        return RunFigures(run.model_copy(update={"channels": found.run.channels}), passes)

    def problem(self, run: Run, device: Device) -> str:
        """Return why a run cannot be read, in words; empty if it can."""
        return self._problems.get(self._key(run, device), "")

    def _key(self, run: Run, device: Device) -> str:
        return f"{run_key(run, device)}~{self._slowest_s}"

    def log(self, digest: str) -> Log | None:
        """Return the log that is kept under a hash, if it has been read."""
        return self._logs.get(digest)

    def _taker(self, key: str) -> Taken:
        def take(value: ReadRun | None, problem: str) -> None:
            if value is None:
                self._problems[key] = problem
                return
            self._figures[key] = self._latest[value.figures.run.id] = value.figures
            for digest, log in value.logs:
                self._logs[digest] = log
            for kept in (self._figures, self._logs):
                while len(kept) > _LOGS:
                    kept.popitem(last=False)

        return take

    def comparison(
        self, before: Run, after: Run, again: Run | None, device: Device, level: Project | None
    ) -> tuple[Comparison | None, str]:
        """Return two runs beside each other, or why they cannot be compared; at equal power by the model of `level`, if given.

        Neither while it is being worked out; `changed` tells.
        """
        runs = [run for run in (before, after, again) if run is not None]
        name = "|".join([*(self._key(run, device) for run in runs), level_key(level)])
        figures = [self.figures(run, device) for run in runs]
        if name not in self._comparisons and name not in self._problems and all(one is not None for one in figures):

            def take(value: Comparison | None, problem: str) -> None:
                if value is None:
                    self._problems[name] = problem
                else:
                    self._comparisons[name] = value

            three = (*figures, None)[:3]
            self._ask(_Job(name, "Comparing", errands.compare, (*three, device, level), take))
        return self._comparisons.get(name), self._problems.get(name, "")

    # ---- logs

    def read(self, path: str, project: Project, take: Callable[[ReadFile | None, str], object]) -> None:
        """Read a file as a log; `take` gets it, or the sentence that says why it is none."""
        self._ask(_Job(f"file:{path}", "Reading the log", errands.read_file, (path, project), take))

    def triage(self, paths: tuple[str, ...], take: Callable[[Triage | None, str], object]) -> None:
        """Say what files tell by themselves; `take` gets it, or the sentence that says what is wrong with them."""
        self._ask(_Job(f"triage:{paths}", "Reading the log", errands.triage_files, (paths,), take))

    def keep(
        self,
        log: Log,
        channels: tuple[RunChannel, ...],
        old: tuple[RunChannel, ...],
        take: Callable[[str | None, str], object],
    ) -> None:
        """Put a log into the store; `take` gets what it is kept under."""
        self._ask(_Job(f"keep:{id(log)}", "Keeping the log", errands.keep_log, (log, channels, old), take))

    def export(self, project: Project, run: Run, path: str, take: Callable[[int | None, str], object]) -> None:
        """Write a run as one table; `take` gets its number of rows, or the sentence that says why it was not written."""
        self._ask(_Job(f"export:{path}", "Writing the run", errands.export_run, (project, run, path), take))

    def look_ahead(self, log: Log, channels: tuple[RunChannel, ...], take: Callable[[Ahead | None, str], object]) -> None:
        """Say how a running test stands; skipped while something else is being read."""
        if not self._asked:
            self._ask(_Job("ahead", "", errands.look_ahead, (log, channels), take))

    # ---- one after another

    def _ask(self, job: _Job) -> None:
        if job.key in self._asked:
            return
        self._asked[job.key] = job
        value: Any = None

        def step(found: Any, _: float) -> None:
            nonlocal value
            value = found

        def end(stage: str, problem: str) -> None:
            if self._asked.pop(job.key, None) is not None:
                job.take(None if problem else value, problem)
                self.busy_changed.emit()
                self.changed.emit()

        self.runner.ask(Lane.QUESTION, job.errand, *job.arguments, step=step, end=end, kind=job.key)
        self.busy_changed.emit()


def level_key(level: Project | None) -> str:
    """Return what a comparison at equal power depends on besides its runs; the same for none."""
    return "" if level is None else str(hash(level.model_dump_json(include={"device", "builds", "points", "materials"})))


def run_key(run: Run, device: Device) -> str:
    """Return what a run's figures depend on."""
    limits = ",".join(f"{sensor}={limit}" for sensor, limit in device.limits_c().items())
    return f"{run.model_dump_json(include=_COUNTS)}{limits}"
