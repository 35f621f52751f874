"""The worker's side of the connection: newest first, superseded work called off, faults told in words."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from multiprocessing import Pipe
from multiprocessing.connection import Connection

import pytest

from ashen_bridge.assess import errands
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from ashen_bridge.worker.protocol import Answer, Cancel, Errand, Lane, Request
from ashen_bridge.worker.serve import Worker
from devices import FOUR, Card, project

WAIT = 30.0


@pytest.fixture
def connection() -> Connection:
    ours, theirs = Pipe()
    threading.Thread(target=Worker(theirs, Engine).serve, daemon=True).start()
    return ours


def prediction(number: int, made: Project) -> Request:
    return Request(Lane.PREDICTION, number, errands.predict, (made, "now", "load"))


def question(number: int, errand: Errand, *arguments: object, kind: str = "") -> Request:
    return Request(Lane.QUESTION, number, errand, arguments, kind or f"{errand.__name__}")


def results(connection: Connection) -> list[Answer]:
    """Return everything until the worker has nothing left to do."""
    found: list[Answer] = []
    while not found or found[-1].stage != "idle":
        assert connection.poll(WAIT), "the worker has gone silent"
        found.append(connection.recv())
    return found


def test_coarse_then_fine_then_findings_then_idle(connection: Connection) -> None:
    connection.send(prediction(1, project(Card(FOUR))))
    assert [result.stage for result in results(connection)] == ["step", "step", "step", "done", "idle"]
    connection.send(None)


def test_the_newest_request_wins(connection: Connection) -> None:
    made = project(Card(FOUR))
    for number in range(1, 6):
        connection.send(prediction(number, made))
    stages = [(result.number, result.stage) for result in results(connection)]
    assert (5, "done") in stages
    assert sum(1 for _, stage in stages if stage == "done") < 5, "what was superseded has been dropped"
    connection.send(None)


def test_a_strip_comes_cell_by_cell(connection: Connection) -> None:
    made = project(Card(FOUR))
    connection.send(prediction(1, made))
    fine = [result.value for result in results(connection) if result.stage == "step"][-1]
    asked = (made, fine.report, made.groups[0].joints, (0.5, 1.0))
    connection.send(Request(Lane.STRIP, 2, errands.thickness_strip, asked))
    cells = [result.value.thickness_mm for result in results(connection) if result.stage == "step"]
    assert cells == [0.5, 1.0]
    connection.send(None)


def test_refusals_and_faults_are_told_and_the_worker_goes_on(connection: Connection) -> None:
    connection.send(prediction(1, project(Card((FOUR[0], FOUR[0])))))
    told = results(connection)
    assert [result.stage for result in told] == ["error", "idle"]
    assert "overlap" in str(told[0].value)
    assert told[0].about == ("part_0", "part_1")
    connection.send(prediction(2, Project()))
    assert results(connection)[0].stage == "error"
    connection.send(prediction(3, project(Card(FOUR))))
    assert "done" in [result.stage for result in results(connection)]
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


def test_a_question_tells_its_progress_and_its_end(connection: Connection) -> None:
    connection.send(question(7, counting, 4))
    told = results(connection)
    assert [result.stage for result in told] == ["step"] * 4 + ["done", "idle"]
    assert [result.progress for result in told[:4]] == [0.25, 0.5, 0.75, 1.0]
    assert [result.value for result in told[:4]] == [0, 1, 2, 3]
    connection.send(None)


def test_a_question_is_called_off_and_a_prediction_goes_before_it(connection: Connection) -> None:
    connection.send(question(8, endless))
    assert connection.poll(WAIT)
    connection.send(prediction(9, project(Card(FOUR))))
    while True:
        assert connection.poll(WAIT)
        told_now = connection.recv()
        if (told_now.number, told_now.stage) == (9, "done"):
            break
    connection.send(Cancel(8))
    told = results(connection)
    assert told[-1].stage == "idle", "an endless question is over once it has been called off"
    assert all(result.stage in ("step", "idle") for result in told)
    connection.send(None)


def test_a_fault_in_a_question_is_told_in_words_and_ends_only_it(connection: Connection) -> None:
    connection.send(question(10, faulty))
    told = results(connection)
    assert [result.stage for result in told] == ["step", "error", "idle"]
    assert "nothing to share" in str(told[1].value)
    connection.send(question(11, counting, 1))
    assert [result.stage for result in results(connection)] == ["step", "done", "idle"]
    connection.send(None)


def test_a_newer_question_replaces_only_its_own_kind_and_says_so(connection: Connection) -> None:
    connection.send(question(1, endless, kind="one"))
    assert connection.poll(WAIT)
    connection.send(question(2, counting, 3, kind="other"))
    connection.send(question(3, counting, 2, kind="one"))
    told = results(connection)
    assert [(one.number, one.stage) for one in told if one.stage in ("replaced", "done")] == [
        (1, "replaced"),
        (2, "done"),
        (3, "done"),
    ]
    connection.send(None)


def test_a_strip_waits_for_the_prediction_and_goes_before_questions(connection: Connection) -> None:
    made = project(Card(FOUR))
    connection.send(question(1, counting, 400))
    connection.send(Request(Lane.STRIP, 2, counting, (3,)))
    connection.send(prediction(3, made))
    connection.send(Request(Lane.STRIP, 4, counting, (3,)))
    ended = [(one.number, one.stage) for one in results(connection) if one.stage in ("done", "replaced")]
    order = [number for number, stage in ended if stage == "done"]
    assert order.index(3) < order.index(4) < order.index(1)
