"""A window that keeps still and remembers: banners have their place, a changed part asks what for, files come back."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, QRect, Qt
from PyQt6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from ashen_bridge.desktop.look.preferences import Preferences
from ashen_bridge.desktop.parts.fields import QuantityField
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.desktop.shell.workbench import Workbench
from ashen_bridge.desktop.stack.elevation_painter import stretch_words
from ashen_bridge.desktop.stack.plan_model import probe
from ashen_bridge.editing.edits import set_values
from ashen_bridge.files.archive import Opened, open_project, save_project
from ashen_bridge.guided.interview import Interview
from ashen_bridge.model.build import Build
from ashen_bridge.model.project import Project
from devices import FOUR, Card, project
from spy import ShowSpy
from windows import WAIT, Opener, click, desk, drag, look, press, settled, stack

CTRL = Qt.KeyboardModifier.ControlModifier


def two_builds() -> Project:
    made = project(Card(FOUR))
    other = made.builds[0].model_copy(update={"id": "plan_a", "name": "Plan A"})
    assert isinstance(other, Build)
    return made.model_copy(update={"builds": (*made.builds, other)})


def height(window: MainWindow) -> QuantityField:
    editor = stack(window).inspector.form.editors["device.bodies.die.height_mm"]
    assert isinstance(editor, QuantityField)
    return editor


def type_height(qtbot: QtBot, window: MainWindow, text: str) -> None:
    edit = height(window).value.edit
    edit.setFocus()
    edit.selectAll()
    qtbot.keyClicks(edit, text)
    qtbot.keyClick(edit, Qt.Key.Key_Return)


def test_a_changed_part_asks_whether_the_device_or_this_build_is_meant(qtbot: QtBot, opened: Opener) -> None:
    window = opened("", Opened(two_builds()))
    look(window, build="plan_a", page="part")
    desk(window).choose("device.bodies.die")
    asked: list[tuple[str, ...]] = []
    answers = iter(["Leave it as it was", "Only “Plan A”"])

    def choose(title: str, text: str, options: tuple[str, ...], *_: str) -> str:
        asked.append(tuple(options))
        return next(answers)

    window.asker.choose = choose  # type: ignore[method-assign, assignment]
    type_height(qtbot, window, "2.2")
    assert window.session.project.device.bodies[1].height_mm.value == 2.0  # type: ignore[union-attr]
    qtbot.waitUntil(lambda: height(window).value.edit.text() == "2", timeout=WAIT)  # called off, what holds stands there
    type_height(qtbot, window, "2.2")
    assert asked[0] == ("The device: all 2 builds", "Only “Plan A”", "Leave it as it was")
    assert window.session.project.build("plan_a").overrides == {"device.bodies.die.height_mm": 2.2}
    assert window.session.project.builds[0].overrides == {}
    type_height(qtbot, window, "2.3")
    assert len(asked) == 2, "asked once for a part"
    inspector = stack(window).inspector
    assert inspector._only.isVisible()
    assert "One value holds in “Plan A” only: height" in inspector._here.text()
    assert "Die: Height 2" in window.session.document.undo_stack.undoText()
    assert "2.3 mm" in window.session.document.undo_stack.undoText(), "of what, which number, how much"
    look(window, build=window.session.project.builds[0].id)
    assert height(window).value.edit.text() == "2", "the other build is as it was"
    look(window, build="plan_a")
    assert height(window).value.edit.text() == "2.3"
    qtbot.mouseClick(inspector._as_device, Qt.MouseButton.LeftButton)
    assert window.session.project.build("plan_a").overrides == {}
    assert not inspector._only.isVisible()
    window.asker.choose = lambda title, text, options, *_: options[0]  # type: ignore[method-assign, assignment]
    type_height(qtbot, window, "2.1")
    assert window.session.project.device.bodies[1].height_mm.value == 2.1  # type: ignore[union-attr]


def test_the_build_alone_is_predicted_with_what_holds_in_it_only(qtbot: QtBot, opened: Opener) -> None:
    window = opened("", Opened(two_builds()))
    settled(qtbot, window)
    look(window, build="plan_a", page="part")
    settled(qtbot, window)
    before = window.session.results.assessment.report.joints[0].gap_mm  # type: ignore[union-attr]
    window.asker.choose = lambda title, text, options, *_: options[1]  # type: ignore[method-assign, assignment]
    desk(window).choose("device.bodies.die")
    type_height(qtbot, window, "1.7")
    settled(qtbot, window)
    after = window.session.results.assessment.report.joints[0].gap_mm  # type: ignore[union-attr]
    assert after > before + 0.05, "a lower die lets the gap open"


def test_ones_own_build_asks_nothing(qtbot: QtBot, opened: Opener) -> None:
    window = opened("", Opened(project(Card(FOUR))))
    look(window, page="part")
    desk(window).choose("device.bodies.die")
    window.asker.choose = lambda *_: pytest.fail("there is one build only")  # type: ignore[method-assign]
    type_height(qtbot, window, "2.05")
    assert window.session.project.device.bodies[1].height_mm.value == 2.05  # type: ignore[union-attr]


def places(window: MainWindow) -> dict[str, QRect]:
    """Where what one points at lies in the window."""
    page = stack(window)
    watched: dict[str, QWidget] = {
        "plan": page.plan, "elevation": page.elevation, "tools": page.bar, "verdict": window.verdict, "header": window.header,
        "findings": window.findings, "status": window.status, "rail": window.rail,
    }  # fmt: skip
    return {name: QRect(widget.mapTo(window, QPoint(0, 0)), widget.size()) for name, widget in watched.items()}


def test_nothing_moves_under_the_mouse_while_drawing_and_being_refused(qtbot: QtBot, opened: Opener) -> None:
    window = opened("", Opened(project(Card(FOUR))))
    settled(qtbot, window)
    window.commands["edit_mode"].trigger()
    plan = stack(window).plan
    spy = ShowSpy(QApplication.instance())  # type: ignore[arg-type]
    at = places(window)
    click(qtbot, plan, 40, 40)
    for _ in range(2):
        desk(window).look(replace(desk(window).view, tool="memory"))
        drag(qtbot, plan, (2, 70), (12, 78))
        assert places(window) == at
    window.session.refused.emit("Something that is refused, in a sentence that is long enough for two lines of a notice. " * 2)
    assert window.notice.isVisible()
    assert places(window) == at, "a banner has its place"
    assert window.notice.geometry().bottom() <= window.notice.parentWidget().height()  # type: ignore[union-attr]
    press(qtbot, window, Qt.Key.Key_Z, times=2, modifier=CTRL)
    settled(qtbot, window)
    assert window.session.apply(set_values("Cold limit", {"device.bodies.plate.sink.convective_k_w": 2.0}))
    settled(qtbot, window)
    assert places(window) == at, "findings come and go in their place"
    press(qtbot, window, Qt.Key.Key_Z, modifier=CTRL)
    assert spy.rest() == [], "nothing flashes up as a window of its own"


def test_a_file_comes_back_where_it_was_left_and_is_open_only_once(
    qtbot: QtBot, opened: Opener, bench: Workbench, tmp_path: Path
) -> None:
    path = tmp_path / "otter.ashb"
    save_project(path, two_builds())
    window = opened(str(path), open_project(path))
    look(window, build="plan_a")
    window.close()
    again = opened(str(path), open_project(path))
    assert again.session.view.build == "plan_a"
    assert bench.preferences.folder == str(tmp_path), "where the next file is looked for"
    other = opened()
    other.general.open_here(str(tmp_path / "." / "otter.ashb"))
    assert other.session.document.path is None, "it came to the front in its own window"
    link = tmp_path / "link.ashb"
    link.symlink_to(path)
    other.general.open_beside(str(link))
    assert len(bench.windows) == 2
    assert str(other.files.folder()) == str(tmp_path)


def test_what_is_selected_is_shown_on_its_own_side(qtbot: QtBot, opened: Opener) -> None:
    """By a verdict, a finding or its name; turning the board over afterwards is up to who looks."""
    window = opened()
    settled(qtbot, window)
    assert desk(window).view.side.value == "front"
    window.session.select("mem_b1")
    assert desk(window).view.side.value == "rear"
    press(qtbot, stack(window).plan, Qt.Key.Key_F)
    assert desk(window).view.side.value == "front", "turned over by hand it stays so"
    window.session.select("die")
    assert desk(window).view.side.value == "front"


def test_the_elevation_lies_below_the_plan_and_says_how_heights_are_drawn(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    settled(qtbot, window)
    page = stack(window)
    frame = page.elevation.frame()
    assert frame is not None
    place = page.plan.placement()
    for x in (40.0, 115.0):
        assert frame.x(x * 1e-3) == pytest.approx(place.point(x, 0).x(), abs=0.5), "the same column in both"
    words = stretch_words(frame)
    assert words.startswith("heights drawn ")
    press(qtbot, page.plan, Qt.Key.Key_H)
    true = page.elevation.frame()
    assert true is not None
    assert stretch_words(true) == "true scale (H: heights legible)"
    board = (true.y(0.0) - true.y(1.6e-3)) / (true.x(1.6e-3) - true.x(0.0))
    assert board == pytest.approx(1.0, rel=1e-6), "a millimetre up is a millimetre along"
    assert true.place(QPointF(true.x(0.05), true.y(0.002))) == pytest.approx((0.05, 0.002))
    press(qtbot, window, Qt.Key.Key_F)
    mirrored = page.elevation.frame()
    assert mirrored is not None
    assert mirrored.x(0.1) < mirrored.x(0.05), "turned over like the board"


def test_bond_lines_have_figures_and_the_die_a_colour(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    settled(qtbot, window)
    look(window, overlay="bond line")
    picture = stack(window).plan.picture
    assert picture is not None
    figures = {item.id: item.figure for item in picture.items if item.figure}
    report = window.session.results.assessment.report  # type: ignore[union-attr]
    die = next(row for row in report.joints if row.lower == "die")
    assert figures["die"] == f"{die.bond_line_um.mean:.0f} µm"
    assert figures["mem_l1"].endswith(" mm")
    box = next(item.box for item in picture.items if item.id == "die")
    middle = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
    assert probe(picture, *middle).startswith(figures["die"].split()[0][:1]), "under the pointer, in µm too"
    assert probe(picture, *middle).endswith("µm here")
    assert picture.low < np.log10(die.bond_line_um.mean) < picture.high


@pytest.mark.parametrize("kept", ["nonsense", "[1, 2]", '{"/a": 3, "/b": ["x"]}', ""])
def test_settings_that_somebody_damaged_count_as_not_set(tmp_path: Path, kept: str) -> None:
    first = Preferences(tmp_path / "settings.ini")
    first.file.setValue("left_at", kept)
    first.file.setValue("interview", kept)
    first.save()
    again = Preferences(tmp_path / "settings.ini")
    assert again.left_at(Path("/a")) == ("", "")
    assert not Interview.of(again.interview).begun
    again.leave_at(tmp_path / "a, b.ashb", "plan_a", "load")
    again.interview = Interview().answered("name", 'Otter, "slate"; é').kept()
    again.save()
    third = Preferences(tmp_path / "settings.ini")
    assert third.left_at(tmp_path / "a, b.ashb") == ("plan_a", "load")
    assert Interview.of(third.interview).answers.name == 'Otter, "slate"; é'
