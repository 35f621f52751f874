"""Open up with what a stranger's file may hold: names that are markup or very long, dozens of screws, marks of things gone."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.openup.page import OpenPage
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.editing import procedures as edits
from ashen_bridge.files.archive import Opened
from ashen_bridge.files.demos import open_anything
from ashen_bridge.model.project import Project
from ashen_bridge.planning.opening import opening
from windows import WAIT, Opener, look, press

MARKUP = "<b>bold</b> <img src=x> &amp;"
LONG = "A screw whose name goes on and on " * 5
MANY = 64


def strange() -> Project:
    """The demo's card with hostile names, many cover screws and plugs, and marks of closings and joints that are gone."""
    plain = open_anything("demo:correlator").project.model_dump(mode="json")
    plain["device"]["fasteners"][0]["name"] = MARKUP
    plain["device"]["fasteners"][1]["name"] = LONG[:200]
    for body in plain["device"]["bodies"]:
        body["name"] = MARKUP if body["id"] in ("cooler", "mem_l1") else body["name"]
    plain["device"]["screws"] = [
        {"id": f"s{n}", "name": MARKUP if n % 2 else "", "x_mm": 2.0 + 3 * n, "y_mm": 5.0 + n, "holds": f"{MARKUP} {n % 3}"}
        for n in range(MANY)
    ]
    plain["device"]["plugs"] = [{"id": f"p{n}", "name": MARKUP, "x_mm": 4.0 * n, "y_mm": 60.0} for n in range(30)]
    gone = {"closing": "closed_pads", "joint": "gone", "lower": "mem_l1", "says": "deep"}
    plain["evidence"].append({"id": "gone", **gone})
    plain["evidence"].append({**gone, "id": "older", "closing": "no_such_closing", "joint": "pad_l1"})
    plain["procedures"], plain["tray"] = [], [{"screw": "no_such_screw", "cell": "Z9"}]
    return Project.parse(plain)


@pytest.fixture
def page(qtbot: QtBot, opened: Opener) -> tuple[MainWindow, OpenPage]:
    window = opened("strange", Opened(strange(), {}))
    look(window, build="as_found")
    press(qtbot, window, Qt.Key.Key_F9)
    made = window.workspaces["openup"].page()
    assert isinstance(made, OpenPage)
    return window, made


def test_names_are_shown_as_they_stand_and_the_window_stays_narrow(qtbot: QtBot, page: tuple[MainWindow, OpenPage]) -> None:
    window, made = page
    procedure = made.desk.procedure
    assert procedure is not None
    window.session.apply(edits.add_procedure(procedure))
    step = next(one for one in procedure.steps if MARKUP in one.text)
    made.desk.choose_step(step)
    assert MARKUP in made.steps.card.text.text()
    plain = [one for one in made.findChildren(QLabel) if MARKUP in one.text()]
    assert all(one.textFormat() is Qt.TextFormat.PlainText for one in plain)
    assert window.minimumSizeHint().width() <= 1024
    assert made.steps.tray.height() < 20 * made.steps.theme.px(40)


def test_every_screw_of_many_has_a_cell_of_its_own() -> None:
    project = strange()
    made = edits.add_procedure(opening(project, "as_found")).applied(project)
    name = made.procedures[-1].id
    for step in made.procedures[-1].steps:
        made = edits.tick(made, name, step.id, "2031-03-14").applied(made)
    cells = [one.cell for one in made.tray if not one.back]
    assert len(set(cells)) == len(cells) == MANY + 8 + 1, "the eight of the card, and what lies there of old"


@pytest.mark.long
def test_marks_of_what_is_gone_are_said_and_stop_nothing(qtbot: QtBot, page: tuple[MainWindow, OpenPage]) -> None:
    _, made = page
    made.turn_to("seen")
    qtbot.waitUntil(lambda: made.desk.seen.state in ("current", "refused"), timeout=WAIT)
    assert made.desk.seen.state == "current", made.desk.seen.problem
    found = made.desk.seen.value
    assert found is not None
    assert {"gone", "older"} <= {name for name, _ in found.refused}
    assert MARKUP not in made.seen.said.text(), "in rich text a name is escaped"
    assert "&lt;b&gt;bold" in made.seen.said.text() or not any(one.lower == "mem_l1" for one in found.statements)
