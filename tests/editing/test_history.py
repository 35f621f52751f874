"""The history of a file: what was done, by whom, on which day; answers kept as they were given."""

from __future__ import annotations

from datetime import datetime, timedelta
from pathlib import Path

import pytest
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st

from ashen_bridge.changes.edit import read_edit
from ashen_bridge.changes.kinds import as_kind
from ashen_bridge.cli.main import cli
from ashen_bridge.editing.edits import set_values
from ashen_bridge.editing.history import by_day, conclude, done_between, drop_conclusion, noted
from ashen_bridge.editing.keeping import keep_check
from ashen_bridge.files.archive import open_project, save_project
from ashen_bridge.files.demos import open_anything
from ashen_bridge.files.everything import history_csv
from ashen_bridge.files.who import set_who, who
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.history import MOST_NOTES, Note
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import replaced
from ashen_bridge.planning.checked import QuickCheck, Remembered
from devices import FOUR, Card, project

NOON = datetime(2031, 3, 14, 12, 30, 41)


@pytest.fixture(scope="module")
def card() -> Project:
    return project(Card(FOUR))


def test_what_came_and_went_is_named_and_what_only_changed_goes_by_its_edit(card: Project) -> None:
    twin = card.builds[0].model_copy(update={"id": "twin", "name": "Twin"})
    more = replaced(card, builds=(*card.builds, twin), main_build=card.builds[0].id)
    assert done_between(card, more, "Copy a build") == (("build", "Build: Twin", 1),)
    assert done_between(more, card, "Take a build out") == (("build", "Build taken out: Twin", 1),)
    renamed = set_values("Rename", {"name": "Other"}).applied(card)
    assert done_between(card, renamed, "Rename") == (("edit", "Rename", 1),)
    assert done_between(card, card, "Nothing") == ()


def test_readings_and_ticks_are_counted() -> None:
    demo = open_anything("demo:correlator").project
    bare = replaced(demo, readings=(), taken_over=())
    counted = done_between(bare, demo, "")
    assert ("reading", "Readings", len(demo.readings)) in counted
    procedure = demo.procedures[0]
    undone = replaced(procedure, steps=tuple(replaced(one, done=False, done_at="") for one in procedure.steps))
    before = replaced(demo, procedures=(undone, *demo.procedures[1:]))
    assert done_between(before, demo, "") == (("step", f"{procedure.label}: steps done", sum(s.done for s in procedure.steps)),)


def test_the_same_thing_on_the_same_day_is_one_note_and_another_person_makes_another() -> None:
    once = noted((), [("reading", "Readings", 3)], "Ada", NOON)
    assert once == (Note(at="2031-03-14T12:30", who="Ada", kind="reading", what="Readings", times=3),)
    later = noted(once, [("reading", "Readings", 2)], "Ada", NOON + timedelta(hours=2))
    assert [(one.at, one.times) for one in later] == [("2031-03-14T14:30", 5)]
    other = noted(later, [("reading", "Readings", 1)], "", NOON)
    assert [(one.who, one.times) for one in other] == [("Ada", 5), ("", 1)]
    next_day = noted(other, [("reading", "Readings", 1)], "Ada", NOON + timedelta(days=1))
    assert len(next_day) == 3


def test_a_clock_set_back_loses_nothing_and_keeps_the_order() -> None:
    first = noted((), [("edit", "First", 1)], "", NOON)
    back = noted(first, [("edit", "Second", 1)], "", NOON - timedelta(days=900))
    assert [one.what for one in back] == ["First", "Second"]
    assert [day for day, _ in by_day(back)] == ["2028-09-25", "2031-03-14"]


@given(st.lists(st.tuples(st.integers(0, 40), st.text(max_size=3), st.integers(1, 5)), min_size=1, max_size=40))
def test_no_count_is_ever_lost(done: list[tuple[int, str, int]]) -> None:
    history: tuple[Note, ...] = ()
    for day, what, times in done:
        history = noted(history, [("edit", what, times)], "", NOON + timedelta(days=day))
    assert sum(one.times for one in history) == sum(times for _, _, times in done)


def test_a_long_history_is_folded_by_day_and_still_adds_up() -> None:
    history: tuple[Note, ...] = ()
    for n in range(MOST_NOTES + 50):
        history = noted(history, [("edit", f"Edit {n}", 1)], "", NOON + timedelta(minutes=20 * n))
    assert len(history) <= MOST_NOTES
    assert sum(one.times for one in history) == MOST_NOTES + 50
    assert history[-1].what == f"Edit {MOST_NOTES + 49}"
    replaced(Project(), history=history)


def test_history_is_in_the_file_its_table_and_not_in_a_recipe(card: Project, tmp_path: Path) -> None:
    history = noted((), [("edit", "=cmd()", 2)], "Żofia 木", NOON)
    said = replaced(card, history=history)
    save_project(tmp_path / "a.ashb", said)
    assert open_project(tmp_path / "a.ashb").project.history == history
    table = history_csv(history).decode()
    assert table.splitlines()[0] == "at,who,kind,what,times"
    assert "'=cmd()" in table
    assert "Żofia 木" in table
    assert not as_kind(said, "Kind").history


def test_the_name_is_one_line_and_empty_at_first(own_home: Path) -> None:
    assert who() == ""
    set_who("  Ada\nof the\x1b[31m bench  ")
    assert "\n" not in who()
    assert "\x1b" not in who()
    assert who().startswith("Ada of the")
    (own_home / "xdg_config_home/ashen-bridge/name.txt").write_bytes(b"\xff\xfe" * 300)
    assert len(who()) <= 80
    set_who("")
    assert who() == ""


def test_an_answer_is_kept_as_it_was_given_and_dropped_again(card: Project) -> None:
    made = conclude(card, "proof", "Reached.", ["One", "Two"], (("Sensor", "°C"), [("Die", "80")]), about="A → B", now=NOON)
    kept = made.applied(card)
    one = kept.conclusions[0]
    assert (one.id, one.title, one.at, one.rows) == ("proof", "Reached.", "2031-03-14T12:30", (("Die", "80"),))
    assert read_edit(made.to_plain()).applied(card) == kept
    again = conclude(kept, "proof", "Reached.", now=NOON).applied(kept)
    assert [one.id for one in again.conclusions] == ["proof", "proof_2"]
    assert drop_conclusion("proof").applied(again).conclusions == again.conclusions[1:]
    with pytest.raises(AshenError, match="no conclusion 'gone'"):
        drop_conclusion("gone").applied(card)


def test_a_check_is_kept_with_what_was_read(card: Project) -> None:
    rows = (Remembered("s_die", "Die", 80.0, 3.0, 95.0),)
    check = QuickCheck(card.build().id, card.point().id, 10.0, 25.0, "as “R” showed it in 3 passes", rows)
    told = check.judged({"s_die": 84.5}, 26.0)
    assert told.opens
    one = keep_check(card, check, told, who="Ada", now=NOON).applied(card).conclusions[0]
    assert one.kind == "check"
    assert one.rows == (("Die", "80.0", "83.5", "+3.5", "3.0"),)


def test_a_command_that_changes_a_file_notes_it(tmp_path: Path) -> None:
    set_who("Ada")
    out = tmp_path / "out.ashb"
    done = CliRunner().invoke(cli, ["set", "demo:buoy", "name=Another", "-o", str(out)])
    assert done.exit_code == 0, done.output
    note = open_project(out).project.history[-1]
    assert (note.who, note.what) == ("Ada", "Set name, by the command line")
    assert note.day == datetime.now().date().isoformat()
