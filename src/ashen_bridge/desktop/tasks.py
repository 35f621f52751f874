"""Longer work in the worker: one task at a time, with progress, a name to show, and a way to call it off."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from ashen_bridge.assess.worker import Result
from ashen_bridge.desktop.jobs import JobRunner

Steps = Callable[..., Iterator[tuple[float, Any]]]


@dataclass(frozen=True)
class Running:
    """The task that is going on."""

    number: int
    label: str
    step: Callable[[Any], object]
    done: Callable[[str], object]
    progress: float = 0.0


class Tasks(QObject):
    """Tasks of one window. `changed` is emitted when one starts, gets on, or ends."""

    changed = pyqtSignal()

    def __init__(self, runner: JobRunner, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._runner = runner
        self.running: Running | None = None
        runner.finished.connect(self._take)

    def start(
        self, label: str, task: Steps, *arguments: Any, step: Callable[[Any], object], done: Callable[[str], object] | None = None
    ) -> None:
        """Start a task; one that is going on is called off. `step` gets each value, `done` an error's sentence or nothing."""
        self.cancel()
        self.running = Running(self._runner.task(task, *arguments), label, step, done or (lambda _: None))
        self.changed.emit()

    def cancel(self) -> None:
        """Call the running task off; its `done` is not called."""
        if self.running is not None:
            self._runner.cancel(self.running.number)
            self.running = None
            self.changed.emit()

    def _take(self, result: Result) -> None:
        running = self.running
        if running is None or result.number != running.number:
            return
        if result.stage == "task":
            self.running = Running(running.number, running.label, running.step, running.done, result.progress)
            running.step(result.value)
            self.changed.emit()
        elif result.stage in ("done", "error"):
            self.running = None
            self.changed.emit()
            running.done(str(result.value) if result.stage == "error" else "")
