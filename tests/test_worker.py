"""The worker's side of the connection: newest first, superseded work called off, faults told in words."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from multiprocessing import Pipe
from multiprocessing.connection import Connection

import pytest

from ashen_bridge.assess.worker import CancelRequest, PredictRequest, Result, StripRequest, TaskRequest, Worker
from ashen_bridge.model.project import Project
from devices import FOUR, Card, project

WAIT = 30.0


@pytest.fixture
def connection() -> Connection:
    ours, theirs = Pipe()
    threading.Thread(target=Worker(theirs).serve, daemon=True).start()
    return ours


def results(connection: Connection) -> list[Result]:
    """Return everything until the worker has nothing left to do."""
    found: list[Result] = []
    while not found or found[-1].stage != "idle":
        assert connection.poll(WAIT), "the worker has gone silent"
        found.append(connection.recv())
    return found


def test_coarse_then_fine_then_idle(connection: Connection) -> None:
    connection.send(PredictRequest(1, project(Card(FOUR)), "now", "load"))
    assert [result.stage for result in results(connection)] == ["coarse", "fine", "idle"]
    connection.send(None)


def test_the_newest_request_wins(connection: Connection) -> None:
    made = project(Card(FOUR))
    for number in range(1, 6):
        connection.send(PredictRequest(number, made, "now", "load"))
    stages = [(result.number, result.stage) for result in results(connection)]
    assert (5, "fine") in stages
    assert sum(1 for _, stage in stages if stage == "fine") < 5, "what was superseded has been dropped"
    connection.send(None)


def test_a_strip_comes_cell_by_cell(connection: Connection) -> None:
    made = project(Card(FOUR))
    connection.send(PredictRequest(1, made, "now", "load"))
    fine = next(result for result in results(connection) if result.stage == "fine")
    connection.send(StripRequest(2, made, fine.value.report, made.groups[0].joints, (0.5, 1.0)))  # type: ignore[union-attr]
    cells = [result.value.thickness_mm for result in results(connection) if result.stage == "strip"]  # type: ignore[union-attr]
    assert cells == [0.5, 1.0]
    connection.send(None)


def test_refusals_and_faults_are_told_and_the_worker_goes_on(connection: Connection) -> None:
    connection.send(PredictRequest(1, project(Card((FOUR[0], FOUR[0]))), "now", "load"))
    told = results(connection)
    assert [result.stage for result in told] == ["error", "idle"]
    assert "overlap" in str(told[0].value)
    assert told[0].about == ("part_0", "part_1")
    connection.send(PredictRequest(2, Project(), "now", "load"))
    assert results(connection)[0].stage == "error"
    connection.send(PredictRequest(3, project(Card(FOUR)), "now", "load"))
    assert "fine" in [result.stage for result in results(connection)]
    connection.send(None)


def counting(_engine: object, most: int) -> Iterator[tuple[float, int]]:
    for n in range(most):
        yield (n + 1) / most, n


def endless(_engine: object) -> Iterator[tuple[float, int]]:
    n = 0
    while True:
        yield 0.5, n
        n += 1


def faulty(_engine: object) -> Iterator[tuple[float, int]]:
    yield 0.1, 0
    raise ZeroDivisionError("nothing to share")


def test_a_task_tells_its_progress_and_its_end(connection: Connection) -> None:
    connection.send(TaskRequest(7, counting, (4,)))
    told = results(connection)
    assert [result.stage for result in told] == ["task"] * 4 + ["done", "idle"]
    assert [result.progress for result in told[:4]] == [0.25, 0.5, 0.75, 1.0]
    assert [result.value for result in told[:4]] == [0, 1, 2, 3]
    connection.send(None)


def test_a_task_is_called_off_and_a_prediction_goes_before_it(connection: Connection) -> None:
    connection.send(TaskRequest(8, endless, ()))
    assert connection.poll(WAIT)
    connection.send(PredictRequest(9, project(Card(FOUR)), "now", "load"))
    stages = []
    while "fine" not in stages:
        assert connection.poll(WAIT)
        stages.append(connection.recv().stage)
    connection.send(CancelRequest(8))
    told = results(connection)
    assert told[-1].stage == "idle", "an endless task is over once it has been called off"
    assert all(result.stage in ("task", "idle") for result in told)
    connection.send(None)


def test_a_fault_in_a_task_is_told_in_words_and_ends_only_the_task(connection: Connection) -> None:
    connection.send(TaskRequest(10, faulty, ()))
    told = results(connection)
    assert [result.stage for result in told] == ["task", "error", "idle"]
    assert "nothing to share" in str(told[1].value)
    connection.send(TaskRequest(11, counting, (1,)))
    assert [result.stage for result in results(connection)] == ["task", "done", "idle"]
    connection.send(None)
