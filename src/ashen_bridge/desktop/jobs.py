"""The worker: one thread that owns the engine, takes the newest request of each kind and drops what is superseded.

Inputs go in frozen, results come out through one queued signal with the request's number. Scientific packages are
imported by the worker, so that the window paints before they are loaded.
"""

from __future__ import annotations

import threading
from dataclasses import dataclass
from typing import Any, Literal

from PyQt6.QtCore import QObject, pyqtSignal

from ashen_bridge.assess.result import Assessment, StripCell
from ashen_bridge.model.errors import AshenError, Cancelled
from ashen_bridge.model.project import Project


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
    base: Assessment
    joints: tuple[str, ...]
    thicknesses_mm: tuple[float, ...]


@dataclass(frozen=True)
class Result:
    """What the worker found: stage `coarse`, `fine` or `strip`, or `error` with its sentence."""

    number: int
    stage: Literal["coarse", "fine", "strip", "error"]
    value: Assessment | StripCell | str
    about: tuple[str, ...] = ()


class JobRunner(QObject):
    """Runs predictions and strips on one worker thread."""

    finished = pyqtSignal(object)
    busy = pyqtSignal(bool)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._condition = threading.Condition()
        self._predict: PredictRequest | None = None
        self._strip: StripRequest | None = None
        self._number = 0
        self._stopped = False
        self._thread = threading.Thread(target=self._run, name="physics", daemon=True)
        self._thread.start()

    def predict(self, project: Project, build: str, point: str) -> int:
        """Ask for an assessment; whatever was asked before is dropped. Returns the request's number."""
        with self._condition:
            self._number += 1
            self._predict = PredictRequest(self._number, project, build, point)
            self._strip = None
            self._condition.notify()
            return self._number

    def strip(self, project: Project, base: Assessment, joints: tuple[str, ...], thicknesses_mm: tuple[float, ...]) -> int:
        """Ask for a thickness strip; an earlier one that is not finished is dropped. Returns the request's number."""
        with self._condition:
            self._number += 1
            self._strip = StripRequest(self._number, project, base, joints, thicknesses_mm)
            self._condition.notify()
            return self._number

    def stop(self) -> None:
        """End the thread; work in progress is called off."""
        with self._condition:
            self._stopped = True
            self._condition.notify()
        self._thread.join(timeout=5.0)

    def _run(self) -> None:
        engine: Any = None
        while True:
            with self._condition:
                while not (self._predict or self._strip or self._stopped):
                    self._condition.wait()
                if self._stopped:
                    return
                request: PredictRequest | StripRequest | None = self._predict or self._strip
                if isinstance(request, PredictRequest):
                    self._predict = None
                else:
                    self._strip = None
            if engine is None:
                from ashen_bridge.predict.engine import Engine

                engine = Engine()
            self.busy.emit(True)
            try:
                if isinstance(request, PredictRequest):
                    self._assess(engine, request)
                elif request is not None:
                    self._work_strip(engine, request)
            except Cancelled:
                pass
            except AshenError as error:
                self._emit(Result(request.number, "error", str(error), getattr(error, "about", ())) if request else None)
            except Exception as error:
                # The job runner is one of the three places that may catch everything: a fault must not kill the worker.
                text = f"The prediction failed unexpectedly ({type(error).__name__}: {error})."
                self._emit(Result(request.number, "error", text) if request else None)
            finally:
                if not self._stopped:
                    self.busy.emit(False)

    def _emit(self, result: Result | None) -> None:
        if result is not None and not self._stopped:
            self.finished.emit(result)

    def _superseded(self, request: PredictRequest | StripRequest) -> bool:
        with self._condition:
            newer_strip = isinstance(request, StripRequest) and self._strip is not None
            return self._stopped or self._predict is not None or newer_strip

    def _assess(self, engine: Any, request: PredictRequest) -> None:
        from ashen_bridge.assess.assessment import judge

        def cancelled() -> bool:
            return self._superseded(request)

        args = request.project, request.build, request.point
        coarse = engine.predict(*args, fidelity="coarse", cancelled=cancelled)
        self._emit(Result(request.number, "coarse", Assessment(coarse, ())))
        fine = engine.predict(*args, fidelity="fine", cancelled=cancelled)
        self._emit(Result(request.number, "fine", judge(request.project, fine, engine=engine, cancelled=cancelled)))

    def _work_strip(self, engine: Any, request: StripRequest) -> None:
        from ashen_bridge.assess.strip import thickness_strip

        for cell in thickness_strip(
            request.project,
            request.base.report,
            request.joints,
            request.thicknesses_mm,
            engine=engine,
            cancelled=lambda: self._superseded(request),
        ):
            self._emit(Result(request.number, "strip", cell))
