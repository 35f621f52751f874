"""Questions to the model: how they stand, what replaces what, what is kept, and that nothing is solved twice for one click."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator
from typing import Any

import pytest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from ashen_bridge.assess import errands
from ashen_bridge.changes.layers import set_sheets
from ashen_bridge.desktop.parts.question_panel import EARLIER, QuestionPanel, Saying, standing
from ashen_bridge.desktop.state.question import Asked, Question, Questions
from ashen_bridge.desktop.state.runner import Runner
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.memory import Memory
from devices import FOUR, Card, project

WAIT = 30_000


def counted(_: object, most: int) -> Iterator[tuple[float, int]]:
    for n in range(1, most + 1):
        yield n / most, n


def lasting(_: object) -> Iterator[tuple[float, int | None]]:
    while True:
        yield 0.5, None


def refusing(_: object) -> Iterator[tuple[float, Any]]:
    yield 0.1, 1
    raise ProjectError("There is <nothing> to be said.")


class Desk:
    """What a question is about here: an errand with arguments that a test changes."""

    def __init__(self, runner: Runner) -> None:
        self.questions = Questions(runner)
        self.about: Asked | None = Asked("a", counted, (3,))
        self.question: Question[int] = Question(self.questions, "Counting", lambda: self.about)


@pytest.fixture
def desk(qapp: QApplication, monkeypatch: pytest.MonkeyPatch) -> Iterator[Desk]:
    monkeypatch.setenv("PYTHONPATH", os.pathsep.join(sys.path))  # the worker reads errands by their names
    runner = Runner(tools="")
    yield Desk(runner)
    runner.stop()


def test_absent_running_current_stale(qtbot: QtBot, desk: Desk) -> None:
    question = desk.question
    assert (question.state, question.value) == ("absent", None)
    assert standing(question, explain="Counts.") == "Counts."
    question.ask()
    assert question.state == "running"
    qtbot.waitUntil(lambda: question.state == "current", timeout=WAIT)
    assert question.value == 3
    desk.about = Asked("b", counted, (4,))
    assert question.state == "stale"
    assert question.value is None
    assert question.last == 3
    assert standing(question) == EARLIER
    desk.about = Asked("a", counted, (3,))
    assert question.state == "current", "undo shows it again, without asking"
    desk.about = None
    assert not question.possible
    question.ask()
    assert question.state == "stale"


def test_a_refusal_is_said_and_kept_to_what_it_was_about(qtbot: QtBot, desk: Desk) -> None:
    desk.about = Asked("r", refusing, ())
    panel = QuestionPanel(desk.question, Saying("Counting", "Count"), str)
    qtbot.addWidget(panel)
    panel.go.click()
    qtbot.waitUntil(lambda: desk.question.state == "refused", timeout=WAIT)
    assert desk.question.problem == "There is <nothing> to be said."
    assert "&lt;nothing&gt;" in panel.said.text(), "what is said is no markup"
    assert desk.question.value is None, "half an answer is none"
    desk.about = Asked("a", counted, (2,))
    assert desk.question.state == "absent"


def test_another_kind_goes_on_and_the_same_kind_is_replaced(qtbot: QtBot, desk: Desk) -> None:
    other: Question[int] = Question(desk.questions, "Other", lambda: Asked("o", counted, (50,)))
    desk.about = Asked("l", lasting, ())
    desk.question.ask()
    other.ask()
    assert {one.words for one in desk.questions.running} == {"Counting", "Other"}
    desk.about = Asked("a", counted, (2,))
    desk.question.ask()
    assert "called off for this" in standing(desk.question), "and says so"
    qtbot.waitUntil(lambda: other.state == "current" and desk.question.state == "current", timeout=WAIT)
    assert (other.value, desk.question.value) == (50, 2)
    assert desk.questions.running == ()


def test_called_off_it_does_not_ask_itself_again(qtbot: QtBot, desk: Desk) -> None:
    desk.about = Asked("l", lasting, ())
    desk.question.ask_by_itself()
    assert desk.question.state == "running"
    desk.questions.cancel_all()
    assert desk.question.state == "absent"
    desk.question.ask_by_itself()
    assert desk.question.state == "absent", "somebody called just this off"
    desk.about = Asked("a", counted, (2,))
    desk.question.ask_by_itself()
    qtbot.waitUntil(lambda: desk.question.state == "current", timeout=WAIT)


# ---- nothing is solved twice


def strip_of(engine: Engine, made: Project) -> None:
    *_, (_, found) = errands.predict(engine, made, "now", "load")
    list(errands.thickness_strip(engine, made, found.report, made.groups[0].joints, (0.5, 1.0, 1.5)))


def test_a_click_on_the_strip_solves_no_coarse_field_again() -> None:
    made = project(Card(FOUR))
    engine = Engine()
    strip_of(engine, made)
    clicked = set_sheets(made, "now", made.groups[0].joints, 0.5)
    before = engine.fields_solved
    first = next(errands.predict(engine, clicked, "now", "load"))
    assert engine.fields_solved == before, "the strip has solved it: the same change, the same prediction"
    assert first[1].report.mesh.cells > 0
    strip_of(engine, clicked)
    # The fine field, and what the findings ask of pads that push back with nothing; the strip has all of its cells already.
    assert engine.fields_solved - before <= 2


def test_names_are_part_of_what_is_remembered() -> None:
    made = project(Card(FOUR))
    engine = Engine()
    engine.predict(made, "now", "load", fidelity="coarse")
    body = made.device.bodies[-1]
    renamed = Project.parse({**made.model_dump(mode="json"), "device": {**made.device.model_dump(mode="json"), "name": "x"}})
    engine.predict(renamed, "now", "load", fidelity="coarse")
    sensors = [{**one.model_dump(mode="json"), "name": "Called anew"} for one in made.device.sensors]
    data = made.model_dump(mode="json")
    data["device"]["sensors"] = sensors
    report = engine.predict(Project.parse(data), "now", "load", fidelity="coarse").report
    assert {row.name for row in report.sensors} == {"Called anew"}
    assert body.id


def test_the_memory_stays_within_what_is_stated() -> None:
    made = project(Card(FOUR))
    engine = Engine(memory=Memory(limit=1e6))
    for n in range(8):
        engine.predict(set_sheets(made, "now", made.groups[0].joints, 1.0 + 0.01 * n), "now", "load", fidelity="coarse")
    assert 1 <= len(engine.memory._kept) < 8
    assert engine.memory._bytes <= 1e6
