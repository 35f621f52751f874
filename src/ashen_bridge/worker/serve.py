"""The worker itself: takes requests in, works on the most urgent one, tells what comes of it. Tools are loaded when first needed.

`main` takes one end of a two-way connection as the number of an open file, and where its tools are made, as `module:name`;
without tools errands get None.
"""

from __future__ import annotations

import gc
import sys
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from importlib import import_module
from multiprocessing.connection import Connection
from typing import Any

from ashen_bridge.model.errors import AshenError, Cancelled
from ashen_bridge.worker.protocol import Answer, Cancel, Lane, Request, Tools


@dataclass
class _Job:
    request: Request
    steps: Iterator[tuple[float, Any]] | None = None
    gone: bool = field(default=False)


def _never() -> bool:
    return False


class Worker:
    """Serves one connection."""

    def __init__(self, connection: Connection, make_tools: Callable[[], Tools] | None = None) -> None:
        self._connection, self._make_tools = connection, make_tools
        self._tools: Tools | None = None
        self._jobs: list[_Job] = []
        self._closed = self._settled = False

    def serve(self) -> None:
        """Work until the other end goes away."""
        while not self._closed:
            job = min(self._jobs, key=lambda one: one.request.lane, default=None)  # of one lane the first that was asked
            if job is None:
                self._take_in(wait=True)
                continue
            self._step(job)
            self._take_in()
            if not self._jobs and not self._closed:
                self._tell(Answer(job.request.number, "idle"))
                self._settle_in()

    def _settle_in(self) -> None:
        """Take what is loaded by now, for good, out of what is searched for garbage: a search in mid-work cost up to 100 ms."""
        if not self._settled:
            self._settled = True
            gc.collect()
            gc.freeze()

    # ---- what arrives

    def _take_in(self, wait: bool = False) -> None:
        while not self._closed and (wait or self._connection.poll()):
            wait = False
            try:
                message = self._connection.recv()
            except (EOFError, OSError):
                message = None  # the window is gone
            if message is None:
                self._closed = True
            elif isinstance(message, Cancel):
                self._cancel(message.number)
            else:
                self._add(message)

    def _cancel(self, number: int) -> None:
        self._drop(lambda job: job.request.number == number)

    def _add(self, request: Request) -> None:
        def pointless(job: _Job) -> bool:
            if request.lane is Lane.QUESTION:
                return job.request.lane is Lane.QUESTION and job.request.kind == request.kind
            return request.lane <= job.request.lane < Lane.QUESTION

        for job in self._drop(pointless):
            self._tell(Answer(job.request.number, "replaced"))
        self._jobs.append(_Job(request))

    def _drop(self, which: Callable[[_Job], bool]) -> list[_Job]:
        dropped = [job for job in self._jobs if which(job)]
        self._jobs = [job for job in self._jobs if job not in dropped]
        for job in dropped:
            job.gone = True
        return dropped

    # ---- work

    def _step(self, job: _Job) -> None:
        """Take one step of a job, and tell what came of it."""
        number = job.request.number

        def called_off() -> bool:
            self._take_in()
            return self._closed or job.gone

        try:
            if job.steps is None:
                job.steps = job.request.errand(self._ready(), *job.request.arguments)
            if self._tools is not None:
                # A step of a question is short, and there is no way back into one that was broken off.
                self._tools.called_off = _never if job.request.lane is Lane.QUESTION else called_off
            progress, value = next(job.steps)
        except StopIteration:
            self._end(job, Answer(number, "done", progress=1.0))
        except Cancelled:
            self._end(job, None)
        except AshenError as error:
            self._end(job, Answer(number, "error", str(error), about=getattr(error, "about", ())))
        except Exception as error:
            # The job runner is one of the three places that may catch everything: a fault must not end the worker.
            self._end(job, Answer(number, "error", f"This failed unexpectedly ({type(error).__name__}: {error})."))
        else:
            if not job.gone:
                self._tell(Answer(number, "step", value, progress))

    def _end(self, job: _Job, answer: Answer | None) -> None:
        self._drop(lambda one: one is job)
        if answer is not None:
            self._tell(answer)

    def _ready(self) -> Tools | None:
        if self._tools is None and self._make_tools is not None:
            self._tools = self._make_tools()
        return self._tools

    def _tell(self, answer: Answer) -> None:
        try:
            self._connection.send(answer)
        except OSError:
            self._closed = True


def main() -> None:
    """Serve the connection whose file number is the first argument, with the tools that the second one names, if any."""
    make = None
    if len(sys.argv) > 2:
        module, _, name = sys.argv[2].partition(":")

        def make() -> Tools:
            tools: Tools = getattr(import_module(module), name)()
            return tools

    with Connection(int(sys.argv[1])) as connection:
        Worker(connection, make).serve()
