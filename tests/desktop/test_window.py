"""The real window, driven by keys and clicks as a user would."""

from __future__ import annotations

from functools import partial
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt, QTimer
from PyQt6.QtWidgets import QCheckBox, QDoubleSpinBox, QPushButton, QToolButton, QWidget
from pytestqt.qtbot import QtBot

from ashen_bridge.changes.edit import edit
from ashen_bridge.changes.values import set_values
from ashen_bridge.desktop.look.theme import THEMES, contrast
from ashen_bridge.desktop.shell.header import Header
from ashen_bridge.desktop.shell.window import MainWindow
from ashen_bridge.desktop.stack.piece_row import PieceRow
from ashen_bridge.files.archive import Opened, open_project, save_project
from ashen_bridge.model.amounts import FilmAmount
from ashen_bridge.model.joints import Piece, PieceState
from devices import FOUR, Card, project
from here import DATA
from windows import WAIT, Opener, desk, look, press, settled, stack, verdicts


@pytest.mark.usefixtures("real_worker")
def test_change_the_memory_pads_by_keyboard_undo_save_reopen(qtbot: QtBot, opened: Opener, tmp_path: Path) -> None:
    """The main job: open the demo, thicken the memory pads, read why, take it back, save, reopen: same numbers."""
    window = opened()
    assert verdicts(window), "the first paint already has numbers, from the stored prediction"
    settled(qtbot, window)
    before = verdicts(window)
    stack(window).plan.setFocus()
    press(qtbot, stack(window).plan, Qt.Key.Key_Down)  # walk, and come back to the memory
    press(qtbot, stack(window).plan, Qt.Key.Key_Up)
    assert window.session.joints_label == "Memory, front"
    assert len(window.session.joints) == 8
    strip = stack(window).panel.strip
    strip.setFocus()
    press(qtbot, strip, Qt.Key.Key_Right, 2)
    assert strip.present() == {1.5}
    assert window.session.results.state in ("stale", "provisional"), "old numbers are greyed until the new ones are there"
    settled(qtbot, window)
    after = verdicts(window)
    assert float(after[0].split()[0]) > float(before[0].split()[0]) + 15, "the die gets hotter"
    reasons = [finding.text for finding in window.session.results.assessment.findings]  # type: ignore[union-attr]
    assert any("so the die's bond line is" in text and "K hotter" in text for text in reasons)
    assert window.findings.item(0).text() == reasons[0]
    qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert strip.present() == {1.0}, "two steps of one keyboard run are one undo"
    settled(qtbot, window)
    assert verdicts(window) == before
    qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    settled(qtbot, window)
    assert verdicts(window) == after
    path = tmp_path / "mine.ashb"
    assert window.files.save_to(path)
    assert not window.session.document.modified
    again = opened(str(path))
    assert verdicts(again) == after, "a saved file opens with its numbers at once"
    settled(qtbot, again)
    assert verdicts(again) == after


