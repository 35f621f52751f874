"""The window's end of a worker: sends requests, brings answers into the event loop, starts the process and ends it."""

from __future__ import annotations

import subprocess
import sys
import threading
from collections.abc import Callable
from dataclasses import dataclass
from multiprocessing import Pipe
from multiprocessing.connection import Connection
from queue import SimpleQueue
from typing import Any, ClassVar, Protocol

from PyQt6.QtCore import QObject, pyqtSignal

from ashen_bridge.worker import serve
from ashen_bridge.worker.protocol import Answer, Cancel, Errand, Lane, Request

ENGINE = "ashen_bridge.predict.engine:Engine"
_PATIENCE = 2.0  # [s] a worker gets to end by itself
Step = Callable[[Any, float], object]
"""Takes the value of a step and how far that is (0 to 1)."""
End = Callable[[str, str], object]
"""Takes how it ended (`done`, `error`, `replaced`) and, of an error, the sentence."""


@dataclass(frozen=True)
class _Asked:
    step: Step
    end: End


def _nothing(stage: str, problem: str) -> None:
    return None


class Process(Protocol):
    """A worker's process, as far as the window needs to know it."""

    def poll(self) -> int | None:
        """Return how it ended, None while it runs."""

    def terminate(self) -> None:
        """Ask it to end."""

    def kill(self) -> None:
        """End it."""

    def wait(self, timeout: float | None = None) -> int:
        """Wait until it has ended. Raises `subprocess.TimeoutExpired`."""


def launch(theirs: Connection, tools: str) -> Process:
    """Start a worker on one end of a connection, with the tools that are named, if any."""
    # Not `-m`: the module's classes would then be those of `__main__` and could not be read back here.
    code = f"from {serve.__name__} import main; main()"
    command = [sys.executable, "-c", code, str(theirs.fileno()), *([tools] if tools else [])]
    return subprocess.Popen(command, pass_fds=[theirs.fileno()], stdin=subprocess.DEVNULL)


class Runner(QObject):
    """Asks one worker process. Steps and ends are told to whoever asked, in the event loop.

    A `lazy` one starts its process with the first request; `tools` names what its errands work with, if anything.
    """

    launch: ClassVar[Callable[[Connection, str], Process]] = staticmethod(launch)
    _answered = pyqtSignal(object)
    busy = pyqtSignal(bool)

    def __init__(self, parent: QObject | None = None, *, lazy: bool = False, tools: str = ENGINE) -> None:
        super().__init__(parent)
        self._number = 0
        self._tools = tools
        self._asked: dict[int, _Asked] = {}
        self._stopped = False
        self._process: Process | None = None
        self._answered.connect(self._take)
        if not lazy:
            self._start()

    def ask(self, lane: Lane, errand: Errand, *arguments: Any, step: Step, end: End = _nothing, kind: str = "") -> int:
        """Ask for an errand; see `Lane` for what that replaces. Returns the request's number."""
        self._number += 1
        if not self._stopped:
            if self._process is None or self._process.poll() is not None:
                self._start()
            self._asked[self._number] = _Asked(step, end)
            self.busy.emit(True)
            self._outbox.put(Request(lane, self._number, errand, arguments, kind))
        return self._number

    def cancel(self, number: int) -> None:
        """Call a request off; nothing more is heard of it."""
        if self._asked.pop(number, None) is not None and not self._stopped:
            self._outbox.put(Cancel(number))

    def forget(self, number: int) -> None:
        """Hear nothing more of a request that a newer one replaces anyway."""
        self._asked.pop(number, None)

    def stop(self) -> None:
        """End the worker; work in progress is called off. It holds nothing worth waiting for, so the window closes at once."""
        if self._stopped:
            return
        self._stopped = True
        self._asked.clear()
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

    def _take(self, answer: Answer) -> None:
        if answer.stage == "idle":
            self.busy.emit(False)
            return
        asked = self._asked.get(answer.number)
        if asked is None:
            return
        if answer.stage == "step":
            asked.step(answer.value, answer.progress)
        else:
            del self._asked[answer.number]
            asked.end(answer.stage, str(answer.value) if answer.stage == "error" else "")

    def _start(self) -> None:
        ours, theirs = Pipe()
        self._process = type(self).launch(theirs, self._tools)
        theirs.close()
        self._outbox: SimpleQueue[Request | Cancel | None] = SimpleQueue()
        self._writer = threading.Thread(target=_write, args=(ours, self._outbox), name="requests", daemon=True)
        ending = (ours, self._outbox, self._writer)
        self._reader = threading.Thread(target=self._read, args=ending, name="answers", daemon=True)
        self._reader.start()
        self._writer.start()

    def _read(self, connection: Connection, outbox: SimpleQueue[Any], writer: threading.Thread) -> None:
        """Wait for answers on a thread of its own; emitting a signal is all it does with Qt."""
        while True:
            try:
                answer = connection.recv()
            except (EOFError, OSError):
                outbox.put(None)
                writer.join()  # nobody may be sending while the connection is closed
                connection.close()
                if not self._stopped:
                    words = "The worker has stopped unexpectedly; change anything to start it again."
                    for number in list(self._asked):
                        self._answered.emit(Answer(number, "error", words))
                    self._answered.emit(Answer(0, "idle"))
                return
            if not self._stopped:
                self._answered.emit(answer)


def _write(connection: Connection, outbox: SimpleQueue[Request | Cancel | None]) -> None:
    """Send requests on a thread of its own: a worker deep in a computation does not read, and the window must not wait."""
    while True:
        request = outbox.get()
        try:
            connection.send(request)
        except OSError:
            return  # the reader says that the worker is gone
        if request is None:
            return
