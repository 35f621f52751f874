"""The physics in a process of its own, so that a window never waits for it: requests come in, results go out.

The newest request of each kind is worked on; what it supersedes is called off and forgotten. Predictions go first, then
strips; a task is worked on step by step whenever nothing else is asked. Solvers are loaded here only. `main` takes one end
of a two-way connection as the number of an open file.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from multiprocessing.connection import Connection
from typing import TYPE_CHECKING, Any, Literal

from ashen_bridge.assess.result import Assessment
from ashen_bridge.model.errors import AshenError, Cancelled
from ashen_bridge.model.project import Project
from ashen_bridge.predict.report import Report

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine


@dataclass(frozen=True)
class PredictRequest:
    """Assess one build at one operating point."""

    number: int
    project: Project
    build: str
    point: str


@dataclass(frozen=True)
class StripRequest:
    """Work out the thickness strip of some joints against a finished prediction."""

    number: int
    project: Project
    base: Report
    joints: tuple[str, ...]
    thicknesses_mm: tuple[float, ...]


@dataclass(frozen=True)
class TaskRequest:
    """Work through a task: a public generator function of (engine, *arguments) that yields (progress 0 to 1, value) pairs."""

    number: int
    task: Callable[..., Iterator[tuple[float, Any]]]
    arguments: tuple[Any, ...]
    engine: bool = True  # False for a task that needs no solvers: they are not loaded for it, and it gets None


@dataclass(frozen=True)
class CancelRequest:
    """Call a task off."""

    number: int


Request = PredictRequest | StripRequest | TaskRequest


@dataclass(frozen=True)
class Result:
    """What was found: stage `coarse`, `fine` or `strip`; `task` for each step of a task and `done` after its last.

    `error` comes with its sentence, `idle` when nothing is left to do.
    """

    number: int
    stage: Literal["coarse", "fine", "strip", "task", "done", "error", "idle"]
    value: Any = ""
    about: tuple[str, ...] = ()
    progress: float = 0.0


class Worker:
    """Serves one connection until it closes or says None."""

    def __init__(self, connection: Connection) -> None:
        self._connection = connection
        self._predict: PredictRequest | None = None
        self._strip: StripRequest | None = None
        self._task: tuple[int, Iterator[tuple[float, Any]]] | None = None
        self._closed = False
        self._engine: Engine | None = None

    def serve(self) -> None:
        """Work until the other end goes away."""
        while not self._closed:
            request: PredictRequest | StripRequest | None = self._predict or self._strip
            if request is not None:
                if isinstance(request, PredictRequest):
                    self._predict = None
                else:
                    self._strip = None
                self._work(request.number, partial(self._answer, request))
                number = request.number
            elif self._task is not None:
                number = self._task[0]
                self._work(number, self._step)
                self._take_in()
            else:
                self._take_in(wait=True)
                continue
            if not (self._predict or self._strip or self._task or self._closed):
                self._tell(Result(number, "idle"))

    def _take_in(self, wait: bool = False) -> None:
        """Read what has arrived; a new prediction makes older predictions and strips pointless."""
        while not self._closed and (wait or self._connection.poll()):
            wait = False
            try:
                message = self._connection.recv()
            except (EOFError, OSError):
                message = None  # the window is gone
            if message is None:
                self._closed = True
            elif isinstance(message, PredictRequest):
                self._predict, self._strip = message, None
            elif isinstance(message, StripRequest):
                self._strip = message
            elif isinstance(message, TaskRequest):
                engine = self._ready() if message.engine else None
                self._task = message.number, message.task(engine, *message.arguments)
            elif self._task is not None and self._task[0] == message.number:
                self._task = None

    def _superseded(self, request: PredictRequest | StripRequest) -> bool:
        self._take_in()
        newer_strip = isinstance(request, StripRequest) and self._strip is not None
        return self._closed or self._predict is not None or newer_strip

    def _ready(self) -> Engine:
        if self._engine is None:
            from ashen_bridge.predict.engine import Engine

            self._engine = Engine()
        return self._engine

    def _work(self, number: int, work: Callable[[], None]) -> None:
        try:
            work()
        except Cancelled:
            pass
        except AshenError as error:
            self._fail(Result(number, "error", str(error), getattr(error, "about", ())))
        except Exception as error:
            # The job runner is one of the three places that may catch everything: a fault must not end the worker.
            text = f"The prediction failed unexpectedly ({type(error).__name__}: {error})."
            self._fail(Result(number, "error", text))

    def _fail(self, result: Result) -> None:
        if self._task is not None and self._task[0] == result.number:
            self._task = None
        self._tell(result)

    def _answer(self, request: PredictRequest | StripRequest) -> None:
        engine = self._ready()
        if isinstance(request, PredictRequest):
            self._assess(engine, request, lambda: self._superseded(request))
        else:
            self._work_strip(engine, request, lambda: self._superseded(request))

    def _step(self) -> None:
        """Take one step of the task; others may be asked for in between."""
        if self._task is None:
            return
        number, steps = self._task
        try:
            progress, value = next(steps)
        except StopIteration:
            self._task = None
            self._tell(Result(number, "done", progress=1.0))
            return
        self._tell(Result(number, "task", value, progress=progress))

    def _tell(self, result: Result) -> None:
        try:
            self._connection.send(result)
        except OSError:
            self._closed = True

    def _assess(self, engine: Engine, request: PredictRequest, cancelled: Callable[[], bool]) -> None:
        from ashen_bridge.assess.assessment import judge

        asked = request.project, request.build, request.point
        coarse = engine.predict(*asked, fidelity="coarse", cancelled=cancelled)
        self._tell(Result(request.number, "coarse", Assessment(coarse, ())))
        fine = engine.predict(*asked, fidelity="fine", cancelled=cancelled)
        self._tell(Result(request.number, "fine", judge(request.project, fine, engine=engine, cancelled=cancelled)))

    def _work_strip(self, engine: Engine, request: StripRequest, cancelled: Callable[[], bool]) -> None:
        from ashen_bridge.assess.strip import thickness_strip

        for cell in thickness_strip(
            request.project, request.base, request.joints, request.thicknesses_mm, engine=engine, cancelled=cancelled
        ):
            self._tell(Result(request.number, "strip", cell))


def main() -> None:
    """Serve the connection whose file number is the first argument."""
    with Connection(int(sys.argv[1])) as connection:
        Worker(connection).serve()