def test_clicks_select_and_keys_change_the_overlay(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    settled(qtbot, window)
    plan = stack(window).plan
    at = plan.placement().point(104, 60)
    qtbot.mouseClick(plan, Qt.MouseButton.LeftButton, pos=at.toPoint())
    assert window.session.view.selected == "die"
    assert stack(window).panel._title.text() == "Die joint"
    assert stack(window).descent.descent().component == "die"  # type: ignore[union-attr]
    for key, name in (
        (Qt.Key.Key_2, "bond line"),
        (Qt.Key.Key_3, "pressure"),
        (Qt.Key.Key_4, "temperature"),
        (Qt.Key.Key_1, "margins"),
    ):
        qtbot.keyClick(window, key)
        assert desk(window).view.overlay == name
        assert (plan.picture.legend is not None) == (name != "margins")  # type: ignore[union-attr]
    qtbot.mouseClick(stack(window).elevation, Qt.MouseButton.LeftButton, pos=stack(window).elevation.rect().center())
    assert window.session.joint is not None


def test_the_cut_line_is_dragged_and_turned(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    settled(qtbot, window)
    plan = stack(window).plan
    y = plan.placement().point(0, desk(window).view.cut.at * 1e3).y()
    start, end = QPointF(10, y).toPoint(), QPointF(10, y - 60).toPoint()
    qtbot.mousePress(plan, Qt.MouseButton.LeftButton, pos=start)
    qtbot.mouseMove(plan, end)
    qtbot.mouseRelease(plan, Qt.MouseButton.LeftButton, pos=end)
    assert desk(window).view.cut.at == pytest.approx(0.052 + 60e-3 / plan.placement().scale, abs=1e-3)
    qtbot.keyClick(plan, Qt.Key.Key_X)
    assert desk(window).view.cut.along == "y"
    here = desk(window).view.cut.at
    qtbot.keyClick(plan, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert desk(window).view.cut.at == pytest.approx(here + 1e-3)
    assert not window.session.document.modified, "looking is never an edit"


def test_pieces_are_added_ordered_and_removed(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    settled(qtbot, window)
    panel = stack(window).panel

    def layers() -> list[tuple[str, float]]:
        joint = window.session.joint
        assert joint is not None
        return [(piece.material, piece.thickness_mm.value) for piece in joint.pieces if piece.thickness_mm]

    qtbot.mouseClick(panel._add, Qt.MouseButton.LeftButton)
    assert layers() == [("pad_medium", 1.0), ("pad_medium", 0.5)]
    top = panel._rows[0]
    top.material.setCurrentIndex(top.material.findData("pad_soft"))
    top.material.activated.emit(top.material.currentIndex())
    assert layers()[1] == ("pad_soft", 0.5)
    qtbot.mouseClick(panel._rows[0].findChildren(QToolButton)[1], Qt.MouseButton.LeftButton)
    assert layers() == [("pad_soft", 0.5), ("pad_medium", 1.0)]
    qtbot.mouseClick(panel._rows[0].findChildren(QToolButton)[2], Qt.MouseButton.LeftButton)
    assert layers() == [("pad_soft", 0.5)]
    spin = panel._rows[0].findChild(QDoubleSpinBox)
    assert spin is not None
    spin.setFocus()
    spin.selectAll()
    qtbot.keyClicks(spin, "1.2")
    qtbot.keyClick(spin, Qt.Key.Key_Return)
    assert layers() == [("pad_soft", 1.2)]
    for _ in range(20):
        window.session.document.undo_stack.undo()
    assert layers() == [("pad_medium", 1.0)]
    assert not window.session.document.modified


def test_a_phase_change_sheet_is_fitted_and_burned_in(qtbot: QtBot, opened: Opener) -> None:
    window = opened("", Opened(project(Card(FOUR))))
    look(window, selected="die")
    settled(qtbot, window)
    row = stack(window).panel._rows[0]
    assert row.state.findData(PieceState.AS_FITTED) < 0
    row.material.setCurrentIndex(row.material.findData("phase_change"))
    row.material.activated.emit(row.material.currentIndex())
    row = stack(window).panel._rows[0]
    joint = window.session.joint
    assert joint is not None
    assert joint.pieces[0].thickness_mm is not None
    assert joint.pieces[0].thickness_mm.value == 0.25, "a usual sheet, not a millimetre"
    settled(qtbot, window)
    burned = float(verdicts(window)[0].split()[0])
    row.state.setFocus()
    qtbot.keyClick(row.state, Qt.Key.Key_Up)
    assert window.session.joint.pieces[0].state is PieceState.AS_FITTED  # type: ignore[union-attr]
    settled(qtbot, window)
    assert float(verdicts(window)[0].split()[0]) > burned + 3, "as fitted it is a thick stiff sheet"


def test_one_joint_or_the_whole_group(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    settled(qtbot, window)
    qtbot.mouseClick(stack(window).panel._scope, Qt.MouseButton.LeftButton)
    assert window.session.joints == ("pad_l1",)
    stack(window).panel.strip.setFocus()
    press(qtbot, stack(window).panel.strip, Qt.Key.Key_Right)
    sheets = {j.id: j.pieces[0].thickness_mm.value for j in window.session.build.joints if j.id.startswith(("pad_l", "pad_r1"))}  # type: ignore[union-attr]
    assert sheets["pad_l1"] == 1.25
    assert sheets["pad_l2"] == 1.0


def test_washers_and_fan_act(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    settled(qtbot, window)
    force = window.session.results.assessment.report.fasteners[0].force_n  # type: ignore[union-attr]
    stack(window).panel._washers.setValue(0.5)
    settled(qtbot, window)
    assert window.session.results.assessment.report.fasteners[0].force_n == pytest.approx(force + 7.0, abs=0.3)  # type: ignore[union-attr]
    die = float(verdicts(window)[0].split()[0])
    window.header.fan.setValue(60)
    settled(qtbot, window)
    assert float(verdicts(window)[0].split()[0]) > die + 5


def test_builds_are_copied_renamed_and_deleted(qtbot: QtBot, opened: Opener, monkeypatch: pytest.MonkeyPatch) -> None:
    window = opened()
    settled(qtbot, window)
    header: Header = window.header
    window.asker.text = lambda *_: "Plan B"  # type: ignore[method-assign]
    header.new_build()
    assert window.session.build.label == "Plan B"
    assert header.builds.currentText() == "Plan B"
    window.asker.text = lambda *_: "Plan C"  # type: ignore[method-assign]
    header.rename_build()
    assert header.builds.currentText() == "Plan C"
    window.asker.choose = lambda *_: "Delete"  # type: ignore[method-assign]
    header.delete_build()
    assert [build.label for build in window.session.project.builds] == ["As found", "Plan A", "Stock"]
    settled(qtbot, window)
    window.session.document.undo_stack.undo()
    assert "Plan C" in [build.label for build in window.session.project.builds]
    look(window, build="as_found")
    settled(qtbot, window)
    while window.session.document.undo_stack.canUndo():
        window.session.document.undo_stack.undo()
    header.delete_build()
    assert "Runs were logged of “As found”" in window.notice.words.text()
    window.session.apply(edit("No runs", set_values, {"runs": []}))
    for _ in range(3):
        header.delete_build()
    assert len(window.session.project.builds) == 1, "the last build stays"
    assert "only build" in window.notice.words.text()


def test_a_bad_file_leaves_the_open_project_untouched(
    qtbot: QtBot, opened: Opener, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = opened()
    settled(qtbot, window)
    before, numbers = window.session.project, verdicts(window)
    told: list[str] = []
    window.asker.tell = lambda _, text: told.append(text)  # type: ignore[method-assign]
    for name, content in (("cut.ashb", b"PK\x03\x04 broken"), ("words.json", b"{hello"), ("empty.json", b"")):
        path = tmp_path / name
        path.write_bytes(content)
        assert not window.files.open_path(str(path))
    assert len(told) == 3
    assert all("\n" not in text for text in told)
    overlapping = tmp_path / "overlap.json"
    save_project(overlapping, project(Card((FOUR[0], FOUR[0]))))
    asked: list[str] = []

    def ask(_: str, text: str, *__: object) -> str:
        asked.append(text)
        return "Cancel"

    window.asker.choose = ask  # type: ignore[method-assign]
    assert not window.files.open_path(str(overlapping))
    assert "overlap by" in asked[0]
    assert window.session.project is before
    assert verdicts(window) == numbers
    window.asker.choose = lambda *_: "Open it"  # type: ignore[method-assign]
    assert window.files.open_path(str(overlapping))
    settled(qtbot, window)
    assert window.session.results.state == "refused"
    assert "overlap" in window.verdict.refusal.text()


def test_a_refused_state_is_said_and_mended_by_undo(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    settled(qtbot, window)
    numbers = verdicts(window)
    from ashen_bridge.editing.edits import set_values

    window.session.apply(set_values("Move", {"device.bodies.mem_l1.footprint.rects.0.y_mm": 35.0}))
    settled(qtbot, window)
    assert window.session.results.state == "refused"
    assert "'mem_l1' and 'mem_l2' overlap" in window.verdict.refusal.text()
    assert not window.session.apply(set_values("Nonsense", {"device.bodies.die.height_mm": -1}))
    assert "out of range" in window.notice.words.text()
    window.session.document.undo_stack.undo()
    settled(qtbot, window)
    assert verdicts(window) == numbers


def test_unsaved_work_is_asked_about(qtbot: QtBot, opened: Opener, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "card.ashb"
    save_project(path, project(Card(FOUR)))
    window = opened(str(path))
    settled(qtbot, window)
    stack(window).panel.choose_thickness(1.25)
    assert window.windowTitle().startswith("• card.ashb")
    answers = iter(["Cancel", "Save"])
    window.asker.choose = lambda *_: next(answers)  # type: ignore[method-assign]
    window.close()
    assert window.isVisible(), "cancel keeps the window"
    window.close()
    assert not window.isVisible()
    joint = open_project(path).project.build().joint("pad_0")
    assert joint.pieces[0].thickness_mm.value == 1.25  # type: ignore[union-attr]


def test_the_event_loop_lives_while_the_worker_works(qtbot: QtBot, opened: Opener) -> None:
    """A timer ticks on through predictions; how smoothly is measured by the benchmark, here only that nothing blocks."""
    window = opened()
    settled(qtbot, window)
    beats: list[str] = []
    timer = QTimer()
    timer.timeout.connect(lambda: beats.append(window.session.results.state))
    timer.start(5)
    for thickness in (1.25, 1.5, 2.0, 0.75):  # each supersedes the one before
        stack(window).panel.choose_thickness(thickness)
        qtbot.wait(40)
    settled(qtbot, window)
    timer.stop()
    assert stack(window).panel.strip.present() == {0.75}
    assert sum(state != "current" for state in beats) > 20, "it ticked while numbers were worked on"
    assert window.session.results.assessment.report.joint_over("mem_l1").contact_fraction == 0.0  # type: ignore[union-attr]


def test_findings_lead_to_their_place_and_sensors_unfold(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    look(window, build="as_found")
    settled(qtbot, window)
    texts = [window.findings.item(n).text() for n in range(window.findings.count())]
    row = next(n for n, text in enumerate(texts) if "bond line is a wedge" in text)
    window.findings.setCurrentRow(row)
    window.findings.itemActivated.emit(window.findings.item(row))
    assert window.session.view.selected == "die_joint"
    qtbot.mouseClick(window.verdict.all, Qt.MouseButton.LeftButton)
    sheet = window.verdict.findChildren(QWidget, "card")[-1]
    assert sheet.isVisible()
    sheet.close()
    assert stack(window).panel.accessibleName() is not None
    for widget in window.findChildren(QToolButton) + window.findChildren(QPushButton):
        assert widget.accessibleName() or widget.text(), "every button has a name for a screen reader"


def test_dark_theme_and_a_small_and_a_bare_project(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    window.program.toggle_theme()
    assert window.theme == THEMES["dark"]
    window.resize(1280, 800)
    settled(qtbot, window)
    assert not window.grab().isNull()
    from ashen_bridge.model.project import Project

    bare = opened("bare.json", Opened(Project.parse({"builds": [{"id": "a"}], "points": [{"id": "p"}]})))
    settled(qtbot, bare)
    assert "Nothing here yet" in bare.verdict.refusal.text()
    assert not bare.grab().isNull()


TEXT_ON = [
    ("ink", "ground"),
    ("ink", "surface"),
    ("ink", "raised"),
    ("quiet", "ground"),
    ("quiet", "surface"),
    ("quiet", "raised"),
    ("bad", "raised"),
    ("warn", "raised"),
    ("good", "raised"),
    ("ember", "raised"),
    ("steel", "raised"),
    ("steel", "surface"),
    ("ink", "ember_soft"),
    ("surface", "ink"),
]


@pytest.mark.parametrize("name", ["light", "dark"])
def test_text_contrast_is_at_least_four_and_a_half(name: str) -> None:
    """WCAG 2.2, success criterion 1.4.3, computed from the theme table."""
    theme = THEMES[name]
    for ink, ground in TEXT_ON:
        assert contrast(theme.colour(ink), theme.colour(ground)) >= 4.5, (ink, ground)


def test_ramps_are_monotone_in_lightness_and_themes_complete() -> None:
    assert THEMES["light"].roles.keys() == THEMES["dark"].roles.keys()
    heat = [THEMES["light"].heat(n / 20).lightnessF() for n in range(21)]
    mechanics = [THEMES["light"].mechanics(n / 20).lightnessF() for n in range(21)]
    assert heat == sorted(heat)
    assert mechanics == sorted(mechanics, reverse=True)


@pytest.mark.usefixtures("real_worker")
def test_a_worker_that_dies_is_said_and_started_again(qtbot: QtBot, opened: Opener) -> None:
    window = opened()
    settled(qtbot, window)
    process = window.runner._process
    assert process is not None
    stack(window).panel.choose_thickness(1.5)
    process.kill()
    qtbot.waitUntil(lambda: window.session.results.state == "refused", timeout=WAIT)
    assert "worker has stopped" in window.verdict.refusal.text()
    stack(window).panel.choose_thickness(1.25)
    qtbot.waitUntil(lambda: window.session.results.state == "current", timeout=WAIT)
    assert stack(window).panel.strip.present() == {1.25}


def test_a_board_without_its_brace_bows_and_says_so(qtbot: QtBot, opened: Opener) -> None:
    """Key 5 shows how the board bends; the braced demo says that it does not, its board's tick lets it."""
    window = opened()
    settled(qtbot, window)
    qtbot.keyClick(window, Qt.Key.Key_5)
    picture = stack(window).plan.picture
    assert picture is not None
    assert picture.legend is not None
    assert picture.legend.title == "The board is braced: it does not bend"
    assert not picture.rasters
    qtbot.keyClick(window, Qt.Key.Key_E)
    desk(window).choose("device.bodies.board")
    tick = stack(window).inspector.form.editors["device.bodies.board.bends"]
    assert isinstance(tick, QCheckBox)
    before = verdicts(window)
    tick.click()
    settled(qtbot, window)
    picture = stack(window).plan.picture
    assert picture is not None
    assert picture.legend is not None
    assert picture.legend.title == "Board bent towards the front, against its screws"
    assert picture.legend.high.endswith("µm")
    assert len(picture.rasters) == 1
    assert not stack(window).elevation.grab().isNull()
    cut = stack(window).elevation.section
    assert cut is not None
    board = next(part for part in cut.bodies if part.id == "board")
    assert 5e-6 < np.ptp(board.high) < 1e-3, "the board in the cut is bent too"
    assert verdicts(window) != before
    qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    settled(qtbot, window)
    assert verdicts(window) == before


def with_die_chosen(qtbot: QtBot, opened: Opener) -> MainWindow:
    """Open the small card with its die chosen."""
    window = opened("", Opened(project(Card(FOUR))))
    look(window, selected="die")
    settled(qtbot, window)
    return window


def first_row(window: MainWindow) -> PieceRow:
    """Return the row of the top layer; an edit may have made it anew."""
    return stack(window).panel._rows[0]


def test_a_paste_keeps_the_bond_line_that_is_stated(qtbot: QtBot, opened: Opener) -> None:
    """Chosen by keys as the last of the ways, then typed: thicker than it was it is hotter, undo takes it back."""
    window = with_die_chosen(qtbot, opened)
    row = partial(first_row, window)
    before = float(verdicts(window)[0].split()[0])

    row().way.setFocus()
    qtbot.keyClick(row().way, Qt.Key.Key_End)
    assert row().amount.suffix() == " µm"
    row().amount.lineEdit().selectAll()  # type: ignore[union-attr]
    qtbot.keyClicks(row().amount, "120")
    qtbot.keyClick(row().amount, Qt.Key.Key_Return)
    settled(qtbot, window)
    assert float(verdicts(window)[0].split()[0]) > before + 2
    assert "bond line 120 µm" in stack(window).panel._figures.text()
    press(qtbot, window, Qt.Key.Key_Z, 2, Qt.KeyboardModifier.ControlModifier)
    settled(qtbot, window)
    assert float(verdicts(window)[0].split()[0]) == before


def test_how_paste_was_dispensed_and_how_old_it_is(qtbot: QtBot, opened: Opener) -> None:
    """The same volume in other words, an age, a state, the joint stated as a whole, by keys; undo takes all of it back."""
    window = with_die_chosen(qtbot, opened)
    row = partial(first_row, window)
    before = float(verdicts(window)[0].split()[0])

    def piece() -> Piece:
        joint = window.session.joint
        assert joint is not None
        return joint.pieces[0]

    row().way.setFocus()
    qtbot.keyClick(row().way, Qt.Key.Key_Down)
    assert isinstance(piece().amount, FilmAmount)
    settled(qtbot, window)
    assert float(verdicts(window)[0].split()[0]) == pytest.approx(before, abs=0.1), "nothing but the wording changed"
    row().age.setFocus()
    row().age.setValue(1096)
    settled(qtbot, window)
    old = float(verdicts(window)[0].split()[0])
    assert old > before + 0.5
    qtbot.keyClick(row().state, Qt.Key.Key_Down)
    assert piece().state is PieceState.DRIED
    panel = stack(window).panel
    qtbot.mouseClick(panel._whole, Qt.MouseButton.LeftButton)
    settled(qtbot, window)
    joint = window.session.joint
    assert joint is not None
    assert joint.stated_mm2k_w is not None
    assert not joint.pieces
    assert float(verdicts(window)[0].split()[0]) == pytest.approx(old, abs=1.0), "stated as what it was"
    assert panel._stated.isVisible()
    for _ in range(20):
        window.session.document.undo_stack.undo()
    assert not window.session.document.modified
    assert piece().age_days == 0


def test_a_file_of_an_older_format_says_once_what_it_means_now(qtbot: QtBot, opened: Opener) -> None:
    where = DATA / "version_1/beamformer.ashb"
    window = opened(str(where), open_project(where))
    assert window.files.notice.isVisible()
    assert "Age is kept for each piece now" in window.files.notice.words.text()
    button = window.files.notice.findChild(QPushButton)
    assert button is not None
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert not window.files.notice.isVisible()
