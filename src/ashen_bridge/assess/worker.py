"""The physics in a process of its own, so that a window never waits for it: requests come in, results go out.

The newest request of each kind is worked on; what it supersedes is called off and forgotten. Solvers are loaded here only.
`main` takes one end of a two-way connection as the number of an open file.
"""

from __future__ import annotations

import sys
from collections.abc import Callable
from dataclasses import dataclass
from multiprocessing.connection import Connection
from typing import TYPE_CHECKING, Literal

from ashen_bridge.assess.result import Assessment, StripCell
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


Request = PredictRequest | StripRequest


@dataclass(frozen=True)
class Result:
    """What was found: stage `coarse`, `fine` or `strip`; `error` with its sentence; `idle` when nothing is left to do."""

    number: int
    stage: Literal["coarse", "fine", "strip", "error", "idle"]
    value: Assessment | StripCell | str = ""
    about: tuple[str, ...] = ()


class Worker:
    """Serves one connection until it closes or says None."""

    def __init__(self, connection: Connection) -> None:
        self._connection = connection
        self._predict: PredictRequest | None = None
        self._strip: StripRequest | None = None
        self._closed = False
        self._engine: Engine | None = None

    def serve(self) -> None:
        """Work until the other end goes away."""
        while not self._closed:
            request: Request | None = self._predict or self._strip
            if request is None:
                self._take_in(wait=True)
                continue
            if isinstance(request, PredictRequest):
                self._predict = None
            else:
                self._strip = None
            self._work(request)
            if not (self._predict or self._strip or self._closed):
                self._tell(Result(request.number, "idle"))

    def _take_in(self, wait: bool = False) -> None:
        """Read what has arrived; a new prediction makes older predictions and strips pointless."""
        while not self._closed and (wait or self._connection.poll()):
            wait = False
            try:
                message = self._connection.recv()
            except EOFError:
                message = None
            if message is None:
                self._closed = True
            elif isinstance(message, PredictRequest):
                self._predict, self._strip = message, None
            else:
                self._strip = message

    def _superseded(self, request: Request) -> bool:
        self._take_in()
        newer_strip = isinstance(request, StripRequest) and self._strip is not None
        return self._closed or self._predict is not None or newer_strip

    def _work(self, request: Request) -> None:
        try:
            if self._engine is None:
                from ashen_bridge.predict.engine import Engine

                self._engine = Engine()
            if isinstance(request, PredictRequest):
                self._assess(self._engine, request, lambda: self._superseded(request))
            else:
                self._work_strip(self._engine, request, lambda: self._superseded(request))
        except Cancelled:
            pass
        except AshenError as error:
            self._tell(Result(request.number, "error", str(error), getattr(error, "about", ())))
        except Exception as error:
            # The job runner is one of the three places that may catch everything: a fault must not end the worker.
            text = f"The prediction failed unexpectedly ({type(error).__name__}: {error})."
            self._tell(Result(request.number, "error", text))

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
