"""The window's end of the worker: sends requests, brings results into the event loop, starts the process and ends it."""

from __future__ import annotations

import subprocess
import sys
import threading
from collections.abc import Callable, Iterator
from multiprocessing import Pipe
from multiprocessing.connection import Connection
from queue import SimpleQueue
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from ashen_bridge.assess import worker
from ashen_bridge.assess.worker import CancelRequest, PredictRequest, Request, Result, StripRequest, TaskRequest
from ashen_bridge.model.project import Project
from ashen_bridge.predict.report import Report

_PATIENCE = 2.0  # [s] a worker gets to end by itself


class JobRunner(QObject):
    """Runs predictions, strips and tasks in one worker process; results arrive through queued signals.

    A `lazy` one starts its process with the first request; without an `engine` its tasks get none.
    """

    finished = pyqtSignal(object)
    busy = pyqtSignal(bool)

    def __init__(self, parent: QObject | None = None, *, lazy: bool = False, engine: bool = True) -> None:
        super().__init__(parent)
        self._number = 0
        self._engine = engine
        self._asked = 0
        self._stopped = False
        self._process: subprocess.Popen[bytes] | None = None
        if not lazy:
            self._start()

    def predict(self, project: Project, build: str, point: str) -> int:
        """Ask for an assessment; whatever was asked before is dropped. Returns the request's number."""
        self._number += 1
        self._send(PredictRequest(self._number, project, build, point))
        return self._number

    def strip(self, project: Project, base: Report, joints: tuple[str, ...], thicknesses_mm: tuple[float, ...]) -> int:
        """Ask for a thickness strip; an earlier one that is not finished is dropped. Returns the request's number."""
        self._number += 1
        self._send(StripRequest(self._number, project, base, joints, thicknesses_mm))
        return self._number

    def task(self, task: Callable[..., Iterator[tuple[float, Any]]], *arguments: Any) -> int:
        """Ask for a task (see `TaskRequest`); an earlier one that is not finished is dropped. Returns the request's number."""
        self._number += 1
        self._send(TaskRequest(self._number, task, arguments, self._engine))
        return self._number

    def cancel(self, number: int) -> None:
        """Call a task off; nothing more is heard of it."""
        if not self._stopped and self._process is not None:
            self._outbox.put(CancelRequest(number))

    def stop(self) -> None:
        """End the worker; work in progress is called off. It holds nothing worth waiting for, so the window closes at once."""
        if self._stopped:
            return
        self._stopped = True
        if self._process is None:
            return
        self._outbox.put(None)
        self._process.terminate()
        try:
            self._process.wait(_PATIENCE)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait()
        for thread in (self._reader, self._writer):
            thread.join(_PATIENCE)

    def _start(self) -> None:
        ours, theirs = Pipe()
        # Not `-m`: the module's classes would then be those of `__main__` and could not be read back here.
        code = f"from {worker.__name__} import main; main()"
        command = [sys.executable, "-c", code, str(theirs.fileno())]
        self._process = subprocess.Popen(command, pass_fds=[theirs.fileno()], stdin=subprocess.DEVNULL)
        theirs.close()
        self._outbox: SimpleQueue[Request | CancelRequest | None] = SimpleQueue()
        self._writer = threading.Thread(target=_write, args=(ours, self._outbox), name="requests", daemon=True)
        ending = (ours, self._outbox, self._writer)
        self._reader = threading.Thread(target=self._read, args=ending, name="results", daemon=True)
        self._reader.start()
        self._writer.start()

    def _send(self, request: Request) -> None:
        if self._stopped:
            return
        if self._process is None or self._process.poll() is not None:
            self._start()
        self._asked = request.number
        self.busy.emit(True)
        self._outbox.put(request)

    def _read(self, connection: Connection, outbox: SimpleQueue[Any], writer: threading.Thread) -> None:
        """Wait for results on a thread of its own; emitting a signal is all it does with Qt."""
        while True:
            try:
                result = connection.recv()
            except (EOFError, OSError):
                outbox.put(None)
                writer.join()  # nobody may be sending while the connection is closed
                connection.close()
                if not self._stopped:
                    words = "The worker has stopped unexpectedly; change anything to start it again."
                    self.finished.emit(Result(self._asked, "error", words))
                    self.busy.emit(False)
                return
            if self._stopped:
                continue
            if result.stage == "idle":
                self.busy.emit(False)
            else:
                self.finished.emit(result)


def _write(connection: Connection, outbox: SimpleQueue[Request | CancelRequest | None]) -> None:
    """Send requests on a thread of its own: a worker deep in a computation does not read, and the window must not wait."""
    while True:
        request = outbox.get()
        try:
            connection.send(request)
        except OSError:
            return  # the reader says that the worker is gone
        if request is None:
            return
